"""Deliveries as they should not be: overlaps by half, holes, several parts, heights, slivers, kinds without end."""

from __future__ import annotations

import json
from collections import defaultdict
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pytest
import shapely

from orvik.core.errors import FileRefused
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.exchange.mappings.mapping import FieldMapping
from orvik.store.project import Project
from orvik.usecases.compile.feature_table.changes import CellsAsked, change_table
from orvik.usecases.compile.feature_table.listing import TableQuery
from orvik.usecases.compile.forming import form_units
from orvik.usecases.compile.linework import LineworkChoices
from orvik.usecases.ground.border import Corners
from orvik.usecases.intake.import_features import import_file, preview
from orvik.usecases.intake.import_mapping import ImportChoices
from orvik.usecases.project.project import create_project

X, Y = 512_000.0, 6_802_000.0
LINEWORK = ImportChoices(linework=LineworkChoices())


@pytest.fixture
def bare(tmp_path: Path) -> Project:
    path = tmp_path / "bare.gpkg"
    corners = Corners("510000", "6800000", "516000", "6806000")
    create_project(path, "Bare", project_crs("EPSG:32628"), Scales(25_000, 6_250), corners)
    return Project.open(path)


def box(x: float, y: float, w: float = 1000, h: float = 1000) -> shapely.Polygon:
    return shapely.box(X + x, Y + y, X + x + w, Y + y + h)


def written(path: Path, shapes: list[Any], codes: list[str], kind: str = "Polygon") -> Path:
    wkb = np.array([shapely.to_wkb(shape, output_dimension=3 if shape.has_z else 2) for shape in shapes], dtype=object)
    fields = [np.array(codes, dtype=object)]
    pyogrio.raw.write(path, wkb, fields, ["UNIT"], geometry_type=kind, crs="EPSG:32628", driver="GPKG")
    return path


def ground(project: Project) -> dict[str, shapely.Geometry]:
    held = project.features("areas")
    found: dict[str, list[Any]] = defaultdict(list)
    for unit, geometry in zip(held.columns["map_unit"], held.geometries.tolist(), strict=True):
        found[unit].append(geometry)
    return {unit: shapely.union_all(parts) for unit, parts in found.items()}


def formed(project: Project, file: Path) -> tuple[dict[str, shapely.Geometry], tuple[str, ...]]:
    _, result = import_file(project, file, LINEWORK)
    form_units(project)
    return ground(project), result.notes


def test_polygons_that_overlap_by_half_are_told_with_their_place(bare: Project, tmp_path: Path) -> None:
    file = written(tmp_path / "a.gpkg", [box(0, 0), box(500, 0)], ["A", "B"])
    after, notes = formed(bare, file)
    assert any("overlap" in note for note in notes)
    # Each has what is its own; who has the rest is left to a person.
    assert after["A"].area == pytest.approx(500_000)
    assert after["B"].area == pytest.approx(500_000)


def test_holes_and_islands_come_back(bare: Project, tmp_path: Path) -> None:
    hole, island = box(300, 300, 400, 400), box(450, 450, 100, 100)
    shapes = [box(0, 0).difference(hole), hole.difference(island), island]
    after, _ = formed(bare, written(tmp_path / "a.gpkg", shapes, ["A", "B", "C"]))
    for code, shape in zip("ABC", shapes, strict=True):
        assert after[code].symmetric_difference(shape).area < 1e-6
    assert after["A"].area == pytest.approx(840_000)


def test_several_parts_are_several_areas(bare: Project, tmp_path: Path) -> None:
    both = shapely.multipolygons([box(0, 0), box(2000, 0)])
    after, _ = formed(bare, written(tmp_path / "a.gpkg", [both, box(1000, 0)], ["A", "B"], "MultiPolygon"))
    assert after["A"].symmetric_difference(both).area < 1e-6
    assert bare.count("areas") == 3


def test_heights_of_vertices_are_left_out_and_told(bare: Project, tmp_path: Path) -> None:
    flat = [box(0, 0), box(1000, 0)]
    raised = [shapely.force_3d(shape, 120.0) for shape in flat]
    after, notes = formed(bare, written(tmp_path / "a.gpkg", raised, ["A", "B"], "Polygon Z"))
    assert any("Heights of vertices" in note for note in notes)
    assert after["A"].symmetric_difference(flat[0]).area < 1e-6
    assert not shapely.has_z(bare.features("areas").geometries).any()


def test_areas_of_one_unit_side_by_side_are_told(bare: Project, tmp_path: Path) -> None:
    """Their contact may be one of the map's, or the edge of a sheet: a person says which."""
    file = written(tmp_path / "a.gpkg", [box(0, 0), box(1000, 0), box(0, 1000)], ["A", "A", "B"])
    after, notes = formed(bare, file)
    assert "1 contact has one unit on both sides; delete those that are no boundary." in notes
    assert after["A"].area == pytest.approx(2_000_000)
    assert after["B"].area == pytest.approx(1_000_000)


def test_slivers_are_closed_and_counted(bare: Project, tmp_path: Path) -> None:
    shapes = [box(0, 0), box(1000.4, 0), box(-0.3, 1000)]
    after, notes = formed(bare, written(tmp_path / "a.gpkg", shapes, ["A", "B", "C"]))
    assert any("were closed" in note for note in notes)
    assert set(after) == {"A", "B", "C"}
    assert sum(part.area for part in after.values()) == pytest.approx(3_000_000, rel=1e-3)
    assert not after["A"].intersection(after["B"]).area


def test_five_thousand_kinds_are_named_and_nothing_is_half_kept(bare: Project, tmp_path: Path) -> None:
    """A field that names things one by one is none of kinds; said to be one, its rows ask, and none comes in."""
    rows = "".join(f"{X + i % 100 * 10},{Y + i // 100 * 10},Specimen number {i}\n" for i in range(5000))
    file = tmp_path / "specimens.csv"
    file.write_text("easting,northing,FEATURE\n" + rows)
    revision = bare.revision
    found = preview(bare.path, file, None, ("EPSG:32628",))
    assert "kind" not in found.look.mapping.fields
    with pytest.raises(FileRefused, match="not a kind of points"):
        import_file(bare, file, ImportChoices(fields={"kind": "FEATURE"}, stated="EPSG:32628"))
    assert (bare.revision, bare.count("points")) == (revision, 0)
    mapping = FieldMapping({"kind": ("FEATURE",)}, {"points": "bedding"}, "EPSG:32628")
    meant = preview(bare.path, file, mapping, ("EPSG:32628",))
    (values,) = [one for one in meant.look.values if one.attribute == "kind"]
    assert len(values.meanings) + values.more == 5000
    assert values.more > 4000


def test_five_thousand_rows_pasted_are_one_entry(bare: Project, tmp_path: Path) -> None:
    rows = "".join(f"{X + i % 100 * 10},{Y + i // 100 * 10},bedding,{i % 360},{i % 80 + 1}\n" for i in range(5000))
    file = tmp_path / "readings.csv"
    file.write_text("easting,northing,kind,strike,dip\n" + rows)
    import_file(bare, file, ImportChoices(stated="EPSG:32628"))
    ids = bare.features("points").ids.tolist()
    block = "No\tNote\n" + "".join(f"{number}\tlooked at again {number}\n" for number in reversed(ids))
    asked = CellsAsked("paste", (0, 0), ("number",), block)
    outcome = change_table(bare, TableQuery("points"), ids, asked, bare.revision)
    assert outcome.entry is not None
    assert len(outcome.entry.changes) == 5000
    notes = bare.features("points").columns["note"]
    assert notes == [f"looked at again {number}" for number in ids]
    bare.undo()
    assert set(bare.features("points").columns["note"]) == {""}


def test_broken_json_is_said(bare: Project, tmp_path: Path) -> None:
    file = tmp_path / "half.geojson"
    file.write_text(json.dumps({"type": "FeatureCollection", "features": []})[:30])
    with pytest.raises(FileRefused):
        import_file(bare, file)
