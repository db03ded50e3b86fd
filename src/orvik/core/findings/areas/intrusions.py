"""Dykes and sheets that cut what is younger than they are."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.features.age import Span
from orvik.core.features.kind import UNIT_AREA, kind_of
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import looks_at, rule
from orvik.core.ground.scale import SEEN_MM

rule(
    "older_cuts",
    "error",
    "linework",
    "A dyke or a sheet cuts a unit that is younger",
    "law of cross-cutting relations",
    features=(
        "kind",
        "map_unit",
        "certainty",
        "band.cut_by",
    ),
    why="what cuts must be younger, so that one of the two ages is wrong",
)


@looks_at("lines", "areas")
def older_cuts(ground: CheckInput) -> list[Finding]:
    """Lines of a unit that run through areas of one that is wholly younger, and are not said to be cut by it.

    What cuts is younger than what it cuts (the law of cross-cutting relations). A line without a unit that is said to
    be cut by one is older than that one, and so than what is younger still.
    """
    lines, areas = ground.lines, ground.areas
    spans = {code: unit.span for code, unit in ground.units.items()}
    judged = [_judged_by(ground, i, spans) for i in range(len(lines))]
    rows = [i for i, unit in enumerate(judged) if unit]
    if not rows or not len(areas):
        return []
    hit, crossed = ground.area_tree.query(lines.geometries[rows], predicate="intersects")
    least = ground.units_on_ground(5 * SEEN_MM)
    told: dict[tuple[int, str], tuple[float, float]] = {}
    for line, area in zip(np.array(rows)[hit].tolist(), crossed.tolist(), strict=True):
        own, other = judged[line], str(areas.columns["map_unit"][area])
        band = lines.columns["band"][line]
        held, there = spans[own], spans.get(other)
        if areas.columns["kind"][area] != UNIT_AREA or own == other or held is None or there is None:
            continue
        if there.older > held.younger or (band is not None and other in band.cut_by) or (line, other) in told:
            continue
        shared = shapely.intersection(lines.geometries[line], areas.geometries[area])
        if float(shapely.length(shared)) >= least:
            place = shapely.line_interpolate_point(
                max(shapely.get_parts(shared), key=shapely.length), 0.5, normalized=True
            )
            told[line, other] = (place.x, place.y)
    return [
        Finding(
            "older_cuts",
            "error",
            f"{ground.line_name(line).capitalize()} {_is(ground, line, judged[line])}, and cuts {other}, which is "
            f"younger; {_ways_out(ground, line)}say that it is cut by it.",
            place,
            (("lines", int(lines.ids[line])),),
            about=other,
        )
        for (line, other), place in sorted(told.items())
    ]


def _is(ground: CheckInput, line: int, unit: str) -> str:
    return f"is {unit}" if ground.lines.columns["map_unit"][line] else f"is cut by {unit}"


def _ways_out(ground: CheckInput, line: int) -> str:
    return "give it another unit, or " if ground.lines.columns["map_unit"][line] else ""


def _judged_by(ground: CheckInput, line: int, spans: Mapping[str, Span | None]) -> str:
    """The unit whose age says how old a line is at the most; empty for a line that cannot be judged."""
    columns = ground.lines.columns
    if not kind_of(columns["kind"][line]).margin or columns["certainty"][line] == "concealed":
        return ""
    own, band = columns["map_unit"][line], columns["band"][line]
    known = [unit for unit in ((own,) if own else band.cut_by if band is not None else ()) if spans.get(unit)]
    # It is older than all that cut it: the oldest of these says most.
    return max(known, key=lambda unit: spans[unit].younger, default="")  # type: ignore[union-attr]
