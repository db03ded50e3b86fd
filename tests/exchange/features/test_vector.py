from __future__ import annotations

import json
import re
import subprocess
from pathlib import Path

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.core.errors import FileRefused
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices


def geojson(path: Path, *features: tuple[object, dict[str, object]], crs: str = "urn:ogc:def:crs:EPSG::32628") -> Path:
    listed = [{"type": "Feature", "properties": p, "geometry": json.loads(shapely.to_geojson(g))} for g, p in features]
    path.write_text(
        json.dumps(
            {
                "type": "FeatureCollection",
                "crs": {"type": "name", "properties": {"name": crs}},
                "features": listed,
            }
        )
    )
    return path


def test_fields_named_like_columns_are_taken_over(project: Project, tmp_path: Path) -> None:
    path = geojson(
        tmp_path / "in.geojson",
        (
            shapely.Point(512_000, 6_801_000),
            {"kind": "bedding", "azimuth": 5, "inclination": 66, "note": "x"},
        ),
        (
            shapely.Point(512_100, 6_801_000),
            {"kind": "bedding", "azimuth": 350, "inclination": 60, "note": None},
        ),
    )
    entry, reading = import_file(project, path)
    assert len(reading.features) == 2
    kept = project.feature("points", entry.changes[1].id)
    assert (kept.kind, kept.azimuth, kept.inclination, kept.note) == ("bedding", 5, 66, "x")
    project.undo()
    assert project.count("points") == 1


def test_parts_are_split_and_new_units_made(project: Project, tmp_path: Path) -> None:
    two = shapely.MultiPolygon(
        [
            shapely.box(511_000, 6_801_000, 511_100, 6_801_100),
            shapely.box(512_000, 6_801_000, 512_100, 6_801_100),
        ]
    )
    import_file(project, geojson(tmp_path / "in.geojson", (two, {"UNIT": "Zz"})), ImportChoices(unit_field="UNIT"))
    assert project.count("areas") == 3
    assert project.units_by_code()["Zz"].position == 3


def test_another_system_comes_to_the_same_place_as_gdal(project: Project, tmp_path: Path) -> None:
    """ogr2ogr (Debian gdal-bin) transforms the same file."""
    line = shapely.LineString([(-14.75, 61.35), (-14.70, 61.36), (-14.65, 61.34)])
    path = tmp_path / "in.gpkg"
    pyogrio.raw.write(path, shapely.to_wkb(np.array([line])), [], [], geometry_type="LineString", crs="EPSG:4326")
    entry, _ = import_file(project, path, ImportChoices(kind="fault"))
    kept = project.feature("lines", entry.changes[1].id)
    out = tmp_path / "out.geojson"
    subprocess.run(["ogr2ogr", "-t_srs", "EPSG:32628", "-lco", "COORDINATE_PRECISION=9", out, path], check=True)
    expected = json.loads(out.read_text())["features"][0]["geometry"]["coordinates"]
    assert shapely.get_coordinates(kept.geometry) == pytest.approx(np.array(expected), abs=1e-6)
    assert kept.kind == "fault"
    # Where it came from, and in which system, is remembered.
    origin = project.source(kept.source_id or 0)
    assert (origin.kind, origin.name) == ("file", "in.gpkg")
    assert "4326" in origin.crs


@pytest.mark.parametrize(
    ("geometry", "properties", "why"),
    [
        (shapely.LineString([(0, 0), (1, 1)]), {}, "look like degrees|far outside"),
        (shapely.Point(512_000, 6_801_000), {"kind": "bedding", "azimuth": 400, "inclination": 5}, "not a direction"),
        (shapely.Point(512_000, 6_801_000), {"kind": "wall"}, "not a kind"),
        (shapely.LineString([(512_000, 6_801_000), (512_100, 6_801_000)]), {"certainty": "maybe"}, "not a certainty"),
        (shapely.Point(512_000, 801_000), {"kind": "unit_tag"}, "away from the sheet border"),
    ],
)
def test_a_bad_feature_is_left_out_by_its_row_and_the_rest_brought_in(
    project: Project, tmp_path: Path, geometry: object, properties: dict[str, object], why: str
) -> None:
    good = (shapely.LineString([(512_000, 6_801_000), (512_100, 6_801_000)]), {})
    _, reading = import_file(project, geojson(tmp_path / "in.geojson", good, (geometry, properties), good))
    assert reading.numbers == (1, 3)
    ((number, sentence),) = reading.left
    assert number == 2
    assert re.search(why, sentence)
    before = project.revision
    with pytest.raises(FileRefused, match=why):
        import_file(project, geojson(tmp_path / "bad.geojson", (geometry, properties)))
    assert project.revision == before


def test_unreadable_files(project: Project, tmp_path: Path) -> None:
    (tmp_path / "bad.gpkg").write_text("no")
    with pytest.raises(FileRefused, match="cannot be read"):
        import_file(project, tmp_path / "bad.gpkg")
    with pytest.raises(FileRefused, match="no file"):
        import_file(project, tmp_path / "none.gpkg")
    with pytest.raises(FileRefused, match="no features"):
        import_file(project, geojson(tmp_path / "none.geojson"))
