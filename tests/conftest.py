"""What many tests start from: a small project, and the demo made once."""

from __future__ import annotations

import fcntl
import os
import shutil
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import anyio
import hypothesis
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.scale import Scales
from orvik.demo.build import FILE
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.rows import LayerState
from orvik.store.tables.symbol_book import custom_kinds
from orvik.web.app import create_app
from tests.examples import MANY, SEED, drawn

# Long walks through a browser or whole processes, and what else takes long: each run draws a share, a sweep takes all.
JOURNEYS = (
    "tests/browser/",
    "tests/test_wheel.py",
    "tests/web/test_export_jobs.py",
    "tests/web/test_survives.py",
    "tests/web/test_kill.py",
)
LONG = frozenset((Path(__file__).parent / "long_tests.txt").read_text().split())
# One in so many is drawn; as many seeds, one after the other, draw all.
ONE_IN = 12
# Of fewer modules, all is looked at.
WHOLE = 40

# How long an example takes says how busy the machine is.
hypothesis.settings.register_profile("suite", deadline=None)
hypothesis.settings.load_profile("suite")


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Leave to a sweep what looks at a whole domain one by one, and mark what draws a sample, so that it takes all."""
    for item in items:
        names = vars(getattr(item, "module", None) or object)
        if names.get("drawn") is drawn or "MANY" in names:
            item.add_marker("sampled")
    long = [item for item in items if item.nodeid.startswith(JOURNEYS) or item.nodeid.partition("[")[0] in LONG]
    for item in long:
        item.add_marker("journey")
    if MANY:
        return
    for item in items:
        if item.get_closest_marker("sweep"):
            item.add_marker(pytest.mark.skip(reason="looked at by make sweep"))
    if len({item.path for item in long}) < WHOLE:
        # Who asks for a few modules wants all of them.
        return
    for place, item in enumerate(long):
        if (place + SEED) % ONE_IN:
            item.add_marker(pytest.mark.skip(reason="drawn by another seed, and looked at by make sweep"))


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """Which sample of each domain was drawn, so that it can be drawn again."""
    terminalreporter.write_line(f"examples: {'many' if MANY else 'few'}; ORVIK_SEED={SEED}")


# Loaded before there are threads: two that compile the same module at once upset Python 3.11.
assert callable(anyio.open_file)
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
    """The demo, laid out once for all processes of a run, as an empty projects offers it."""

    def laid_out(folder: Path) -> Path:
        with TestClient(create_app(folder), base_url="http://127.0.0.1:8460") as client:
            assert "Make the demo project" in client.get("/").text
            answer = client.post("/demo")
            assert answer.headers["HX-Redirect"] == "/p/isle-of-quennet/compile"
            assert "Make the demo project" not in client.get("/").text
        return folder / FILE

    return _once(tmp_path_factory, "demo-of-this-run", laid_out)


@pytest.fixture
def demo(demo_original: Path, tmp_path: Path) -> Path:
    """The demo project in a folder of its own."""
    return _copied(demo_original, tmp_path)


@pytest.fixture(scope="session")
def corner_original(demo_original: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo with few features, made once for all processes of a run."""

    def made(folder: Path) -> Path:
        path = _copied(demo_original, folder)
        thinned(path)
        return path

    return _once(tmp_path_factory, "corner-of-this-run", made)


@pytest.fixture
def corner(corner_original: Path, tmp_path: Path) -> Path:
    """The demo with all its furniture and few features: as good for controls, and painted in no time."""
    return _copied(corner_original, tmp_path)


def thinned(path: Path, each: int = 6) -> None:
    """Leave a few features of each table, and one of every custom kind, without what takes long to paint."""
    project = Project.open(path)
    own = {kind.name for _, kind in custom_kinds(project)}
    for table in TABLES:
        columns = project.features(table)
        kept: list[str] = []
        met = shapely.Point()
        changes = []
        rows_of = zip(columns.ids.tolist(), columns.columns["kind"], columns.geometries, strict=True)
        for number, kind, geometry in rows_of:
            wanted = kind == "border" or (kind not in kept and (len(kept) < each or kind in own))
            # Units that meet are among them.
            beside = kind == "unit_area" and kept.count(kind) < 4 and met.touches(geometry)
            if wanted or beside:
                kept.append(kind)
                met = geometry if kind == "unit_area" and wanted else met
            else:
                changes.append(Change(table, number, None))
        project.apply("thin out", changes)
    plain = [rows.unit_change(number, replace(unit, pattern="")) for number, unit in project.units()]
    project.apply("no patterns", plain)
    for source in project.sources():
        project.set_layer(f"underlay-{source.id}", LayerState(shown=False))
    project.close()


def _once(factory: pytest.TempPathFactory, name: str, made: Callable[[Path], Path]) -> Path:
    """Something that is made by the first process of a run that wants it."""
    base = factory.getbasetemp()
    # What lies above is that of this run only where several processes share it.
    folder = (base.parent if "PYTEST_XDIST_WORKER" in os.environ else base) / name
    folder.mkdir(exist_ok=True)
    with (folder / "making").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        there = list(folder.rglob("*.gpkg"))
        return there[0] if there else made(folder)


def _copied(original: Path, into: Path) -> Path:
    folder = into / "data"
    shutil.copytree(original.parent, folder)
    return folder / original.name
