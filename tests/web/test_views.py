"""Saved views as a client sees them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.core.ground.crs import project_crs
from orvik.store.project import Project
from orvik.usecases.project.relocation import relocation
from orvik.web.app import create_app

BASE = "/p/isle-of-quennet/views"
HERE = {"name": "Carn", "x": "514000", "y": "6802000", "denominator": "12500"}


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_a_view_is_saved_removed_and_undone(client: TestClient, demo: Path) -> None:
    text = client.post(BASE, data=HERE).text
    assert "Carn" in text
    assert "1:12\u2009500" in text
    assert client.post(BASE, data=HERE).status_code == 422
    assert client.post(BASE, data=HERE | {"denominator": "0", "name": "Z"}).status_code == 422
    assert client.post(BASE, data=HERE | {"x": "inf", "name": "Z"}).status_code == 422
    assert "Carn" not in client.delete(f"{BASE}/3").text
    project = Project.open(demo)
    project.undo()
    assert project.views()[-1].name == "Carn"
    project.close()


def test_views_move_with_the_system(demo: Path) -> None:
    project = Project.open(demo)
    before = project.views()[0]
    place = project.crs.to_geographic(before.x, before.y)
    project.apply("move", relocation(project, project_crs("EPSG:3035")).changes)
    after = project.views()[0]
    there = project.crs.to_geographic(after.x, after.y)
    assert [float(v) for v in there] == pytest.approx([float(v) for v in place], abs=1e-5)
    project.close()
