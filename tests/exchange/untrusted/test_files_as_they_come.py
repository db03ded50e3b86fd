"""Feature files as they come: what one bad row, an odd encoding or a folder in an archive must not refuse."""

from __future__ import annotations

import json
import subprocess
import zipfile
from pathlib import Path

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.core.errors import FileRefused
from orvik.exchange.mappings.guess import guessed
from orvik.exchange.untrusted.parent import opened
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file, look
from orvik.usecases.intake.import_mapping import ImportChoices
from tests.exchange.mappings.tables import STANDARD, fields_of

LINE = shapely.LineString([(512_000, 6_801_000), (512_100, 6_801_000)])


def feature(geometry: object, **properties: object) -> dict[str, object]:
    return {"type": "Feature", "properties": properties, "geometry": geometry}


def collection(path: Path, *features: dict[str, object]) -> Path:
    crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
    path.write_text(json.dumps({"type": "FeatureCollection", "crs": crs, "features": list(features)}))
    return path


def shape(geometry: shapely.geometry.base.BaseGeometry) -> object:
    return json.loads(shapely.to_geojson(geometry))


def test_a_zip_with_folders(project: Project, tmp_path: Path) -> None:
    pyogrio.raw.write(
        tmp_path / "walls.shp", np.array([shapely.to_wkb(LINE)]), [], [], geometry_type="LineString", crs="EPSG:32628"
    )
    with zipfile.ZipFile(tmp_path / "walls.zip", "w") as archive:
        for part in tmp_path.glob("walls.*"):
            if part.suffix != ".zip":
                archive.write(part, f"deep/er/{part.name}")
        archive.writestr("__MACOSX/deep/._walls.shp", b"\0")
        archive.writestr("deep/readme.md", "nothing")
    _, reading = import_file(project, tmp_path / "walls.zip")
    assert len(reading.features) == 1


def test_whole_codes_with_a_gap_stay_whole(project: Project, tmp_path: Path) -> None:
    boxes = [shapely.box(511_000 + 200 * i, 6_801_000, 511_100 + 200 * i, 6_801_100) for i in range(3)]
    path = collection(
        tmp_path / "codes.geojson", *(feature(shape(b), unit=u) for b, u in zip(boxes, (12, None, 7), strict=True))
    )
    _, reading = import_file(project, path, ImportChoices(unit_field="unit"))
    assert [f.map_unit for f in reading.features] == ["12", None, "7"]


def test_what_cannot_be_a_geometry_is_left_out_and_collections_come_apart(project: Project, tmp_path: Path) -> None:
    bowtie = shapely.Polygon([(511_000, 6_801_000), (511_100, 6_801_100), (511_100, 6_801_000), (511_000, 6_801_100)])
    both = shapely.GeometryCollection([LINE, shapely.MultiPoint([(512_500, 6_801_500), (512_600, 6_801_500)])])
    path = collection(
        tmp_path / "odd.geojson",
        feature(shape(LINE)),
        feature({"type": "LineString", "coordinates": [[512_000, 6_801_000]]}),
        feature(shape(bowtie)),
        feature(None),
        feature(shape(both)),
        feature({"type": "Polygon", "coordinates": []}),
    )
    _, reading = import_file(project, path)
    assert [f.table for f in reading.features] == ["lines", "lines", "points", "points"]
    assert {number for number, _ in reading.left} == {2, 3, 4, 6}


def test_heights_that_are_dropped_are_said(project: Project, tmp_path: Path) -> None:
    high = shapely.LineString([(512_000, 6_801_000, 12.0), (512_100, 6_801_000, 13.0)])
    _, reading = import_file(project, collection(tmp_path / "z.geojson", feature(shape(high))))
    assert any("Heights" in note for note in reading.notes)
    assert not reading.features[0].geometry.has_z


def test_a_drawing_s_line_type_is_no_kind(project: Project, tmp_path: Path) -> None:
    collection(tmp_path / "a.geojson", feature(shape(LINE)))
    subprocess.run(["ogr2ogr", tmp_path / "a.dxf", tmp_path / "a.geojson"], check=True, capture_output=True)
    found = look(project.path, tmp_path / "a.dxf", None, ("EPSG:32628",))
    assert "Linetype" in [one.column.name for one in found.columns]
    assert "kind" not in found.mapping.fields
    assert found.reading is not None
    assert [f.kind for f in found.reading.features] == ["contact"]
    # A field that names kinds is one for kinds.
    assert guessed(fields_of({"LineType": "Contact"}), STANDARD).fields == {"kind": "LineType"}
    assert guessed(fields_of({"LineType": "DASHED2"}), STANDARD).fields == {}


def test_a_text_with_a_comma_never_shifts_what_stands_behind_it(project: Project, tmp_path: Path) -> None:
    head = "Easting,Northing,kind,strike,dip,note\n512000,6801000,"
    (tmp_path / "t.csv").write_text(f"{head}Bedding, inclined,40,30,x\n")
    with pytest.raises(FileRefused, match="row 1 than columns"):
        import_file(project, tmp_path / "t.csv", ImportChoices(stated="EPSG:32628"))
    (tmp_path / "t.csv").write_text(f'{head}"Bedding, inclined",40,30,x,\n')
    _, reading = import_file(project, tmp_path / "t.csv", ImportChoices(stated="EPSG:32628"))
    assert [(f.kind, f.azimuth, f.inclination) for f in reading.features] == [("bedding", 40, 30)]


@pytest.mark.parametrize("encoding", ["utf-8", "cp1252", "latin-1", "utf-16"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_tables_in_any_encoding(project: Project, tmp_path: Path, encoding: str, end: str) -> None:
    rows = ["Easting (m);Northing (m);kind;Note", "512000,5;6801000,25;unit tag;Grès à Ærø", ";;;", "here;there;;"]
    (tmp_path / "t.csv").write_bytes(end.join(rows).encode(encoding))
    found = look(project.path, tmp_path / "t.csv", None, ("EPSG:32628",))
    assert found.mapping.stated == "EPSG:32628"
    layer = opened(tmp_path / "t.csv")[0]
    assert layer.values[0]["Note"] == "Grès à Ærø"
    assert layer.geometries[0].coords[0] == (512_000.5, 6_801_000.25)
    assert layer.unsound == {1}


def test_a_system_may_be_stated_for_files_that_state_none(project: Project, tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("x,y,kind,azimuth,inclination\n512000,6801000,bedding,350,60\n")
    with pytest.raises(FileRefused, match="does not state"):
        import_file(project, tmp_path / "t.csv")
    _, reading = import_file(project, tmp_path / "t.csv", ImportChoices(stated="EPSG:32628"))
    assert len(reading.features) == 1


@pytest.mark.parametrize("_", range(6))
def test_gml_is_read_every_time(project: Project, tmp_path: Path, _: int) -> None:
    collection(tmp_path / "a.geojson", feature(shape(LINE), note="x"))
    subprocess.run(["ogr2ogr", tmp_path / "a.gml", tmp_path / "a.geojson"], check=True, capture_output=True)
    _, reading = import_file(project, tmp_path / "a.gml")
    assert len(reading.features) == 1


def test_a_long_code_is_named(project: Project, tmp_path: Path) -> None:
    path = collection(
        tmp_path / "c.geojson", feature(shape(shapely.box(511_000, 6_801_000, 511_100, 6_801_100)), unit="Glacial till")
    )
    with pytest.raises(FileRefused, match="“Glacial till” cannot be the code"):
        import_file(project, path, ImportChoices(unit_field="unit"))


def test_a_line_of_very_many_vertices_is_named(project: Project, tmp_path: Path) -> None:
    xy = np.column_stack([np.linspace(511_000, 514_000, 250_000), 6_801_000 + np.arange(250_000) % 2])
    path = tmp_path / "long.fgb"
    pyogrio.raw.write(
        path,
        shapely.to_wkb(np.array([shapely.LineString(xy), LINE])),
        [],
        [],
        geometry_type="LineString",
        crs="EPSG:32628",
    )
    _, reading = import_file(project, path)
    assert reading.left[0][0] == 1
    assert "250,000 vertices" in reading.left[0][1]
    assert len(reading.features) == 1


def test_a_second_border_is_left_out(project: Project, tmp_path: Path) -> None:
    ring = shapely.LineString(shapely.box(510_500, 6_800_500, 514_000, 6_803_000).exterior.coords)
    path = collection(tmp_path / "b.geojson", feature(shape(ring), kind="border"), feature(shape(ring), kind="border"))
    _, reading = import_file(project, path)
    assert [number for number, _ in reading.left] == [2]
    assert len(project.border_ids()) == 1
    assert project.border().equals(ring)  # type: ignore[union-attr]
