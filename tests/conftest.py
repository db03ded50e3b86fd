"""What many tests start from: a small project, and the demo made once."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.scale import Scales
from orvik.demo.build import build
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import Project

BORDER = (510_000.0, 6_800_000.0, 515_000.0, 6_804_000.0)


@pytest.fixture
def crs() -> ProjectCrs:
    return project_crs("EPSG:32628")


@pytest.fixture
def project(tmp_path: Path, crs: ProjectCrs) -> Iterator[Project]:
    """A project with a border, two units, a contact, an area and an attitude."""
    path = tmp_path / "small.gpkg"
    create(path, "Small", crs, Scales(25_000, 6_250))
    opened = Project.open(path)
    features = [
        Feature("lines", shapely.box(*BORDER).exterior, "border"),
        Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_802_500)]), "contact"),
        Feature("areas", shapely.box(511_000, 6_801_000, 513_000, 6_803_000), "unit_area", map_unit="Kp"),
        Feature("points", shapely.Point(512_500, 6_801_500), "bedding", azimuth=350.0, inclination=60.0),
    ]
    features[0] = features[0].changed(geometry=shapely.LineString(features[0].geometry.coords))
    units = [
        MapUnit("Qt", "Till", "Pleistocene", "#D3C7B4", position=1),
        MapUnit("Kp", "Pellan Mudstone", "Early Cretaceous", "#BBD5A6", position=2),
    ]
    opened.apply("units", [rows.unit_change(None, u) for u in units])
    opened.apply("features", [rows.feature_change(f, opened.srs_id) for f in features])
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def demo_original(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, built once for all processes of a run."""
    base = tmp_path_factory.getbasetemp()
    # What lies above is that of this run only where several processes share it.
    folder = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / "demo-of-this-run"
    folder.mkdir(exist_ok=True)
    with (folder / "building").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        return build(folder)


@pytest.fixture
def demo(demo_original: Path, tmp_path: Path) -> Path:
    """The demo project in a folder of its own."""
    folder = tmp_path / "data"
    shutil.copytree(demo_original.parent, folder)
    return folder / demo_original.name
