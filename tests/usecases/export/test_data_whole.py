"""Every field of the data model goes out and comes in again as it was; a new field without a way fails here."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator
from contextlib import closing
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.core.errors import FileRefused
from orvik.core.features.band import Band
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.pictures.source import Source
from orvik.exchange.features.custom_columns import IN_ROWS, UNIT_FIELDS
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.symbol_book import custom_kinds, kind_change
from orvik.usecases.export.data_export import export_data
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices

X, Y = 513_000.0, 6_802_000.0
UNIT = MapUnit(
    "Kw",
    "Wray Siltstone",
    "",
    "#BBD5A6",
    "Siltstone, grey; to 300 m.",
    3,
    label="Kʷ",
    rock="siltstone",
    age_from="Early Cretaceous",
    age_to="Late Cretaceous",
    rank="member",
    parent="K",
    heading="Sedimentary rocks",
    pattern="sandstone",
    pattern_colour="#335577",
    pattern_opacity=0.4,
    colour_typed="RGB 187 213 166",
    pattern_colour_typed="RGB 51 85 119",
)
UNITS = [
    MapUnit("Qal", "Alluvium", "Holocene", "#F4E6A8", position=1),
    MapUnit("K", "Wray Group", "", "#AAC596", position=2, rank="group", age_from="Cretaceous"),
    UNIT,
    MapUnit("Zz", "Unused", "", "#C9BBD8", "=1+1", position=4),
]
KIND = CustomKind(
    "spring_of_mine",
    "Spring of mine",
    "points",
    "#1F6F6B",
    "diamond",
    0.7,
    "dashed",
    (
        CustomField("flow", "choice", (FieldChoice("dry", "#999999", "D"), FieldChoice("wet", "", "W")), required=True),
        CustomField("litres", "number"),
        CustomField("seen", "date"),
    ),
    2,
)
LINE = shapely.LineString([(X + 100.125 * i, Y + 37.0 * i * i) for i in range(9)])
FEATURES = [
    Feature(
        "lines",
        LINE,
        "dyke",
        certainty="approximate",
        questionable=True,
        map_unit="Kw",
        inclination=62.5,
        capture_scale=12_500,
        note="=HYPERLINK(1) å “x”",
        stretches=(Stretch(2, 5, "concealed"), Stretch(1, 4, "inferred", "left"), Stretch(6, 8, "certain", "right")),
        knots=(0, 4, 8),
        band=Band(12.5, "ground", "certain", "inferred", "left", ("Qal", "faults")),
    ),
    Feature("lines", shapely.transform(LINE, lambda xy: xy + 500.0), "dyke", band=Band(1.5, "sheet", cut_by=("K",))),
    Feature("areas", shapely.box(X, Y, X + 900, Y + 900), "unit_area", map_unit="Qal", note="-2 %"),
    Feature("points", shapely.Point(X, Y), "bedding", azimuth=12.5, inclination=7.25, map_unit="K", note="'tis"),
    Feature(
        "points", shapely.Point(X + 9, Y), "spring_of_mine", fields={"flow": "wet", "litres": 2.5, "seen": "2026-05-31"}
    ),
]


def empty(path: Path) -> Project:
    create(path, "Whole", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    return Project.open(path)


@pytest.fixture
def full(tmp_path: Path) -> Iterator[Project]:
    with closing(empty(tmp_path / "full.gpkg")) as project:
        source = rows.source_change(Source("file", "Sheet of 1931", "sheet.gpkg", crs="EPSG:32628"))
        project.apply("units", [source, *(rows.unit_change(None, u) for u in UNITS), kind_change(None, KIND)])
        (number,) = [s.id for s in project.sources()]
        kept = [replace(f, source_id=number) for f in FEATURES]
        project.apply("features", [rows.feature_change(f, project.srs_id) for f in kept])
        yield project


def features_of(project: Project) -> list[Feature]:
    return [f for t in TABLES for f in project.whole(t, project.features(t).ids.tolist()).values()]


def differs(one: Any, other: Any) -> bool:
    return bool(one != other)


def test_the_sample_says_something_in_every_field() -> None:
    """By reflection: no field of any of these stands as it stands by itself."""
    plain: dict[type, list[Any]] = {
        Feature: [Feature("lines", LINE, "contact")],
        MapUnit: [MapUnit("A", "A", "", "#FFFFFF")],
        CustomKind: [CustomKind("a", "A", "lines")],
        CustomField: [CustomField("a")],
        FieldChoice: [FieldChoice("a")],
        Band: [Band(1.0), Band(1.0, on="sheet")],
        Stretch: [Stretch(0, 1, "certain")],
    }
    made: dict[type, list[Any]] = {
        Feature: FEATURES,
        MapUnit: UNITS,
        CustomKind: [KIND],
        CustomField: list(KIND.fields),
        FieldChoice: list(KIND.fields[0].choices),
        Band: [f.band for f in FEATURES if f.band],
        Stretch: list(FEATURES[0].stretches),
    }
    by_hand = {(Feature, "id"), (Feature, "source_id")}
    for cls, samples in made.items():
        for f in fields(cls):
            values = [getattr(sample, f.name) for sample in samples]
            assert (cls, f.name) in by_hand or any(
                differs(value, getattr(one, f.name)) for value in values for one in plain[cls]
            ), (cls.__name__, f.name)


def test_a_geopackage_comes_in_again_equal_table_by_table(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.gpkg")
    with closing(empty(tmp_path / "again.gpkg")) as again:
        _, reading = import_file(again, tmp_path / "out.gpkg")
        assert not reading.left
        assert [unit for _, unit in again.units()] == [unit for _, unit in full.units()] == UNITS
        assert [kind for _, kind in custom_kinds(again)] == [KIND]
        names = {source.id: source.name for source in again.sources()}
        for one, other in zip(features_of(again), features_of(full), strict=True):
            assert replace(one, source_id=None) == replace(other, source_id=None)
            assert one.geometry.wkb == other.geometry.wkb
            assert names[one.source_id or 0] == "Sheet of 1931"
    # And from the project file itself.
    full.checkpoint()
    with closing(empty(tmp_path / "third.gpkg")) as third:
        assert not import_file(third, full.path)[1].left
        assert [unit for _, unit in third.units()] == UNITS
        assert [replace(f, source_id=None) for f in features_of(third)] == [
            replace(f, source_id=None) for f in features_of(full)
        ]


@pytest.mark.parametrize("ending", [".fgb", ".csv", ".zip", ".geojson", ".kml"])
def test_other_formats_bring_all_that_docs_say(full: Project, tmp_path: Path, ending: str) -> None:
    export_data(full, tmp_path / f"out{ending}")
    with closing(empty(tmp_path / "again.gpkg")) as again:
        again.apply("kind", [kind_change(None, KIND)])
        _, reading = import_file(
            again, tmp_path / f"out{ending}", ImportChoices(stated="EPSG:32628" if ending == ".csv" else "")
        )
        assert not reading.left
        held = {unit.code: unit for _, unit in again.units()}
        used = {f.map_unit for f in FEATURES if f.map_unit}
        assert held.keys() == used
        for unit in UNITS:
            for name in IN_ROWS if unit.code in used else ():
                assert getattr(held[unit.code], name) == getattr(unit, name), (ending, unit.code, name)
        assert set(UNIT_FIELDS) - set(IN_ROWS) == {"code", "description"}
        # A line of several certainties comes in pieces; of all others every attribute is as it was.
        found = {f.note or f.kind + str(f.band is not None): f for f in features_of(again)}
        for feature in FEATURES[1:]:
            one = found[feature.note or feature.kind + str(feature.band is not None)]
            for f in fields(Feature):
                if f.name not in ("id", "source_id", "geometry", "knots"):
                    assert getattr(one, f.name) == getattr(feature, f.name), (ending, f.name)
        pieces = [f for f in features_of(again) if f.table == "lines" and f.note == FEATURES[0].note]
        pieces.sort(key=lambda piece: piece.geometry.bounds)
        assert [p.certainty for p in pieces] == ["approximate", "concealed", "approximate"]
        assert all(p.band == FEATURES[0].band and p.inclination == 62.5 for p in pieces)
        # Each margin keeps its certainty, vertex by vertex.
        assert [p.stretches for p in pieces] == [
            (Stretch(1, 2, "inferred", "left"),),
            (Stretch(0, 2, "inferred", "left"),),
            (Stretch(1, 3, "certain", "right"),),
        ]


def test_cells_of_a_table_are_no_formulas(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.csv")
    text = (tmp_path / "out.csv").read_text()
    assert "'=HYPERLINK" in text
    assert ",=HYPERLINK" not in text
    assert '"=HYPERLINK' not in text


def test_layers_and_drawings_are_named_as_the_project(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.fgb")
    assert pyogrio.list_layers(tmp_path / "out.fgb")[:, 0].tolist() == ["Whole"]
    export_data(full, tmp_path / "out.dxf")
    lines = (tmp_path / "out.dxf").read_text(encoding="utf-8").split("\n")
    for name, value in (("$INSUNITS", "6"), ("$DWGCODEPAGE", "UTF-8"), ("$ACADVER", "AC1024")):
        assert lines[lines.index(name) + 2].strip() == value
    layers = set(pyogrio.raw.read(tmp_path / "out.dxf")[3][0].tolist())
    assert "unit Qal" in layers


def far(path: Path, code: str, features: list[Feature]) -> Project:
    create(path, "Far", project_crs(code), Scales(25_000, 6_250))
    project = Project.open(path)
    project.apply("units", [rows.unit_change(None, UNITS[0])])
    project.apply("features", [rows.feature_change(f, project.srs_id) for f in features])
    return project


@pytest.mark.parametrize("ending", [".geojson", ".kml"])
def test_what_crosses_180_is_cut_there_and_covers_the_same_ground(tmp_path: Path, ending: str) -> None:
    """EPSG:3460, Fiji; lengths and areas against those that went out."""
    x, y = project_crs("EPSG:3460").from_geographic(np.array([180.0]), np.array([-17.0]))
    x, y = float(x[0]), float(y[0])
    ring = shapely.Point(x, y).buffer(9_000)
    area = shapely.Polygon(
        ring.exterior, [shapely.Point(x, y).buffer(2_000).exterior, shapely.Point(x + 4e3, y).buffer(500).exterior]
    )
    line = shapely.LineString([(x - 9e3, y - 5e3), (x + 8e3, y + 4e3), (x - 7e3, y + 8e3)])
    kept = [Feature("areas", area, "unit_area", map_unit="Qal"), Feature("lines", line, "fault")]
    with closing(far(tmp_path / "far.gpkg", "EPSG:3460", kept)) as project:
        export_data(project, tmp_path / f"out{ending}")
        for layer, _ in pyogrio.list_layers(tmp_path / f"out{ending}"):
            for wkb in pyogrio.raw.read(tmp_path / f"out{ending}", layer=layer)[2]:
                for part in shapely.get_parts(shapely.from_wkb(wkb)):
                    west, _, east, _ = part.bounds
                    assert -180 <= west <= east <= 180
                    assert east - west < 1
        with closing(far(tmp_path / "again.gpkg", "EPSG:3460", [])) as again:
            import_file(again, tmp_path / f"out{ending}")
            found = features_of(again)
            assert sum(f.geometry.area for f in found) == pytest.approx(area.area, rel=1e-6)
            assert sum(f.geometry.length for f in found if f.table == "lines") == pytest.approx(line.length, rel=1e-6)
            areas = shapely.union_all([f.geometry for f in found if f.table == "areas"])
            assert areas.symmetric_difference(area).area < 1e-5 * area.area


@pytest.mark.parametrize("code", ["EPSG:3413", "EPSG:3031", "EPSG:5041", "EPSG:3995"])
@pytest.mark.parametrize("ending", [".geojson", ".kml"])
def test_about_a_pole_degrees_are_refused_and_a_point_on_it_is_written(tmp_path: Path, code: str, ending: str) -> None:
    pole = project_crs(code).from_geographic(np.array([0.0]), np.array([90.0 if code != "EPSG:3031" else -90.0]))
    x, y = (float(v[0]) for v in pole)
    point = Feature("points", shapely.Point(x, y), "bedding", azimuth=0.0, inclination=5.0)
    for feature in (
        Feature("areas", shapely.Point(x, y).buffer(5e3), "unit_area", map_unit="Qal"),
        Feature("lines", shapely.LineString([(x - 5e3, y + 9.0), (x + 5e3, y + 9.0)]), "fault"),
    ):
        path = tmp_path / f"{feature.table}.gpkg"
        with (
            closing(far(path, code, [feature, point])) as project,
            pytest.raises(FileRefused, match=r"about a pole.*\.gpkg"),
        ):
            export_data(project, tmp_path / f"out{ending}")
        assert not (tmp_path / f"out{ending}").exists()
    with closing(far(tmp_path / "point.gpkg", code, [point])) as project:
        assert export_data(project, tmp_path / f"out{ending}").features == 1


def test_columns_that_are_spoiled_leave_their_rows_out(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.geojson")
    held = json.loads((tmp_path / "out.geojson").read_text())
    for feature in held["features"]:
        if feature["properties"].get("stretches"):
            feature["properties"]["stretches"] = "[[1,"
    (tmp_path / "out.geojson").write_text(json.dumps(held))
    with closing(empty(tmp_path / "again.gpkg")) as again:
        again.apply("kind", [kind_change(None, KIND)])
        _, reading = import_file(again, tmp_path / "out.geojson")
        assert len(reading.left) == 3
        assert all("stretches cannot be read" in why for _, why in reading.left)


def test_a_unit_that_is_there_stays_as_it_is(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.gpkg")
    with closing(empty(tmp_path / "again.gpkg")) as again:
        mine = MapUnit("Kw", "Mine", "Jurassic", "#112233", position=1)
        again.apply("units", [Change("units", None, rows.unit_change(None, mine).values)])
        import_file(again, tmp_path / "out.gpkg")
        held = {unit.code: unit for _, unit in again.units()}
        assert held["Kw"] == mine
        assert next(u.code for _, u in again.units()) == "Kw"
        assert held["K"].position > 1


def test_shapefiles_name_every_field_in_ten_letters(full: Project, tmp_path: Path) -> None:
    export_data(full, tmp_path / "out.zip")
    with zipfile.ZipFile(tmp_path / "out.zip") as archive:
        archive.extractall(tmp_path / "out")
    for file in (tmp_path / "out").glob("*.shp"):
        names = pyogrio.read_info(file)["fields"].tolist()
        assert len(names) == len(set(names))
        assert not [name for name in names if name.endswith(("_1", "_2"))]
