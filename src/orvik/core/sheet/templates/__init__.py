"""Templates: how a new sheet is laid out; this is the one list of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.templates import figure, poster, quadrangle, regional, survey
from orvik.core.sheet.templates.brief import Brief


@dataclass(frozen=True)
class Template:
    """One of them: what it is called, what it is for, how it lays out, and a name of ``PURPOSES``."""

    title: str
    suits: str
    parts_of: Callable[[Brief], list[Part]]
    purpose: str = "sheet"


TEMPLATES: Mapping[str, Template] = {
    "quadrangle": Template("Quadrangle", "the border at the publication scale, with everything", quadrangle.parts_of),
    "survey": Template("Quadrangle of a survey", "with its units in words, sections and notes", survey.parts_of),
    "regional": Template("Regional", "as large as the page allows, with a locator and a detail", regional.parts_of),
    "figure": Template("Page figure", "quiet, for a page of text", figure.parts_of, "figure"),
    "poster": Template("Poster", "read from a few steps away", poster.parts_of),
    "empty": Template("Empty page", "nothing is placed yet", lambda brief: []),
}


def laid_out(brief: Brief, template: str = "quadrangle") -> list[Part]:
    """The parts of a new sheet, the lowest first, which speak of one another by negative numbers.

    Raises
    ------
    SheetRefused
        There is no such template, or the page has no room for it.
    """
    if template not in TEMPLATES:
        raise SheetRefused(f"“{template[:40]}” is not a template; choose {', '.join(TEMPLATES)}.")
    return [replace(part, position=i) for i, part in enumerate(TEMPLATES[template].parts_of(brief), 1)]
