"""Pages as a client sees them."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator
from datetime import date
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from skimage.color import deltaE_ciede2000, rgb2lab

from orvik.core.errors import FeatureRefused
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts import PART_KINDS
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.read_project import ReadProject
from orvik.usecases.export.archive import write_archive
from orvik.web.app import create_app
from orvik.web.live.hand import MOST_SELECTED, refuse_many
from tests.web.exports import export_routes

NEW = {"name": "Outer Stills", "crs": "EPSG:32628", "publication": "1:25 000", "digitizing": "1:6 250"}
BORDER = {"corners": "grid", "west": "510 000", "south": "6 800 000", "east": "515 000", "north": "6 804 000"}


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def make(client: TestClient, **changes: str) -> object:
    return client.post("/new", data=NEW | BORDER | changes)


@pytest.mark.parametrize("stage", ["ground", "compile", "symbols", "sheet", "proof"])
def test_every_stage_opens(client: TestClient, stage: str) -> None:
    text = client.get(f"/p/isle-of-quennet/{stage}").text
    assert "Isle of Quennet" in text
    assert 'aria-current="page"' in text


def test_home_shows_projects_and_troubles(client: TestClient, demo: Path) -> None:
    (demo.parent / "broken.gpkg").write_text("not a project")
    text = client.get("/").text
    assert "Isle of Quennet" in text
    assert "broken.gpkg" in text
    thumbnail = client.get("/p/isle-of-quennet/sheets/1/thumbnail.png")
    assert Image.open(io.BytesIO(thumbnail.content)).size[0] > 300


def test_the_demo_that_an_empty_projects_offers_is_there(client: TestClient, demo: Path) -> None:
    text = client.get("/").text
    assert "Isle of Quennet" in text
    assert "Make the demo project" not in text
    # Asked for once more, it is left as it is.
    before = demo.read_bytes()
    assert client.post("/demo").headers["HX-Redirect"] == "/p/isle-of-quennet/compile"
    assert demo.read_bytes() == before


def test_a_project_is_made(client: TestClient, demo: Path) -> None:
    answer = make(client)
    assert answer.headers["HX-Redirect"] == "/p/outer-stills/ground"  # type: ignore[attr-defined]
    project = ReadProject.open(demo.parent / "outer-stills.gpkg")
    border = project.border()
    assert border is not None
    assert border.bounds == (510_000, 6_800_000, 515_000, 6_804_000)
    assert (project.scales.publication, project.scales.digitizing) == (25_000, 6_250)
    project.close()


@pytest.mark.parametrize(
    ("changes", "where", "why"),
    [
        ({"crs": "EPSG:4326"}, "crs", "degrees"),
        ({"crs": ""}, "crs", "No coordinate system"),
        ({"crs": "EPSG:123456"}, "crs", "not a coordinate system"),
        ({"digitizing": "1:10 000"}, "scale", "too coarse"),
        ({"publication": "big"}, "scale", "not a scale"),
        ({"name": "  "}, "name", "needs a name"),
        ({"west": "-14.8", "south": "61.3", "east": "-14.7", "north": "61.4"}, "border", "look like degrees"),
        ({"north": ""}, "border", "all four"),
        ({"south": "-61"}, "border", "no page is longer"),
        ({"north": "abc"}, "border", "is not a"),
        ({"name": "Isle of Quennet"}, "name", "already"),
    ],
)
def test_bad_projects_are_refused_where_it_matters(
    client: TestClient, demo: Path, changes: dict[str, str], where: str, why: str
) -> None:
    before = sorted(p.name for p in demo.parent.iterdir() if p.suffix == ".gpkg")
    answer = client.post("/new", data=NEW | BORDER | changes)
    assert answer.status_code == 422
    assert answer.headers["Orvik-Where"] == where
    assert why in answer.text
    assert sorted(p.name for p in demo.parent.iterdir() if p.suffix == ".gpkg") == before


def test_geographic_border(client: TestClient, demo: Path) -> None:
    make(client, corners="geographic", west="14°50' W", south="61°20' N", east="14°40' W", north="61°23' N")
    project = ReadProject.open(demo.parent / "outer-stills.gpkg")
    border = project.border()
    assert border is not None
    longitude, latitude = project.crs.to_geographic(*np.array(border.coords)[0])
    assert (float(longitude), float(latitude)) == pytest.approx((-14 - 50 / 60, 61 + 20 / 60))
    project.close()


def test_digitizing_scale_is_proposed(client: TestClient) -> None:
    assert "1:12\u2009500" in client.get("/digitizing", params={"publication": "1:50 000"}).text


def test_slip_changes_a_feature(client: TestClient) -> None:
    point = "/p/isle-of-quennet/slip/points/20"
    text = client.get(point).text
    revision = text.split('name="revision" value="')[1].split('"')[0]
    for path in (point, "/p/isle-of-quennet/slip/points/60"):
        if "Strike / dip" in client.get(path).text:
            point = path
    values = {"revision": revision, "certainty": "certain", "reading": "5 66", "note": "by the spring"}
    answer = client.post(point, data=values)
    assert "005/66" in answer.text
    assert "dips 66 to the east" in answer.text
    assert client.post(point, data=values | {"reading": "400/20"}).status_code == 422
    assert "005/66" in client.get(point).text


def test_stale_changes_are_refused(client: TestClient) -> None:
    path = "/p/isle-of-quennet/slip/lines/2"
    values = {"revision": "4", "certainty": "inferred", "note": ""}
    kind = client.get(path).text
    assert "lines" in kind
    revision = kind.split('name="revision" value="')[1].split('"')[0]
    assert client.post(path, data=values | {"revision": revision}).status_code == 200
    answer = client.post(path, data=values | {"revision": revision, "certainty": "certain"})
    assert answer.status_code == 409
    assert "another window" in answer.text


def test_units_are_added_changed_moved_and_guarded(client: TestClient, demo: Path) -> None:
    base = "/p/isle-of-quennet/units"
    assert (
        client.post(base, data={"code": "Td", "name": "Dolerite", "age": "Paleogene", "colour": "#2E7D4F"}).status_code
        == 200
    )
    assert client.post(base, data={"code": "Td", "name": "Again", "colour": "#2E7D4F"}).status_code == 422
    assert client.post(base, data={"code": "", "name": "", "colour": "#2E7D4F"}).status_code == 422
    client.post(f"{base}/8/move/-1")
    answer = client.post(f"{base}/7", data={"code": "pCq", "name": "Quennet Gneiss", "age": "", "colour": "#D59E90"})
    assert answer.status_code == 200
    project = ReadProject.open(demo)
    assert [u.code for _, u in project.units()] == ["Qal", "Qt", "Kp", "Kw", "Jh", "Jc", "Td", "pCq"]
    assert project.unit_use("pCq") > 0
    assert project.unit_use("pCg") == 0
    project.close()
    assert "belong to pCq" in client.delete(f"{base}/7").text
    assert client.delete(f"{base}/8").status_code == 200


def test_parts_by_figures(client: TestClient) -> None:
    part = "/p/isle-of-quennet/parts/1"
    assert 'value="20.50"' in client.post(part, data={"x": "20.5"}).text
    answer = client.post(part, data={"width": "wide"})
    assert answer.status_code == 422
    assert "not a length in millimetres" in answer.text
    assert client.post(part, data={"width": "0"}).status_code == 422
    assert client.post(part, data={"scale": "0"}).status_code == 422
    client.post(part, data={"locked": "true"})
    assert "locked" in client.post(part, data={"x": "30"}).text
    assert "locked" in client.delete(part).text
    assert 'value="20.50"' in client.get(part).text


def test_every_kind_of_part_can_be_placed(client: TestClient) -> None:
    before = len(client.get("/p/isle-of-quennet/sheets/1/ink").json()["parts"])
    for kind in PART_KINDS:
        answer = client.post("/p/isle-of-quennet/sheets/1/parts", data={"kind": kind})
        assert answer.status_code == 204
        assert client.get(f"/p/isle-of-quennet/parts/{answer.headers['Orvik-Part']}").status_code == 200
    ink = client.get("/p/isle-of-quennet/sheets/1/ink").json()
    assert len(ink["parts"]) == before + len(PART_KINDS)
    others = [str(part["id"]) for part in ink["parts"] if not part["panel"]]
    drawn = client.get(f"/p/isle-of-quennet/sheets/1/drawn?parts={','.join(others)}").json()
    assert all(drawn[number] for number in others)


def test_a_second_sheet_or_what_paper_would_hold_it(client: TestClient) -> None:
    answer = client.post("/p/isle-of-quennet/sheets", data={"name": "Small", "paper": "A4"})
    assert answer.status_code == 422
    assert "A3 landscape would hold it" in answer.text
    answer = client.post("/p/isle-of-quennet/sheets", data={"name": "Large", "paper": "A2", "orientation": "portrait"})
    assert answer.headers["HX-Redirect"].endswith("sheet=4")
    assert client.post("/p/isle-of-quennet/sheets", data={"name": "Large", "paper": "A2"}).status_code == 422


def test_ways_out(client: TestClient) -> None:
    ((name, pdf),) = export_routes(client).files.items()
    assert pdf.startswith(b"%PDF-")
    assert name == f"Harrack-Head-{date.today().isoformat()}.pdf"
    (png,) = export_routes(client, ending="png", dpi="100").files.values()
    assert Image.open(io.BytesIO(png)).size == (math.ceil(720 / 0.254), math.ceil(430 / 0.254))
    assert (
        client.post("/p/isle-of-quennet/exports", data={"sheet": "1", "ending": "png", "dpi": "5"}).status_code == 422
    )


def test_underlays_by_upload(client: TestClient, demo: Path) -> None:
    picture = io.BytesIO()
    Image.new("RGB", (100, 80), (200, 30, 30)).save(picture, "PNG")
    world = b"10\n0\n0\n-10\n513000\n6803000\n"
    url = "/p/isle-of-quennet/underlays"
    files = [("files", ("scan.png", picture.getvalue())), ("files", ("scan.pgw", world))]
    assert "scan" in client.post(url, files=files).text
    window = {
        "west": 513_100,
        "south": 6_802_500,
        "east": 513_500,
        "north": 6_802_800,
        "width": 40,
        "height": 30,
    }
    view = Image.open(io.BytesIO(client.get(f"{url}/7.png", params=window).content)).convert("RGB")
    assert view.getpixel((20, 15)) == (200, 30, 30)
    far = window | {"west": 0, "east": 400}
    assert client.get(f"{url}/7.png", params=far).status_code == 204
    assert client.get(f"{url}/7.png", params=window | {"width": 99_999}).status_code == 422
    for bad in (
        [("files", ("a.pgw", world))],
        [("files", ("x.png", b"broken")), ("files", ("x.pgw", world))],
    ):
        answer = client.post(url, files=bad)
        assert answer.status_code == 422
        assert answer.headers["Orvik-Where"] == "file"
    project = ReadProject.open(demo)
    assert len(project.sources()) == 7
    project.close()
    assert "scan" not in client.delete(f"{url}/7").text


def test_stack_is_kept(client: TestClient) -> None:
    url = "/p/isle-of-quennet/stack/units"
    assert 'value="40"' in client.post(url, data={"opacity": "40"}).text
    assert 'aria-pressed="false" aria-label="Show Units"' in client.post(url, data={"shown": "false"}).text
    assert client.post("/p/isle-of-quennet/stack/nothing", data={"shown": "false"}).status_code == 404


def test_border_and_scales_can_be_changed_and_undone(client: TestClient, demo: Path) -> None:
    values = BORDER | {"west": "511 000"}
    assert "160.0" in client.post("/p/isle-of-quennet/border", data=values).text
    assert (
        client.post("/p/isle-of-quennet/scales", data={"publication": "50000", "digitizing": "20000"}).status_code
        == 422
    )
    assert (
        client.post("/p/isle-of-quennet/scales", data={"publication": "50000", "digitizing": "12500"}).status_code
        == 204
    )
    project = ReadProject.open(demo)
    assert project.scales.publication == 50_000
    assert len(project.border_ids()) == 1
    project.close()


def test_a_new_unit_has_a_colour_of_its_own(client: TestClient) -> None:
    """Units made one after the other without choosing a colour can be told apart (CIEDE2000 above 5; ours)."""
    colours = []
    for code in ("Aa", "Bb", "Cc", "Dd", "Ee", "Ff"):
        form = client.get("/p/isle-of-quennet/units/new").text
        found = re.search(r'name="colour"\s+value="(#[0-9A-F]{6})"', form)
        assert found is not None
        colours.append(found[1])
        client.post("/p/isle-of-quennet/units", data={"code": code, "name": code, "colour": found[1]})
    labs = [rgb2lab(np.array([[[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)]]])) for c in colours]
    assert min(float(deltaE_ciede2000(a, b)[0, 0]) for a, b in combinations(labs, 2)) > 5


def test_a_scale_and_a_opacity_sent_at_once_are_both_kept(client: TestClient, demo: Path) -> None:
    client.post("/p/isle-of-quennet/parts/1", data={"scale": "1:30 000", "layer": "units", "opacity": "40"})
    project = ReadProject.open(demo)
    panel = project.part(1).settings
    project.close()
    assert isinstance(panel, MapPanel)
    assert (panel.scale, panel.layers["units"]) == (30_000, 0.4)
    title = next(part.id for part in project_parts(demo) if part.kind == "title")
    answer = client.post(f"/p/isle-of-quennet/parts/{title}", data={"layer": "units", "opacity": "40"})
    assert answer.status_code == 422
    assert "has no layers" in answer.text


def project_parts(demo: Path) -> list[Part]:
    project = ReadProject.open(demo)
    try:
        return project.parts(1)
    finally:
        project.close()


def test_an_own_size_is_taken_or_asked_about(client: TestClient, demo: Path) -> None:
    form = {"name": "Wide", "paper": "own", "own_size": "60 x 50 cm", "orientation": "landscape"}
    told = client.post("/p/isle-of-quennet/sheets", data=form | {"paper": "A3"})
    assert told.status_code == 422
    assert "Choose “custom size” for 60 x 50 cm" in told.text
    assert client.post("/p/isle-of-quennet/sheets", data=form).status_code == 204
    project = ReadProject.open(demo)
    made = next(sheet for sheet in project.sheets() if sheet.name == "Wide")
    project.close()
    assert (made.width, made.height, made.paper) == (600, 500, "Custom size")


def test_an_archive_is_taken_over_on_home(corner: Path, tmp_path: Path) -> None:
    """Also one whose file has a name that no address holds; a second time, or something else, is refused in words."""
    odd = corner.with_name("50% of it? #2.gpkg")
    corner.rename(odd)
    corner.with_suffix(".files").rename(odd.with_suffix(".files"))
    write_archive(odd, tmp_path / "odd.zip", "2026-07-02")
    with TestClient(create_app(tmp_path / "projects"), base_url="http://127.0.0.1:8460") as client:
        home = client.get("/").text
        assert "/take-over" in home
        packed = (tmp_path / "odd.zip").read_bytes()
        answer = client.post("/take-over", files={"file": ("odd.zip", packed)})
        assert answer.headers["HX-Redirect"] == "/p/50-of-it-2/compile"
        assert client.get("/p/50-of-it-2/compile").status_code == 200
        # Its pictures are there, under their new name.
        assert list((tmp_path / "projects" / "50-of-it-2.files").iterdir())
        assert "already" in client.post("/take-over", files={"file": ("odd.zip", packed)}).text
        assert "cannot be read" in client.post("/take-over", files={"file": ("a.zip", b"PK nothing")}).text
        # As a browser sends a form in which nothing is chosen.
        empty = b'--x\r\nContent-Disposition: form-data; name="file"; filename=""\r\n\r\n\r\n--x--\r\n'
        headers = {"Content-Type": "multipart/form-data; boundary=x"}
        assert "Choose a file" in client.post("/take-over", content=empty, headers=headers).text
        assert sorted(p.name for p in (tmp_path / "projects").glob("*.gpkg")) == ["50-of-it-2.gpkg"]
    with TestClient(create_app(odd.parent), base_url="http://127.0.0.1:8460") as client:
        assert "rename it" in client.get("/").text


def test_no_more_rows_are_selected_than_can_be_shown(client: TestClient) -> None:
    """The table says so where it is asked for the features of more rows; the map is not sent them."""
    shown = client.get("/p/isle-of-quennet/table/points").text
    listing = re.findall(r'data-listing="(\d+)"', shown)[0]
    ids = client.get(f"/p/isle-of-quennet/table/points/ids?listing={listing}&first=0&last=9").json()
    assert len(ids) == 10
    assert client.get(f"/p/isle-of-quennet/table/lines/ids?listing={listing}").status_code == 404
    refuse_many(MOST_SELECTED)
    with pytest.raises(FeatureRefused, match="select at most 500"):
        refuse_many(MOST_SELECTED + 1)
