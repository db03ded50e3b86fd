"""Letters of a sheet: what a text is set in, by itself or by a style of its sheet."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.ink.primitives import INK
from orvik.core.lettering import OWN, ROMAN, is_known
from orvik.core.sheet.page.faces import AS_SET, FACES
from orvik.core.sheet.page.page import PageLayout


@dataclass(frozen=True)
class Letters:
    """A font by name, the height of its body in millimetres, and a colour."""

    font: str
    size: float
    colour: str


def font_called(face: str, layout: PageLayout) -> str:
    """The font of a face on a sheet; one that has no file, or whose file is gone, is set in roman."""
    if face != "own":
        return FACES[face][1]
    name = f"{OWN}{layout.font}"
    return name if layout.font and is_known(name) else ROMAN


def letters_of(style: str, face: str, size: float, colour: str | None, layout: PageLayout) -> Letters:
    """What a text is set in: in a style of its sheet, or as it is set itself."""
    if style != AS_SET:
        face = getattr(layout, f"{style}_face")
        size, colour = getattr(layout, f"{style}_size"), getattr(layout, f"{style}_colour")
    return Letters(font_called(face, layout), size, colour or INK)
