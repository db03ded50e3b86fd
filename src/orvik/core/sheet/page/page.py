"""Pages: the sheets of a project, in millimetres from the upper left corner."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any, ClassVar

from orvik.core.colour.hex import is_colour
from orvik.core.errors import SheetRefused
from orvik.core.ink.primitives import INK
from orvik.core.sheet.page.entries import Choice, Colour, Figure, FileOf, SettingField, entry, is_number
from orvik.core.sheet.page.faces import FACE_WORDS
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.stored import Stored

SMALLEST_MM, LARGEST_MM = 50.0, 3000.0


MOST_GUIDES, MOST_COLOURS = 200, 12
# What a sheet is made for.
PURPOSES = {"sheet": "a map of its own", "figure": "a figure in a text"}
# Which way a guide runs: ``x`` stands upright at so many millimetres from the left, ``y`` lies from the top.
AXES = ("x", "y")
Guide = tuple[str, float]


@dataclass(frozen=True)
class Guides(SettingField):
    """Guides of one's own, one for each axis and place."""

    def is_valid(self, value: Any) -> bool:
        return (
            isinstance(value, list | tuple)
            and len(value) <= MOST_GUIDES
            and all(len(g) == 2 and g[0] in AXES and is_number(g[1], -LARGEST_MM, LARGEST_MM) for g in value)
        )

    def normalized(self, value: Any) -> Any:
        return tuple(sorted({(axis, float(at)) for axis, at in value}))

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Any) -> bool:
        return False


@dataclass(frozen=True)
class Colours(SettingField):
    """Colours in an order, each once; changed one at a time."""

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, list | tuple) and len(value) <= MOST_COLOURS and all(is_colour(c) for c in value)

    def normalized(self, value: Any) -> Any:
        return tuple(dict.fromkeys(value))

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Any) -> bool:
        return False


@dataclass(frozen=True, kw_only=True)
class PageLayout(FormSettings):
    """What helps to lay a page out, and what its texts share.

    ``purpose`` is a name of ``PURPOSES``: it says what the sheet must carry. Margins, gutter and guides are in
    millimetres. ``palette`` is what colours are chosen from. ``font`` is the checksum of a font file, and for each
    style of ``STYLES`` there are a face, a size and a colour.
    """

    thing: ClassVar[str] = "page"

    purpose: str = entry(Choice("Published as", PURPOSES), "sheet")
    colour: str | None = entry(Colour("Paper colour"), None)
    left: float = entry(Figure("Left margin", 0, 500, "mm"), 14.0)
    top: float = entry(Figure("Top margin", 0, 500, "mm"), 14.0)
    right: float = entry(Figure("Right margin", 0, 500, "mm"), 14.0)
    bottom: float = entry(Figure("Bottom margin", 0, 500, "mm"), 14.0)
    columns: int = entry(Figure("Columns", 1, 24, whole=True), 1)
    gutter: float = entry(Figure("Between columns", 0, 200, "mm"), 6.0)
    guides: tuple[Guide, ...] = entry(Guides("Guides"), ())
    palette: tuple[str, ...] = entry(Colours("Palette"), ("#22303C", "#7B8A96", "#C2431F", "#DCE9EC", "#FFFFFF"))
    font: str = entry(FileOf("Font file", accept=".ttf,.otf,.woff,font/ttf,font/otf"), "")
    title_face: str = entry(Choice("Titles", FACE_WORDS), "roman")
    title_size: float = entry(Figure("Size of titles", 1, 100, "mm"), 6.4)
    title_colour: str | None = entry(Colour("Colour of titles"), INK)
    heading_face: str = entry(Choice("Headings", FACE_WORDS), "capitals")
    heading_size: float = entry(Figure("Size of headings", 1, 100, "mm"), 3.6)
    heading_colour: str | None = entry(Colour("Colour of headings"), INK)
    text_face: str = entry(Choice("Body text", FACE_WORDS), "roman")
    text_size: float = entry(Figure("Size of body text", 1, 100, "mm"), 3.0)
    text_colour: str | None = entry(Colour("Colour of body text"), INK)
    note_face: str = entry(Choice("Notes", FACE_WORDS), "italic")
    note_size: float = entry(Figure("Size of notes", 1, 100, "mm"), 2.4)
    note_colour: str | None = entry(Colour("Colour of notes"), INK)


@dataclass(frozen=True)
class Sheet(Stored):
    """A page of a project."""

    name: str
    paper: str
    width: float
    height: float
    id: int | None = None
    layout: PageLayout = field(default_factory=PageLayout)

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise SheetRefused("A sheet needs a name, such as Harrack Head.")
        for side in (self.width, self.height):
            if not (math.isfinite(side) and SMALLEST_MM <= side <= LARGEST_MM):
                raise SheetRefused(f"A page side of {side:g} mm cannot be; type {SMALLEST_MM:g} to {LARGEST_MM:g} mm.")

    @property
    def lines(self) -> tuple[Guide, ...]:
        """All that parts are drawn to: the margins, the centre lines, the columns and the guides of one's own."""
        layout = self.layout
        right, bottom = self.width - layout.right, self.height - layout.bottom
        found = {("x", layout.left), ("x", right), ("y", layout.top), ("y", bottom)}
        found |= {("x", self.width / 2), ("y", self.height / 2), *layout.guides}
        wide = (right - layout.left - layout.gutter * (layout.columns - 1)) / layout.columns
        if wide > 0:
            for i in range(layout.columns):
                start = layout.left + i * (wide + layout.gutter)
                found |= {("x", round(start, 3)), ("x", round(start + wide, 3))}
        return tuple(sorted(found))

    @property
    def size_label(self) -> str:
        """Paper and orientation: ``A3 landscape``."""
        return f"{self.paper} {'landscape' if self.width > self.height else 'portrait'}"
