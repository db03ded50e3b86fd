"""Planes over the project's heights: in feet and metres alike, over two datums, and where heights are missing."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import rasterio
import shapely
from rasterio.transform import from_origin

from orvik.core.errors import FeatureRefused, FileRefused, StructureRefused
from orvik.core.features.attitude import Attitude, apart
from orvik.core.features.feature import Feature
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.structure.plane import Plane
from orvik.exchange.rasters.raster import files_folder
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.ground.sources import add_underlay, state_heights
from orvik.usecases.structure.planes import (
    compared,
    depth_at,
    plane_of_feature,
    plane_of_places,
    reading_of,
    thickness_between,
    trace_over,
)
from tests.core.structure.relief import CELL, between, hills

# Systems in metres, in US survey feet, and one whose grid is turned by some degrees against north.
SYSTEMS = ("EPSG:32628", "EPSG:2263", "EPSG:3034")
ATTITUDE = Attitude(300.0, 25.0)


def made(folder: Path, text: str) -> tuple[Path, tuple[float, float], float]:
    """A project over hills in a system, with a reading and its true trace as a contact; its middle, metres a unit."""
    crs = project_crs(text)
    lon, lat = {"EPSG:32628": (-14.8, 61.3), "EPSG:2263": (-73.9, 40.8), "EPSG:3034": (30.0, 52.0)}[text]
    x, y = (float(v) for v in crs.from_geographic(lon, lat))
    x, y, unit = round(x, -1), round(y, -1), crs.metres_per_unit
    ground = hills(21)
    half = 75 * CELL / unit
    path = folder / "planes.gpkg"
    create(path, "Planes", crs, Scales(25_000, 6_250))
    file = folder / "hills.tif"
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": 150, "width": 150, "crs": text}
    with rasterio.open(
        file, "w", transform=from_origin(x - half, y + half, CELL / unit, CELL / unit), **profile
    ) as out:
        out.write(ground.heights, 1)
    project = Project.open(path)
    border = shapely.LineString(shapely.box(x - half, y - half, x + half, y + half).exterior.coords)
    project.apply("border", rows.feature_changes([Feature("lines", border, "border")], project.srs_id))
    add_underlay(project, file, None, "Hills")
    height = float(ground.at(np.array([[75 * CELL, 75 * CELL]]))[0])
    plane = Plane.of_attitude((75 * CELL, 75 * CELL, height), ATTITUDE, float(crs.convergence(x, y)))
    line = max(plane.trace(ground), key=len)
    contact = shapely.LineString(line / unit + [x - half, y - half])
    features = [
        Feature("lines", contact, "contact", capture_scale=6250),
        Feature("points", shapely.Point(x, y), "bedding", azimuth=300.0, inclination=25.0),
    ]
    project.apply("features", rows.feature_changes(features, project.srs_id))
    project.close()
    return path, (x, y), unit


@pytest.mark.parametrize("text", SYSTEMS)
def test_in_every_system_the_plane_is_the_same(tmp_path: Path, text: str) -> None:
    path, (x, y), unit = made(tmp_path, text)
    with opened_for_reading(path) as project:
        line = plane_of_feature(project, ("lines", 2))
        reading = plane_of_feature(project, ("points", 1))
        assert apart(line.attitude.azimuth, 300) < 1
        assert line.attitude.inclination == pytest.approx(25, abs=1)
        assert reading.attitude == ATTITUDE
        # The trace of the reading is the contact, within half a cell.
        window = (x - 1000 / unit, y - 1000 / unit, x + 1000 / unit, y + 1000 / unit)
        trace = shapely.multilinestrings(trace_over(project, reading.plane, window, 3 / unit))
        inner = shapely.box(x - 900 / unit, y - 900 / unit, x + 900 / unit, y + 900 / unit)
        parts = shapely.get_parts(project.feature("lines", 2).geometry.intersection(inner))
        contact = max(parts, key=lambda part: part.length)
        along = shapely.points(shapely.get_coordinates(contact.segmentize(10 / unit)))
        assert shapely.distance(along, trace).max() < CELL / 2 / unit
        against = compared(project, reading.plane, ("lines", 2))
        assert against.greatest < CELL / 2
        assert f"({against.greatest / 25:.2f} mm)" in against.words
        # Many places on the contact.
        places = [contact.interpolate(share, normalized=True).coords[0] for share in np.linspace(0, 1, 12)]
        found = plane_of_places(project, places)
        assert found.best is not None
        assert between(found.plane, reading.plane) < max(found.best.bound, 0.5)
        # Lengths are in metres whatever the unit: down the dip by 100 m of beds that dip 25°.
        towards = math.radians(ATTITUDE.dip_direction - float(project.crs.convergence(x, y)))
        other = (x + 100 / unit * math.sin(towards), y + 100 / unit * math.cos(towards))
        thick = thickness_between(project, reading.plane, (x, y), other)
        assert thick.across == pytest.approx(100, abs=0.01)
        assert thick.metres == pytest.approx(
            abs(100 * math.sin(math.radians(25)) - thick.fall * math.cos(math.radians(25))), abs=0.05
        )
        assert depth_at(project, reading.plane, other).metres == pytest.approx(
            thick.metres / math.cos(math.radians(25)), abs=0.05
        )


def test_what_heights_cannot_tell_is_said(tmp_path: Path) -> None:
    path, (x, y), _ = made(tmp_path, "EPSG:32628")
    with opened_for_reading(path) as project:
        with pytest.raises(StructureRefused, match="No heights are known at this place"):
            plane_of_places(project, [(x, y), (x + 5000, y), (x, y + 5000)])
        with pytest.raises(StructureRefused, match="No heights are known at this place"):
            depth_at(project, plane_of_feature(project, ("points", 1)).plane, (x + 9000, y))
        # As far as it is wanted it does not come into the view.
        near = plane_of_feature(project, ("points", 1)).plane
        assert trace_over(project, near, (x + 900, y + 900, x + 1200, y + 1200), 2, reach=50) == []
        # A plane far below does not meet the ground: no trace, and nothing to compare with.
        deep = Plane((x, y, -5000.0), (0.0, 0.0, 1.0))
        assert trace_over(project, deep, (x - 500, y - 500, x + 500, y + 500), 2) == []
        with pytest.raises(StructureRefused, match="does not meet the ground"):
            compared(project, deep, ("lines", 2))
        with pytest.raises(FeatureRefused, match="the reading of one"):
            reading_of(plane_of_feature(project, ("points", 1)), "lineation", 6250)


def test_a_grid_that_is_gone_is_asked_for(tmp_path: Path) -> None:
    path, _, _ = made(tmp_path, "EPSG:32628")
    for file in files_folder(path).iterdir():
        file.unlink()
    with opened_for_reading(path) as project, pytest.raises(FileRefused, match="missing"):
        plane_of_feature(project, ("points", 1))


def test_two_datums_are_said_with_the_plane(tmp_path: Path) -> None:
    path, (x, y), _ = made(tmp_path, "EPSG:32628")
    above = np.full((150, 150), np.nan, dtype=np.float32)
    above[:, :75] = 300
    file = tmp_path / "half.tif"
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": 150, "width": 150, "crs": "EPSG:32628"}
    with rasterio.open(
        file, "w", transform=from_origin(x - 1500, y + 1500, CELL, CELL), nodata=np.nan, **profile
    ) as out:
        out.write(above, 1)
    project = Project.open(path)
    add_underlay(project, file, None, "Half")
    number = max(source.number for source in project.sources())
    state_heights(project, number, HeightFacts(datum="the lake", error=12))
    project.close()
    with opened_for_reading(path) as read:
        found = plane_of_feature(read, ("lines", 2))
    assert any("the lake" in doubt for doubt in found.doubts)
    assert found.names == ("Half", "Hills")
