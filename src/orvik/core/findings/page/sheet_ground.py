"""What the checks of a sheet look at: its parts as ink, its labels, and what lies beneath letters."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY, PageXY
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Group, Text, walk
from orvik.core.labels.labelled import Labelling
from orvik.core.sheet.page.ink_bounds import text_box
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.reprojection import on_page

# Gives the colours beneath each of some areas of the page, (n, 3) with 0 to 255, as it is printed without any letters.
Beneath = Callable[[Sequence[shapely.Polygon]], list[Floats]]


@dataclass(frozen=True)
class Resolution:
    """How many dots per inch a picture has where a part prints it."""

    part: int
    name: str
    dpi: float


@dataclass(frozen=True)
class Letters:
    """A text of a part and the area of the page that it takes."""

    part: int
    text: Text
    box: shapely.Polygon


@dataclass(frozen=True)
class SheetGround:
    """A sheet with its parts as ink.

    Attributes
    ----------
    ink
        What each part shows, by number, without the labels of panels.
    labels
        The labels of each panel.
    resolutions
        Of the pictures on it.
    today
        What a fix would date it.
    """

    page: PageContext
    ink: Mapping[int, Group]
    labels: Mapping[int, Labelling]
    beneath: Beneath
    resolutions: Sequence[Resolution] = field(default_factory=tuple)
    today: date = field(default_factory=date.today)

    @cached_property
    def parts(self) -> Mapping[int, Part]:
        """Its parts by number, the lowest first."""
        return {part.number: part for part in self.page.parts}

    @cached_property
    def letters(self) -> list[Letters]:
        """All texts of all parts, and the labels of the panels."""
        found = [Letters(n, text, text_box(text)) for n, group in self.ink.items() for text in _texts(group)]
        for number, labelling in self.labels.items():
            panel = self.page.panels[number]
            for group in labelling.layers.values():
                for text in _texts(group):
                    found.append(Letters(number, text, _label_box(text, panel.natural.to_page, panel.symbol_scale)))
        return found

    def on_page(self, at: GroundXY) -> PageXY | None:
        """Where a place of the map stands on the page: in the largest panel that shows it; None where none does."""
        return on_page(self.page.panels.values(), self.page.map.crs, at)


def _texts(group: Group) -> list[Text]:
    return [item for item in walk(group.items) if isinstance(item, Text) and item.run.chars.strip()]


def _label_box(text: Text, to_page: tuple[float, float, float, float, float, float], larger: float) -> shapely.Polygon:
    """The area of a label that stands on the ground, on the page."""
    x, y = apply(to_page, np.array([text.at]))[0]
    moved = Text(text.run, (float(x), float(y)), text.colour, text.angle, text.offset)
    box = text_box(moved)
    return shapely.transform(box, lambda xy: xy * larger) if larger != 1 else box
