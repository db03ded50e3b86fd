"""Errors that a geologist sees, and maps that look like such and are right."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import shapely

from orvik.core.features.feature import Feature
from orvik.store.project import Project
from orvik.usecases.compile.forming import form_units
from tests.proof.editor.seed_kind import (
    Counter,
    Random,
    SeedKind,
    Told,
    any_of,
    beds,
    free_place,
    ground_of_unit,
    key_of,
    largest_face,
    of_kinds,
    right,
    write,
)
from tests.proof.seeds import every, first, keep

GEOLOGY: list[SeedKind] = []
RIGHT_GEOLOGY: list[Counter] = []


def _near_many(project: Project, count: int = 6, metres: float = 600.0) -> list[Feature]:
    """Readings of bedding with many others around."""
    held = beds(project)
    tree = shapely.STRtree([f.geometry for f in held])
    return [f for f in held if len(tree.query(f.geometry, predicate="dwithin", distance=metres)) >= count]


def _recode(project: Project, area: Feature, unit: str) -> None:
    """Another unit for an area and for its tag."""
    tags = [t for t in every(project, "points", kind="unit_tag") if area.geometry.contains(t.geometry)]
    keep(project, area.changed(map_unit=unit), *(tag.changed(map_unit=unit) for tag in tags))


@of_kinds(GEOLOGY, rule="odd_neighbour")
def an_island_of_a_unit_that_none_suggests(project: Project, random: Random) -> Told:
    host, unit = any_of(random, (("pCg", "Kp"), ("pCg", "Kw"), ("Kp", "pCg"), ("Kp", "Jc")))
    place = free_place(project, random, largest_face(project, host), 130.0)
    ring = place.buffer(float(random.uniform(70, 110)), quad_segs=8).exterior
    line = Feature("lines", shapely.LineString(ring.coords), "contact", capture_scale=project.scales.digitizing)
    tag = Feature("points", place, "unit_tag", map_unit=unit, capture_scale=project.scales.digitizing)
    keep(project, line, tag)
    form_units(project, take=True)
    (area,) = [a for a in every(project, "areas", kind="unit_area", map_unit=unit) if a.geometry.contains(place)]
    return Told((rf"\b{host}\b", rf"\b{unit}\b"), features=(key_of(area),))


@of_kinds(GEOLOGY, rule="odd_neighbour")
def an_area_of_the_wrong_unit(project: Project, random: Random) -> Told:
    areas = [a for a in every(project, "areas", kind="unit_area") if a.map_unit == "Jh" and a.geometry.area > 200_000]
    area = any_of(random, areas)
    _recode(project, area, "pCg" if random.random() < 0.5 else "Kp")
    area = project.feature("areas", area.id or 0)
    return Told((rf"\b{area.map_unit}\b", "nowhere else|slip"), features=(key_of(area),))


@of_kinds(GEOLOGY, rule="offset")
def a_contact_without_offset_where_others_have_one(project: Project, random: Random) -> Told:
    fault = max(every(project, "lines", kind="fault"), key=lambda f: float(f.geometry.length))
    ends = []
    for line in every(project, "lines", kind="contact"):
        for end in (0, -1):
            place = shapely.Point(line.geometry.coords[end])
            if fault.geometry.distance(place) < 1e-6 and line.certainty != "concealed":
                ends.append((float(fault.geometry.project(place)), line, end, place))
    ends.sort(key=lambda e: e[0])
    # The ends of one contact on both sides follow one another; one is brought to where the other is.
    pairs = [
        (a, b)
        for a, b in pairwise(ends)
        if 60 < b[0] - a[0] < 220 and a[1].id != b[1].id and b[1].geometry.length > 500
    ]
    (_, _, _, target), (_, line, end, _) = any_of(random, pairs)
    xy = [tuple(c) for c in line.geometry.coords]
    cut = 3 if len(xy) > 8 else 1
    xy = [(target.x, target.y), *xy[cut:]] if end == 0 else [*xy[:-cut], (target.x, target.y)]
    keep(project, line.changed(geometry=shapely.LineString(xy)))
    form_units(project, take=True)
    return Told(("without offset|is offset", r"\d mm"), features=(key_of(fault),))


@of_kinds(GEOLOGY, rule="under_cover")
def a_fault_that_is_certain_below_a_deposit(project: Project, random: Random) -> Told:
    fault = any_of(random, list(every(project, "lines", kind="contact", certainty="concealed")))
    middle = fault.geometry.interpolate(0.5, normalized=True)
    cover = next(a for a in every(project, "areas", kind="unit_area") if a.geometry.contains(middle))
    place = shapely.maximum_inscribed_circle(cover.geometry)
    x, y = place.coords[0]
    half = max(float(shapely.length(place)) * 0.8, 40.0)
    turn = float(random.uniform(0, np.pi))
    dx, dy = half * np.cos(turn), half * np.sin(turn)
    line = shapely.LineString([(x - dx, y - dy), (x + dx, y + dy)])
    drawn = Feature("lines", line, "fault", capture_scale=project.scales.digitizing)
    return Told((rf"\b{cover.map_unit}\b", "certain", "conceal"), features=(write(project, drawn),))


def _halves(line: Feature, random: Random) -> tuple[shapely.LineString, shapely.LineString]:
    xy = list(line.geometry.coords)
    at = int(random.integers(len(xy) // 3, 2 * len(xy) // 3 + 1))
    at = min(max(at, 1), len(xy) - 2)
    return shapely.LineString(xy[: at + 1]), shapely.LineString(xy[at:])


@of_kinds(GEOLOGY, rule="side_changes")
def teeth_that_change_side(project: Project, random: Random) -> Told:
    thrust = any_of(random, [*every(project, "lines", kind="thrust"), *every(project, "lines", kind="normal_fault")])
    one, two = _halves(thrust, random)
    keep(project, thrust.changed(geometry=one, stretches=()))
    other = write(project, thrust.changed(id=None, geometry=shapely.reverse(two), stretches=()))
    return Told(("other side",), features=(key_of(thrust), other))


@of_kinds(GEOLOGY, rule="side_changes")
def a_slip_that_changes_along_a_fault(project: Project, random: Random) -> Told:
    fault = max(every(project, "lines", kind="fault"), key=lambda f: float(f.geometry.length))
    one, two = _halves(fault, random)
    kinds = ["right_lateral_fault", "left_lateral_fault"]
    random.shuffle(kinds)
    keep(project, fault.changed(geometry=one, kind=kinds[0], stretches=()))
    other = write(project, fault.changed(id=None, geometry=two, kind=kinds[1], stretches=()))
    return Told(("left-lateral|right-lateral",), features=(key_of(fault), other))


@of_kinds(GEOLOGY, rule="side_changes")
def a_normal_fault_that_goes_on_as_a_reverse_one(project: Project, random: Random) -> Told:
    fault = max(every(project, "lines", kind="normal_fault"), key=lambda f: float(f.geometry.length))
    one, two = _halves(fault, random)
    kind = any_of(random, ("reverse_fault", "thrust"))
    keep(project, fault.changed(geometry=one, stretches=()))
    other = write(project, fault.changed(id=None, geometry=two, kind=kind, stretches=()))
    return Told(("other block|went down",), features=(key_of(fault), other))


@of_kinds(GEOLOGY, rule="fold_against_ages")
def an_anticline_with_a_young_core(project: Project, random: Random) -> Told:
    fold = first(project, "lines", kind=any_of(random, ("anticline", "syncline")))
    other = {"anticline": "syncline", "syncline": "anticline"}[fold.kind]
    keep(project, fold.changed(kind=other))
    return Told(("core|dip", other), features=(key_of(fold),))


@of_kinds(GEOLOGY, rule="lone_overturned")
def one_overturned_reading(project: Project, random: Random) -> Told:
    bed = any_of(random, _near_many(project, 7, 550.0))
    keep(project, bed.changed(kind="overturned_bedding"))
    return Told(("overturned", "upright"), features=(key_of(bed),))


def _cluster(project: Project, random: Random, kind: str, azimuth: float, inclination: float) -> list[Feature]:
    """Readings of a kind that agree with one another, in gneiss; the last of them in their middle."""
    place = free_place(project, random, largest_face(project, "pCg"), 70.0)
    out = []
    for i in range(7):
        turn, off = i * 2 * np.pi / 6, 0.0 if i == 6 else 55.0
        spot = shapely.Point(place.x + off * np.cos(turn), place.y + off * np.sin(turn))
        reading = Feature(
            "points",
            spot,
            kind,
            azimuth=float(round(azimuth + random.uniform(-6, 6)) % 360),
            inclination=float(round(inclination + random.uniform(-4, 4))),
            capture_scale=project.scales.digitizing,
        )
        out.append(project.feature(*write(project, reading)))
    return out


@of_kinds(GEOLOGY, rule="attitude_slip")
def strike_and_dip_exchanged(project: Project, random: Random) -> Told:
    strike = float(random.integers(5, 44))
    dip = any_of(random, [d for d in range(12, 80) if abs(d - strike) > 34])
    *_, reading = _cluster(project, random, "foliation", strike, dip)
    strike = min(reading.azimuth or 0.0, 90.0)
    keep(project, reading.changed(azimuth=reading.inclination, inclination=strike))
    return Told(
        ("exchanged", f"{round(strike):03d}/{round(reading.inclination or 0):02d}"), features=(key_of(reading),)
    )


@of_kinds(GEOLOGY, rule="odd_reading")
def a_foliation_across_its_neighbours(project: Project, random: Random) -> Told:
    *_, odd = _cluster(project, random, "mylonitic_foliation", float(random.uniform(0, 360)), 55.0)
    keep(project, odd.changed(azimuth=((odd.azimuth or 0) + 58.0) % 360, inclination=70.0))
    return Told(("off", r"\d°"), features=(key_of(odd),))


@of_kinds(GEOLOGY, rule="odd_reading")
def a_lineation_across_its_neighbours(project: Project, random: Random) -> Told:
    *_, odd = _cluster(project, random, "mineral_lineation", float(random.uniform(0, 360)), 22.0)
    keep(project, odd.changed(azimuth=((odd.azimuth or 0) + 75.0) % 360, inclination=30.0))
    return Told(("off", r"\d°"), features=(key_of(odd),))


@of_kinds(GEOLOGY, rule="off_unit")
def a_reading_off_the_unit_it_says(project: Project, random: Random) -> Told:
    bed = any_of(random, beds(project))
    here = next(
        a.map_unit for a in every(project, "areas", kind="unit_area") if a.geometry.buffer(0.01).contains(bed.geometry)
    )
    other = any_of(random, [c for c in ("Kp", "Kw", "Jh", "Jc") if c != here])
    keep(project, bed.changed(map_unit=other))
    return Told((rf"\b{other}\b", rf"\b{here}\b"), features=(key_of(bed),))


@of_kinds(GEOLOGY, rule="line_off_plane")
def a_lineation_off_its_plane(project: Project, random: Random) -> Told:
    place = free_place(project, random, largest_face(project, "pCg"), 60.0)
    strike, dip = float(random.integers(0, 360)), 60.0
    plane = Feature("points", place, "foliation", azimuth=strike, inclination=dip, capture_scale=6250)
    write(project, plane)
    spot = shapely.Point(place.x + 10, place.y)
    trend, plunge = (strike + 270.0) % 360, float(random.integers(20, 50))
    line = Feature("points", spot, "lineation", azimuth=trend, inclination=plunge, capture_scale=6250)
    return Told(("plane", r"\d°"), features=(write(project, line),))


@of_kinds(GEOLOGY, rule="block_against_ages")
def an_upper_plate_of_younger_rock(project: Project, random: Random) -> Told:
    fault = max(every(project, "lines", kind="normal_fault"), key=lambda f: float(f.geometry.length))
    keep(project, fault.changed(kind=any_of(random, ("reverse_fault", "thrust")), stretches=()))
    return Told(("younger|older",), features=(key_of(fault),))


@of_kinds(GEOLOGY, rule="slip_against_offsets")
def a_slip_against_what_it_offsets(project: Project, random: Random) -> Told:
    # The demo's two long normal faults offset all contacts to one side each: seen across, to the right and to the left.
    faults = sorted(every(project, "lines", kind="normal_fault"), key=lambda f: -float(f.geometry.length))[:2]
    fault = any_of(random, faults)
    offset_to_the_right = fault.id == 66
    kind = "left_lateral_fault" if offset_to_the_right else "right_lateral_fault"
    keep(project, fault.changed(kind=kind, stretches=()))
    return Told(("left", "right", r"\d mm"), features=(key_of(fault),))


# Maps that are right


@right(RIGHT_GEOLOGY, "odd_neighbour")
def a_patch_of_till_on_gneiss(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "pCg"), 130.0)
    ring = place.buffer(90.0, quad_segs=8).exterior
    line = Feature("lines", shapely.LineString(ring.coords), "contact", capture_scale=project.scales.digitizing)
    tag = Feature("points", place, "unit_tag", map_unit="Qt", capture_scale=project.scales.digitizing)
    keep(project, line, tag)
    form_units(project, take=True)


@right(RIGHT_GEOLOGY, "uncovered", "under_cover")
def a_fault_concealed_by_till(project: Project, random: Random) -> None:
    circle = shapely.maximum_inscribed_circle(largest_face(project, "Qt"))
    x, y = circle.coords[0]
    half = float(shapely.length(circle)) * 0.7
    line = shapely.LineString([(x - half, y), (x + half, y)])
    write(project, Feature("lines", line, "fault", certainty="concealed", capture_scale=project.scales.digitizing))


@right(RIGHT_GEOLOGY, "side_changes", "block_against_ages")
def a_thrust_in_two_lines(project: Project, random: Random) -> None:
    thrust = first(project, "lines", kind="thrust")
    one, two = _halves(thrust, random)
    keep(project, thrust.changed(geometry=one, stretches=()))
    write(project, thrust.changed(id=None, geometry=two, stretches=()))


@right(RIGHT_GEOLOGY, "fold_against_ages", "fold_against_dips", "axis_across")
def an_axis_along_its_fold(project: Project, random: Random) -> None:
    fold = first(project, "lines", kind="anticline")
    place, ahead = (fold.geometry.interpolate(at, normalized=True) for at in (0.5, 0.55))
    trend = round(np.degrees(np.arctan2(ahead.x - place.x, ahead.y - place.y)) + 180) % 360
    write(project, Feature("points", place, "fold_axis", azimuth=float(trend), inclination=8.0, capture_scale=6250))


@right(RIGHT_GEOLOGY, "attitude_slip", "odd_attitude", "lone_overturned")
def beds_that_turn_over_together(project: Project, random: Random) -> None:
    bed = _near_many(project)[0]
    for other in beds(project):
        if other.geometry.distance(bed.geometry) < 700:
            keep(project, other.changed(kind="overturned_bedding"))


@right(RIGHT_GEOLOGY, "odd_reading", "line_off_plane")
def a_lineation_in_its_plane(project: Project, random: Random) -> None:
    *_, one = _cluster(project, random, "foliation", 40.0, 60.0)
    spot = shapely.Point(one.geometry.x + 5, one.geometry.y)
    # Straight down the dip.
    trend = ((one.azimuth or 0) + 90.0) % 360
    write(project, Feature("points", spot, "lineation", azimuth=trend, inclination=one.inclination, capture_scale=6250))


@right(RIGHT_GEOLOGY, "off_ground", "off_unit")
def a_reading_at_the_shore(project: Project, random: Random) -> None:
    land = ground_of_unit(project, "Qal", "Qt", "Kp", "Kw", "Jh", "Jc", "pCg")
    bed = any_of(random, beds(project))
    rim = max(getattr(land, "geoms", [land]), key=lambda piece: piece.area).exterior
    keep(project, bed.changed(geometry=rim.interpolate(0.37, normalized=True)))


@right(RIGHT_GEOLOGY, "off_fault")
def a_fault_plane_on_its_fault(project: Project, random: Random) -> None:
    plane = first(project, "points", kind="fault_plane")
    fault = max(every(project, "lines", kind="fault"), key=lambda f: float(f.geometry.length))
    keep(project, plane.changed(geometry=fault.geometry.interpolate(0.3, normalized=True)))


@right(RIGHT_GEOLOGY, "offset", "slip_against_offsets")
def the_faults_as_they_are(project: Project, random: Random) -> None:
    form_units(project)
