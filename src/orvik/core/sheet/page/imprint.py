"""The imprint: what is said of a project's map wherever it is printed, typed once."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import ClassVar

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.entries import Day, FileOf, Words, entry
from orvik.core.sheet.page.form_settings import FormSettings

_LONG = 2000


@dataclass(frozen=True, kw_only=True)
class Imprint(FormSettings):
    """What texts take up by its name in braces, such as ``{authors}``; what is empty is left out."""

    thing: ClassVar[str] = "imprint"

    title: str = entry(Words("Title", longest=300), "")
    subtitle: str = entry(Words("Subtitle", longest=300), "")
    authors: str = entry(Words("Authors", longest=300), "")
    editor: str = entry(Words("Editor", longest=200), "")
    day: str = entry(Day("Date"), "")
    edition: str = entry(Words("Edition", longest=100), "")
    publisher: str = entry(Words("Publisher", longest=200), "")
    series: str = entry(Words("Series", longest=200), "")
    number: str = entry(Words("Number in it", longest=60), "")
    identifier: str = entry(Words("Identifier", longest=80), "")
    base: str = entry(Words("Base map", lines=True, longest=_LONG), "")
    reviewers: str = entry(Words("Reviewed by", longest=300), "")
    approved_by: str = entry(Words("Approved by", longest=200), "")
    approved_on: str = entry(Day("Approved on"), "")
    licence: str = entry(Words("Licence", lines=True, longest=_LONG), "")
    disclaimer: str = entry(Words("Disclaimer", lines=True, longest=_LONG), "")
    citation: str = entry(Words("Citation, where it is not as usual", lines=True, longest=_LONG), "")
    # The checksum of the profile of the press that the map is printed on.
    profile: str = entry(FileOf("Profile of the press", accept=".icc,.icm"), "")

    @property
    def json(self) -> str:
        """As it is stored; empty where nothing is typed."""
        typed = {name: value for name, value in self.to_dict().items() if value}
        return json.dumps(typed, ensure_ascii=False, sort_keys=True) if typed else ""

    @staticmethod
    def of_json(text: str) -> Imprint:
        """Raises SheetRefused where another program has left what is none."""
        try:
            held = json.loads(text) if text else {}
            return Imprint.from_dict(held)
        except (ValueError, TypeError, AttributeError) as error:
            raise SheetRefused("The imprint of this project cannot be read; type it again.") from error
