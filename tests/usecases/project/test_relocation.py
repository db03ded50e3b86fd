"""Another coordinate system for a whole project, and back."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import numpy as np
import pyproj
import pytest
import shapely

from orvik.core.errors import CrsRefused
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import project_crs
from orvik.core.ground.crs_build import built, proposed
from orvik.core.ground.crs_change import CrsChange
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices
from orvik.usecases.project.relocation import ground, relocation
from orvik.usecases.proof.proof import all_findings


def blobs(project: Project) -> list[tuple[object, ...]]:
    return [tuple(r) for t in TABLES for r in project._select(f"SELECT * FROM {t} ORDER BY id")]


def test_there_and_undone_is_byte_equal(demo: Path) -> None:
    project = Project.open(demo)
    before, parts = blobs(project), project.parts(1)
    plan = relocation(project, project_crs("EPSG:3035"))
    assert plan.round_trip < 1e-3
    assert plan.features == len(before)
    project.apply("change the coordinate system", plan.changes)
    assert project.crs.text == "EPSG:3035"
    told = subprocess.run(["ogrinfo", "-ro", "-so", "-al", demo], capture_output=True, text=True, check=True).stdout
    # Lines, areas, points, and the sections; what is drawn on these is in no system of the ground.
    assert told.count('ID["EPSG",3035]') == 4
    assert blobs(project) != before
    project.undo()
    assert project.crs.text == "EPSG:32628"
    assert blobs(project) == before
    assert project.parts(1) == parts
    told = subprocess.run(["ogrinfo", "-ro", "-so", "-al", demo], capture_output=True, text=True, check=True).stdout
    assert told.count('ID["EPSG",32628]') == 4
    project.close()


def test_places_agree_with_ogr2ogr(demo: Path, tmp_path: Path) -> None:
    """GDAL's own transformation of the same layer is the yardstick."""
    subprocess.run(["ogr2ogr", "-t_srs", "EPSG:8088", tmp_path / "there.gpkg", demo, "points"], check=True)
    there = shapely.from_wkb([bytes(r[0]) for r in _wkb(tmp_path / "there.gpkg")])
    project = Project.open(demo)
    project.apply("move", relocation(project, project_crs("EPSG:8088")).changes)
    ours = shapely.get_coordinates(project.features("points").geometries)
    assert ours == pytest.approx(shapely.get_coordinates(there), abs=1e-6)
    project.close()


def _wkb(path: Path) -> list[tuple[bytes]]:
    import pyogrio

    _, _, geometries, _ = pyogrio.raw.read(path)
    return [(g,) for g in geometries]


def test_attitudes_stay_and_their_symbols_turn(demo: Path) -> None:
    project = Project.open(demo)
    azimuths = project.features("points").columns["azimuth"]
    own = built(proposed("tm", (-16.0, 61.0, -15.5, 61.5)))
    project.apply("move", relocation(project, own).changes)
    moved = project.features("points")
    assert moved.columns["azimuth"] == azimuths
    xy = shapely.get_coordinates(moved.geometries)
    # A meridian further west: grid north turns to the east, by about a degree of longitude times sin(lat).
    assert np.all(own.convergence(xy[:, 0], xy[:, 1]) > 0.5)
    assert project.srs_id == 100_000
    project.close()
    again = Project.open(demo)
    assert again.crs == own
    assert again.srs_id == 100_000
    again.close()


def test_a_border_goes_on_covering_the_same_ground(demo: Path) -> None:
    project = Project.open(demo)
    before = ground(project)
    assert before is not None
    project.apply("move", relocation(project, project_crs("EPSG:3035")).changes)
    after = ground(project)
    assert after == pytest.approx(before, abs=2e-5)
    project.close()


def test_the_datum_shift_is_named_with_its_accuracy() -> None:
    """OSGB36 to WGS 84: operations of the EPSG dataset as PROJ carries it."""
    change = CrsChange(project_crs("EPSG:27700"), project_crs("EPSG:32630"), (-3.0, 51.0, -2.9, 51.1))
    assert "OSGB36 to WGS 84" in change.shift.words
    assert change.shift.accuracy is not None
    assert "OSTN15" in change.shift.missing
    assert "to 1 m" in change.shift.missing
    same = CrsChange(project_crs("EPSG:32628"), project_crs("EPSG:32629"), (-12.5, 61.0, -12.0, 61.5))
    assert "no datum shift" in same.shift.words
    assert same.shift.missing == ""
    unknown = CrsChange(project_crs("EPSG:26713"), project_crs("EPSG:26913"), (-105.1, 39.0, -105.0, 39.1))
    assert "No datum shift between the two is known" in unknown.shift.words


def test_what_cannot_be_shown_is_refused(demo: Path) -> None:
    project = Project.open(demo)
    gnomonic = pyproj.CRS("+proj=gnom +lat_0=-60 +lon_0=165 +datum=WGS84 +type=crs").to_wkt()
    with pytest.raises(CrsRefused, match="cannot show all"):
        relocation(project, project_crs(gnomonic))
    project.close()


@pytest.mark.parametrize("target", ["EPSG:3035", "EPSG:32629", "EPSG:3857"])
def test_what_ends_on_a_straight_edge_ends_there_afterwards(project: Project, target: str) -> None:
    """A long straight edge bends by metres in another system; the ends upon it stay on it, whatever it carries."""
    west, south = 510_000.0, 6_800_000.0
    rng = np.random.default_rng(11)
    long = shapely.LineString([(west, south), (west + 6000, south + 900)])
    ends = [long.interpolate(float(d)) for d in rng.uniform(200, 5800, 12)]
    contacts = [shapely.LineString([(p.x, p.y), (p.x + 40, p.y + 700)]) for p in ends]
    trunk = Feature("lines", long, "fault", stretches=(Stretch(0, 1, "inferred"),))
    area = shapely.box(west, south + 2000, west + 3000, south + 3000)
    beside = shapely.box(west + 500, south + 3000, west + 1700, south + 3400)
    drawn = [trunk, *(Feature("lines", c, "contact") for c in contacts)]
    drawn += [Feature("areas", a, "unit_area", map_unit="Kp") for a in (area, beside)]
    project.apply("draw", [rows.feature_change(f, project.srs_id) for f in drawn])
    before = [f for f in all_findings(project) if f.rule in ("dangle", "near_miss")]
    project.apply("move", relocation(project, project_crs(target)).changes)
    assert not [f for f in all_findings(project) if f.rule == "near_miss"]
    lines = project.features("lines")
    rank = lines.columns["kind"].index("fault")
    held = {tuple(xy) for xy in shapely.get_coordinates(lines.geometries[rank]).tolist()}
    tips = {tuple(shapely.get_coordinates(lines.geometries[i])[0].tolist()) for i in range(len(lines)) if i != rank}
    assert len(tips & held) == len(contacts)
    # The stretch covers the whole of it still.
    assert [(s.first, s.last) for s in lines.columns["stretches"][rank]] == [(0, len(held) - 1)]
    one, two = project.features("areas").geometries[-2:]
    corners = {tuple(xy) for xy in shapely.get_coordinates(two).tolist()}
    # The corner of a third area lies on that edge, too.
    assert len(corners & {tuple(xy) for xy in shapely.get_coordinates(one).tolist()}) == 3
    assert shapely.intersection(one, two).area < 1e-6
    assert len([f for f in all_findings(project) if f.rule in ("dangle", "near_miss")]) == len(before)


def test_what_touches_in_a_file_of_another_system_touches_here(project: Project, tmp_path: Path) -> None:
    """The same file read straight and through another system by GDAL: as many ends meet."""
    west, south = 510_000.0, 6_800_000.0
    long = shapely.LineString([(west, south), (west + 900, south + 150)])
    ends = [long.interpolate(d) for d in (150.0, 400.0, 700.0)]
    lines = [long, *(shapely.LineString([(p.x, p.y), (p.x + 40, p.y + 300)]) for p in ends)]
    there = pyproj.Transformer.from_crs("EPSG:32628", "EPSG:4326", always_xy=True)
    degrees = [shapely.transform(g, lambda xy: np.column_stack(there.transform(*xy.T))) for g in lines]
    features = [{"type": "Feature", "properties": {}, "geometry": shapely.geometry.mapping(g)} for g in degrees]
    file = tmp_path / "lines.geojson"
    file.write_text(json.dumps({"type": "FeatureCollection", "features": features}), encoding="utf-8")
    import_file(project, file, ImportChoices(kind="contact"))
    found = project.features("lines").geometries
    tips = {tuple(shapely.get_coordinates(g)[0].tolist()) for g in found if shapely.length(g) < 500}
    (trunk,) = [g for g in found if 500 < shapely.length(g) < 1000]
    assert len(tips & {tuple(xy) for xy in shapely.get_coordinates(trunk).tolist()}) == 3
