"""Maps that look like the errors of ``tests.proof.seeds`` and are right."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.pictures.georeferencing import ControlSet
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.usecases.compile.forming import form_units
from tests.proof import seeds
from tests.proof.editor.seed_kind import (
    Counter,
    Random,
    any_of,
    beds,
    change_unit,
    free_place,
    largest_face,
    right,
    unit_named,
    write,
)
from tests.proof.seeds import contact, every, first, keep

RIGHT_OLDER_MAPS: list[Counter] = []


def _map(*rules: str) -> Callable[..., Any]:
    return right(RIGHT_OLDER_MAPS, *rules)


@_map("join_offset", "join_missing", "join_kind", "join_certainty", "join_unit")
def a_neighbour_that_goes_on(project: Project, random: Random) -> None:
    seeds.beside(project, seeds.going_on(off=float(random.uniform(-1.2, 1.2))), ("Qt", "Qt"))


@_map("join_missing")
def a_line_that_ends_within_the_border(project: Project, random: Random) -> None:
    seeds.beside(project, seeds.going_on())
    _, south, east, north = BORDER
    y = south + (north - south) * float(random.uniform(0.2, 0.3))
    ended = shapely.LineString([(east - 400.0, y), (east - 60.0, y)])
    keep(project, Feature("lines", ended, "fault", capture_scale=project.scales.digitizing))


@_map("coarse")
def a_line_drawn_at_just_the_digitizing_scale(project: Project, random: Random) -> None:
    keep(project, contact(project).changed(capture_scale=project.scales.digitizing))


@_map("outside")
def a_reading_on_the_border(project: Project, random: Random) -> None:
    west, south, _, north = BORDER
    at = shapely.Point(west, south + (north - south) * float(random.uniform(0.1, 0.9)))
    keep(project, seeds.station(project).changed(geometry=at))


@_map("unknown")
def a_unit_that_has_come_into_the_column(project: Project, random: Random) -> None:
    unit = replace(unit_named(project, "Qal"), code="Zz", name="Blown sand", label="", position=99)
    project.apply("a unit", [rows.unit_change(None, unit)])
    keep(project, first(project, "points", kind="unit_tag", map_unit="Qal").changed(map_unit="Zz"))
    form_units(project, take=True)


@_map("row")
def a_bed_that_stands_on_end_and_strikes_north(project: Project, random: Random) -> None:
    keep(project, any_of(random, beds(project)).changed(azimuth=0.0, inclination=90.0))


@_map("lost_file")
def pictures_that_were_copied_elsewhere(project: Project, random: Random) -> None:
    folder = project.path.with_suffix(".files")
    files = {file.name: file.read_bytes() for file in folder.iterdir() if file.is_file()}
    folder.unlink()
    folder.mkdir()
    for name, data in files.items():
        (folder / name).write_bytes(data)
        os.utime(folder / name, (1_000_000_000, 1_000_000_000))


@_map("misfit")
def a_picture_a_little_off_its_points(project: Project, random: Random) -> None:
    scan = next(source for source in project.sources() if source.fit)
    held = ControlSet.of_json(scan.fit)
    moved = [replace(p, x=p.x + float(random.uniform(-2, 2))) for p in held.points]
    project.apply("fit", [Change("sources", scan.id, {"fit": replace(held, points=tuple(moved)).json})])


@_map("older_cuts")
def a_dyke_that_is_younger_than_what_it_cuts(project: Project, random: Random) -> None:
    inside = free_place(project, random, largest_face(project, "Kw"), 80.0)
    course = shapely.LineString([(inside.x - 60, inside.y), (inside.x + 60, inside.y + 20)])
    keep(project, Feature("lines", course, "dyke", band=Band(8.0, cut_by=("Qt",))))


@_map("overlap", "unsound")
def an_area_cut_in_two(project: Project, random: Random) -> None:
    area = seeds.largest_area(project, "Kp")
    west, south, east, north = area.geometry.bounds
    x = west + (east - west) * float(random.uniform(0.3, 0.7))
    knife = shapely.LineString([(x, south - 10), (x + 1.0, north + 10)])
    pieces = list(shapely.ops.split(area.geometry, knife).geoms)
    keep(project, area.changed(geometry=pieces[0]), *(area.changed(id=None, geometry=piece) for piece in pieces[1:]))


@_map("sliver", "same_unit")
def a_narrow_bed_that_can_be_seen(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "Kw"), 130.0)
    # A millimetre and a half on the sheet.
    ring = shapely.box(place.x - 90, place.y - 19, place.x + 90, place.y + 19).exterior
    scale = project.scales.digitizing
    keep(
        project,
        Feature("lines", shapely.LineString(ring.coords), "contact", capture_scale=scale),
        Feature("points", place, "unit_tag", map_unit="Qt", capture_scale=scale),
    )
    form_units(project, take=True)


@_map("two_tags", "takes_ground", "other_unit", "untagged")
def a_second_tag_of_one_unit_and_one_at_the_edge(project: Project, random: Random) -> None:
    area = seeds.largest_area(project, any_of(random, ("Kp", "Kw", "Jh")))
    tag = next(t for t in every(project, "points", kind="unit_tag") if shapely.contains(area.geometry, t.geometry))
    edge = shapely.Point(shapely.get_coordinates(area.geometry.exterior)[5])
    inner = shapely.ops.nearest_points(area.geometry.buffer(-2.0), edge)[0]
    keep(project, tag.changed(id=None, geometry=inner))


@_map("undivided", "untagged")
def two_units_that_a_fault_parts(project: Project, random: Random) -> None:
    _, _, line = seeds.parted(project)
    keep(project, line.changed(kind="fault"))


@_map("same_unit", "crossing")
def a_fault_within_one_unit(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "pCg"), 120.0)
    line = shapely.LineString([(place.x - 100, place.y - 20), (place.x + 100, place.y + 30)])
    write(project, Feature("lines", line, "fault", capture_scale=project.scales.digitizing))


@_map("order")
def beds_that_lie_nearly_level(project: Project, random: Random) -> None:
    for bed in beds(project):
        if random.random() < 0.5:
            keep(project, bed.changed(inclination=float(random.integers(0, 3))))


@_map("course", "against_contact", "odd_attitude", "attitude_slip")
def readings_a_few_degrees_off(project: Project, random: Random) -> None:
    for bed in beds(project):
        keep(project, bed.changed(azimuth=((bed.azimuth or 0.0) + float(random.integers(-4, 5))) % 360))


@_map("dip_of_fault")
def a_fault_plane_a_few_degrees_off(project: Project, random: Random) -> None:
    plane = first(project, "points", kind="fault_plane")
    keep(project, plane.changed(inclination=min((plane.inclination or 0) + float(random.integers(-5, 6)), 90.0)))


@_map("dangle", "near_miss")
def a_fault_that_dies_out(project: Project, random: Random) -> None:
    line = contact(project).geometry
    at = line.interpolate(float(random.uniform(0.3, 0.7)), normalized=True)
    # It begins on the contact, at a vertex of both.
    xy = shapely.get_coordinates(line)
    near = xy[int(np.argmin(np.hypot(*(xy - (at.x, at.y)).T)))]
    course = shapely.LineString([near, near + (40.0, 60.0), near + (60.0, 140.0)])
    keep(project, Feature("lines", course, "fault", capture_scale=project.scales.digitizing))


@_map("crossing", "dangle")
def two_contacts_that_cross_at_a_vertex(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "pCg"), 130.0)
    scale, units = project.scales.digitizing, ("Qt", "Kp")
    rings = [place.buffer(100.0, quad_segs=2), shapely.Point(place.x + 60, place.y + 90).buffer(100.0, quad_segs=2)]
    one, other = (ring.exterior for ring in rings)
    both = shapely.intersection(one, other)
    lines = [shapely.LineString(shapely.snap(ring, both, 1.0).coords) for ring in (one, other)]
    noded = [shapely.LineString(_with(line, both)) for line in lines]
    keep(project, *(Feature("lines", line, "contact", capture_scale=scale) for line in noded))
    only = (rings[0].difference(rings[1]), rings[1].difference(rings[0]), rings[0].intersection(rings[1]))
    for ground, unit in zip(only, (*units, "Jh"), strict=True):
        write(project, Feature("points", ground.representative_point(), "unit_tag", map_unit=unit, capture_scale=scale))


def _with(line: shapely.LineString, places: Any) -> list[tuple[float, float]]:
    """The vertices of a line with others of it among them."""
    held = [shapely.Point(c) for c in line.coords[:-1]] + list(getattr(places, "geoms", [places]))
    held.sort(key=line.project)
    return [*((p.x, p.y) for p in held), (line.coords[-1][0], line.coords[-1][1])]


@_map("doubled")
def a_line_beside_another_and_two_planes_at_one_place(project: Project, random: Random) -> None:
    line = contact(project)
    beside = shapely.offset_curve(line.geometry, float(random.uniform(40, 60)))
    reading = seeds.station(project)
    keep(
        project,
        Feature("lines", shapely.LineString(beside.coords), "fault", capture_scale=project.scales.digitizing),
        reading.changed(id=None, kind="cleavage", azimuth=((reading.azimuth or 0) + 40.0) % 360),
    )


@_map("doubled_station")
def two_planes_of_one_station(project: Project, random: Random) -> None:
    one = project.stations()[0]
    values = {name: getattr(one, name) for name in ("name", "note", "x", "y")}
    other = {"kind": "cleavage", "azimuth": 10.0, "inclination": 80.0}
    project.apply("a second plane", [Change("stations", None, {**values, **other})])


@_map("no_sense")
def a_strike_slip_fault_long_enough_for_its_arrows(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "pCg"), 200.0)
    line = shapely.LineString([(place.x - 190, place.y), (place.x + 190, place.y + 20)])
    write(project, Feature("lines", line, "right_lateral_fault", capture_scale=project.scales.digitizing))


@_map("alike", "one_colour")
def one_colour_on_units_that_do_not_touch(project: Project, random: Random) -> None:
    ground = {
        u.code: shapely.union_all([a.geometry for a in every(project, "areas", map_unit=u.code)])
        for u in _units(project)
    }
    touch = {a: {b for b in ground if b != a and ground[a].distance(ground[b]) < 50} for a in ground}
    # What touches the other touches the one, too: their colours are known to be told apart by every kind of sight.
    apart = [(a, b) for a in ground for b in ground if a != b and b not in touch[a] and touch[b] <= touch[a]]
    one, other = any_of(random, apart)
    red, green, blue = (int(unit_named(project, one).colour[i : i + 2], 16) for i in (1, 3, 5))
    near = f"#{min(red + 1, 255):02X}{max(green - 1, 0):02X}{blue:02X}"
    change_unit(project, other, colour=near)


def _units(project: Project) -> list[Any]:
    return [unit for _, unit in project.units()]


@_map("letters")
def names_in_letters_of_the_north(project: Project, random: Random) -> None:
    change_unit(project, "Kp", name=any_of(random, ("Þórsmörk Łódź Beds", "Ægir Škofja Beds", "Sønder Çatal Beds")))
