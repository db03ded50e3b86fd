"""A plotter as far as a sheet meets it: the width of its roll, margins that it cannot reach, tiles of smaller paper."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

from orvik.core.errors import SheetRefused
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Group, Item, LineStyle, Stroke, Text, moved
from orvik.core.lettering import ROMAN, run
from orvik.core.sheet.page.entries import Choice, Figure, entry
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.paper import paper_size

PAPERS = {"roll": "the roll", "A4": "A4 tiles", "A3": "A3 tiles", "A2": "A2 tiles"}
Box = tuple[float, float, float, float]
# Crosses that tell where tiles meet, and what each tile says of itself, in millimetres.
CROSS, SAID = 4.0, 2.4
# Less than this is the rounding of a margin.
HAIR = 0.05


@dataclass(frozen=True, kw_only=True)
class Plotter(FormSettings):
    """What is loaded, and what cannot be reached: ``paper`` is a name of ``PAPERS``."""

    thing: ClassVar[str] = "plotter"

    paper: str = entry(Choice("Print on", PAPERS), "roll")
    roll: float = entry(Figure("Roll", 200, 1600, "mm"), 914.0)
    margin: float = entry(Figure("Margins", 0, 50, "mm"), 5.0)
    overlap: float = entry(Figure("Overlap", 0, 60, "mm"), 10.0)


@dataclass(frozen=True)
class PrintedPage:
    """One piece of paper: its size, the ink on it, and what of the sheet it shows, in millimetres of the sheet."""

    width: float
    height: float
    items: tuple[Item, ...]
    shows: Box


def printed(groups: Sequence[Group], sheet: Sheet, plotter: Plotter) -> list[PrintedPage]:
    """A sheet as a plotter draws it, at its true size.

    Raises
    ------
    SheetRefused
        It is wider than the roll.
    """
    if plotter.paper == "roll":
        return [_on_roll(groups, sheet, plotter)]
    return _in_tiles(groups, sheet, plotter)


def cut_by_margins(bounds: Mapping[str, Box], pages: Sequence[PrintedPage]) -> list[str]:
    """What the margins of a single page cut off, in words.

    Parameters
    ----------
    bounds
        Left, top, right and bottom of what each part shows, by what it is called.
    """
    if len(pages) != 1:
        return []
    left, top, right, bottom = pages[0].shows
    out = []
    for name, box in bounds.items():
        lost = max(left - box[0], top - box[1], box[2] - right, box[3] - bottom)
        if lost > HAIR:
            out.append(f"The margins cut {lost:.1f} mm off {name}.")
    return out


def _on_roll(groups: Sequence[Group], sheet: Sheet, plotter: Plotter) -> PrintedPage:
    """Across the roll as it is, or turned where it fits only so; in the middle of the roll."""
    along = min((s for s in (sheet.width, sheet.height) if s <= plotter.roll + HAIR), default=None)
    if along is None:
        raise SheetRefused(
            f"This sheet is {sheet.width:g} × {sheet.height:g} mm, and the roll is {plotter.roll:g} mm wide; put on a "
            "wider roll, or print it in tiles."
        )
    turned = sheet.width > plotter.roll + HAIR
    across, down = (sheet.height, sheet.width) if turned else (sheet.width, sheet.height)
    side = (plotter.roll - across) / 2
    m = plotter.margin
    # What the device can reach, on its paper: all but its margins.
    reach = (max(m - side, 0.0), m, min(across, across + side - m), down - m)
    if turned:
        # A quarter turn clockwise: what is left on the sheet is up on the paper.
        way = (0.0, -1.0, side + across, 1.0, 0.0, 0.0)
        shows = (reach[1], sheet.height - reach[2], reach[3], sheet.height - reach[0])
    else:
        way = (1.0, 0.0, side, 0.0, 1.0, 0.0)
        shows = reach
    clip = Paths.of(_ring(shows))
    items = moved([Group("plot", tuple(groups), clip=clip)], way)
    return PrintedPage(plotter.roll, down, items, shows)


def _in_tiles(groups: Sequence[Group], sheet: Sheet, plotter: Plotter) -> list[PrintedPage]:
    """On the fewest tiles, upright or across; each shows what its margins leave, and its overlap with the next."""
    ways = []
    for landscape in (False, True):
        _, width, height = paper_size(plotter.paper, landscape)
        room = width - 2 * plotter.margin, height - 2 * plotter.margin
        steps = room[0] - plotter.overlap, room[1] - plotter.overlap
        counts = [
            max(1, math.ceil((side - plotter.overlap - HAIR) / step))
            for side, step in zip((sheet.width, sheet.height), steps, strict=True)
        ]
        ways.append((counts[0] * counts[1], (width, height), room, steps, counts))
    _, (width, height), room, steps, counts = min(ways, key=lambda way: way[0])
    pages = []
    for row in range(counts[1]):
        for column in range(counts[0]):
            left, top = column * steps[0], row * steps[1]
            shows = (left, top, min(left + room[0], sheet.width), min(top + room[1], sheet.height))
            pages.append(_tile(groups, shows, (width, height), plotter, (row, column), counts))
    return pages


def _tile(
    groups: Sequence[Group],
    shows: Box,
    paper: tuple[float, float],
    plotter: Plotter,
    at: tuple[int, int],
    counts: Sequence[int],
) -> PrintedPage:
    m, overlap = plotter.margin, plotter.overlap
    way = (1.0, 0.0, m - shows[0], 0.0, 1.0, m - shows[1])
    items = list(moved([Group("tile", tuple(groups), clip=Paths.of(_ring(shows)))], way))
    style = LineStyle(0.15, INK)
    right, bottom = m + shows[2] - shows[0], m + shows[3] - shows[1]
    row, column = at
    # Where the next tile lies: half way through what both show.
    xs = [x for x, there in ((m + overlap / 2, column > 0), (right - overlap / 2, column < counts[0] - 1)) if there]
    ys = [y for y, there in ((m + overlap / 2, row > 0), (bottom - overlap / 2, row < counts[1] - 1)) if there]
    for x in xs or [m, right]:
        for y in ys or [m, bottom]:
            if xs or ys:
                items.append(Stroke(style, Paths.of([(x - CROSS, y), (x + CROSS, y)])))
                items.append(Stroke(style, Paths.of([(x, y - CROSS), (x, y + CROSS)])))
    said = f"row {row + 1} of {counts[1]}, column {column + 1} of {counts[0]}"
    items.append(Text(run(said, ROMAN, SAID), (m + 1.0, bottom - 1.0), INK, halo="#FFFFFF"))
    return PrintedPage(paper[0], paper[1], tuple(items), shows)


def _ring(box: Box) -> list[tuple[float, float]]:
    left, top, right, bottom = box
    return [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]
