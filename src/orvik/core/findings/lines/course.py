"""Contacts and faults whose course over the relief disagrees with the dips that were read along them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Ints, Objects
from orvik.core.coordinates import GroundXY
from orvik.core.features.attitude import Attitude, three_figures
from orvik.core.features.kind import OVERTURNED, kind_of, kind_words
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import looks_at, rule
from orvik.core.geometry.holding import holders
from orvik.core.ground.scale import on_ground
from orvik.core.structure.course import DIGITIZED_MM, Course, dips_allowed, least_turns
from orvik.core.structure.plane import Plane

rule(
    "course",
    "warning",
    "linework",
    "The course of a contact over the relief disagrees by more than 15° with the dips along it",
    features=("kind", "azimuth", "inclination"),
    why="contact and dips cannot both be right",
)
rule(
    "against_contact",
    "warning",
    "linework",
    "A reading disagrees by more than 15° with the course of the contact beside it",
    features=("kind", "azimuth", "inclination"),
    follows_from=("attitude_slip", "odd_attitude", "off_ground"),
    why="reading and contact cannot both be right",
)
rule(
    "dip_of_fault",
    "warning",
    "linework",
    "The course of a fault over the relief is not that of the dip that is stated of it",
    features=("kind", "azimuth", "inclination"),
    why="course and dip cannot both be right",
)

# What is told of, in degrees beyond what the course leaves open.
TURN = 15.0
# Readings speak of a contact that lies within so many millimetres on the sheet.
BESIDE_MM = 10.0
# What of a line lies within so many millimetres of a reading is held against it: a bend close by, and the whole sweep.
ALONG_MM = (10.0, 20.0)
# Of a fault they speak where they stand on it.
ON_MM = 1.0
# So many pairs are remembered.
MOST_KNOWN = 100_000
# A unit is bedded in which so many beds were read.
BEDDED = 2


@dataclass(frozen=True)
class _Pair:
    """A reading and a line beside it, by their rows, and by how much the plane that was read must be turned for it."""

    point: int
    line: int
    turn: float


@looks_at("lines", "points")
def courses(ground: CheckInput) -> list[Finding]:
    """Contacts against the beds beside them, and faults against their planes; nothing where no heights are known."""
    if ground.heights is None or not len(ground.lines):
        return []
    return [*_contacts(ground), *_faults(ground)]


def _contacts(ground: CheckInput) -> list[Finding]:
    kinds = ground.points.columns["kind"]
    beds = _with_planes(ground, [i for i, kind in enumerate(kinds) if kind_of(kind).upright or kind == OVERTURNED])
    if not len(beds):
        return []
    lines = np.array([kind_of(k).parts_units for k in ground.lines.columns["kind"]], dtype=bool)
    near = _beside(ground, beds, np.flatnonzero(lines), BESIDE_MM)
    pairs = _seen(ground, near, _units_of(ground, beds))
    if not pairs:
        return []
    turns = np.array([pair.turn for pair in pairs])
    found: list[Finding] = []
    told: set[int] = set()
    of_line = np.array([pair.line for pair in pairs])
    for row in np.unique(of_line).tolist():
        mine = np.flatnonzero(of_line == row)
        against = mine[turns[mine] > TURN]
        if len(against) > 1 and len(against) > 2 * (len(mine) - len(against)):
            found.append(_of_contact(ground, row, [pairs[i] for i in against], float(np.median(turns[against]))))
            told.update(pairs[i].point for i in against)
    agrees = {pair.point for pair, turn in zip(pairs, turns.tolist(), strict=True) if turn <= TURN}
    for pair, turn in zip(pairs, turns.tolist(), strict=True):
        if turn > TURN and pair.point not in told | agrees:
            told.add(pair.point)
            found.append(_of_reading(ground, pair, turn))
    return found


def _with_planes(ground: CheckInput, rows: Sequence[int]) -> Ints:
    """Those of some rows of the points whose strike and dip are known."""
    columns = ground.points.columns
    known = [i for i in rows if columns["azimuth"][i] is not None and columns["inclination"][i] is not None]
    return np.array(known, dtype=np.int64)


def _beside(ground: CheckInput, points: Ints, lines: Ints, reach_mm: float) -> list[tuple[int, int]]:
    """Points and lines within a distance on the sheet, by their rows."""
    if not len(lines):
        return []
    tree = shapely.STRtree(ground.lines.geometries[lines])
    places = ground.points.geometries[points]
    one, two = tree.query(places, predicate="dwithin", distance=ground.units_on_ground(reach_mm))
    return list(zip(points[one].tolist(), lines[two].tolist(), strict=True))


def _units_of(ground: CheckInput, beds: Ints) -> dict[int, str]:
    """The unit that each bed was read in, of those in which several were."""
    hit, face = holders(ground.points.geometries[beds], ground.face_tree)
    units = {
        int(beds[i]): unit for i, f in zip(hit.tolist(), face.tolist(), strict=True) if (unit := ground.faces.unit(f))
    }
    many = list(units.values())
    return {row: unit for row, unit in units.items() if many.count(unit) >= BEDDED}


def _seen(ground: CheckInput, near: list[tuple[int, int]], units: dict[int, str]) -> list[_Pair]:
    """Pairs of a bed and a contact with no other line between them and bedded rock on both of its sides."""
    near = [(point, line) for point, line in near if point in units]
    if not near:
        return []
    places: Objects = ground.points.geometries[[point for point, _ in near]]
    contacts: Objects = ground.lines.geometries[[line for _, line in near]]
    ways = shapely.shortest_line(places, contacts)
    ends = shapely.get_coordinates(ways).reshape(-1, 2, 2)
    step = ends[:, 1] - ends[:, 0]
    length = np.maximum(np.hypot(*step.T), 1e-12)
    aside = 0.5 / ground.metres_per_unit
    beyond = ends[:, 1] + step / length[:, None] * aside
    bounding = np.flatnonzero(ground.is_bounding())
    crossed, line = shapely.STRtree(ground.lines.geometries[bounding]).query(ways, predicate="intersects")
    other = bounding[line] != np.array([row for _, row in near])[crossed]
    between = np.zeros(len(near), dtype=bool)
    between[crossed[other]] = True
    hit, face = holders(shapely.points(beyond), ground.face_tree)
    across = {i: ground.faces.unit(f) for i, f in zip(hit.tolist(), face.tolist(), strict=True)}
    bedded = set(units.values())
    pairs = []
    for i, (point, row) in enumerate(near):
        unit = across.get(i)
        if between[i] or unit not in bedded or unit == units[point]:
            continue
        pair = _pair(ground, point, row)
        if pair is not None:
            pairs.append(pair)
    return pairs


def _pair(ground: CheckInput, point: int, row: int) -> _Pair | None:
    """A plane that was read, against the part of a line about it; None where no heights are known along that."""
    heights = ground.heights
    if heights is None:
        return None
    place, columns = ground.points.geometries[point], ground.points.columns
    attitude = Attitude(float(columns["azimuth"][point]), float(columns["inclination"][point]))
    # Most pairs are as they were before the last edit.
    line, drawn_at = ground.lines.geometries[row], ground.lines.columns["capture_scale"][row]
    asked = (place.wkb, line.wkb, drawn_at, attitude, ground.scales)
    if asked not in heights.turns:
        if len(heights.turns) > MOST_KNOWN:
            heights.turns.clear()
        heights.turns[asked] = _turn(ground, row, place, attitude)
    turn = heights.turns[asked]
    return None if turn is None else _Pair(point, row, turn)


def _turn(ground: CheckInput, row: int, place: shapely.Point, attitude: Attitude) -> float | None:
    """By how much a plane must be turned until all that a line does about a place allows it; None if unknown."""
    heights = ground.heights
    abouts = [shapely.buffer(place, ground.units_on_ground(reach), quad_segs=8) for reach in ALONG_MM]
    courses = tuple(course for about in abouts if (course := _course(ground, row, about)))
    if heights is None or not courses:
        return None
    plane = Plane.of_attitude((0.0, 0.0, 0.0), attitude, float(heights.crs.convergence(place.x, place.y)))
    return float(least_turns(courses, np.array([plane.normal] * len(courses))).max())


def _course(ground: CheckInput, row: int, about: shapely.Polygon | None = None) -> Course | None:
    """A line over the relief, or the longest part of it about a place."""
    heights = ground.heights
    line = ground.lines.geometries[row]
    if about is not None:
        parts = [p for p in shapely.get_parts(shapely.intersection(line, about)) if isinstance(p, shapely.LineString)]
        if not parts:
            return None
        line = max(parts, key=shapely.length)
    if heights is None or line.is_empty:
        return None
    drawn_at = ground.lines.columns["capture_scale"][row] or ground.scales.digitizing
    return Course.of_places(heights.draped(line), on_ground(DIGITIZED_MM, int(drawn_at)), heights.error)


def _of_contact(ground: CheckInput, row: int, pairs: list[_Pair], turn: float) -> Finding:
    numbers = sorted(int(ground.points.ids[pair.point]) for pair in pairs)
    words = (
        f"{ground.line_name(row).capitalize()} crosses the relief {turn:.0f}° off the dips of the {len(pairs)} "
        "readings along it; look at its course in the valleys again, or at the readings."
    )
    middle = ground.lines.geometries[row].interpolate(0.5, normalized=True)
    beside: tuple[FeatureKey, ...] = tuple(("points", number) for number in numbers)
    key: FeatureKey = ("lines", int(ground.lines.ids[row]))
    return Finding("course", "warning", words, (float(middle.x), float(middle.y)), (key,), beside=beside)


def _of_reading(ground: CheckInput, pair: _Pair, turn: float) -> Finding:
    words = (
        f"{_read(ground, pair.point)} lies {turn:.0f}° off any plane that {ground.line_name(pair.line)} beside it "
        "can be the outcrop of; look at both again."
    )
    return Finding("against_contact", "warning", words, *_at_reading(ground, pair), beside=_line_of(ground, pair))


def _read(ground: CheckInput, row: int) -> str:
    """``Bedding 118, 243/41,``"""
    columns = ground.points.columns
    figures = f"{three_figures(float(columns['azimuth'][row]))}/{float(columns['inclination'][row]):.0f}"
    return f"{kind_words(str(columns['kind'][row])).capitalize()} {ground.points.ids[row]}, {figures},"


def _at_reading(ground: CheckInput, pair: _Pair) -> tuple[GroundXY, tuple[FeatureKey, ...]]:
    place = ground.points.geometries[pair.point]
    return (float(place.x), float(place.y)), (("points", int(ground.points.ids[pair.point])),)


def _line_of(ground: CheckInput, pair: _Pair) -> tuple[FeatureKey, ...]:
    return (("lines", int(ground.lines.ids[pair.line])),)


def _faults(ground: CheckInput) -> list[Finding]:
    """Faults against the planes that were read on them, and against the dips that are stated of them."""
    kinds = ground.points.columns["kind"]
    read = _with_planes(ground, [i for i, kind in enumerate(kinds) if kind_of(kind).of_fault])
    through = np.array([kind_of(k).runs_through for k in ground.lines.columns["kind"]], dtype=bool)
    near = _beside(ground, read, np.flatnonzero(through), ON_MM) if len(read) else []
    pairs = [pair for point, row in near if (pair := _pair(ground, point, row))]
    found = []
    for pair in pairs:
        if (turn := pair.turn) > TURN:
            words = (
                f"{_read(ground, pair.point)} cannot be the plane of {ground.line_name(pair.line)}, whose course over "
                f"the relief is {turn:.0f}° off it; look at both again."
            )
            found.append(
                Finding("dip_of_fault", "warning", words, *_at_reading(ground, pair), beside=_line_of(ground, pair))
            )
    return [*found, *_stated_dips(ground, np.flatnonzero(through))]


def _stated_dips(ground: CheckInput, faults: Ints) -> list[Finding]:
    found = []
    for row in faults.tolist():
        dip = ground.lines.columns["inclination"][row]
        course = _course(ground, row) if dip is not None else None
        if dip is None or course is None:
            continue
        least, most = dips_allowed(course)
        if not least - TURN <= float(dip) <= most + TURN:
            words = (
                f"{ground.line_name(row).capitalize()} is stated to dip {float(dip):.0f}°; over the relief it runs as "
                f"one of {least:.0f} to {most:.0f}° would."
            )
            middle = ground.lines.geometries[row].interpolate(0.5, normalized=True)
            key: FeatureKey = ("lines", int(ground.lines.ids[row]))
            found.append(Finding("dip_of_fault", "warning", words, (float(middle.x), float(middle.y)), (key,)))
    return found
