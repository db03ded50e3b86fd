"""Data out, read again by GDAL's own programs and by GEOS."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.cli import main
from orvik.core.features.table import TABLES
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.intake.import_features import import_file


def test_a_geopackage_holds_every_feature_to_the_last_digit(demo: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.gpkg"
    assert main(["export", str(demo), "--data", "--to", str(target)]) == 0
    told = subprocess.run(["ogrinfo", "-so", "-al", target], capture_output=True, text=True, check=True).stdout
    project = ReadProject.open(demo)
    for table in TABLES:
        features = project.features(table)
        meta, _, wkb, values = pyogrio.raw.read(target, layer=table)
        assert meta["crs"] == "EPSG:32628"
        assert [shapely.to_wkb(g) for g in features.geometries] == wkb.tolist()
        kinds = dict(zip(meta["fields"].tolist(), values, strict=True))["kind"]
        assert kinds.tolist() == features.columns["kind"]
        assert f"Layer name: {table}" in told
    assert "Layer name: units" in told
    assert list(target.parent.glob(".*")) == []


def test_geojson_is_as_its_standard_asks(demo: Path, tmp_path: Path) -> None:
    """RFC 7946: longitude and latitude, no named system, outer rings counter-clockwise."""
    target = tmp_path / "out.geojson"
    assert main(["export", str(demo), "--data", "--to", str(target)]) == 0
    held = json.loads(target.read_text())
    assert "crs" not in held
    project = ReadProject.open(demo)
    # Lines are cut where their certainty changes; of each there is a first piece.
    first_pieces = [f for f in held["features"] if f["properties"]["piece"] == 1]
    assert len(first_pieces) == sum(project.count(table) for table in TABLES)
    for feature in held["features"]:
        geometry = shapely.from_geojson(json.dumps(feature["geometry"]))
        west, south, east, north = geometry.bounds
        assert -16 < west <= east < -13
        assert 60 < south <= north < 63
        if geometry.geom_type == "Polygon":
            assert shapely.is_ccw(geometry.exterior)
    first = project.features("lines")
    x, y = project.crs.to_geographic(*np.array(first.geometries[0].coords[0]))
    assert held["features"][0]["geometry"]["coordinates"][0] == pytest.approx([float(x), float(y)], abs=2e-8)


def test_it_comes_in_again(demo: Path, tmp_path: Path) -> None:
    main(["export", str(demo), "--data", "--to", str(tmp_path / "out.gpkg")])
    source = ReadProject.open(demo)
    create(tmp_path / "again.gpkg", "Again", source.crs, source.scales)
    again = Project.open(tmp_path / "again.gpkg")
    _, reading = import_file(again, tmp_path / "out.gpkg")
    assert len(reading.features) == sum(source.count(table) for table in TABLES)
    assert not reading.left
    again.close()


@pytest.mark.parametrize("name", ["out.pdf", "out", "out.shp", "none/out.gpkg", "none/out.zip", "none/out.dxf"])
def test_what_cannot_be_written_is_said(
    demo: Path, tmp_path: Path, name: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(["export", str(demo), "--data", "--to", str(tmp_path / name)]) == 1
    assert capsys.readouterr().err.strip()
