"""Areas that others have made become linework and come back: open data sets that packages of the registry ship.

Census tracts, counties, communities and states: the examples of libpysal (PyPI, BSD 3-Clause; data sets of the GeoDa
Center and others, named in their folders). Geology: 61 polygons of 19 units and 35 faults of the Hamersley Ranges, from
the examples of map2loop (PyPI, MIT; data of the Geological Survey of Western Australia).
"""

from __future__ import annotations

import json
from collections import defaultdict
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.cli import main
from orvik.core.faces.linework import linework_of
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices
from tests.core.faces.test_linework import grounds, lines_of

# Coverages without gaps or overlaps; and one that has both.
CLEAN = (
    "10740/10740",
    "chicago/Chicago77",
    "columbus/columbus",
    "georgia/G_utm",
    "mexico/mexicojoin",
    "sids2/sids2",
    "stl/stl_hom",
    "us_income/us48",
    "virginia/vautm17n",
)
UNCLEAN = "tokyo/tokyomet262"
SIDE = 100_000.0


def folder_of(package: str) -> Path:
    """Where a package lies; it is not imported."""
    found = find_spec(package)
    assert found is not None
    assert found.submodule_search_locations
    return Path(found.submodule_search_locations[0])


def areas_of(name: str) -> list[shapely.Polygon]:
    """The polygons of a data set, each part by itself, on a ground of 100 km."""
    _, _, wkb, _ = pyogrio.raw.read(folder_of("libpysal") / "examples" / f"{name}.shp")
    shapes = shapely.make_valid(shapely.from_wkb(wkb))
    xy = shapely.get_coordinates(shapes)
    scale = SIDE / float(np.ptp(xy, axis=0).max())
    placed = shapely.transform(shapes, lambda held: (held - xy.min(axis=0)) * scale)
    return [part for part in shapely.get_parts(placed).tolist() if part.geom_type == "Polygon" and part.area > 1]


@pytest.mark.parametrize("name", CLEAN)
def test_clean_coverages_come_back_to_the_last_digit(name: str) -> None:
    areas = areas_of(name)
    assert shapely.coverage_is_valid(np.array(areas, dtype=object))
    made = linework_of(areas, [], 1e-6)
    # Parks and lakes that belong to nobody are told, and nothing else.
    whole = shapely.union_all(areas)
    shapely.prepare(whole)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(shapely.boundary(areas)))))
    nobodys = [face.area for face in faces if not whole.contains(face.representative_point())]
    assert sorted(m.area for m in made.misfits) == pytest.approx(sorted(nobodys), rel=1e-6)
    assert {m.kind for m in made.misfits} <= {"gap"}
    assert made.vanished == ()
    # As shapely merges the edges of a coverage: as many lines, and as long.
    merged = shapely.get_parts(shapely.line_merge(shapely.union_all(shapely.boundary(areas))))
    assert len(made.boundaries) == len(merged)
    length = sum(boundary.line.length for boundary in made.boundaries)
    assert length == pytest.approx(shapely.length(merged).sum(), rel=1e-12)
    after = grounds(areas, lines_of(made))
    for i, area in enumerate(areas):
        assert after[i] == pytest.approx(area.area, rel=1e-9)


def test_a_coverage_with_gaps_and_overlaps_tells_what_it_closed() -> None:
    areas = areas_of(UNCLEAN)
    assert not shapely.coverage_is_valid(np.array(areas, dtype=object))
    made = linework_of(areas, [], 20.0)
    before = shapely.union_all(areas)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(lines_of(made)))))
    # What is closed lies along the edges, and the report says how much it is.
    assert shapely.area(faces).sum() - before.area == pytest.approx(made.gained - made.lost, abs=0.02 * before.area)
    assert made.gained + made.lost > 0
    assert made.gained + made.lost < 20.0 * before.length


@pytest.fixture
def hamersley(tmp_path: Path) -> Path:
    path = tmp_path / "hamersley.gpkg"
    geology = folder_of("map2loop") / "_datasets" / "geodata_files" / "hamersley" / "geology.geojson"
    west, south, east, north = shapely.total_bounds(shapes_in(geology)).round(-3).tolist()
    border = f"{west - 2000:.0f},{south - 2000:.0f},{east + 2000:.0f},{north + 2000:.0f}"
    assert main(["new", str(path), "--name", "H", "--crs", "EPSG:28350", "--scale", "250000", "--border", border]) == 0
    return path


def shapes_in(path: Path) -> Any:
    held = json.loads(path.read_text())
    return np.array([shapely.from_geojson(json.dumps(f["geometry"])) for f in held["features"]], dtype=object)


def ground_of(project: Project) -> dict[str, shapely.Geometry]:
    held = project.features("areas")
    found: dict[str, list[shapely.Geometry]] = defaultdict(list)
    for unit, geometry in zip(held.columns["map_unit"], held.geometries.tolist(), strict=True):
        found[unit].append(geometry)
    return {unit: shapely.union_all(parts) for unit, parts in found.items()}


@pytest.mark.parametrize("faults", [False, True])
def test_a_survey_s_geology_is_formed_as_it_was(hamersley: Path, faults: bool) -> None:
    """Ground by unit before and after: to 1e-9, or what the report says was moved on to faults, to 1e-6."""
    folder = folder_of("map2loop") / "_datasets" / "geodata_files" / "hamersley"
    project = Project.open(hamersley)
    if faults:
        import_file(project, folder / "faults.geojson", ImportChoices(kind="fault"))
    import_file(project, folder / "geology.geojson", ImportChoices(fields={"map_unit": "code"}))
    before = ground_of(project)
    assert len(before) == 19
    project.close()
    assert main(["linework", str(hamersley)]) == 0
    project = Project.open(hamersley)
    told = project.count("lines")
    assert told > 61
    areas = project.features("areas").ids.tolist()
    project.apply("delete", [Change("areas", number, None) for number in areas])
    project.close()
    assert main(["form-units", str(hamersley)]) == 0
    project = Project.open(hamersley)
    after = ground_of(project)
    assert set(after) == set(before)
    whole = sum(ground.area for ground in before.values())
    moved = sum(before[unit].symmetric_difference(after[unit]).area for unit in before)
    assert moved < (1e-6 if faults else 1e-9) * whole
    project.close()
