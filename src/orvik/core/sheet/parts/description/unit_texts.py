"""What a description says: units in their hierarchy, under their headings, each with what is written of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from orvik.core.features.map_unit import MapUnit, stratigraphic_order
from orvik.core.typesetting.spans import Span, Style, spans_of

ELSEWHERE = {"left": "are left out", "said": "are said to lie elsewhere"}


@dataclass(frozen=True)
class UnitText:
    """A heading, or a unit with its text.

    Attributes
    ----------
    unit
        None for a heading.
    depth
        How many units it is part of.
    boxed
        Whether its box stands beside it: a unit that is only the whole of others has no ground of its own.
    """

    unit: MapUnit | None
    spans: tuple[Span, ...]
    depth: int = 0
    boxed: bool = True


def unit_texts(units: Mapping[str, MapUnit], shown: frozenset[str], elsewhere: str) -> list[UnitText]:
    """The column as a text, the youngest first, parts of a unit below it.

    Parameters
    ----------
    shown
        Codes of the units that the map shows.
    elsewhere
        A name of ``ELSEWHERE``: what becomes of those that it does not.
    """
    wanted = set(units) if elsewhere == "said" else {code for code in shown if code in units}
    named = wanted | {above for code in wanted for above in _above(units, code)}
    out: list[UnitText] = []
    heading = ""
    for unit, depth in _in_order([units[code] for code in named]):
        if depth == 0:
            if unit.heading and unit.heading != heading:
                out.append(UnitText(None, (Span(unit.heading),)))
            heading = unit.heading
        whole = unit.code not in wanted
        out.append(UnitText(unit, _spans(unit, unit.code in shown or whole), depth, boxed=not whole))
    return out


def _spans(unit: MapUnit, is_here: bool) -> tuple[Span, ...]:
    out = [Span(unit.name, Style(bold=True))]
    if unit.printed_age:
        out.append(Span(f" ({unit.printed_age})"))
    if unit.description.strip():
        out += [Span("—"), *spans_of(" ".join(unit.description.split()))]
    if not is_here:
        out.append(Span(" Not on this map.", Style(italic=True)))
    return tuple(out)


def _above(units: Mapping[str, MapUnit], code: str) -> Iterator[str]:
    """The units that a unit is part of, from the nearest on; each once, whatever the column says."""
    seen = {code}
    step = units[code].parent
    while step in units and step not in seen:
        seen.add(step)
        yield step
        step = units[step].parent


def _in_order(units: list[MapUnit]) -> Iterator[tuple[MapUnit, int]]:
    """Units, each followed by its parts; those that are part of nothing here come as the youngest of them does."""
    there = {unit.code: unit for unit in units}
    parts: dict[str, list[MapUnit]] = {}
    for unit in stratigraphic_order(units):
        above = next(iter(_above(there, unit.code)), "")
        parts.setdefault(above, []).append(unit)

    def first(unit: MapUnit) -> int:
        return min([unit.position, *(first(part) for part in parts.get(unit.code, ()))])

    def walk(above: str, depth: int) -> Iterator[tuple[MapUnit, int]]:
        for unit in sorted(parts.get(above, ()), key=lambda unit: (first(unit), unit.code)):
            yield unit, depth
            yield from walk(unit.code, depth + 1)

    # Units that are part of one another are part of nothing.
    reached = list(walk("", 0))
    yield from reached
    yield from ((unit, 0) for unit in units if unit not in [held for held, _ in reached])
