"""Every format of data holds what docs/formats.md says, read by GDAL and GEOS, and imported again by ourselves."""

from __future__ import annotations

import re
import shutil
import subprocess
import zipfile
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyogrio
import pyproj
import pytest
import shapely
from scripts.tables import formats_page

from orvik.core.features.by_certainty import pieces_by_certainty
from orvik.core.features.feature import Feature
from orvik.core.features.table import SECTION_TABLES, TABLES
from orvik.exchange.features.data_file import FORMATS
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.data_export import data_choices, export_data
from orvik.usecases.intake.import_features import import_file
from orvik.usecases.intake.import_mapping import ImportChoices
from tests.proof import seeds

TABLE = Path(__file__).parents[3] / "docs" / "formats.md"
SAME = ("kind", "certainty", "questionable", "map_unit", "azimuth", "inclination", "capture_scale", "note")


@dataclass(frozen=True)
class Claim:
    """A row of the table."""

    ending: str
    within: float
    attributes: str
    system: str


def claims() -> list[Claim]:
    rows = re.findall(r"^\| `(\.\w+)` \|[^|]+\| ([\d.]+) \| ([^|]+) \| ([^|]+) \|$", TABLE.read_text(), re.M)
    return [Claim(ending, float(within), held.strip(), system.strip()) for ending, within, held, system in rows]


def test_the_page_says_of_each_format_what_it_declares() -> None:
    assert formats_page() == TABLE.read_text(encoding="utf-8")
    assert {claim.ending for claim in claims()} == FORMATS.keys()
    assert data_choices() == {name[1:]: found.title for name, found in FORMATS.items()} | {"archive": "project archive"}


def pieces(project: Project, whole: bool) -> list[Feature]:
    """What is to be found in a file."""
    out = []
    for table in TABLES:
        for feature in project.whole(table, project.features(table).ids.tolist()).values():
            out += [feature] if whole else [piece for _, piece in pieces_by_certainty(feature)]
    return out


@pytest.fixture(scope="module")
def source(demo_original: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, with a long note in letters of other scripts."""
    path = Path(shutil.copy(demo_original, tmp_path_factory.mktemp("data")))
    with opened_for_writing(path) as project:
        note = "Grès à galets — „Kvartsít“, песчаник " * 8
        seeds.keep(project, seeds.contact(project).changed(note=note[:150]))
    return path


def exported(source: Path, tmp_path: Path, ending: str) -> tuple[Path, list[Feature], int]:
    target = tmp_path / f"out{ending}"
    with opened_for_reading(source) as project:
        written = export_data(project, target)
        return target, pieces(project, whole=ending == ".gpkg"), written.rows


def test_the_table_names_every_format() -> None:
    assert {claim.ending for claim in claims()} == {".gpkg", ".fgb", ".csv", ".zip", ".geojson", ".kml", ".dxf"}


@pytest.mark.parametrize("claim", claims(), ids=lambda claim: claim.ending)
def test_gdal_reads_every_feature_at_its_place(source: Path, tmp_path: Path, claim: Claim) -> None:
    """Counts, areas and lengths by pyogrio and shapely; ``ogrinfo`` opens it."""
    target, wanted, rows = exported(source, tmp_path, claim.ending)
    address = f"/vsizip/{target}" if claim.ending == ".zip" else str(target)
    assert subprocess.run(["ogrinfo", "-so", "-al", address], capture_output=True).returncode == 0
    found = []
    for layer, _ in pyogrio.list_layers(address):
        if claim.ending == ".gpkg" and layer in ("units", "kinds"):
            continue
        meta, _, wkb, values = pyogrio.raw.read(address, layer=layer)
        if layer in SECTION_TABLES.values():
            # What lies below the ground has tests of its own.
            rows -= len(wkb)
            continue
        if claim.ending == ".csv":
            found += list(shapely.from_wkt(dict(zip(meta["fields"].tolist(), values, strict=True))["wkt"].tolist()))
        else:
            found += list(shapely.from_wkb(wkb.tolist()))
        if claim.system.startswith("the project's") and claim.ending != ".csv":
            assert pyproj.CRS(meta["crs"]).to_epsg() == 32628
        if claim.system.startswith("longitude"):
            assert pyproj.CRS(meta["crs"]).to_epsg() == 4326
    if claim.system.startswith("longitude"):
        way = pyproj.Transformer.from_crs("EPSG:4326", "EPSG:32628", always_xy=True)
        found = [shapely.transform(g, lambda xy: np.column_stack(way.transform(*xy.T))) for g in found]
    if claim.ending != ".dxf":
        assert len(found) == rows == len(wanted)
        assert Counter(g.geom_type for g in found) == Counter(f.geometry.geom_type for f in wanted)
        order = lambda g: (g.geom_type, *np.round(g.bounds, 1))  # noqa: E731
        for one, other in zip(sorted(found, key=order), sorted((f.geometry for f in wanted), key=order), strict=True):
            assert shapely.get_num_coordinates(one) == shapely.get_num_coordinates(other)
            assert shapely.hausdorff_distance(one, other) <= claim.within
    areas = sum(f.geometry.area for f in wanted if f.table == "areas")
    lengths = sum(f.geometry.length for f in wanted if f.table == "lines")
    rings = [shapely.Polygon(g) for g in found if g.geom_type == "LineString" and g.is_closed]
    if claim.ending == ".dxf":
        outlines = sum(f.geometry.length for f in wanted if f.table == "areas")
        assert sum(g.length for g in found) == pytest.approx(lengths + outlines, rel=1e-6)
        assert sum(p.area for p in rings) >= areas * (1 - 1e-6)
    else:
        assert sum(g.area for g in found) == pytest.approx(areas, rel=1e-6)
        assert sum(g.length for g in found if g.geom_type == "LineString") == pytest.approx(lengths, rel=1e-6)


@pytest.mark.parametrize("claim", [c for c in claims() if c.ending != ".dxf"], ids=lambda claim: claim.ending)
def test_it_comes_in_again_with_all_that_the_table_says(source: Path, tmp_path: Path, claim: Claim) -> None:
    target, wanted, _ = exported(source, tmp_path, claim.ending)
    path = Path(shutil.copy(source, tmp_path / "again.gpkg"))
    with opened_for_writing(path) as project:
        gone = [Change(table, int(i), None) for table in TABLES for i in project.features(table).ids]
        project.apply("begin anew", gone)
        stated = "EPSG:32628" if claim.ending == ".csv" else ""
        _, reading = import_file(project, target, ImportChoices(stated=stated))
        # Kinds of one's own with fields that must be filled are asked about; all others come in.
        assert len(reading.features) + len(reading.left) == len(wanted)
        held = {round_key(f): f for f in pieces(project, whole=True)}
        originals = {round_key(f): f for f in wanted}
        same = [(held[key], originals[key]) for key in held.keys() & originals.keys()]
        assert len(same) >= 0.97 * len(held)
        for one, other in same:
            for name in SAME:
                mine, theirs = getattr(one, name), getattr(other, name)
                if isinstance(theirs, float):
                    assert mine == pytest.approx(theirs, abs=1e-6), (claim.ending, name)
                else:
                    assert mine == theirs, (claim.ending, name)


def round_key(feature: Feature) -> tuple[object, ...]:
    """What a feature is known by in both: its table, kind and place."""
    # Places are whole centimetres, and many end on half a metre: between these no rounding turns the other way.
    bounds = np.round(np.array(feature.geometry.bounds) + 0.2537, 0)
    return feature.table, feature.kind, feature.certainty, *bounds.tolist()


def test_texts_that_a_shapefile_cannot_hold_are_counted(source: Path, tmp_path: Path) -> None:
    path = Path(shutil.copy(source, tmp_path / "long.gpkg"))
    with opened_for_writing(path) as project:
        seeds.keep(project, seeds.contact(project).changed(note="x" * 400))
        written = export_data(project, tmp_path / "out.zip")
    assert any("1 texts were cut" in said for said in written.said)
    with zipfile.ZipFile(tmp_path / "out.zip") as archive:
        assert {"lines.shp", "areas.shp", "points.shp", "README.md"} <= set(archive.namelist())
