"""The unit column: units that stand the wrong way round by their ages."""

from __future__ import annotations

from collections.abc import Iterable

from orvik.core.features.map_unit import MapUnit, out_of_order
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule

rule(
    "column",
    "warning",
    "symbols",
    "A unit that is wholly older stands above a younger one",
    "law of superposition",
    units=(
        "position",
        "age",
        "age_from",
        "age_to",
        "heading",
    ),
    why="the column says that the older lies on the younger",
)


def column(units: Iterable[MapUnit]) -> list[Finding]:
    """Units that are wholly older than the one below them, under the same heading."""
    return [
        Finding(
            "column",
            "warning",
            f"{above.code} ({above.printed_age}) stands above {below.code} ({below.printed_age}), which is younger.",
            None,
            units=(above.code, below.code),
        )
        for above, below in out_of_order(units)
    ]
