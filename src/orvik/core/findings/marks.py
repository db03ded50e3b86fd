"""The numbered marks of a proof on its sheet."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from orvik.core.coordinates import PageXY
from orvik.core.findings.listing import ListedNote
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import PAPER, Fill, Group, Item, LineStyle, Stroke, Text
from orvik.core.lettering import BOLD, cap_height, run
from orvik.core.sheet.page.page import Sheet

MARKS = "Marks of the proof"
GRAVE, LIGHT, NOTED = "#A61B1B", "#8F5A0F", "#1F4E79"
# Millimetres: a ring around the place, and the box with the number to its upper right.
RING, BOX, NUMBER, LINE = 4.0, 6.0, 3.6, 0.35
# Between two boxes.
ROOM = 0.6


def marks_ink(notes: Sequence[ListedNote], sheet: Sheet) -> Group:
    """A mark for each place of a note that the page shows, with the number of the note."""
    placed = [(note, spot) for note in notes for spot in note.spots if spot is not None]
    widths = [_box_width(str(note.number)) for note, _ in placed]
    items: list[Item] = []
    middles = boxes([spot for _, spot in placed], widths, sheet)
    for (note, spot), middle in zip(placed, middles, strict=True):
        items += _mark(spot, middle, str(note.number), colour_of(note))
    return Group("marks", tuple(items), title=MARKS)


def _box_width(number: str) -> float:
    return max(BOX, run(number, BOLD, NUMBER, "centre").width + 2.4)


def boxes(spots: Sequence[PageXY], widths: Sequence[float], sheet: Sheet) -> list[PageXY]:
    """The middles of the boxes of marks: none lies on another, and on the ring of another only where all is full.

    Parameters
    ----------
    spots
        What is marked, in millimetres.
    widths
        Of the boxes, which are all ``BOX`` high.
    """
    taken = _Cells()
    rings = _Cells()
    for spot in spots:
        rings.add(spot, 2 * RING)
    out: list[PageXY] = []
    for (x, y), wide in zip(spots, widths, strict=True):
        free: PageXY | None = None
        for dx, dy in _PLACES:
            # Beside the ring, a wider box stands as far off as a narrow one.
            bx, by = x + dx + float(np.sign(dx)) * (wide - BOX) / 2, y + dy
            if not (wide / 2 <= bx <= sheet.width - wide / 2 and BOX / 2 <= by <= sheet.height - BOX / 2):
                continue
            if any(abs(bx - a) < (wide + w) / 2 + ROOM and abs(by - b) < BOX + ROOM for a, b, w in taken.near(bx, by)):
                continue
            free = free or (bx, by)
            others = [(a, b) for a, b, _ in rings.near(bx, by) if (a, b) != (x, y)]
            if all(abs(bx - a) >= wide / 2 + RING or abs(by - b) >= BOX / 2 + RING for a, b in others):
                free = (bx, by)
                break
        found = free or (min(max(x + 6.0, wide / 2), sheet.width - wide / 2), max(y - 6.0, BOX / 2))
        taken.add(found, wide)
        out.append(found)
    return out


class _Cells:
    """Places of the page with how wide they are, found by the squares that they lie in."""

    # As wide as two boxes of the widest number that there is, so that what meets lies in squares side by side.
    SIDE = 24.0

    def __init__(self) -> None:
        self._held: dict[tuple[int, int], list[tuple[float, float, float]]] = {}

    def add(self, place: PageXY, wide: float) -> None:
        """Add a place."""
        key = int(place[0] // self.SIDE), int(place[1] // self.SIDE)
        self._held.setdefault(key, []).append((*place, wide))

    def near(self, x: float, y: float) -> Iterator[tuple[float, float, float]]:
        """Those in the square of a place and in the eight around it."""
        column, row = int(x // self.SIDE), int(y // self.SIDE)
        for i in (column - 1, column, column + 1):
            for j in (row - 1, row, row + 1):
                yield from self._held.get((i, j), ())


def _around() -> list[tuple[float, float]]:
    """Where a box may stand about a ring: at its upper right first, then around, then further off."""
    near = RING * 0.75 + BOX / 2
    places = [(near, -near), (near, near), (-near, -near), (-near, near), (0, -near * 1.2), (0, near * 1.2)]
    for radius in (13.0, 19.0, 26.0, 34.0, 44.0):
        turns = (np.arange(16) + 0.5) * np.pi / 8 - np.pi / 2
        places += [(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in turns]
    return places


_PLACES = _around()


def colour_of(note: ListedNote) -> str:
    """Red for what must be fixed, ochre for what wants a look, blue for what a hand has pinned."""
    return {"error": GRAVE, "warning": LIGHT}.get(note.severity, NOTED)


def _mark(spot: PageXY, middle: PageXY, number: str, colour: str) -> list[Item]:
    x, y = spot
    turn = np.linspace(0, 2 * np.pi, 49)
    ring = np.column_stack([x + RING * np.cos(turn), y + RING * np.sin(turn)])
    letters = run(number, BOLD, NUMBER, "centre")
    left, top, wide = middle[0] - _box_width(number) / 2, middle[1] - BOX / 2, _box_width(number)
    corners = [(left, top), (left + wide, top), (left + wide, top + BOX), (left, top + BOX), (left, top)]
    style = LineStyle(LINE, colour, join="miter")
    at = (middle[0], middle[1] + cap_height(NUMBER) / 2)
    # From the rim of the ring to the box, which hides its end.
    away = np.array(middle) - spot
    rim = np.array(spot) + away * (RING / max(float(np.hypot(*away)), RING))
    return [
        Stroke(style, Paths.of([(float(a), float(b)) for a, b in ring])),
        Stroke(style, Paths.of([(float(rim[0]), float(rim[1])), middle])),
        Fill(PAPER, Paths.of(corners), np.array([0, 1])),
        Stroke(style, Paths.of(corners)),
        Text(letters, at, colour),
    ]
