"""Where the boxes of units stand beside one another: a column for each heading, a lane for what is of one time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orvik.core.features.age import Span
from orvik.core.features.map_unit import MapUnit, stratigraphic_order
from orvik.core.sheet.parts.correlation.box_moves import NO_MOVES, BoxMove, BoxMoves
from orvik.core.sheet.parts.correlation.time_scale import SAME


@dataclass(frozen=True)
class UnitBox:
    """A unit and where it stands.

    Attributes
    ----------
    span, shown
        Its time, and what of that it is drawn over.
    lane
        Counted from the left, over all columns.
    rests_on_gap
        Whether time is missing below it: nothing that is listed was laid down just before it began.
    bounded
        Whether its age is only known to lie between its ends.
    """

    unit: MapUnit
    span: Span
    shown: Span
    column: int
    lane: int
    rests_on_gap: bool
    bounded: bool


@dataclass(frozen=True)
class Boxes:
    """All that have an age, the columns that they stand in with their first lane and how many they take, the rest."""

    boxes: tuple[UnitBox, ...]
    columns: tuple[tuple[str, int, int], ...]
    undated: tuple[MapUnit, ...]

    @property
    def lanes(self) -> int:
        """How many there are."""
        return sum(count for _, _, count in self.columns)


def boxes_of(units: Sequence[MapUnit], moves: BoxMoves = NO_MOVES) -> Boxes:
    """Units in columns by heading, the youngest first; those of one time and heading beside one another.

    Parameters
    ----------
    moves
        Where hands have put boxes; those have their lanes first.
    """
    ordered = stratigraphic_order(list(units))
    dated = [(unit, unit.span) for unit in ordered]
    spans = [span for _, span in dated if span is not None]
    headings = list(dict.fromkeys(unit.heading for unit, span in dated if span is not None))
    boxes: list[UnitBox] = []
    columns: list[tuple[str, int, int]] = []
    first = 0
    for column, heading in enumerate(headings):
        here = [(unit, span) for unit, span in dated if span is not None and unit.heading == heading]
        lanes = _lanes([(moves.get(unit.code, BoxMove()), span) for unit, span in here])
        for (unit, span), lane in zip(here, lanes, strict=True):
            shown = moves.get(unit.code, BoxMove()).within(span)
            boxes.append(UnitBox(unit, span, shown, column, first + lane, _on_gap(span, spans), is_bounded(unit)))
        count = max(lanes) + 1
        columns.append((heading, first, count))
        first += count
    return Boxes(tuple(boxes), tuple(columns), tuple(unit for unit, span in dated if span is None))


def _lanes(placed: Sequence[tuple[BoxMove, Span]]) -> list[int]:
    """The lane of each box of a column: where it was put if that is free, else the next that is; no lane is empty."""
    held: dict[int, list[Span]] = {}
    out: dict[int, int] = {}
    order = sorted(range(len(placed)), key=lambda i: (placed[i][0].lane is None, i))
    for i in order:
        move, span = placed[i]
        shown = move.within(span)
        lane = move.lane or 0
        while any(_meet(shown, other) for other in held.get(lane, [])):
            lane += 1
        held.setdefault(lane, []).append(shown)
        out[i] = lane
    close = {lane: number for number, lane in enumerate(sorted(held))}
    return [close[out[i]] for i in range(len(placed))]


def is_bounded(unit: MapUnit) -> bool:
    """Whether an age is only known within bounds: it is questioned, or says that it is one or another.

    >>> is_bounded(MapUnit("Kx", "Unit", "Cretaceous or Paleogene", "#BBD5A6"))
    True
    """
    words = unit.printed_age
    return "?" in words or " or " in f" {words} "


def _meet(one: Span, other: Span) -> bool:
    return one.younger < other.older - SAME and other.younger < one.older - SAME


def _on_gap(span: Span, spans: Sequence[Span]) -> bool:
    """Whether of what is older nothing reaches up to the beginning of a unit."""
    older = [other for other in spans if other.older > span.older + SAME]
    return bool(older) and all(other.younger > span.older + SAME for other in older)
