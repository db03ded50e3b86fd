"""What may be wrong with what is drawn on a section: by itself, and against the map."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.coordinates import GroundXY
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of, kind_words
from orvik.core.ground.scale import spaced
from orvik.core.structure.section.bed_thickness import ON, thickenings
from orvik.core.structure.section.below import Below
from orvik.core.structure.section.meeting import Parted, meeting_places, parted
from orvik.core.structure.section.section import SectionOfMap

# Offsets of two markers on one fault that differ by more than this share, and by so many metres, are asked about.
OFFSETS, OFFSETS_M = 0.25, 10.0
# Rules of what disagrees with the map; the others are of the section by itself.
AGAINST_MAP = ("parted", "other_unit")
# So much of the ground of a section may show another unit than the map, in metres.
OTHER_UNIT = 2.0


@dataclass(frozen=True)
class SectionFinding:
    """One finding on a section.

    Attributes
    ----------
    rule
        ``parted``, ``hanging``, ``other_unit``, ``thickens`` or ``offsets``.
    message
        What is wrong, in a sentence.
    place
        Where, in metres along and up.
    lines
        The lines of the section that it is of.
    follows
        Whether following the map mends it.
    off
        How far what is wrong is from where it would be right, in metres; infinite where that is no question of length.
    """

    rule: str
    message: str
    place: GroundXY
    lines: tuple[int, ...] = ()
    follows: bool = False
    off: float = math.inf


def section_findings(found: SectionOfMap, column: Sequence[str]) -> list[SectionFinding]:
    """All findings on a section, what disagrees with the map first.

    Parameters
    ----------
    column
        Codes of the units, the youngest first.
    """
    if not found.is_drawn:
        return []
    below = Below(found)
    return [
        *_parted(found),
        *_other_units(found, below),
        *_hanging(found, below),
        *_thickening(found, column),
        *_offsets(found),
    ]


def _parted(found: SectionOfMap) -> Iterator[SectionFinding]:
    """Ends that have parted from the map, one finding for all that were put to one place."""
    together: dict[tuple[int, GroundXY], list[Parted]] = {}
    for end in parted(found.ends_put, meeting_places(found)):
        together.setdefault((end.meets, end.place), []).append(end)
    for (meets, place), ends in together.items():
        lines, now, label = tuple(end.line for end in ends), ends[0].now, ends[0].label
        if now is None:
            what = f"Line {meets} of the map does not cross the section any more; an end was put to it."
            yield SectionFinding("parted", what, place, lines)
            continue
        away, high = now[0] - place[0], now[1] - place[1]
        if abs(away) >= 0.5:
            side = f"nearer to {found.ends[1 if away > 0 else 0]}"
            what = f"{label} crosses {spaced(abs(away))} m {side} than the section has it."
        else:
            how = "higher" if high > 0 else "lower"
            what = f"The ground at {label} is {abs(high):.1f} m {how} than the section has it."
        yield SectionFinding("parted", what, place, lines, follows=True, off=math.hypot(away, high))


def _other_units(found: SectionOfMap, below: Below) -> Iterator[SectionFinding]:
    """Where units of the section come to the ground that the map does not have there."""
    areas = found.drawn["areas"]
    if not len(areas):
        return
    tree = shapely.STRtree(areas.geometries)
    codes = areas.columns["map_unit"]
    for stretch in found.stretches:
        if not stretch.unit:
            continue
        ground = below.ground
        inside = ground[(ground[:, 0] > stretch.begins) & (ground[:, 0] < stretch.ends)]
        ends = np.array([stretch.begins, stretch.ends])
        edges = np.column_stack([ends, np.interp(ends, *ground.T)])
        # A little below, so that what touches the ground in a corner alone says nothing.
        course = shapely.LineString(np.vstack([edges[:1], inside, edges[1:]]) - [0.0, 0.05])
        for row in tree.query(course, predicate="intersects").tolist():
            shared = shapely.intersection(course, areas.geometries[row])
            if codes[row] and codes[row] != stretch.unit and shared.length > OTHER_UNIT:
                middle = (
                    shared.interpolate(0.5, normalized=True) if shared.geom_type == "LineString" else shared.centroid
                )
                west, _, east, _ = shared.bounds
                what = (
                    f"The section has {codes[row]} at the ground from {spaced(west)} to {spaced(east)} m, "
                    f"and the map {stretch.unit}."
                )
                yield SectionFinding("other_unit", what, (middle.x, middle.y))


def _hanging(found: SectionOfMap, below: Below) -> Iterator[SectionFinding]:
    lines = found.drawn["lines"]
    if not len(lines):
        return
    frame = below.whole.exterior
    tree = shapely.STRtree(lines.geometries)
    for row, (kind, line) in enumerate(zip(lines.columns["kind"], lines.geometries, strict=True)):
        meaning = kind_of(kind)
        if not meaning.bounds_units or meaning.may_end_open:
            continue
        xy = shapely.get_coordinates(line)
        if (xy[0] == xy[-1]).all():
            continue
        for place in (xy[0], xy[-1]):
            end = shapely.Point(place)
            # Beyond the section and above the ground a line ends where one stops drawing.
            if not below.whole.contains(end) or frame.distance(end) <= ON:
                continue
            near = tree.query(end, predicate="dwithin", distance=ON)
            if not len(near[near != row]):
                name = f"{kind_words(kind)} {lines.ids[row]}"
                what = f"An end of {name} hangs {_where(place)}."
                others = shapely.distance(end, np.delete(lines.geometries, row))
                off = min(frame.distance(end), float(others.min(initial=math.inf)))
                at = (float(place[0]), float(place[1]))
                yield SectionFinding("hanging", what, at, (int(lines.ids[row]),), off=off)


def _where(place: Floats) -> str:
    up = float(place[1])
    side = "below" if up < 0 else "above"
    return f"at {spaced(float(place[0]))} m, {spaced(abs(up))} m {side} sea level"


def _thickening(found: SectionOfMap, column: Sequence[str]) -> Iterator[SectionFinding]:
    for one in thickenings(found.drawn["lines"], found.drawn["areas"], column):
        what = (
            f"{one.unit} thickens from {spaced(one.thin)} to {spaced(one.thick)} m "
            f"between {spaced(one.thin_at[0])} and {spaced(one.thick_at[0])} m."
        )
        yield SectionFinding("thickens", what, one.thick_at)


def _offsets(found: SectionOfMap) -> Iterator[SectionFinding]:
    """Faults on which two markers are offset by different amounts."""
    lines, areas = found.drawn["lines"], found.drawn["areas"]
    if not len(lines) or not len(areas):
        return
    tree = shapely.STRtree(areas.geometries)
    kinds = lines.columns["kind"]
    for row in np.flatnonzero([kind_of(k).may_end_open and kind_of(k).bounds_units for k in kinds]).tolist():
        fault = lines.geometries[row]
        sides = _ends_on(fault, row, lines, tree, areas)
        offsets = {
            marker: at["right"][0] - at["left"][0]
            for marker, at in sides.items()
            if len(at["left"]) == 1 and len(at["right"]) == 1
        }
        if len(offsets) < 2:
            continue
        (less, small), (more, large) = (f(offsets.items(), key=lambda one: one[1]) for f in (min, max))
        if large - small > max(OFFSETS_M, OFFSETS * max(abs(large), abs(small))):
            what = (
                f"{kind_words(kinds[row]).capitalize()} {lines.ids[row]} offsets {less} by {spaced(abs(small))} m "
                f"and {more} by {spaced(abs(large))} m."
            )
            at = fault.interpolate(sides[more]["right"][0])
            yield SectionFinding("offsets", what, (at.x, at.y), (int(lines.ids[row]),))


def _ends_on(
    fault: shapely.LineString, row: int, lines: Features, tree: shapely.STRtree, areas: Features
) -> dict[str, dict[str, list[float]]]:
    """Markers that end on a fault, each by the units that it parts: on its two sides, how far down the fault."""
    out: dict[str, dict[str, list[float]]] = defaultdict(lambda: {"left": [], "right": []})
    xy = shapely.get_coordinates(fault)
    codes = areas.columns["map_unit"]
    for other, (line, kind) in enumerate(zip(lines.geometries, lines.columns["kind"], strict=True)):
        if other == row or not kind_of(kind).parts_units:
            continue
        places = shapely.get_coordinates(line)
        for end, inner in ((places[0], places[1]), (places[-1], places[-2])):
            if fault.distance(shapely.Point(end)) > ON:
                continue
            way = fault.project(shapely.Point(end))
            begin, ahead = (fault.interpolate(max(0.0, min(fault.length, way + s))) for s in (-1.0, 1.0))
            turn = (ahead.x - begin.x) * (inner[1] - end[1]) - (ahead.y - begin.y) * (inner[0] - end[0])
            run = (inner - end) / max(float(np.hypot(*(inner - end))), 1e-9)
            beside = end + run * min(1.0, float(np.hypot(*(inner - end))) / 2)
            normal = np.array([-run[1], run[0]])
            units = set()
            for side in (0.2, -0.2):
                hit = tree.query(shapely.Point(beside + normal * side), predicate="intersects")
                units |= {str(codes[i]) for i in hit.tolist() if codes[i]}
            if len(units) == 2:
                marker = " | ".join(sorted(units))
                # Downwards, whichever way the fault was drawn.
                down = way if xy[-1][1] < xy[0][1] else fault.length - way
                side_of = (turn > 0) == (xy[-1][1] < xy[0][1])
                out[marker]["left" if side_of else "right"].append(float(down))
    return out
