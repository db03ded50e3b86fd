"""Areas of files and of projects as linework: formed again they are the same areas, and every note is kept."""

from __future__ import annotations

import json
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
import shapely.ops

from orvik.cli import main
from orvik.core.errors import FeatureRefused, OrvikError, Stale
from orvik.core.faces.linework import linework_of
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.compile.forming import form_units
from orvik.usecases.compile.linework import LineworkChoices, make_linework, prepare_linework, tag_faces
from orvik.usecases.compile.prepared import keep_prepared
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices
from tests.core.faces.test_linework import mosaic

EAST, NORTH = 510_500.0, 6_800_500.0
UNITS = ("Qt", "Kp", "Jh")


def placed(areas: list[shapely.Polygon]) -> list[shapely.Polygon]:
    return [shapely.transform(area, lambda xy: xy * 3 + (EAST, NORTH)) for area in areas]


def units_of(areas: list[shapely.Polygon]) -> list[str]:
    """A unit for each area, by its place."""
    return [UNITS[(int(area.centroid.x) + int(area.centroid.y)) % len(UNITS)] for area in areas]


def written(path: Path, areas: list[shapely.Polygon], codes: list[str]) -> Path:
    features = [
        {
            "type": "Feature",
            "geometry": json.loads(shapely.to_geojson(area)),
            "properties": {"UNIT": code, "remarks": f"area {i}"},
        }
        for i, (area, code) in enumerate(zip(areas, codes, strict=True))
    ]
    crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
    path.write_text(json.dumps({"type": "FeatureCollection", "crs": crs, "features": features}))
    return path


def ground(project: Project, but: set[int] | None = None) -> dict[str, shapely.Geometry]:
    held = project.features("areas")
    by_unit: dict[str, list[Any]] = defaultdict(list)
    for number, geometry, code in zip(held.ids.tolist(), held.geometries, held.columns["map_unit"], strict=True):
        if number not in (but or set()):
            by_unit[code].append(geometry)
    return {code: shapely.union_all(parts) for code, parts in by_unit.items()}


@pytest.fixture
def bare(project: Project) -> Project:
    """The project without its contact and its area."""
    project.apply(
        "bare",
        [rows.unit_change(None, MapUnit("Jh", "Harrack Sandstone", "Jurassic", "#A9CFC9", position=3))],
    )
    held = project.features("lines")
    kinds = held.columns["kind"]
    project.apply(
        "delete",
        [
            *(Change("lines", n, None) for n, k in zip(held.ids.tolist(), kinds, strict=True) if k == "contact"),
            *(Change("areas", n, None) for n in project.features("areas").ids.tolist()),
        ],
    )
    return project


@pytest.mark.parametrize("seed", range(3))
def test_there_and_back(bare: Project, tmp_path: Path, seed: int) -> None:
    areas = placed(mosaic(seed))
    codes = units_of(areas)
    choices = ImportChoices(linework=LineworkChoices("lines"))
    _, reading = import_file(bare, written(tmp_path / "areas.geojson", areas, codes), choices)
    assert bare.count("areas") == 0
    assert any(f"{len(areas)} areas become" in note for note in reading.notes)
    form_units(bare)
    assert bare.count("areas") == len(areas)
    after = ground(bare)
    for code in set(codes):
        before = shapely.union_all([a for a, c in zip(areas, codes, strict=True) if c == code])
        assert shapely.symmetric_difference(before, after[code]).area < 1e-6 * before.area
        assert after[code].area == pytest.approx(before.area, rel=1e-9)
    # A second time all of it is there: nothing comes twice, and no source without features.
    revision = bare.revision
    with pytest.raises(OrvikError, match="already"):
        import_file(bare, tmp_path / "areas.geojson", choices)
    assert bare.revision == revision
    held = bare.features("points")
    notes = {note for note, kind in zip(held.columns["note"], held.columns["kind"], strict=True) if kind == "unit_tag"}
    assert notes == {f"area {i}" for i in range(len(areas))}


def test_areas_of_the_project_become_linework_and_are_formed_to_themselves(bare: Project) -> None:
    areas = placed(mosaic(7))
    codes = units_of(areas)
    features = [
        Feature("areas", a, "unit_area", map_unit=c, capture_scale=6250) for a, c in zip(areas, codes, strict=True)
    ]
    bare.apply("areas", [rows.feature_change(f, bare.srs_id) for f in features])
    before = ground(bare)
    entry, report = make_linework(bare, LineworkChoices())
    assert entry is not None
    assert (report.areas, report.tags) == (len(areas), len(areas))
    form_units(bare)
    after = ground(bare)
    for code, area in before.items():
        assert shapely.symmetric_difference(area, after[code]).area < 1e-6 * area.area
    # Once more: all of it is there already.
    entry, report = make_linework(bare, LineworkChoices())
    assert (entry, report.lines, report.tags) == (None, 0, 0)


def test_the_outer_edge_is_what_it_is_said_to_be(bare: Project, tmp_path: Path) -> None:
    left, right = (
        shapely.box(EAST, NORTH, EAST + 900, NORTH + 900),
        shapely.box(EAST + 900, NORTH, EAST + 2000, NORTH + 900),
    )
    path = written(tmp_path / "areas.geojson", [left, right], ["Qt", "Kp"])
    for outer, kinds in (("none", []), ("shore", ["shoreline"]), ("border", ["border"])):
        _, reading = import_file(bare, path, ImportChoices(linework=LineworkChoices(outer)))  # type: ignore[arg-type]
        lines = [f for f in reading.features if f.table == "lines"]
        assert sorted(f.kind for f in lines if f.kind != "contact") == kinds
        inner = [f for f in lines if f.kind == "contact"]
        assert [f.geometry.length for f in inner] == [900]
        bare.undo()
    apart = [left, shapely.box(EAST + 2500, NORTH, EAST + 2600, NORTH + 100)]
    with pytest.raises(FeatureRefused, match="is 2 lines"):
        import_file(
            bare,
            written(tmp_path / "two.geojson", apart, ["Qt", "Kp"]),
            ImportChoices(linework=LineworkChoices("border")),
        )


def test_lines_end_at_the_border_if_wanted(bare: Project, tmp_path: Path) -> None:
    west, south, east, north = 510_000.0, 6_800_000.0, 515_000.0, 6_804_000.0
    over = [
        shapely.box(west - 300, south + 500, west + 800, south + 1500),
        shapely.box(west + 800, south + 500, west + 1500, south + 1500),
    ]
    path = written(tmp_path / "over.geojson", over, ["Qt", "Kp"])
    _, reading = import_file(bare, path, ImportChoices(linework=LineworkChoices(clip=True)))
    frame = shapely.box(west, south, east, north)
    assert all(frame.covers(f.geometry) for f in reading.features)
    form_units(bare)
    assert ground(bare)["Qt"].area == pytest.approx(800 * 1000)


def test_a_boundary_along_a_fault_of_the_project_is_that_fault(bare: Project, tmp_path: Path) -> None:
    x = EAST + 900
    fault = Feature("lines", shapely.LineString([(x + 0.5, NORTH - 200), (x + 0.5, NORTH + 1200)]), "fault")
    bare.apply("fault", [rows.feature_change(fault, bare.srs_id)])
    pair = [shapely.box(EAST, NORTH, x, NORTH + 900), shapely.box(x, NORTH, EAST + 2000, NORTH + 900)]
    _, reading = import_file(
        bare, written(tmp_path / "pair.geojson", pair, ["Qt", "Kp"]), ImportChoices(linework=LineworkChoices())
    )
    assert any("run along lines that are there" in note for note in reading.notes)
    form_units(bare)
    after = ground(bare)
    assert after["Qt"].area == pytest.approx(900.5 * 900, rel=1e-4)
    assert after["Kp"].area == pytest.approx(1099.5 * 900, rel=1e-4)


@pytest.mark.parametrize("certainty", ["certain", "concealed"])
def test_a_fault_in_the_same_file_bounds_units_where_it_is_seen(bare: Project, tmp_path: Path, certainty: str) -> None:
    """Units are not formed along what is concealed: there the boundary is a line of its own."""
    x = EAST + 900
    pair = [shapely.box(EAST, NORTH, x, NORTH + 900), shapely.box(x, NORTH, EAST + 2000, NORTH + 900)]
    path = written(tmp_path / "pair.geojson", pair, ["Qt", "Kp"])
    held = json.loads(path.read_text())
    fault = shapely.LineString([(x, NORTH), (x, NORTH + 900)])
    properties = {"kind": "fault", "certainty": certainty}
    held["features"].append(
        {"type": "Feature", "geometry": json.loads(shapely.to_geojson(fault)), "properties": properties}
    )
    path.write_text(json.dumps(held))
    _, reading = import_file(bare, path, ImportChoices(linework=LineworkChoices()))
    inner = [f for f in reading.features if f.table == "lines" and f.geometry.equals(fault)]
    assert sorted(f.kind for f in inner) == (["contact", "fault"] if certainty == "concealed" else ["fault"])
    form_units(bare)
    assert {code: round(area.area) for code, area in ground(bare).items()} == {"Qt": 810_000, "Kp": 990_000}


@pytest.mark.parametrize("seed", range(2))
def test_along_faults_that_end_within_areas(bare: Project, tmp_path: Path, seed: int) -> None:
    """Faults a little beside boundaries, cut short, dangling: faces are tagged as they will be formed."""
    areas = placed(mosaic(seed))
    codes = units_of(areas)
    rng = np.random.default_rng(seed)
    first = linework_of(areas, [], 1.0)
    long = sorted((b.line for b in first.boundaries if not b.outer), key=lambda line: -line.length)[:8]
    for line in long:
        part = shapely.ops.substring(line, 0.2, 0.9, normalized=True)
        moved = shapely.transform(part, lambda xy: xy + rng.uniform(-0.8, 0.8, 2))
        bare.apply("fault", [rows.feature_change(Feature("lines", moved, "fault"), bare.srs_id)])
    path = written(tmp_path / "areas.geojson", areas, codes)
    _, reading = import_file(bare, path, ImportChoices(linework=LineworkChoices()))
    form_units(bare)
    after = ground(bare)
    total = sum(area.area for area in areas)
    assert sum(area.area for area in after.values()) == pytest.approx(total, rel=1e-6)
    apart = sum(
        shapely.symmetric_difference(
            shapely.union_all([a for a, c in zip(areas, codes, strict=True) if c == code]), after[code]
        ).area
        for code in set(codes)
    )
    assert apart <= 4 * sum(line.length for line in long)
    assert any("were closed" in note for note in reading.notes)
    assert not any("several areas" in note for note in reading.notes)


def test_faces_get_tags_from_the_areas_that_lie_there(bare: Project) -> None:
    area = Feature("areas", shapely.box(EAST, NORTH, EAST + 900, NORTH + 900), "unit_area", map_unit="Kp")
    line = Feature("lines", shapely.LineString(area.geometry.exterior.coords), "contact")
    bare.apply("both", [rows.feature_change(f, bare.srs_id) for f in (area, line)])
    assert tag_faces(bare) is not None
    held = bare.features("points")
    (tag,) = [g for g, k in zip(held.geometries, held.columns["kind"], strict=True) if k == "unit_tag"]
    assert area.geometry.contains(tag)
    assert tag_faces(bare) is None


def test_what_is_no_area_is_passed_over_and_a_tag_of_another_unit_is_told(bare: Project) -> None:
    area = Feature("areas", shapely.box(EAST, NORTH, EAST + 900, NORTH + 900), "unit_area", map_unit="Kp")
    bowtie = shapely.Polygon([(EAST, NORTH), (EAST + 99, NORTH + 99), (EAST + 99, NORTH), (EAST, NORTH + 99)])
    other = Feature("points", shapely.Point(EAST + 450, NORTH + 450), "unit_tag", map_unit="Qt")
    features = [area, area.changed(geometry=bowtie), other]
    bare.apply("as another program left it", [rows.feature_change(f, bare.srs_id) for f in features])
    _, report = make_linework(bare, LineworkChoices())
    assert (report.areas, report.tags) == (1, 0)
    assert "1 unsound area passed over; the findings say which." in report.words
    assert "1 tag of Qt where the areas say Kp: they stay." in report.words


def test_a_line_that_a_colleague_moves_meanwhile_is_not_put_back(bare: Project) -> None:
    """Lines that are there get a vertex; what was prepared from them as they were is refused once they have changed."""
    area = Feature("areas", shapely.box(EAST, NORTH, EAST + 900, NORTH + 900), "unit_area", map_unit="Kp")
    fault = Feature("lines", shapely.LineString([(EAST - 200, NORTH + 450), (EAST, NORTH + 450.0)]), "fault")
    crossing = fault.changed(geometry=shapely.LineString([(EAST + 450, NORTH - 99), (EAST + 450, NORTH + 999)]))
    entry = bare.apply("both", [rows.feature_change(f, bare.srs_id) for f in (area, fault, crossing)])
    prepared = prepare_linework(bare.path, LineworkChoices())
    moved = bare.feature("lines", entry.changes[2].id)
    moved = moved.changed(geometry=shapely.LineString([(EAST + 460, NORTH - 99), (EAST + 460, NORTH + 999)]))
    bare.apply("move", [rows.feature_change(moved, bare.srs_id)])
    with pytest.raises(Stale):
        keep_prepared(bare, prepared)
    assert bare.feature("lines", entry.changes[2].id).geometry.equals(moved.geometry)
    assert keep_prepared(bare, prepare_linework(bare.path, LineworkChoices()))


def test_nothing_to_make_linework_of_is_said(bare: Project) -> None:
    with pytest.raises(FeatureRefused, match="no sound unit areas"):
        make_linework(bare, LineworkChoices())
    with pytest.raises(FeatureRefused, match="outer edge"):
        LineworkChoices("coast")  # type: ignore[arg-type]


def test_by_the_command_line(bare: Project, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    areas = placed(mosaic(11))
    codes = units_of(areas)
    file, path = written(tmp_path / "areas.geojson", areas, codes), bare.path
    bare.close()
    assert main(["import", str(path), str(file), "--as-linework", "--outer", "lines"]) == 0
    assert f"{len(areas)} areas become" in capsys.readouterr().out
    assert main(["form-units", str(path)]) == 0
    with opened_for_reading(path) as project:
        assert project.count("areas") == len(areas)
        assert np.sum(shapely.area(project.features("areas").geometries)) == pytest.approx(sum(a.area for a in areas))
