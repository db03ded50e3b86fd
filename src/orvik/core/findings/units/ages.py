"""Ages of units against one another: of members and their formations, as printed and as given, and over headings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from orvik.core.features.age import Span, span, written_span
from orvik.core.features.map_unit import HEADINGS, MapUnit, stratigraphic_order
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule

rule(
    "printed_age",
    "error",
    "symbols",
    "The age that is printed of a unit is not the one that is given",
    units=("age", "age_from", "age_to"),
    why="the sheet says two ages of one rock",
)
rule(
    "member_age",
    "warning",
    "symbols",
    "A unit is of another age than the one that it is part of",
    "International Stratigraphic Guide, 2nd ed. 1994, 5.C (a member is part of a formation); from memory",
    units=("age", "age_from", "age_to", "parent"),
    why="a part cannot be older or younger than the whole",
)
rule(
    "heading_age",
    "warning",
    "symbols",
    "A unit is older than those below the next heading, and the others beside it are not",
    "law of superposition",
    units=("position", "age", "age_from", "age_to", "heading"),
    why="headings and ages tell two orders",
)

# Intrusions stand apart from what they cut.
_APART = frozenset({HEADINGS[3]})


def ages(units: Sequence[MapUnit]) -> list[Finding]:
    """What is to be said of the ages of some units."""
    return [*_printed(units), *_members(units), *_headings(units)]


def _printed(units: Sequence[MapUnit]) -> Iterator[Finding]:
    for unit in units:
        given, said = span(unit.age_from, unit.age_to) if unit.age_from else None, written_span(unit.age)
        if given is not None and said is not None and _apart(given, said):
            message = (
                f"{unit.code} ({unit.name}) prints the age {unit.age}, and is given as {given.words} "
                f"({given.figures}); one of them is wrong."
            )
            yield Finding("printed_age", "error", message, None, units=(unit.code,))


def _apart(one: Span, other: Span) -> bool:
    return one.younger >= other.older or other.younger >= one.older


def _members(units: Sequence[MapUnit]) -> Iterator[Finding]:
    by_code = {unit.code: unit for unit in units}
    for unit in units:
        whole = by_code.get(unit.parent)
        if whole is None or unit.span is None or whole.span is None:
            continue
        if unit.span.older <= whole.span.older + 1e-9 and unit.span.younger >= whole.span.younger - 1e-9:
            continue
        how = "is of another age" if _apart(unit.span, whole.span) else "reaches beyond its age"
        message = (
            f"{unit.code} ({unit.name}, {unit.printed_age}) is part of {whole.code} ({whole.name}, "
            f"{whole.printed_age}) and {how}."
        )
        yield Finding("member_age", "warning", message, None, units=(unit.code, whole.code))


def _headings(units: Sequence[MapUnit]) -> Iterator[Finding]:
    ordered = [u for u in stratigraphic_order(list(units)) if u.span is not None and u.heading not in _APART]
    for unit in ordered:
        rest = [u for u in ordered if u.heading == unit.heading and u is not unit]
        below = [u for u in ordered if u.heading != unit.heading and u.position > unit.position]
        assert unit.span is not None
        for other in below:
            if unit.span.younger < other.span.older:  # type: ignore[union-attr]
                continue
            # All beside it but this one agree with what stands below: so it is this one that is odd.
            if rest and all(u.span.younger < other.span.older for u in rest):  # type: ignore[union-attr]
                message = (
                    f"{unit.code} ({unit.printed_age}) stands under “{unit.heading}” above {other.code} "
                    f"({other.printed_age}) under “{other.heading}”, which is younger."
                )
                yield Finding("heading_age", "warning", message, None, units=(unit.code, other.code))
                break
