"""Colours for a whole column are shown first, on the map too, and taken in one entry."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.core.features.column_colours import WAYS, column_colours
from orvik.store.project import Project
from orvik.web.app import create_app

COLOURS = "/p/isle-of-quennet/symbols/colours"


@pytest.mark.parametrize("way", WAYS)
def test_colours_are_proposed_shown_and_taken(demo: Path, way: str) -> None:
    project = Project.open(demo)
    before = [unit for _, unit in project.units()]
    wanted = column_colours(before, next(w for w in WAYS if w == way))
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        shown = client.get(f"{COLOURS}/column?way={way}").text
        taken = re.findall(r'name="take" value="([^"]+)"', shown)
        assert dict(row.split(" ") for row in taken).items() <= wanted.items()
        assert client.get(f"{COLOURS}/map", params={"take": taken}).text.count("<svg") == 2
        assert [unit for _, unit in project.units()] == before
        assert client.post(f"{COLOURS}/take", data={"take": taken}).status_code == 200
        after = {unit.code: unit.colour for _, unit in project.units()}
        assert after == {unit.code: wanted.get(unit.code, unit.colour) for unit in before}
        assert "have these colours already" in client.get(f"{COLOURS}/column?way={way}").text
        assert client.get(f"{COLOURS}/column?way=mood").status_code == 422
    project.close()
    project = Project.open(demo)
    assert project.undo_label == f"colour {len(taken)} units"
    project.undo()
    assert [unit for _, unit in project.units()] == before
    project.close()
