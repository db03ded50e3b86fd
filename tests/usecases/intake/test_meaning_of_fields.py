"""Whatever readings are called in a file, they come in as they were taken, or it is asked: never a quarter turned."""

from __future__ import annotations

import itertools
import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from orvik.cli import main
from orvik.core.errors import FileRefused
from orvik.exchange.mappings.guess import guessed
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.usecases.intake.import_features import import_file, preview
from orvik.usecases.intake.import_mapping import ImportChoices
from tests.exchange.mappings.tables import fields_called

# A plane that strikes 315 by the right-hand rule dips 40 to the northeast, towards 045.
STRIKE, DIRECTION, DIP = 315.0, 45.0, 40.0
# Names that files give to a strike, to a direction of dip, and to a dip (common practice), and ones that look alike.
STRIKES = ("strike", "STRIKE", "Strike_Az", "Strike (deg)")
DIRECTIONS = ("dip_dir", "DipDir", "dipdirn", "DIP_DIRECTION", "DipAz")
DIPS = ("dip", "DIP", "Inclination", "dip_angle")
ALIKE = ("strike2", "dip_2", "azimuth2", "AZIMUTH", "dipdir2", "strike_3", "id", "remark2")


def points(path: Path, rows: list[dict[str, Any]]) -> Path:
    features = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": [-14.75 + i * 1e-3, 61.35]},
            "properties": row,
        }
        for i, row in enumerate(rows)
    ]
    path.write_text(json.dumps({"type": "FeatureCollection", "features": features}))
    return path


@pytest.mark.parametrize("order", [1, -1])
@pytest.mark.parametrize(("strike", "dip"), list(itertools.product(STRIKES, DIPS)))
def test_a_strike_is_a_strike_whatever_else_is_there(strike: str, dip: str, order: int) -> None:
    """Fields that are called alike, before it or behind it, do not take its place."""
    for other in ALIKE:
        columns = [strike, dip, other][::order]
        found = guessed(fields_called(*columns))
        assert found.fields["azimuth"] == strike, columns
        assert found.fields["inclination"] == dip, columns
        assert not found.asks


@pytest.mark.parametrize("order", [1, -1])
@pytest.mark.parametrize(("strike", "direction", "dip"), list(itertools.product(STRIKES, DIRECTIONS, DIPS)))
def test_all_three_keep_apart(strike: str, direction: str, dip: str, order: int) -> None:
    found = guessed(fields_called(*[strike, direction, dip][::order]))
    assert found.fields == {"azimuth": strike, "dip_direction": direction, "inclination": dip}


@pytest.mark.parametrize(
    "columns",
    [["azimuth", "dip"], ["dip", "AZIMUTH"], ["strike2", "strike3", "dip"], ["Strike", "STRIKE", "dip"]],
)
def test_what_could_be_two_things_is_asked(columns: list[str]) -> None:
    found = guessed(fields_called(*columns))
    assert "azimuth" in found.asks
    assert "azimuth" not in found.fields


def test_our_own_columns_need_no_question() -> None:
    assert guessed(fields_called("kind", "azimuth", "inclination")).fields == {
        "kind": "kind",
        "azimuth": "azimuth",
        "inclination": "inclination",
    }


@pytest.mark.parametrize(
    "row",
    [
        {"strike": STRIKE, "dip": DIP},
        {"strike": STRIKE, "dip": DIP, "azimuth2": DIRECTION},
        {"azimuth2": DIRECTION, "dip_2": 1, "strike": STRIKE, "dip": DIP},
        {"dip_dir": DIRECTION, "dip": DIP},
        {"dipdirn": DIRECTION, "DIP": DIP},
        {"azimuth": STRIKE, "inclination": DIP},
        {"strike": 135, "dip": DIP, "DipQuad": "NE"},
    ],
)
def test_readings_come_in_as_they_were_taken(project: Project, tmp_path: Path, row: dict[str, Any]) -> None:
    _, reading = import_file(project, points(tmp_path / "in.geojson", [row, row]))
    assert [(f.kind, f.azimuth, f.inclination) for f in reading.features] == [("bedding", STRIKE, DIP)] * 2
    assert "Row 1, bedding: strikes 315, dips 40 to the northeast." in reading.notes


def test_a_bare_azimuth_beside_a_dip_is_asked_for(project: Project, tmp_path: Path) -> None:
    path = points(tmp_path / "in.geojson", [{"azimuth": DIRECTION, "dip": DIP}])
    with pytest.raises(FileRefused, match="could be the strike or the direction of the dip"):
        import_file(project, path)
    _, reading = import_file(project, path, ImportChoices(fields={"dip_direction": "azimuth", "azimuth": ""}))
    assert [(f.azimuth, f.inclination) for f in reading.features] == [(STRIKE, DIP)]


def test_the_command_line_guesses_shows_and_asks(project: Project, tmp_path: Path, capsys: Any) -> None:
    rows = [{"STRIKE": 10 * i, "DIP": 30} for i in range(20)]
    path, file = project.path, points(tmp_path / "readings.geojson", rows)
    project.close()
    assert main(["import", str(path), str(file), "--capture-scale", "1:500000", "--source", "A survey"]) == 0
    said = capsys.readouterr().out
    assert "Strike is STRIKE." in said
    assert "Points are taken for beddings" in said
    assert "strikes 000, dips 30 to the east" in said
    with opened_for_reading(path) as opened:
        points_there = opened.features("points")
        kinds = points_there.columns["kind"]
        new = [i for i, scale in enumerate(points_there.columns["capture_scale"]) if scale == 500_000]
        assert len(new) == 20
        assert {kinds[i] for i in new} == {"bedding"}
        assert "A survey" in {source.name for source in opened.sources()} | {
            row["name"] for row in opened._select("SELECT name FROM sources")
        }
    asked = points(tmp_path / "asked.geojson", [{"azimuth": 45, "dip": 40}])
    assert main(["import", str(path), str(asked)]) == 1
    assert "--field" in capsys.readouterr().err
    assert main(["import", str(path), str(asked), "--field", "dip_direction=azimuth", "--field", "azimuth="]) == 0


def test_values_that_rule_a_meaning_out_are_flagged(project: Project, tmp_path: Path) -> None:
    rows = [{"strike": 40, "dip": 100 + i} for i in range(5)] + [{"strike": 40, "dip": 30} for _ in range(5)]
    found = preview(project.path, points(tmp_path / "in.geojson", rows), None)
    assert any("look at what strike and dip are taken for" in note for note in found.notes)


def test_a_question_stands_until_it_is_answered(project: Project, tmp_path: Path) -> None:
    """Another change of the form does not let readings in without their strikes."""
    path = points(tmp_path / "in.geojson", [{"azimuth": 45, "dip": 40}])
    first = preview(project.path, path, None).look
    assert set(first.asks) == {"azimuth", "dip_direction"}
    assert preview(project.path, path, replace(first.mapping, source="A survey")).look.asks
    answered = replace(first.mapping, fields={**first.mapping.fields, "dip_direction": ("azimuth",)})
    assert not preview(project.path, path, answered).look.asks
