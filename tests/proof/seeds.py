"""Forty errors that a hand may make in a copy of the demo, each with the rule that must tell of it."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import shapely
import shapely.ops
from PIL import Image

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.features.table import FeatureKey, Table
from orvik.core.ground.crs import project_crs
from orvik.core.joins.neighbour import Edge, EdgeArea, EdgeLine, Neighbour
from orvik.core.pictures.georeferencing import ControlSet
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.sheet.parts.box import Box
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.picture import PictureOf
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.source_diagram import SourceDiagram
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.geometry import encoded
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.followed import followed_change, followed_template
from orvik.store.tables.imprint import imprint_change, imprint_of
from orvik.store.tables.neighbours import neighbour_change
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.sheet.templates import keep_template
from orvik.usecases.structure.sections import section_lines


@dataclass(frozen=True)
class Seed:
    """An error: the rule that tells of it, and how it is made."""

    rule: str
    make: Callable[[Project], None]

    @property
    def name(self) -> str:
        return self.make.__name__.strip("_")


MAP: list[Seed] = []
SHEET: list[Seed] = []


def _of_map(rule: str) -> Callable[[Callable[[Project], None]], Callable[[Project], None]]:
    def take(make: Callable[[Project], None]) -> Callable[[Project], None]:
        MAP.append(Seed(rule, make))
        return make

    return take


def _of_sheet(rule: str) -> Callable[[Callable[[Project], None]], Callable[[Project], None]]:
    def take(make: Callable[[Project], None]) -> Callable[[Project], None]:
        SHEET.append(Seed(rule, make))
        return make

    return take


# The map


def keep(project: Project, *kept: Feature, deleted: tuple[FeatureKey, ...] = ()) -> None:
    """Write features as a hand would have them, without what corrects a hand."""
    project.apply("seed", feature_changes(project, project.srs_id, list(kept), list(deleted), ()))


def every(project: Project, table: Table, **wanted: Any) -> Iterator[Feature]:
    """The features of a table with some values."""
    features = project.all_features()[table]
    for i in range(len(features)):
        if all(features.columns[name][i] == value for name, value in wanted.items()):
            yield project.feature(table, int(features.ids[i]))


def first(project: Project, table: Table, **wanted: Any) -> Feature:
    """The first feature of a table with some values."""
    found = next(every(project, table, **wanted), None)
    if found is None:
        raise AssertionError(f"the demo has no {wanted}")
    return found


def contact(project: Project) -> Feature:
    """A plain contact of some length, that meets others at both ends."""
    features = project.all_features()["lines"]
    for i in np.argsort(-shapely.length(features.geometries)):
        kind, certainty = features.columns["kind"][i], features.columns["certainty"][i]
        if kind == "contact" and certainty == "certain" and not features.geometries[i].is_closed:
            return project.feature("lines", int(features.ids[i]))
    raise AssertionError("the demo has contacts")


def largest_area(project: Project, unit: str) -> Feature:
    features = project.all_features()["areas"]
    mine = [i for i in range(len(features)) if features.columns["map_unit"][i] == unit]
    i = max(mine, key=lambda i: float(features.geometries[i].area))
    return project.feature("areas", int(features.ids[i]))


def parted(project: Project) -> tuple[Feature, Feature, Feature]:
    """Two areas of different units and a contact that alone parts them."""
    areas, lines = (project.all_features()[table] for table in ("areas", "lines"))
    contacts = [i for i, kind in enumerate(lines.columns["kind"]) if kind == "contact"]
    tree = shapely.STRtree(lines.geometries[contacts])
    for i, j in zip(*shapely.STRtree(areas.geometries).query(areas.geometries, predicate="touches"), strict=True):
        units = areas.columns["map_unit"]
        if i >= j or units[i] == units[j] or not units[i] or not units[j]:
            continue
        shared = shapely.intersection(areas.geometries[i].boundary, areas.geometries[j].boundary)
        if shared.length < 300:
            continue
        for k in tree.query(shared, predicate="dwithin", distance=0.01).tolist():
            line = lines.geometries[contacts[k]]
            if shapely.difference(shared, line.buffer(0.01)).length < 1 and line.length < 3 * shared.length:
                one, two = (project.feature("areas", int(areas.ids[n])) for n in (i, j))
                return one, two, project.feature("lines", int(lines.ids[contacts[k]]))
    raise AssertionError("the demo has two areas that one contact parts")


def station(project: Project, number: int = 20) -> Feature:
    features = project.all_features()["points"]
    rows_of = [i for i in range(len(features)) if features.columns["kind"][i] == "bedding"]
    return project.feature("points", int(features.ids[rows_of[number]]))


@_of_map("dangle")
def a_contact_that_stops_short(project: Project) -> None:
    line = contact(project)
    keep(project, line.changed(geometry=shapely.ops.substring(line.geometry, 20.0, line.geometry.length)))


@_of_map("undivided")
def a_contact_that_is_gone(project: Project) -> None:
    """Two areas of different units, without the tags and the contact that part them."""
    one, two, line = parted(project)
    tags = project.all_features()["points"]
    spots = [
        ("points", int(tags.ids[i]))
        for i in range(len(tags))
        if tags.columns["kind"][i] == "unit_tag"
        and any(shapely.intersects(area.geometry, tags.geometries[i]) for area in (one, two))
    ]
    keep(project, deleted=(("lines", line.id or 0), *spots))  # type: ignore[arg-type]


@_of_map("takes_ground")
def a_tag_of_another_unit(project: Project) -> None:
    area = largest_area(project, "Kw")
    tags = project.all_features()["points"]
    for i in range(len(tags)):
        if tags.columns["kind"][i] == "unit_tag" and shapely.intersects(area.geometry, tags.geometries[i]):
            keep(project, project.feature("points", int(tags.ids[i])).changed(map_unit="Qt"))


@_of_map("dangle")
def a_contact_that_runs_too_far(project: Project) -> None:
    line = contact(project)
    (x0, y0), (x1, y1) = line.geometry.coords[-2:]
    k = 18.0 / float(np.hypot(x1 - x0, y1 - y0))
    past = (x1 + (x1 - x0) * k, y1 + (y1 - y0) * k)
    keep(project, line.changed(geometry=shapely.LineString([*line.geometry.coords, past])))


@_of_map("dangle")
def a_contact_that_runs_out_to_sea(project: Project) -> None:
    shores = [f.geometry for f in every(project, "lines", kind="shoreline")]
    line = next(
        line
        for line in every(project, "lines", kind="contact", certainty="certain")
        if any(shore.distance(shapely.Point(line.geometry.coords[-1])) < 1e-6 for shore in shores)
    )
    (x0, y0), (x1, y1) = line.geometry.coords[-2:]
    k = 240.0 / float(np.hypot(x1 - x0, y1 - y0))
    past = (x1 + (x1 - x0) * k, y1 + (y1 - y0) * k)
    keep(project, line.changed(geometry=shapely.LineString([*line.geometry.coords, past])))


@_of_map("near_miss")
def a_fault_that_nearly_meets(project: Project) -> None:
    fault = first(project, "lines", kind="fault", certainty="certain")
    middle = fault.geometry.interpolate(0.4, normalized=True)
    start = shapely.Point(middle.x + 5.0, middle.y + 1.0)
    keep(project, Feature("lines", shapely.LineString([start, (middle.x + 300, middle.y + 80)]), "fault"))


@_of_map("crossing")
def two_contacts_that_cross(project: Project) -> None:
    line = contact(project).geometry
    middle, next_to = line.interpolate(0.5, normalized=True), line.interpolate(0.505, normalized=True)
    # Square to it.
    dx, dy = next_to.y - middle.y, middle.x - next_to.x
    k = 300.0 / float(np.hypot(dx, dy))
    across = shapely.LineString([(middle.x - k * dx, middle.y - k * dy), (middle.x + k * dx, middle.y + k * dy)])
    keep(project, Feature("lines", across, "contact"))


@_of_map("doubled")
def a_line_drawn_again(project: Project) -> None:
    line = contact(project)
    keep(project, Feature("lines", shapely.transform(line.geometry, lambda xy: xy + 1.0), "contact"))


@_of_map("doubled")
def a_reading_logged_twice(project: Project) -> None:
    keep(project, station(project).changed(id=None))


@_of_map("doubled")
def two_readings_that_disagree(project: Project) -> None:
    reading = station(project)
    keep(project, reading.changed(id=None, inclination=(reading.inclination or 0) / 2 + 3.0))


@_of_map("overlap")
def areas_over_one_another(project: Project) -> None:
    area = largest_area(project, "Kp")
    keep(project, area.changed(geometry=area.geometry.buffer(60.0)))


@_of_map("sliver")
def a_face_too_narrow_to_be_seen(project: Project) -> None:
    line = contact(project)
    xy = shapely.get_coordinates(line.geometry)
    half = xy[len(xy) // 3 : len(xy) // 3 + 12].copy()
    half[1:-1] += (4.0, -4.0)
    keep(project, Feature("lines", shapely.LineString(half), "contact"))


@_of_map("untagged")
def a_face_without_a_tag(project: Project) -> None:
    tag = first(project, "points", kind="unit_tag", map_unit="Kw")
    area = next(
        a
        for a in project.whole("areas", project.all_features()["areas"].ids.tolist()).values()
        if a.map_unit == "Kw" and a.geometry.contains(tag.geometry)
    )
    assert area.id is not None
    assert tag.id is not None
    keep(project, deleted=(("points", tag.id), ("areas", area.id)))


@_of_map("two_tags")
def two_tags_in_one_face(project: Project) -> None:
    tag = first(project, "points", kind="unit_tag", map_unit="Kp")
    keep(project, tag.changed(id=None, map_unit="Jh", geometry=shapely.transform(tag.geometry, lambda xy: xy + 12.0)))


@_of_map("other_unit")
def an_area_of_another_unit_than_its_tag(project: Project) -> None:
    keep(project, largest_area(project, "Qt").changed(map_unit="Qal"))


@_of_sheet("unformed")
def a_contact_whose_areas_are_not_formed(project: Project) -> None:
    area = largest_area(project, "Kw")
    assert area.id
    keep(project, deleted=(("areas", area.id),))


@_of_map("same_unit")
def a_contact_within_one_unit(project: Project) -> None:
    area = largest_area(project, "Jh").geometry
    ring = area.representative_point().buffer(120.0, quad_segs=6).exterior
    keep(
        project,
        Feature("lines", shapely.LineString(ring.coords), "contact"),
        Feature("points", area.representative_point(), "unit_tag", map_unit="Jh"),
    )


@_of_map("order")
def beds_that_dip_to_the_older_unit(project: Project) -> None:
    units = dict(project.units())
    swapped = {"Jh": 6, "Jc": 5}
    changes = [rows.unit_change(i, replace(u, position=swapped[u.code])) for i, u in units.items() if u.code in swapped]
    project.apply("seed", changes)


@_of_map("older_cuts")
def a_dyke_that_is_older_than_what_it_cuts(project: Project) -> None:
    inside = largest_area(project, "Kw").geometry.representative_point()
    course = shapely.LineString([(inside.x - 150, inside.y), (inside.x + 150, inside.y + 40)])
    keep(project, Feature("lines", course, "dyke", map_unit="pCg", band=Band(8.0)))


@_of_map("older_cuts")
def a_dyke_without_a_unit_that_an_older_one_cuts(project: Project) -> None:
    inside = largest_area(project, "Kw").geometry.representative_point()
    course = shapely.LineString([(inside.x - 150, inside.y), (inside.x + 150, inside.y + 40)])
    keep(project, Feature("lines", course, "dyke", band=Band(8.0, cut_by=("Jc",))))


@_of_map("odd_attitude")
def a_strike_that_no_slip_of_the_pen_explains(project: Project) -> None:
    reading = station(project)
    keep(project, reading.changed(azimuth=((reading.azimuth or 0.0) + 130.0) % 360, inclination=55.0))


def stations(project: Project) -> list[Feature]:
    return [bed for bed in every(project, "points", kind="bedding") if bed.note.startswith("Station")]


@_of_map("course")
def declination_taken_twice_and_the_wrong_way(project: Project) -> None:
    for reading in stations(project):
        keep(project, reading.changed(azimuth=((reading.azimuth or 0.0) + 50.0) % 360))


@_of_map("against_contact")
def a_strike_written_down_beside_a_contact_with_figures_swapped(project: Project) -> None:
    # Between mudstone and siltstone, both of which are bedded.
    mud, silt = (
        shapely.union_all([area.geometry for area in every(project, "areas", map_unit=code)]) for code in ("Kp", "Kw")
    )
    between = shapely.intersection(mud.boundary, silt.boundary)
    near = min(stations(project), key=lambda f: between.distance(f.geometry))
    keep(project, near.changed(azimuth=((near.azimuth or 0.0) + 60.0) % 360))


@_of_map("dip_of_fault")
def a_fault_plane_that_lies_nearly_level(project: Project) -> None:
    plane = first(project, "points", kind="fault_plane")
    keep(project, plane.changed(inclination=20.0))


@_of_map("doubled_station")
def a_station_noted_twice(project: Project) -> None:
    one = project.stations()[0]
    values = {name: getattr(one, name) for name in ("name", "kind", "azimuth", "inclination", "note")}
    project.apply("seed", [Change("stations", None, {**values, "x": one.x + 300.0, "y": one.y})])


@_of_map("coarse")
def a_line_drawn_at_a_coarse_scale(project: Project) -> None:
    keep(project, contact(project).changed(capture_scale=50_000))


@_of_map("misfit")
def a_picture_that_lies_off_its_points(project: Project) -> None:
    scan = next(source for source in project.sources() if source.fit)
    held = ControlSet.of_json(scan.fit)
    moved = [replace(p, x=p.x + (160.0 if i == 0 else 0.0)) for i, p in enumerate(held.points)]
    worse = replace(held, points=tuple(moved))
    project.apply("seed", [Change("sources", scan.id, {"fit": worse.json})])


@_of_map("outside")
def an_attitude_outside_the_border(project: Project) -> None:
    keep(project, station(project).changed(geometry=shapely.Point(509_000.0, 6_806_000.0)))


@_of_map("unknown")
def a_unit_that_is_not_in_the_column(project: Project) -> None:
    area = largest_area(project, "Qal")
    with by_hand(project) as connection:
        connection.execute("UPDATE areas SET map_unit = 'Zz' WHERE id = ?", (area.id,))


@_of_map("row")
def a_dip_out_of_range(project: Project) -> None:
    with by_hand(project) as connection:
        connection.execute("UPDATE points SET inclination = 127 WHERE id = ?", (station(project).id,))


@_of_map("row")
def a_unit_without_a_colour(project: Project) -> None:
    with by_hand(project) as connection:
        connection.execute("UPDATE units SET colour = '' WHERE code = 'Kw'")


@_of_map("column")
def ages_against_the_order(project: Project) -> None:
    units = dict(project.units())
    i, unit = next((i, u) for i, u in units.items() if u.code == "Jh")
    project.apply("seed", [rows.unit_change(i, replace(unit, age_from="Holocene", age_to="", age="Holocene"))])


@_of_map("alike")
def two_units_of_nearly_one_colour(project: Project) -> None:
    units = dict(project.units())
    other = next(u for u in units.values() if u.code == "Jh").colour
    i, unit = next((i, u) for i, u in units.items() if u.code == "Jc")
    project.apply("seed", [rows.unit_change(i, replace(unit, colour=other))])


@_of_map("letters")
def letters_that_no_face_has(project: Project) -> None:
    units = dict(project.units())
    i, unit = next((i, u) for i, u in units.items() if u.code == "Kp")
    project.apply("seed", [rows.unit_change(i, replace(unit, name="Pellan 泥岩"))])


# The sheet


def part_of(project: Project, kind: type) -> Part:
    """A part of the demo's first sheet."""
    sheet = project.sheets()[0]
    return next(p for p in project.parts(sheet.id or 0) if isinstance(p.settings, kind))


def put(project: Project, part: Part, **values: Any) -> None:
    """Change the settings of a part, or place it."""
    project.apply("seed", [rows.part_change(part.changed(settings=part.settings.changed(values)))])


def place(project: Project, settings: Any, x: float, y: float, width: float, height: float, position: int = 90) -> None:
    sheet = project.sheets()[0]
    part = Part(settings, x, y, width, height, sheet_id=sheet.id, position=position)
    project.apply("seed", [rows.part_change(part)])


@_of_sheet("unexplained")
def a_symbol_that_the_explanation_lacks(project: Project) -> None:
    put(project, part_of(project, Explanation), edits={"kind lines contact": {"hidden": True}})


@_of_sheet("nothing_shown")
def a_row_of_which_nothing_is_shown(project: Project) -> None:
    put(project, part_of(project, Explanation), edits={"added": ["symbol oil_well"]})


@_of_sheet("row_cut")
def an_explanation_without_room(project: Project) -> None:
    part = part_of(project, Explanation)
    project.apply("seed", [rows.part_change(part.changed(height=36.0))])


@_of_sheet("off_page")
def a_part_beyond_the_page(project: Project) -> None:
    part = part_of(project, NorthArrow)
    project.apply("seed", [rows.part_change(part.changed(x=700.0))])


@_of_sheet("hidden_part")
def a_title_below_the_map(project: Project) -> None:
    place(project, RunningText(text="Below the map"), 60.0, 60.0, 60.0, 10.0, position=0)


@_of_sheet("run_together")
def letters_over_letters(project: Project) -> None:
    title = part_of(project, Title)
    place(project, RunningText(text="Second title", size=5.0), title.x + 20.0, title.y + 1.0, 60.0, 8.0)


@_of_sheet("text_cut")
def a_text_longer_than_its_frame(project: Project) -> None:
    place(project, RunningText(text="words " * 60, size=3.0), 320.0, 262.0, 40.0, 10.0)


@_of_sheet("empty_part")
def a_picture_that_is_not_chosen(project: Project) -> None:
    place(project, PictureOf(), 380.0, 255.0, 25.0, 20.0)


@_of_sheet("rough_picture")
def a_picture_of_few_dots(project: Project) -> None:
    out = Path(project.path).with_name("rough.png")
    Image.new("RGB", (80, 60), "#446688").save(out)
    kept = KeptFile("rough.png", "picture", out.read_bytes())
    sheet = project.sheets()[0]
    part = Part(PictureOf(file=kept.checksum), 350.0, 255.0, 40.0, 30.0, sheet_id=sheet.id, position=91)
    project.apply("seed", [rows.part_change(part)], files=[kept])


@_of_sheet("enlarged")
def a_panel_larger_than_it_was_digitized(project: Project) -> None:
    panel = part_of(project, MapPanel)
    place(project, replace(panel.settings, scale=5_000, name="Too large"), 330.0, 240.0, 60.0, 40.0)  # type: ignore[call-arg]


@_of_sheet("untrue_scale")
def a_scale_that_is_not_true(project: Project) -> None:
    panel = part_of(project, MapPanel)
    web = project_crs("EPSG:3857")
    put(project, panel, system=web.text, centre=carried_place(project.crs, web, panel.settings.centre))


@_of_sheet("label")
def a_label_without_room(project: Project) -> None:
    put(project, part_of(project, MapPanel), symbol_scale=3.0)


@_of_sheet("small_letters")
def letters_too_small_to_read(project: Project) -> None:
    put(project, part_of(project, NorthArrow), size=1.2)


@_of_sheet("faint_letters")
def letters_that_do_not_stand_out(project: Project) -> None:
    place(project, RunningText(text="Hardly seen", colour="#E4E4E0", size=4.0), 320.0, 255.0, 60.0, 8.0)


@_of_sheet("thin_line")
def a_line_too_thin_to_print(project: Project) -> None:
    place(project, Box(frame=0.05), 320.0, 270.0, 30.0, 10.0)


@_of_sheet("no_essential")
def no_title(project: Project) -> None:
    remove(project, Title)


@_of_sheet("no_essential")
def no_scale_bar(project: Project) -> None:
    remove(project, ScaleBar)


@_of_sheet("no_essential")
def no_fraction(project: Project) -> None:
    remove(project, Fraction)


@_of_sheet("no_essential")
def no_declination(project: Project) -> None:
    put(project, part_of(project, NorthArrow), day="")


@_of_sheet("no_essential")
def no_author(project: Project) -> None:
    project.apply("seed", [imprint_change(replace(imprint_of(project), authors=""))])


@_of_sheet("no_essential")
def no_date(project: Project) -> None:
    project.apply("seed", [imprint_change(replace(imprint_of(project), day=""))])


@_of_sheet("no_essential")
def no_sources(project: Project) -> None:
    put(project, part_of(project, SourceDiagram), key="none")


@_of_sheet("no_essential")
def no_coordinate_system(project: Project) -> None:
    notes = next(p for p in project.parts(project.sheets()[0].number) if p.label == "Notes")
    put(project, notes, text="Invented geology.")


@_of_sheet("unshown")
def a_panel_over_the_edge_of_its_system(project: Project) -> None:
    far = MapPanel(name="Far", scale=25_000, centre=(20_037_508.0, 8_600_000.0), system="EPSG:3857")
    place(project, far, 330.0, 240.0, 20.0, 10.0)


@_of_sheet("figures_off")
def a_graticule_at_the_edge_of_the_page(project: Project) -> None:
    main = part_of(project, MapPanel)
    settings = main.settings.changed({"name": "At the edge"})
    place(project, settings, 695.0, 300.0, 24.0, 24.0)
    number = max(part.id or 0 for part in project.parts(main.sheet_id or 0))
    place(project, Graticule(panel=number), 695.0, 300.0, 24.0, 24.0)


@_of_sheet("land_too_large")
def the_land_around_at_a_large_scale(project: Project) -> None:
    put(project, part_of(project, MapPanel), land=True)


@_of_map("unsound")
def an_area_that_crosses_itself(project: Project) -> None:
    area = largest_area(project, "Kw")
    ring = np.array(area.geometry.exterior.coords)
    ring[[len(ring) // 3, len(ring) // 3 + 1]] = ring[[len(ring) // 3 + 1, len(ring) // 3]]
    connection = by_hand(project)
    (srs_id,) = connection.execute("SELECT srs_id FROM gpkg_geometry_columns").fetchone()
    crossed = encoded(shapely.Polygon(ring, [r.coords for r in area.geometry.interiors]), srs_id)
    connection.execute("UPDATE areas SET geom = ? WHERE id = ?", (crossed, area.id))
    connection.commit()
    connection.close()


@_of_map("no_sense")
def a_strike_slip_fault_too_short_for_its_arrows(project: Project) -> None:
    place = largest_area(project, "Jh").geometry.representative_point()
    line = shapely.LineString([(place.x, place.y), (place.x + 40, place.y + 10)])
    keep(project, Feature("lines", line, "right_lateral_fault", capture_scale=project.scales.digitizing))


@_of_map("lost_file")
def a_scan_that_was_altered(project: Project) -> None:
    source = next(s for s in project.sources() if s.kind == "underlay" and s.checksum)
    folder = project.path.with_suffix(".files")
    # The pictures of a copy are those of all copies: this one gets its own.
    files = {file.name: file.read_bytes() for file in folder.iterdir() if file.is_file()}
    folder.unlink()
    folder.mkdir()
    for name, data in files.items():
        (folder / name).write_bytes(data + b" " if name == source.file else data)


@_of_sheet("hidden_part")
def a_coloured_box_over_the_arrow(project: Project) -> None:
    arrow = part_of(project, NorthArrow)
    box = Box(name="Cover", ground_colour="#FFFFFF")
    place(project, box, arrow.x - 1, arrow.y - 1, arrow.width + 2, arrow.height + 2, position=95)


def remove(project: Project, kind: type) -> None:
    project.apply("seed", [Change("parts", part_of(project, kind).id, None)])


def by_hand(project: Project) -> sqlite3.Connection:
    """The file as another program opens it, which writes what ours would refuse."""
    from orvik.store.geometry import add_functions

    connection = sqlite3.connect(project.path)
    add_functions(connection)
    return connection


@_of_sheet("section_against_map")
def a_section_whose_end_was_put_to_a_line_that_has_moved(project: Project) -> None:
    drawn = project.drawn_ends(section_lines(project)[0].number)
    number, (line, _) = next((n, held) for n, held in drawn.items() if held[1][0] is not None)
    moved = shapely.transform(line, lambda xy: xy + [25.0, 0.0])
    change = Change("section_lines", number, {"geom": encoded(moved, -1)})
    project.apply("move what is drawn on a section", [change])


@_of_sheet("section_doubtful")
def a_line_of_a_section_that_hangs(project: Project) -> None:
    line = shapely.LineString([(2600.0, -50.0), (2700.0, -150.0)])
    values = {"section_id": section_lines(project)[0].number, "geom": encoded(line, -1), "kind": "contact"}
    project.apply("draw a line that hangs", [Change("section_lines", None, values)])


@_of_sheet("description_cut")
def a_description_in_a_frame_that_is_too_small(project: Project) -> None:
    place(project, Description(name="Units in words", panel=part_of(project, MapPanel).id), 5, 5, 60, 20, position=96)


@_of_sheet("word_too_wide")
def a_description_in_a_column_that_is_too_narrow(project: Project) -> None:
    narrow = Description(name="Units, narrow", panel=part_of(project, MapPanel).id, title="", columns=2)
    place(project, narrow, 5, 5, 46, 380, position=97)


@_of_sheet("undated")
def a_correlation_with_a_unit_of_no_age_that_the_chart_knows(project: Project) -> None:
    number = next(number for number, unit in project.units() if unit.code == "Jh")
    values = {"age": "older than anybody knows", "age_from": "", "age_to": ""}
    project.apply("seed", [Change("units", number, values)])
    place(project, Correlation(name="Times", panel=part_of(project, MapPanel).id), 5, 5, 150, 90, position=98)


# Joins: a line that ends at the eastern border, and what a neighbour has there.


def beside(project: Project, there: Sequence[EdgeLine], units: tuple[str, str] = ("", "")) -> None:
    _, south, east, north = BORDER
    y = (south + north) / 2
    line = shapely.LineString([(east - 300.0, y), (east, y)])
    ours = [Feature("lines", line, "scratch_boundary", capture_scale=project.scales.digitizing)]
    here, other = units
    if here:
        ours.append(Feature("areas", shapely.box(east - 200, south, east, south + 500), "unit_area", map_unit=here))
    areas = (EdgeArea(other, shapely.box(east, south, east + 400, south + 500)),) if other else ()
    edge = Edge(tuple(there), areas, shapely.box(east, south, east + 7000, north))
    keep(project, *ours)
    project.apply("seed", [neighbour_change(Neighbour("Sund", "23", "e", edge=edge))])


def going_on(kind: str = "scratch_boundary", certainty: str = "certain", off: float = 0.0) -> list[EdgeLine]:
    _, south, east, north = BORDER
    y = (south + north) / 2 + off
    return [EdgeLine(kind, certainty, False, shapely.LineString([(east, y), (east + 300.0, y)]))]


@_of_map("join_offset")
def a_neighbours_line_beside_ours(project: Project) -> None:
    beside(project, going_on(off=40.0))


@_of_map("join_missing")
def a_neighbour_without_our_line(project: Project) -> None:
    beside(project, going_on(off=900.0))


@_of_map("join_kind")
def a_neighbours_line_of_another_kind(project: Project) -> None:
    beside(project, going_on("contact"))


@_of_map("join_certainty")
def a_neighbours_line_of_another_certainty(project: Project) -> None:
    beside(project, going_on(certainty="inferred"))


@_of_map("join_unit")
def a_neighbours_ground_of_another_unit(project: Project) -> None:
    beside(project, going_on(), ("Qt", "Kw"))


@_of_sheet("empty_field")
def a_text_with_a_field_that_is_empty(project: Project) -> None:
    project.apply("seed", [imprint_change(Imprint())])
    place(project, RunningText(name="Colophon", text="Edited by {editor}", size=3.0), 5, 5, 60, 8, position=99)


@_of_sheet("unknown_field")
def a_text_with_a_field_that_is_none(project: Project) -> None:
    place(project, RunningText(name="Makers", text="By {autors}", size=3.0), 5, 15, 60, 8, position=100)


@_of_sheet("template_changed")
def a_template_that_has_changed_since(project: Project) -> None:
    keep_template(project, 1, "House", for_all=False)
    held = followed_template(project, 1)
    assert held is not None
    taken_up = replace(held, text=held.text.replace('"left": ', '"left": 1'))
    project.apply("seed", [followed_change(taken_up, 1)])
