"""Neighbouring sheets, the imprint and the profile of the press, as the pages send them."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient
from PIL import Image

from orvik.core.features.feature import Feature
from orvik.demo.rock import BORDER
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.imprint import imprint_of
from orvik.store.tables.neighbours import neighbours
from orvik.usecases.compile.features import feature_changes
from orvik.web.app import create_app
from tests.neighbouring import sund
from tests.press.made_profile import made_profile

BASE = "/p/isle-of-quennet"


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def test_a_neighbour_is_read_told_in_proof_and_its_join_is_fixed(
    client: TestClient, demo: Path, tmp_path: Path
) -> None:
    _, south, east, north = BORDER
    y = (south + north) / 2
    with opened_for_writing(demo) as project:
        line = Feature("lines", shapely.LineString([(east - 500, y), (east, y)]), "contact", capture_scale=6_250)
        project.apply("draw", feature_changes(project, project.srs_id, [line], (), ()))
    answer = client.post(f"{BASE}/neighbours/read", files={"file": ("sund.gpkg", sund(tmp_path, 30.0).read_bytes())})
    assert answer.status_code == 200, answer.text
    assert "Sund" in answer.text
    assert "220 mm of border in common" in answer.text
    assert 'value="e" selected' in answer.text
    with opened_for_reading(demo) as project:
        (held,) = [n for n in neighbours(project) if n.file]
        assert (held.name, held.place, len(held.edge.lines)) == ("Sund", "e", 1)
    notes = client.get(f"{BASE}/proof/notes", params={"sheet": 1}).text
    assert "1.20 mm beside that of Sund" in notes
    assert "Move its end to meet" in notes


def test_neighbours_are_named_changed_and_removed(client: TestClient, demo: Path) -> None:
    typed = {"name": "  Far   Stack ", "sheet_number": "44", "place": "w"}
    assert "Far Stack (44)" in client.post(f"{BASE}/neighbours", data=typed).text
    with opened_for_reading(demo) as project:
        number = next(n.id for n in neighbours(project) if n.name == "Far Stack")
    changed = client.post(f"{BASE}/neighbours/{number}", data=typed | {"name": "Near Stack", "place": "sw"})
    assert "Near Stack (44)" in changed.text
    assert client.post(f"{BASE}/neighbours", data={"name": "", "sheet_number": "", "place": "n"}).status_code == 422
    assert client.post(f"{BASE}/neighbours", data={"name": "X", "place": "up"}).status_code == 422
    assert "Near Stack" not in client.delete(f"{BASE}/neighbours/{number}").text
    assert client.delete(f"{BASE}/neighbours/{number}").status_code == 404
    assert client.post(f"{BASE}/neighbours/999", data=typed).status_code == 404


ODD = {
    "text.gpkg": b"not a file of features",
    "empty.gpkg": b"SQLite format 3\0" + bytes(200),
    "no.json": b"{}",
    "": b"",
}


@pytest.mark.parametrize(("name", "data"), ODD.items(), ids=[name or "none" for name in ODD])
def test_what_is_no_neighbour_is_refused_in_words(client: TestClient, demo: Path, name: str, data: bytes) -> None:
    answer = client.post(f"{BASE}/neighbours/read", files={"file": (name, data)} if name else None)
    assert answer.status_code == 422
    assert answer.text.endswith((".", "!"))
    assert "<" not in answer.text
    with opened_for_reading(demo) as project:
        assert not any(n.file for n in neighbours(project))


def test_the_imprint_is_typed_once_and_printed(client: TestClient, demo: Path) -> None:
    answer = client.post(f"{BASE}/sheets/1/imprint", data={"title": "A map of <Sund> & *Sule*"})
    assert answer.status_code == 200
    assert "A map of &lt;Sund&gt; &amp; *Sule*" in answer.text
    with opened_for_reading(demo) as project:
        assert imprint_of(project).title == "A map of <Sund> & *Sule*"
        assert imprint_of(project).authors
    assert client.post(f"{BASE}/sheets/1/imprint", data={"day": "yesterday"}).status_code == 422
    assert client.post(f"{BASE}/sheets/1/imprint", data={"colour": "red"}).status_code == 422


def test_a_press_is_chosen_by_its_profile_and_shows_its_plates(client: TestClient, demo: Path) -> None:
    assert client.get(f"{BASE}/exports/plates/1/black.png").status_code == 422
    refused = client.post(f"{BASE}/exports/profile", files={"file": ("x.icc", b"nothing")})
    assert refused.status_code == 422
    assert "choose the ICC file" in refused.text
    answer = client.post(f"{BASE}/exports/profile?sheet=3", files={"file": ("made.icc", made_profile())})
    assert "made.icc" in answer.text
    assert "plates/3/all.png" in answer.text
    shown = {}
    for plate in ("black", "cyan", "all"):
        picture = Image.open(io.BytesIO(client.get(f"{BASE}/exports/plates/3/{plate}.png").content))
        assert picture.mode == "L"
        assert picture.size == pytest.approx((210 / 25.4 * 110, 297 / 25.4 * 110), abs=1)
        shown[plate] = np.asarray(picture).mean()
    assert shown["black"] < 255
    assert client.get(f"{BASE}/exports/plates/3/gold.png").status_code == 404
