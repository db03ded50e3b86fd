"""Where readings stand: off their unit, in water, off the fault, the fold or the plane that they speak of."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely

from orvik.core.arrays import Ints, Objects
from orvik.core.features.kind import AXIS_OF_FOLDS, Kind, kind_of, kind_words
from orvik.core.features.map_unit import HEADINGS
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.points.neighbours import lines as directions_of_lines
from orvik.core.findings.points.neighbours import poles
from orvik.core.findings.rule import Reach, looks_at, rule

rule(
    "off_ground",
    "warning",
    "linework",
    "A reading stands in water or where no unit is",
    features=("kind",),
    why="no rock can be read there, so that its place or its unit is wrong",
)
rule(
    "off_unit",
    "warning",
    "linework",
    "A reading stands on another unit than it says, or beds are read in an intrusion",
    features=("kind", "map_unit"),
    why="a reader takes it for the beds of the unit that it stands on",
)
rule(
    "off_fault",
    "warning",
    "linework",
    "A reading of a fault's plane stands at no fault",
    features=("kind",),
    why="a reader looks for a fault that is not drawn",
)
rule(
    "axis_across",
    "warning",
    "linework",
    "The axis that was read of a fold runs across its line",
    features=("kind", "azimuth", "inclination"),
    why="axis and fold cannot both be right",
)
rule(
    "line_off_plane",
    "warning",
    "linework",
    "A lineation does not lie in the plane that is read at its place",
    "geometry of planes and lines",
    features=("kind", "azimuth", "inclination"),
    why="a line within a plane cannot leave it, so that one of the two is wrong",
)

# Millimetres on the sheet: beyond the edge of the ground, from a fault, from the line of a fold.
BEYOND_MM, FAULT_MM, FOLD_MM = 0.5, 2.0, 8.0
# An axis runs across from so many degrees on; one that plunges more steeply has no trend to speak of.
ACROSS, STEEP = 40.0, 60.0
# A lineation lies off its plane from so many degrees on; both stand within so many millimetres on the sheet.
OFF_PLANE, AT_MM = 25.0, 1.0


@looks_at("points", "areas")
def off_ground(ground: CheckInput) -> list[Finding]:
    """Readings in water, under ice or where no unit area is, on a map that has unit areas."""
    rows = ground.readings
    kinds, units = ground.areas.columns["kind"], ground.areas.columns["map_unit"]
    mapped = np.array([bool(unit) for unit in units], dtype=bool)
    if not len(rows) or not mapped.any():
        return []
    rows = rows[ground.within_frame(shapely.get_coordinates(ground.points.geometries[rows]))]
    places = ground.points.geometries[rows]
    points, areas = ground.points_in_areas
    asked = np.isin(points, rows)
    hits, areas = np.searchsorted(rows, points[asked]), areas[asked]
    held = np.zeros(len(rows), dtype=bool)
    held[hits[mapped[areas]]] = True
    out = []
    tree = shapely.STRtree(ground.areas.geometries[mapped])
    for i in np.flatnonzero(~held).tolist():
        apart = float(places[i].distance(tree.geometries[tree.nearest(places[i])]))
        if apart > ground.units_on_ground(BEYOND_MM):
            message = (
                f"{{name}} stands in water or where no unit is, {ground.length_words(apart)} off the nearest unit."
            )
            out.append(_finding(ground, "off_ground", message, int(rows[i])))
    hiding = np.array([kind_of(kind).hides_rock for kind in kinds], dtype=bool)
    if hiding.any():
        for i, area in zip(hits.tolist(), areas.tolist(), strict=True):
            if hiding[area]:
                what = kind_words(str(kinds[area]))
                message = f"{{name}} stands within {what} {ground.areas.ids[area]}, where no rock is seen."
                key: FeatureKey = ("areas", int(ground.areas.ids[area]))
                out.append(_finding(ground, "off_ground", message, int(rows[i]), (key,)))
    return out


@looks_at("points", "areas")
def off_unit(ground: CheckInput) -> list[Finding]:
    """Readings that say a unit and stand on another one, and beds in what is no bedded rock."""
    columns = ground.points.columns
    rows = np.array(
        [r for r in ground.readings if columns["map_unit"][r] or kind_of(columns["kind"][r]).upright], dtype=np.int64
    )
    if not len(rows) or not len(ground.areas):
        return []
    units = ground.areas.columns["map_unit"]
    points, areas = ground.points_in_areas
    asked = np.isin(points, rows)
    out = []
    for row, area in zip(points[asked].tolist(), areas[asked].tolist(), strict=True):
        unit = units[area]
        said = columns["map_unit"][row]
        held = ground.units.get(unit or "")
        if held is None:
            continue
        key: FeatureKey = ("areas", int(ground.areas.ids[area]))
        if said and said != unit:
            other = ground.units.get(said)
            named = f"{said} ({other.name})" if other is not None else said
            message = f"{{name}} says that it is of {named}, and stands on {unit} ({held.name})."
            out.append(_finding(ground, "off_unit", message, row, (key,)))
        elif not said and held.heading == HEADINGS[3]:
            message = f"{{name}} is read in {unit} ({held.name}), an intrusive rock, which has no beds."
            out.append(_finding(ground, "off_unit", message, row, (key,)))
    return out


@looks_at("points", "lines")
def off_fault(ground: CheckInput) -> list[Finding]:
    """Readings of planes of faults that stand at no fault."""
    rows = _rows(ground, lambda kind: kind.of_fault)
    faults = np.array([kind_of(k).runs_through for k in ground.lines.columns["kind"]], dtype=bool)
    if not len(rows) or not faults.any():
        return []
    tree = shapely.STRtree(ground.lines.geometries[faults])
    out = []
    for row in rows.tolist():
        place = ground.points.geometries[row]
        nearest = tree.geometries[tree.nearest(place)]
        apart = float(place.distance(nearest))
        if apart > ground.units_on_ground(FAULT_MM):
            message = f"{{name}} stands {ground.length_words(apart)} off the nearest fault; none is where it was read."
            out.append(_finding(ground, "off_fault", message, row))
    return out


@looks_at("points", "lines", reach=Reach(lambda kind: kind.name == AXIS_OF_FOLDS, FOLD_MM, "points"))
def axis_across(ground: CheckInput) -> list[Finding]:
    """Axes of folds that run across the line of the fold beside them."""
    columns = ground.points.columns
    rows = _rows(ground, lambda kind: kind.name == AXIS_OF_FOLDS)
    folds = np.flatnonzero([kind_of(k).is_fold for k in ground.lines.columns["kind"]])
    if not len(rows) or not len(folds):
        return []
    lines: Objects = ground.lines.geometries[folds]
    tree = shapely.STRtree(lines)
    out = []
    for row in rows.tolist():
        place, trend, plunge = ground.points.geometries[row], columns["azimuth"][row], columns["inclination"][row]
        if trend is None or (plunge or 0.0) > STEEP:
            continue
        near = int(tree.nearest(place))
        if place.distance(lines[near]) > ground.units_on_ground(FOLD_MM):
            continue
        at = lines[near].project(place)
        a, b = lines[near].interpolate(max(at - 1.0, 0.0)), lines[near].interpolate(at + 1.0)
        course = math.degrees(math.atan2(b.x - a.x, b.y - a.y))
        off = abs((float(trend) - course + 90.0) % 180.0 - 90.0)
        if off > ACROSS:
            kind, number = str(ground.lines.columns["kind"][folds[near]]), int(ground.lines.ids[folds[near]])
            message = (
                f"{{name}} has the trend {trend:03.0f}°, {off:.0f}° off the course of {kind_words(kind)} {number} "
                "beside it; the axis of a fold runs along it."
            )
            out.append(_finding(ground, "axis_across", message, row, (("lines", number),)))
    return out


@looks_at("points", reach=Reach(lambda kind: kind.in_plane, AT_MM, "points"))
def line_off_plane(ground: CheckInput) -> list[Finding]:
    """Lineations that do not lie in the foliation or the bed that was read at their place."""
    columns = ground.points.columns
    lines = _rows(ground, lambda kind: kind.in_plane)
    planes = _rows(ground, lambda kind: kind.reading == "plane" and not kind.of_fault)
    if not len(lines) or not len(planes):
        return []
    tree = shapely.STRtree(ground.points.geometries[planes])
    one, two = tree.query(ground.points.geometries[lines], predicate="dwithin", distance=ground.units_on_ground(AT_MM))
    best: dict[int, tuple[float, int]] = {}
    for i, j in zip(lines[one].tolist(), planes[two].tolist(), strict=True):
        along = directions_of_lines(*(np.array([float(columns[c][i])]) for c in ("azimuth", "inclination")))[0]
        pole = poles(*(np.array([float(columns[c][j])]) for c in ("azimuth", "inclination")))[0]
        off = abs(90.0 - math.degrees(math.acos(max(-1.0, min(1.0, float(along @ pole))))))
        best[i] = min(best.get(i, (math.inf, j)), (off, j))
    out = []
    for row, (off, plane) in best.items():
        if off > OFF_PLANE:
            kind, number = str(columns["kind"][plane]), int(ground.points.ids[plane])
            message = (
                f"{{name}} lies {off:.0f}° off the plane of {kind_words(kind)} {number} at its place, in which it was "
                "read; look at both again."
            )
            out.append(_finding(ground, "line_off_plane", message, row, (("points", number),)))
    return out


def _rows(ground: CheckInput, wanted: Callable[[Kind], bool]) -> Ints:
    """Rows of the points with a full reading whose kind is one that is wanted."""
    columns = ground.points.columns
    kinds = {name: wanted(kind_of(name)) for name in set(columns["kind"])}
    rows = [
        r
        for r, kind in enumerate(columns["kind"])
        if kinds[kind] and columns["azimuth"][r] is not None and columns["inclination"][r] is not None
    ]
    return np.array(rows, dtype=np.int64)


def _finding(
    ground: CheckInput, rule_name: str, message: str, row: int, others: tuple[FeatureKey, ...] = ()
) -> Finding:
    """What is said of a reading; ``{name}`` in the message is its name."""
    kind, number = str(ground.points.columns["kind"][row]), int(ground.points.ids[row])
    x, y = shapely.get_coordinates(ground.points.geometries[row])[0].tolist()
    words = message.replace("{name}", f"{kind_words(kind).capitalize()} {number}")
    return Finding(rule_name, "warning", words, (x, y), (("points", number), *others))
