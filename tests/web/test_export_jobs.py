"""Orders: carried out one by one, cancelled without a trace, found again after Orvik was ended; the plotter tray."""

from __future__ import annotations

import io
import time
from collections.abc import Iterator
from datetime import date, timedelta
from pathlib import Path

import pikepdf
import pytest
from fastapi.testclient import TestClient

from orvik.web.app import create_app
from orvik.web.session.export_jobs import FOLDER, STATE
from tests.web.exports import OUT, ended, export_routes


@pytest.fixture
def client(corner: Path) -> Iterator[TestClient]:
    with TestClient(create_app(corner.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def page_sizes(pdf: bytes) -> list[tuple[float, float]]:
    """Width and height of each page in millimetres."""
    with pikepdf.open(io.BytesIO(pdf)) as opened:
        return [tuple(round(float(v) / 72 * 25.4, 2) for v in page.mediabox[2:]) for page in opened.pages]  # type: ignore[misc]


def test_all_sheets_each_as_a_file_or_all_in_one(client: TestClient) -> None:
    several = export_routes(client, which="all", pattern="{project} {number} {sheet}").files
    assert list(several) == [
        "Isle-of-Quennet-1-Harrack-Head.pdf",
        "Isle-of-Quennet-2-Quennet-and-its-waters.pdf",
        "Isle-of-Quennet-3-Figure-1.pdf",
    ]
    ((name, data),) = export_routes(client, which="together").files.items()
    assert name in {f"Harrack-Head-{day}.pdf" for day in days()}
    assert page_sizes(data) == [(720, 430), (594, 420), (210, 297)]


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"pattern": "{scale}"}, "File names know no {scale}"),
        ({"pattern": " / "}, "makes no file name"),
        ({"dpi": "many"}, "dots per inch"),
        ({"which": "together", "ending": "png"}, "choose PDF"),
        ({"sheet": ""}, "Choose a sheet"),
        ({"which": "some"}, "Choose which sheets"),
        ({"ending": "bmp"}, "format"),
    ],
)
def test_what_cannot_be_is_refused_before_it_begins(client: TestClient, form: dict[str, str], words: str) -> None:
    answer = client.post(OUT, data={"sheet": "1", **form})
    assert answer.status_code in (404, 422)
    assert words in answer.text
    assert "<article" not in client.get(OUT).text


def test_a_cancelled_export_leaves_nothing(client: TestClient, corner: Path) -> None:
    answer = client.post(OUT, data={"sheet": "2", "ending": "png", "dpi": "900"})
    number = answer.headers["Orvik-Export"]
    folder = corner.parent / FOLDER / "isle-of-quennet" / number
    assert folder.is_dir()
    for _ in range(1500):
        if "strip" in client.get(OUT).text:
            break
        time.sleep(0.1)
    assert client.delete(f"{OUT}/{number}").status_code == 200
    assert not folder.exists()
    assert "<article" not in client.get(OUT).text
    # The next one is carried out, and what is cancelled can be neither fetched nor cancelled again.
    assert export_routes(client).state == "done"
    assert client.delete(f"{OUT}/{number}").status_code == 404
    assert client.get(f"{OUT}/{number}/x.png").status_code == 404


def test_what_is_done_waits_and_what_was_under_way_can_be_begun_anew(corner: Path) -> None:
    with TestClient(create_app(corner.parent), base_url="http://127.0.0.1:8460") as client:
        done = export_routes(client)
        begun = client.post(OUT, data={"sheet": "1", "ending": "tif", "dpi": "1200"}).headers["Orvik-Export"]
    folder = corner.parent / FOLDER / "isle-of-quennet" / begun
    assert [file.name for file in folder.iterdir()] == [STATE]
    with TestClient(create_app(corner.parent), base_url="http://127.0.0.1:8460") as client:
        again = ended(client, done.number)
        assert again.state == "done"
        assert again.files == done.files
        assert ended(client, begun).state == "stopped"
        client.delete(f"{OUT}/{begun}")
        failed = client.post(f"{OUT}/{done.number}/again")
        # What is done is not begun anew.
        assert 'data-state="done"' in failed.text


def days() -> list[str]:
    """Today, and the day on which the test may have begun."""
    today = date.today()
    return [today.isoformat(), (today - timedelta(days=1)).isoformat()]


def test_the_plotter_says_what_its_margins_cut(client: TestClient) -> None:
    whole = export_routes(client, "/plot", roll="440", margin="5")
    ((_, data),) = whole.files.items()
    assert page_sizes(data) == [(440, 720)]
    assert "margins cut" not in whole.text
    wide = export_routes(client, "/plot", roll="430", margin="30")
    assert "The margins cut" in wide.text
    assert "off Main map" in wide.text
    across = export_routes(client, "/plot", roll="730")
    assert page_sizes(next(iter(across.files.values()))) == [(730, 430)]
    narrow = export_routes(client, "/plot", roll="250")
    assert narrow.state == "failed"
    assert "wider roll" in narrow.text


def test_a_jam_holds_the_tray_until_it_is_cleared(client: TestClient) -> None:
    jam = client.post(f"{OUT}/jam", data={"jammed": "true"}).text
    assert "The paper has jammed" in jam
    assert 'id="exports" hx-swap-oob' in jam
    number = client.post(f"{OUT}/plot", data={"sheet": "1"}).headers["Orvik-Export"]
    held = ended(client, number)
    assert held.state == "jammed"
    assert not held.files
    # A page without a sheet has no tray that an answer could speak of.
    assert "hx-swap-oob" not in client.get(OUT).text
    # Files are no paper.
    assert export_routes(client).state == "done"
    assert "Ready" in client.post(f"{OUT}/jam", data={"jammed": "false"}).text
    assert ended(client, number).state == "done"


@pytest.mark.parametrize("data", ["gpkg", "csv", "archive"])
def test_data_and_the_whole_project_go_out_as_exports(client: TestClient, data: str) -> None:
    done = export_routes(client, "/data", data=data)
    assert done.state == "done", done.text
    ((name, _),) = done.files.items()
    ending = "-archive.zip" if data == "archive" else f".{data}"
    assert name in {f"Isle-of-Quennet-{day}{ending}" for day in days()}
    assert client.post(f"{OUT}/data", data={"data": "xls"}).status_code == 422


def test_data_go_out_of_a_project_without_a_sheet(empty_project: TestClient) -> None:
    text = empty_project.get("/p/bare/proof").text
    assert "There is no sheet to proof yet" in text
    assert 'hx-post="/p/bare/exports/data"' in text
    assert 'hx-post="/p/bare/exports"' not in text
    assert "Nothing was found" in empty_project.get("/p/bare/proof/notes").text
    assert empty_project.post("/p/bare/exports/data", data={"data": ""}).status_code == 422
    assert empty_project.post("/p/bare/exports", data={"which": "all"}).status_code == 404


@pytest.fixture
def empty_project(tmp_path: Path) -> Iterator[TestClient]:
    """An application with a project in which nothing has been done."""
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8460") as client:
        new = {"name": "Bare", "crs": "EPSG:32628", "publication": "25000", "digitizing": "6250"}
        assert client.post("/new", data=new).status_code == 204
        yield client
