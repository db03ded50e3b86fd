"""Units that the map does not use, that nothing describes, or whose pattern is that of another rock."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence

from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule

rule(
    "unit_unused",
    "warning",
    "symbols",
    "A unit of the column is nowhere on the map",
    units=("code", "parent"),
    why="a reader looks in vain for it on the map",
    spoils="finish",
)
rule(
    "undescribed",
    "warning",
    "symbols",
    "A unit has no description, where others have",
    units=("description",),
    why="readers learn nothing of this rock",
    spoils="reading",
)
rule(
    "pattern_unlike",
    "warning",
    "symbols",
    "A unit has the pattern of another rock",
    units=("pattern", "rock", "name"),
    why="readers who know the pattern take it for another rock",
    spoils="reading",
)

# From such a share of units with a description on, one without is forgotten.
DESCRIBED = 0.5


def use(units: Sequence[MapUnit], used: Collection[str], patterns: Mapping[str, str]) -> list[Finding]:
    """What is to be said of how units are used.

    Parameters
    ----------
    used
        Codes that features of the map name.
    patterns
        The titles of the patterns of the symbol book, by their names.
    """
    return [*_unused(units, used), *_undescribed(units, used), *_patterns(units, patterns)]


def _unused(units: Sequence[MapUnit], used: Collection[str]) -> list[Finding]:
    # A map without any unit is not drawn yet; what has parts may itself have no ground.
    if not used:
        return []
    whole = {unit.parent for unit in units if unit.code in used}
    while more := {unit.parent for unit in units if unit.code in whole and unit.parent} - whole:
        whole |= more
    return [
        Finding(
            "unit_unused",
            "warning",
            f"{unit.code} ({unit.name}) stands in the column, and nothing on the map is of it.",
            None,
            units=(unit.code,),
        )
        for unit in units
        if unit.code not in used and unit.code not in whole
    ]


def _undescribed(units: Sequence[MapUnit], used: Collection[str]) -> list[Finding]:
    mine = [unit for unit in units if unit.code in used] or list(units)
    bare = [unit for unit in mine if not unit.description.strip()]
    if len(mine) < 2 or len(mine) - len(bare) < DESCRIBED * len(mine):
        return []
    return [
        Finding(
            "undescribed",
            "warning",
            f"{unit.code} ({unit.name}) has no description, as {len(mine) - len(bare)} of {len(mine)} units have.",
            None,
            units=(unit.code,),
        )
        for unit in bare
    ]


def _patterns(units: Sequence[MapUnit], patterns: Mapping[str, str]) -> list[Finding]:
    """Patterns that are named after a rock, on a unit whose rock has a pattern of its own."""
    out = []
    for unit in units:
        rocks = [word for word in re.findall(r"[a-z]+", f"{unit.rock} {unit.name}".lower()) if word in patterns]
        if unit.pattern not in patterns or not rocks or unit.pattern in rocks:
            continue
        # Of rocks that the description names, too, it may be the pattern of one.
        if re.search(rf"\b{re.escape(patterns[unit.pattern].lower())}", unit.description.lower()):
            continue
        message = (
            f"{unit.code} ({unit.name}) has the pattern {patterns[unit.pattern].lower()}, and is made of {rocks[0]}, "
            "which has a pattern of its own."
        )
        out.append(Finding("pattern_unlike", "warning", message, None, units=(unit.code,)))
    return out
