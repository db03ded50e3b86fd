"""Neighbouring projects and their data files, joined along the border; and a join that is fixed."""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import date
from pathlib import Path

import numpy as np
import pytest
import shapely
import shapely.geometry
from shapely.geometry.base import BaseGeometry

from orvik.core.errors import FileRefused, NeighbourRefused
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.geometry.snapping import SnapIndex
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.joins.neighbour import Neighbour
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.store import rows
from orvik.store.project import Project, opened_for_writing
from orvik.store.tables.neighbours import neighbours
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.compile.fixing import fix_map
from orvik.usecases.export.data_export import export_data
from orvik.usecases.intake.neighbours import (
    add_neighbour,
    change_neighbour,
    join_neighbour,
    read_neighbour,
    remove_neighbour,
)
from orvik.usecases.project.project import change_system, create_project
from orvik.usecases.proof.proof import all_findings
from tests.mosaics import Half, halves

TODAY = date(2026, 7, 2)
SEED = 9


def written(path: Path, half: Half, name: str, crs: str = "EPSG:32628") -> Path:
    """A half as a project, whose border is a line of the map."""
    create_project(path, name, project_crs("EPSG:32628"), Scales(25_000, 6_250))
    border = Feature("lines", shapely.LineString(half.border.exterior.coords), SHEET_BORDER)
    with opened_for_writing(path) as project:
        made = [f.changed(id=None) for f in (border, *half.lines, *half.areas)]
        project.apply("draw", feature_changes(project, project.srs_id, made, (), ()))
        if crs != "EPSG:32628":
            change_system(project, project_crs(crs))
    return path


@pytest.fixture
def pair(tmp_path: Path) -> tuple[Path, Path]:
    one, two = halves(SEED, straight=True)
    return written(tmp_path / "harrack.gpkg", one, "Harrack"), written(tmp_path / "sule.gpkg", two, "Sule")


@pytest.fixture
def here(pair: tuple[Path, Path]) -> Iterator[Project]:
    with opened_for_writing(pair[0]) as project:
        yield project


def joins(project: Project) -> list[Finding]:
    return [finding for finding in all_findings(project) if finding.rule.startswith("join_")]


def joined(project: Project, file: Path) -> Neighbour:
    join_neighbour(project, read_neighbour(project.path, file), file.name, TODAY)
    return neighbours(project)[-1]


def test_projects_that_one_line_has_cut_meet(here: Project, pair: tuple[Path, Path]) -> None:
    held = joined(here, pair[1])
    assert (held.name, held.file, held.read) == ("Sule", "sule.gpkg", "2026-07-02")
    assert held.place in "nesw"
    assert len(held.edge.lines) > 3
    assert joins(here) == []


@pytest.mark.parametrize("ending", [".gpkg", ".geojson", ".zip"])
def test_a_data_file_joins_as_its_project_does(here: Project, pair: tuple[Path, Path], ending: str) -> None:
    file = pair[1].with_name(f"sule-data{ending}")
    with opened_for_writing(pair[1]) as other:
        export_data(other, file)
    joined(here, file)
    assert joins(here) == []


@pytest.mark.parametrize("crs", ["EPSG:32629", "EPSG:3034", "EPSG:2154"])
def test_a_neighbour_in_another_system_meets_as_well(tmp_path: Path, crs: str) -> None:
    one, two = halves(SEED, straight=True)
    other = written(tmp_path / "sule.gpkg", two, "Sule", crs)
    with opened_for_writing(written(tmp_path / "harrack.gpkg", one, "Harrack")) as project:
        held = joined(project, other)
        assert held.edge.ring is not None
        assert [f.message for f in joins(project)] == []


def test_one_click_moves_the_end_and_the_areas_that_meet_there(tmp_path: Path) -> None:
    one, two = halves(SEED, straight=True)
    other = written(tmp_path / "sule.gpkg", two, "Sule")
    # All ends and corners on the common border, but those at its ends, are 30 m beside.
    common = shapely.intersection(one.border.exterior, two.border.exterior)
    inner = shapely.line_interpolate_point(common, [1.0, common.length - 1.0])
    middle = shapely.LineString(inner)
    (x0, y0), (x1, y1) = shapely.get_coordinates(inner)
    way = np.array([x1 - x0, y1 - y0]) / np.hypot(x1 - x0, y1 - y0)

    def pushed(xy: np.ndarray) -> np.ndarray:
        on = shapely.distance(shapely.points(xy), middle) < 1e-6
        return np.where(on[:, None], xy + 30.0 * way, xy)

    shifted = [
        [f.changed(geometry=shapely.transform(f.geometry, pushed)) for f in made] for made in (one.lines, one.areas)
    ]
    half = Half(one.border, *shifted)
    with opened_for_writing(written(tmp_path / "harrack.gpkg", half, "Harrack")) as project:
        joined(project, other)
        found = joins(project)
        assert {finding.rule for finding in found} == {"join_offset"}
        assert all("1.20 mm beside that of Sule" in finding.message for finding in found)
        count = len(found)
        assert count >= 4
        fixed = 0
        while ready := next((finding for finding in joins(project) if finding.fix is not None), None):
            assert {table for table, _ in ready.features} == {"lines", "areas"}
            fix_map(project, SnapIndex(project.all_features()), ready, project.revision)
            fixed += 1
            assert fixed <= count
        assert joins(project) == []
        areas = project.all_features()["areas"].geometries
        overlap = shapely.area(areas).sum() - shapely.union_all(areas).area
        assert abs(overlap) < 1.0
        assert abs(shapely.union_all(areas).area - one.border.area) < 1.0
        for _ in range(fixed):
            project.undo()
        assert len(joins(project)) == count


def test_a_sheet_that_lies_elsewhere_is_refused(here: Project, tmp_path: Path) -> None:
    _, two = halves(SEED, straight=True)

    def away(f: Feature) -> Feature:
        return f.changed(geometry=shapely.transform(f.geometry, lambda xy: xy + [20_000.0, 0.0]))

    far = Half(away(Feature("areas", two.border, "unit_area")).geometry, [away(f) for f in two.lines], [])
    file = written(tmp_path / "far.gpkg", far, "Far")
    with pytest.raises(NeighbourRefused, match=r"Far lies \d\d.\d\d\d m from the border of this sheet"):
        read_neighbour(here.path, file)
    with pytest.raises(NeighbourRefused, match="shows the ground of this sheet itself"):
        read_neighbour(here.path, here.path)


def test_without_a_border_nothing_can_be_joined(tmp_path: Path, pair: tuple[Path, Path]) -> None:
    path = tmp_path / "bare.gpkg"
    create_project(path, "Bare", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with pytest.raises(NeighbourRefused, match="Set the sheet border first"):
        read_neighbour(path, pair[1])


def test_neighbours_are_named_read_again_and_removed(here: Project, pair: tuple[Path, Path]) -> None:
    add_neighbour(here, Neighbour("Sule", "12", "n"))
    with pytest.raises(NeighbourRefused, match=r"Sule \(12\) is a neighbouring sheet already"):
        add_neighbour(here, Neighbour("Sule", "", "n"))
    held = joined(here, pair[1])
    assert (held.sheet_number, len(neighbours(here))) == ("12", 1)
    remove_neighbour(here, held.number)
    assert neighbours(here) == []
    here.undo()
    assert neighbours(here) == [held]


def test_a_project_takes_its_neighbours_into_another_system(here: Project, pair: tuple[Path, Path]) -> None:
    held = joined(here, pair[1])
    target = project_crs("EPSG:32629")
    change_system(here, target)
    (moved,) = neighbours(here)
    old, new = held.edge.lines[0].geometry.coords[0], moved.edge.lines[0].geometry.coords[0]
    assert np.hypot(*np.subtract(carried_place(project_crs("EPSG:32628"), target, old), new)) < 1e-3
    assert joins(here) == []


def test_what_one_hand_has_read_stays_while_another_names_it(here: Project, pair: tuple[Path, Path]) -> None:
    """Only what is typed is changed: not what was read in between."""
    add_neighbour(here, Neighbour("Sule", "12", "n"))
    number = neighbours(here)[0].number
    read = joined(here, pair[1])
    assert change_neighbour(here, number, "Sule Bay", "12", read.place) is not None
    (held,) = neighbours(here)
    assert (held.name, held.edge) == ("Sule Bay", read.edge)
    assert change_neighbour(here, number, "Sule Bay", "12", read.place) is None


def as_file(path: Path, held: list[tuple[BaseGeometry, dict[str, str]]]) -> Path:
    """A GeoJSON of somebody else, in the system of the projects here."""
    crs = {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::32628"}}
    features = [
        {"type": "Feature", "geometry": shapely.geometry.mapping(shape), "properties": values} for shape, values in held
    ]
    path.write_text(json.dumps({"type": "FeatureCollection", "crs": crs, "features": features}))
    return path


def test_lines_of_a_file_that_states_no_border_meet_all_the_same(here: Project, tmp_path: Path) -> None:
    """One of them stands a millimetre beside; without a ring and areas no more is known than where they come to it."""
    _, two = halves(SEED, straight=True)
    ends = [line for line in two.lines if line.geometry.distance(two.border.exterior) < 1e-6]
    border = shapely.Polygon(here.border()).exterior
    at = [i for i, line in enumerate(ends) if line.geometry.distance(border) < 1e-6]
    assert len(at) > 3
    moved = at[len(at) // 2]
    made = []
    for i in at:
        xy = shapely.get_coordinates(ends[i].geometry)
        if i == moved:
            near = np.argmin([border.distance(shapely.Point(place)) for place in xy])
            s = border.project(shapely.Point(xy[near])) + 25.0
            xy[near] = border.interpolate(s).coords[0]
        made.append((shapely.LineString(xy), {"kind": ends[i].kind, "certainty": ends[i].certainty}))
    joined(here, as_file(tmp_path / "lines.geojson", made))
    told = [finding for finding in joins(here) if finding.rule == "join_offset"]
    assert len(told) == 1
    assert "1.00 mm beside" in told[0].message


def test_a_file_that_could_mean_two_things_is_asked_about(here: Project, tmp_path: Path) -> None:
    """Two fields hold codes that are known here; what readings mean does not matter to a join."""
    _, two = halves(SEED, straight=True)
    codes = sorted({str(area.map_unit) for area in two.areas})
    units = [MapUnit(code, f"Unit {code}", "", colour="#AABBCC", position=i) for i, code in enumerate(codes, 1)]
    here.apply("units", [rows.unit_change(None, unit) for unit in units])
    odd = [(area.geometry, {"upper": str(area.map_unit), "lower": str(area.map_unit)}) for area in two.areas]
    with pytest.raises(FileRefused, match=r"odd.geojson: .* Import it into a project of its own"):
        read_neighbour(here.path, as_file(tmp_path / "odd.geojson", odd))
    plain = [(shape, {"upper": values["upper"]}) for shape, values in odd]
    turned = (shapely.Point(two.border.centroid), {"upper": codes[0], "DIP": "30", "AZ": "120"})
    assert len(read_neighbour(here.path, as_file(tmp_path / "plain.geojson", [*plain, turned])).edge.areas) > 3
