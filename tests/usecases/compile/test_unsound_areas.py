"""What another program leaves unsound is told with a fix, and stops nothing else."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
import shapely.affinity

from orvik.core.errors import FileRefused
from orvik.core.geometry.snapping import SnapIndex
from orvik.exchange.features.data_file import FORMATS
from orvik.store.geometry import add_functions, encoded
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.compile.fixing import fix_map
from orvik.usecases.compile.forming import form_units
from orvik.usecases.export.data_export import export_data
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.printing import sheet_pdf
from orvik.usecases.symbols.meeting_colours import colour_report
from tests.examples import drawn

SQUARE = [(0, 0), (1, 0), (1, 1), (0, 1)]
SHAPES = {
    "bow": shapely.Polygon([(0, 0), (1, 1), (1, 0), (0, 1)]),
    "spike": shapely.Polygon([(0, 0), (1, 0), (1, 1), (1, -0.6), (0.5, 0)]),
    "hole outside": shapely.Polygon(SQUARE, [[(2, 0), (2.1, 0), (2.1, 0.1)]]),
    "holes that cross": shapely.Polygon(
        SQUARE, [[(0.3, 0.1), (0.6, 0.1), (0.6, 0.4)], [(0.4, 0.15), (0.9, 0.1), (0.6, 0.5)]]
    ),
    "hole twice": shapely.Polygon(SQUARE, [[(0.3, 0.1), (0.6, 0.1), (0.6, 0.4)]] * 2),
    "hole as large": shapely.Polygon(SQUARE, [SQUARE]),
    "two holes that part it": shapely.Polygon(SQUARE, [[(0, 0.5), (0.5, 0.4), (1, 0.5), (0.5, 0.6)]]),
    "flat": shapely.Polygon([(0, 0), (1, 0), (0.4, 0)]),
    "a point": shapely.Polygon([(0, 0)] * 4),
    **{
        f"tangle {seed}": shapely.Polygon(np.random.default_rng(seed).uniform(0, 1, (5 + 4 * seed, 2)))
        for seed in range(4)
    },
}


def put(path: Path, table: str, number: int, geometry: shapely.Geometry) -> None:
    """As another program writes it."""
    connection = sqlite3.connect(path)
    add_functions(connection)
    (srs_id,) = connection.execute("SELECT srs_id FROM gpkg_geometry_columns").fetchone()
    connection.execute(f"UPDATE {table} SET geom = ? WHERE id = ?", (encoded(geometry, srs_id), number))
    connection.commit()
    connection.close()


def grounds(project: Project) -> dict[int, bytes]:
    areas = project.features("areas")
    return {int(i): g.wkb for i, g in zip(areas.ids, areas.geometries, strict=True)}


def use_everything(project: Project, folder: Path) -> Iterator[object]:
    """All that reads the areas of a map."""
    yield all_findings(project)
    yield all_findings(project, project.sheets()[2].id)
    yield colour_report(project, 3.0)
    yield sheet_pdf(project.path, project.sheets()[2].id or 0, 30)
    for ending in FORMATS:
        with pytest.raises(FileRefused, match="fix this in Proof first"):
            export_data(project, folder / f"out{ending}")


@pytest.fixture
def area(demo: Path) -> int:
    with opened_for_reading(demo) as project:
        areas = project.all_features()["areas"]
        units = areas.columns["map_unit"]
        mine = [i for i in range(len(areas)) if units[i] == "Jh"]
        return int(areas.ids[max(mine, key=lambda i: float(areas.geometries[i].area))])


@pytest.mark.parametrize("name", drawn(list(SHAPES), 5, ("bow",)))
def test_an_unsound_area_is_told_and_fixed_and_stops_nothing(demo: Path, tmp_path: Path, area: int, name: str) -> None:
    with opened_for_reading(demo) as project:
        x, y = project.feature("areas", area).geometry.representative_point().coords[0]
    shape = shapely.affinity.affine_transform(SHAPES[name], [400.0, 0, 0, 400.0, x, y])
    put(demo, "areas", area, shape)
    assert not shapely.is_valid(shape)
    with opened_for_writing(demo) as project:
        assert len(list(use_everything(project, tmp_path))) == 4
        (found,) = [f for f in all_findings(project) if f.rule == "unsound"]
        assert found.features == (("areas", area),)
        # Forming leaves the ground alone on which it may lie.
        form_units(project)
        assert grounds(project)[area] == shape.wkb
        before = grounds(project)
        fix_map(project, SnapIndex(project.all_features()), found, project.revision)
        assert not [f for f in all_findings(project) if f.rule == "unsound"]
        after = grounds(project)
        assert {i: g for i, g in after.items() if i in before and i != area} == {
            i: g for i, g in before.items() if i != area
        }
        pieces = [shapely.from_wkb(g) for i, g in after.items() if i == area or i not in before]
        wanted = shapely.make_valid(shape, method="structure", keep_collapsed=False)
        assert shapely.union_all(pieces).symmetric_difference(wanted).area < 1e-6 * max(wanted.area, 1.0)
        assert sum(p.area for p in pieces) == pytest.approx(wanted.area)
        project.undo()
        assert grounds(project) == before


def test_a_line_without_length_is_told_and_deleted(demo: Path, tmp_path: Path) -> None:
    with opened_for_writing(demo) as project:
        lines = project.features("lines")
        number = int(lines.ids[[k == "fault" for k in lines.columns["kind"]].index(True)])
        x, y = shapely.get_coordinates(project.feature("lines", number).geometry)[0]
    put(demo, "lines", number, shapely.LineString([(x, y), (x, y)]))
    with opened_for_writing(demo) as project:
        assert len(list(use_everything(project, tmp_path))) == 4
        (found,) = [f for f in all_findings(project) if f.rule == "unsound"]
        fix_map(project, SnapIndex(project.all_features()), found, project.revision)
        assert number not in project.features("lines").ids
