"""A picture: a photograph, a sketch, a section or a mark of the house, as dots or as lines."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

from orvik.core.ink.primitives import Item
from orvik.core.sheet.page.entries import Choice, FileOf, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext

# What a file for a part may be, as a page asks for it.
ACCEPTED = ".png,.jpg,.jpeg,.tif,.tiff,.webp,.gif,.bmp,.svg,image/*"


@dataclass(frozen=True, kw_only=True)
class PictureOf(PartSettings):
    """``file`` is the checksum of what it shows; ``fit`` says whether that lies whole in its frame or fills it."""

    kind: ClassVar[str] = "picture"
    label: ClassVar[str] = "Picture"
    icon: ClassVar[str] = "M3 2h18v12H3zM3 11l5-5 4 4 3-2 6 5M16 5h2v2h-2z"

    file: str = entry(FileOf("Picture or drawing", accept=ACCEPTED), "")
    fit: str = entry(Choice("In its frame", {"whole": "whole", "fill": "filling it, cut"}), "whole")

    @property
    def hides(self) -> bool:
        return True

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), 60.0, 40.0

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        if not self.file:
            return words_instead("Choose a picture or a drawing.", part)
        found = page.map.files(self.file)
        if found is None:
            return words_instead("The project does not have this picture any more; choose it again.", part)
        return found.ink((part.x, part.y, part.width, part.height), self.fit == "fill")
