"""What is drawn on sections, written for other programs, read by GDAL, or left out in words by a format."""

from __future__ import annotations

import json
from pathlib import Path

import pyogrio
import pytest
import shapely

from orvik.cli import main
from orvik.core.features.table import SECTION_TABLES
from orvik.exchange.features.data_file import FORMATS
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.data_export import export_data
from orvik.usecases.structure.sections import letter_of, section_lines


def test_a_geopackage_holds_it_in_metres_along_and_up(demo: Path, tmp_path: Path) -> None:
    target = tmp_path / "out.gpkg"
    with opened_for_reading(demo) as project:
        export_data(project, target)
        wanted = {
            table: {
                (letter_of(line), f.id): f
                for line in section_lines(project)
                for f in project.drawn_whole(table, line.number)
            }
            for table in SECTION_TABLES
        }
    for table, layer in SECTION_TABLES.items():
        meta, _, shapes, values = pyogrio.raw.read(target, layer=layer)
        assert "Undefined" in str(meta["crs"])
        columns = dict(zip(meta["fields"], values, strict=True))
        found = {
            (letter, int(number)): shapely.from_wkb(shape)
            for letter, number, shape in zip(columns["section"], columns["orvik_id"], shapes, strict=True)
        }
        assert found.keys() == wanted[table].keys()
        for key, shape in found.items():
            assert shape.equals(wanted[table][key].geometry)
        kinds = dict(zip(found, columns["kind"], strict=True))
        assert all(kinds[key] == feature.kind for key, feature in wanted[table].items())


@pytest.mark.parametrize("ending", sorted(set(FORMATS) - {".gpkg"}))
def test_other_formats_say_that_it_is_left_out(demo: Path, tmp_path: Path, ending: str) -> None:
    with opened_for_reading(demo) as project:
        drawn = sum(len(f) for line in section_lines(project) for f in project.drawn_features(line.number).values())
        said = export_data(project, tmp_path / f"out{ending}").said
    assert any(f"What is drawn on sections, {drawn} features, is left out" in one for one in said)


def test_what_comes_back_is_the_map_and_nothing_of_what_lies_below_it(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """Our own export, and a whole project file, as another program would hand it on."""
    target = tmp_path / "out.gpkg"
    with opened_for_reading(demo) as project:
        export_data(project, target)
        counts = {table: project.count(table) for table in SECTION_TABLES}
    for number, file in enumerate((target, demo)):
        made = tmp_path / f"new-{number}.gpkg"
        main(["new", str(made), "--name", "New", "--crs", "EPSG:32628", "--scale", "25000"])
        main(["import", str(made), str(file)])
        assert "What is drawn on sections was left out" in capsys.readouterr().out
        with opened_for_reading(made) as project:
            assert {table: project.count(table) for table in SECTION_TABLES} == counts
            west, south, _, _ = project.extent() or (0, 0, 0, 0)
            assert west > 400_000
            assert south > 6_000_000
            assert len(section_lines(project)) == 2


def test_info_counts_what_is_drawn(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["info", str(demo), "--json"])
    told = json.loads(capsys.readouterr().out)["sections"]
    with opened_for_reading(demo) as project:
        drawn = [sum(len(f) for f in project.drawn_features(line.number).values()) for line in section_lines(project)]
    assert told == [{"letter": "A", "drawn": drawn[0]}, {"letter": "B", "drawn": drawn[1]}]
