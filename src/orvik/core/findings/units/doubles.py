"""Units that have one name or one look, also where they do not touch."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.findings.nearness import slips_apart
from orvik.core.findings.rule import rule

rule(
    "one_name",
    "warning",
    "symbols",
    "Two units have one name, or nearly one",
    units=("name", "parent", "heading"),
    why="readers take two rocks for one",
    spoils="reading",
)
rule(
    "one_colour",
    "warning",
    "symbols",
    "Two units have one colour and one pattern",
    units=("colour", "pattern", "pattern_colour"),
    why="readers take two rocks for one",
    spoils="reading",
)

# From so many letters on, names that differ by a slip are meant to be one.
LONG = 8


def doubles(units: Sequence[MapUnit]) -> list[Finding]:
    """Pairs of units that a reader cannot tell apart by name, or by colour and pattern."""
    out = []
    for one, two in combinations(units, 2):
        a, b = " ".join(one.name.casefold().split()), " ".join(two.name.casefold().split())
        if one.parent == two.parent and a == b:
            message = f"{one.code} and {two.code} have one name, {one.name}; a reader looks for the difference."
            out.append(Finding("one_name", "warning", message, None, units=(one.code, two.code)))
        elif one.parent == two.parent and _slip(a, b):
            message = f"The names of {one.code} and {two.code}, {one.name} and {two.name}, are a letter apart; a slip?"
            out.append(Finding("one_name", "warning", message, None, units=(one.code, two.code)))
        if _look(one) == _look(two):
            message = (
                f"{one.code} ({one.name}) and {two.code} ({two.name}) have one colour, {one.colour}, and "
                f"{'one pattern' if one.pattern else 'no pattern'}; a reader cannot tell them apart."
            )
            out.append(Finding("one_colour", "warning", message, None, units=(one.code, two.code)))
    return out


def _slip(one: str, other: str) -> bool:
    """Whether names differ by letters exchanged, doubled or left out: another letter may be meant, as in 1 and 2."""
    if min(len(one), len(other)) < LONG or one == other or any(c.isdigit() for c in one + other):
        return False
    if sorted(one) == sorted(other):
        return slips_apart(one, other) == 1
    return len(one) != len(other) and slips_apart(one, other) == 1 and " " in one


def _look(unit: MapUnit) -> tuple[str, str, str]:
    return unit.colour.upper(), unit.pattern, unit.pattern_colour.upper() if unit.pattern else ""
