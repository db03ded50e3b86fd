"""The sheet's pages: the page itself, guides, several parts at once, copies, and aiming, as a client asks for them."""

from __future__ import annotations

import html
import io
import json
import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pyproj
import pytest
import shapely
from PIL import Image
from starlette.testclient import TestClient

from orvik.core.ground.crs import project_crs
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Fill, walk
from orvik.core.lettering import FONTS
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.core.sheet.parts.north_arrow.north_angles import norths_of
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.composing import composed
from orvik.web.app import create_app
from orvik.web.sheet import aiming
from tests.web.exports import export_routes

BASE = "/p/isle-of-quennet"
UTM = project_crs("EPSG:32628")
SHEET = f"{BASE}/sheets/1"
SECTION = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 6"><path d="M1 5h7l-3-4z" fill="#369"/></svg>'


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


def kept(demo: Path, sheet: int = 1) -> tuple[Sheet, list[Part]]:
    project = ReadProject.open(demo)
    try:
        return project.sheet(sheet), project.parts(sheet)
    finally:
        project.close()


def numbers(demo: Path, kind: str) -> list[int]:
    return [part.id or 0 for part in kept(demo)[1] if part.kind == kind]


def test_the_page_is_set_by_its_form(client: TestClient, demo: Path) -> None:
    for typed in ({"name": "Harrack Head, west"}, {"left": "20,5"}, {"columns": "3"}, {"colour": "#fffdf0"}):
        assert client.post(f"{SHEET}/page", data=typed).status_code == 200
    sheet, _ = kept(demo)
    assert (sheet.name, sheet.layout.left, sheet.layout.columns) == ("Harrack Head, west", 20.5, 3)
    assert sheet.layout.colour == "#FFFDF0"
    client.post(f"{SHEET}/page", data={"paper": "60 x 40 cm"})
    client.post(f"{SHEET}/page", data={"orientation": "portrait"})
    sheet, _ = kept(demo)
    assert (sheet.width, sheet.height, sheet.paper) == (400, 600, "Custom size")
    for wrong in ({"name": ""}, {"name": "  "}, {"left": "-3"}, {"columns": "2.5"}, {"paper": "A99"}, {"speed": "3"}):
        answer = client.post(f"{SHEET}/page", data=wrong)
        assert answer.status_code in (404, 422), wrong
    assert kept(demo)[0] == sheet


def test_guides_are_laid_moved_and_taken_away(client: TestClient, demo: Path) -> None:
    client.post(f"{SHEET}/guides", data={"axis": "x", "at": "105,25"})
    client.post(f"{SHEET}/guides", data={"axis": "y", "at": "40"})
    assert kept(demo)[0].layout.guides == (("x", 105.25), ("y", 40.0))
    client.post(f"{SHEET}/guides", data={"axis": "x", "at": "110", "before": "105.25"})
    client.post(f"{SHEET}/guides", data={"axis": "y", "at": "", "before": "40"})
    assert kept(demo)[0].layout.guides == (("x", 110.0),)
    ink = client.get(f"{SHEET}/ink").json()
    assert ["x", 110.0] in ink["guides"]
    assert ["x", 110.0] in ink["lines"]
    assert client.post(f"{SHEET}/guides", data={"axis": "z", "at": "3"}).status_code == 422
    assert "Type where" in client.post(f"{SHEET}/guides", data={"axis": "x"}).text


def test_several_parts_are_moved_arranged_grouped_locked_copied_and_removed(client: TestClient, demo: Path) -> None:
    texts = numbers(demo, "text")[:3]
    hand = ",".join(map(str, texts))
    assert "3 parts" in client.get(f"{SHEET}/hand?parts={hand}").text
    places = {n: {"x": 30.0 + 10 * i, "y": 40.0 + 20 * i, "width": 40.0, "height": 6.0} for i, n in enumerate(texts)}
    before = client.get(f"{SHEET}/ink").json()["revision"]
    assert client.post(f"{SHEET}/hand/places", data={"places": json.dumps(places)}).status_code == 204
    assert client.get(f"{SHEET}/ink").json()["revision"] == before + 1
    client.post(f"{SHEET}/hand/arrange", data={"parts": hand, "how": "right"})
    assert len({round(p.x + p.width, 6) for p in kept(demo)[1] if p.id in texts}) == 1
    client.post(f"{SHEET}/hand/group", data={"parts": hand, "on": "true"})
    groups = {p.settings.group for p in kept(demo)[1] if p.id in texts}
    assert len(groups) == 1
    assert groups != {0}
    client.post(f"{SHEET}/hand/order", data={"parts": hand, "how": "back"})
    assert {p.id for p in kept(demo)[1][:3]} == set(texts)
    client.post(f"{SHEET}/hand/lock", data={"parts": hand, "on": "true"})
    assert "locked" in client.post(f"{SHEET}/hand/remove", data={"parts": hand}).text
    client.post(f"{SHEET}/hand/lock", data={"parts": hand, "on": "false"})
    copies = client.post(f"{SHEET}/hand/copies", data={"parts": hand}).headers["Orvik-Parts"]
    assert len(copies.split(",")) == 3
    assert client.post(f"{SHEET}/hand/remove", data={"parts": copies}).status_code == 204
    assert not {p.id for p in kept(demo)[1]} & {int(n) for n in copies.split(",")}
    for wrong in ({"parts": "x"}, {"parts": ""}, {"parts": "999999"}, {"parts": "9" * 30}):
        assert client.post(f"{SHEET}/hand/arrange", data=wrong | {"how": "left"}).status_code in (404, 422)
    assert client.post(f"{SHEET}/hand/places", data={"places": "{]"}).status_code == 422


def test_a_panel_takes_what_lies_on_it_along(client: TestClient, demo: Path) -> None:
    (panel,) = numbers(demo, "map_panel")
    (graticule,) = numbers(demo, "graticule")
    made = client.post(f"{SHEET}/hand/copies", data={"parts": str(panel)}).headers["Orvik-Parts"].split(",")
    copies = {part.kind: part for part in kept(demo)[1] if str(part.id) in made}
    assert isinstance(copies["graticule"].settings, Graticule)
    assert copies["graticule"].settings.panel == copies["map_panel"].id
    assert client.delete(f"{BASE}/parts/{panel}").status_code == 204
    left = {part.id for part in kept(demo)[1]}
    assert not left & {panel, graticule}
    assert {int(n) for n in made} <= left


def test_a_sheet_is_duplicated_to_another_paper(client: TestClient, demo: Path) -> None:
    form = {"name": "{title} {paper}", "paper": "A1", "orientation": "landscape"}
    answer = client.post(f"{SHEET}/duplicate", data=form)
    assert answer.status_code == 204
    number = int(answer.headers["HX-Redirect"].split("=")[-1])
    old, new = kept(demo), kept(demo, number)
    assert (new[0].name, new[0].width) == ("Harrack Head A1", 841)
    assert [p.kind for p in new[1]] == [p.kind for p in old[1]]
    (panel,) = [p for p in new[1] if isinstance(p.settings, MapPanel)]
    spoken = {p.settings.panel for p in new[1] if isinstance(p.settings, PanelPartSettings)}
    assert spoken == {panel.id}
    small = client.post(f"{SHEET}/duplicate", data=form | {"paper": "A5"})
    assert "not all of it fits" in small.text
    assert "“Main map” reaches" in small.text
    assert "already" in client.post(f"{SHEET}/duplicate", data=form).text


def test_a_sheet_is_made_smaller_as_a_whole(client: TestClient, demo: Path) -> None:
    answer = client.post(f"{SHEET}/reduce", data={"name": "Small", "per_cent": "25 %"})
    # Figures of less than a millimetre cannot be, which is said.
    assert "Figure size of “Scale bar” stays at 1; it would be 0.688." in answer.text
    number = int(answer.text.split("sheet?sheet=")[1].split('"')[0])
    sheet, parts = kept(demo, number)
    assert (sheet.width, sheet.height) == (180, 107.5)
    (panel,) = [p.settings for p in parts if isinstance(p.settings, MapPanel)]
    assert (panel.scale, panel.symbol_scale) == (100_000, 0.25)
    for wrong in ("", "none", "0", "5000"):
        assert client.post(f"{SHEET}/reduce", data={"name": "x", "per_cent": wrong}).status_code == 422


def test_what_shows_no_ground_is_not_aimed(client: TestClient, demo: Path) -> None:
    """Every route that aims, with every part of the demo's sheet that is not a panel."""
    routes = [(method, route.path) for route in aiming.router.routes for method in route.methods]  # type: ignore[attr-defined]
    assert len(routes) >= 10
    typed = {"view": "1", "x": "512000", "y": "6801000", "denominator": "12500", "keys": '[["areas", 1]]', "name": "N"}
    before = kept(demo)
    for part in before[1]:
        if not isinstance(part.settings, MapPanel):
            for method, path in routes:
                url = path.format(slug="isle-of-quennet", part_id=part.id)
                answer = client.request(method, url, data=typed if method == "POST" else None)
                assert answer.status_code == 422, (part.kind, method, path)
                assert "shows no ground" in answer.text
    assert kept(demo) == before


def test_a_panel_is_aimed(client: TestClient, demo: Path) -> None:
    (panel,) = numbers(demo, "map_panel")
    url = f"{BASE}/parts/{panel}"

    def settings() -> MapPanel:
        found = next(p.settings for p in kept(demo)[1] if p.id == panel)
        assert isinstance(found, MapPanel)
        return found

    assert "Whole of the island" in client.get(f"{url}/aim").text
    assert (
        client.post(f"{url}/aim", data={"scale": "1:10 000", "east": "513 000", "north": "6 802 000"}).status_code
        == 200
    )
    assert (settings().scale, settings().centre) == (10_000, (513_000, 6_802_000))
    client.post(f"{url}/aim/border", data={})
    assert settings().scale == 25_000
    client.post(f"{url}/aim/working", data={"x": "512000", "y": "6801000", "denominator": "12500"})
    assert (settings().scale, settings().centre) == (12_500, (512_000, 6_801_000))
    client.post(f"{url}/aim/hand", data={"keys": '[["areas", 1]]'})
    assert settings().scale < 25_000
    for wrong in ('[["areas", 99999]]', "[]", "", "nonsense", '[["cats", 1]]'):
        assert client.post(f"{url}/aim/hand", data={"keys": wrong}).status_code == 422
    client.post(f"{url}/aim", data={"rotation": "12"})
    client.post(f"{url}/aim", data={"system": "EPSG:3057"})
    # A view that is kept now has this system; it is come back to from any other.
    client.post(f"{url}/aim/keep", data={"name": "From Iceland"})
    there = settings().centre
    assert (settings().rotation, settings().system) == (12, "EPSG:3057")
    # Over the same ground, and back again.
    client.post(f"{url}/aim", data={"system": "EPSG:32628"})
    assert settings().system == ""
    project = ReadProject.open(demo)
    view = next(v for v in project.views() if v.name == "From Iceland")
    project.close()
    assert (view.crs, (view.x, view.y)) == ("EPSG:3057", there)
    before = settings().centre
    client.post(f"{url}/aim", data={"east": "500 000", "north": "6 800 000"})
    client.post(f"{url}/aim/view", data={"view": str(view.id)})
    assert settings().centre == pytest.approx(before, abs=0.01)
    refused = ({"scale": "1:1"}, {"scale": ""}, {"system": "EPSG:4326"}, {"system": "moon"}, {"rotation": "x"})
    for wrong_values in refused:
        before = settings()
        answer = client.post(f"{url}/aim", data=wrong_values)
        assert answer.status_code == 422, wrong_values
        assert settings() == before
    assert "EPSG" in client.get(f"{url}/systems").text or "Lambert" in client.get(f"{url}/systems").text
    title = numbers(demo, "title")[0]
    assert client.get(f"{BASE}/parts/{title}/aim").status_code == 422


def test_a_resize_shows_more_ground_at_the_same_scale(client: TestClient, demo: Path) -> None:
    (panel,) = numbers(demo, "map_panel")
    old = next(p for p in kept(demo)[1] if p.id == panel)
    assert isinstance(old.settings, MapPanel)
    client.post(f"{BASE}/parts/{panel}", data={"width": f"{old.width - 40:.3f}"})
    new = next(p for p in kept(demo)[1] if p.id == panel)
    assert isinstance(new.settings, MapPanel)
    assert new.settings.scale == old.settings.scale
    # What was at the left edge is there still: the middle moved by 20 mm of ground.
    assert new.settings.centre[0] == pytest.approx(old.settings.centre[0] - 20 * 25)
    client.post(f"{BASE}/parts/{panel}", data={"scale_locked": "false"})
    client.post(f"{BASE}/parts/{panel}", data={"width": f"{new.width / 2:.3f}"})
    half = next(p.settings for p in kept(demo)[1] if p.id == panel)
    assert isinstance(half, MapPanel)
    assert half.scale == pytest.approx(50_000, rel=1e-3)


def keys_of(client: TestClient) -> dict[int, str]:
    """Of each part the key of its ink."""
    return {part["id"]: part["key"] for part in client.get(f"{SHEET}/ink").json()["parts"]}


def test_only_what_has_changed_is_drawn_anew(client: TestClient, demo: Path) -> None:
    kinds = {part.id: part.kind for part in kept(demo)[1]}

    def changed(path: str, data: dict[str, str]) -> list[int]:
        before = keys_of(client)
        assert client.post(f"{BASE}/{path}", data=data).status_code in (200, 204)
        return [number for number, key in keys_of(client).items() if key != before[number]]

    (title,), (panel,) = numbers(demo, "title"), numbers(demo, "map_panel")
    assert changed(f"parts/{title}", {"text": "Another title"}) == [title]
    # What is only moved is the same ink somewhere else, but for what keeps to the page's edges.
    assert changed(f"parts/{title}", {"x": "31"}) == []
    assert {kinds[n] for n in changed(f"parts/{panel}", {"x": "20"})} >= {"graticule"}
    assert panel not in changed(f"parts/{panel}", {"y": "31"})
    # What shows the panel's ground or speaks of it goes along; what does not, stays.
    of_panel = {p.kind for p in kept(demo)[1] if isinstance(p.settings, MapPanel | PanelPartSettings)}
    scaled = {kinds[number] for number in changed(f"parts/{panel}", {"scale": "1:30 000"})}
    assert {"map_panel", "graticule", "explanation", "scale_bar", "north_arrow", "section"} <= of_panel
    assert scaled - {"text"} == of_panel
    unit = {"code": "Zz", "name": "Zz", "colour": "#123456"}
    assert len(changed("units", unit)) == len(kinds)


def test_parts_are_drawn_from_their_own_corner(client: TestClient, demo: Path) -> None:
    (title,), (panel,) = numbers(demo, "title"), numbers(demo, "map_panel")

    def drawn() -> tuple[str, bytes]:
        words = client.get(f"{SHEET}/drawn?parts={title},,x,999").json()
        assert list(words) == [str(title)]
        return words[str(title)], client.get(f"{BASE}/parts/{panel}/panel-ink?lettered=false").content

    before = drawn()
    for number in (title, panel):
        client.post(f"{BASE}/parts/{number}", data={"x": "40", "y": "33"})
    after = drawn()
    assert after[0] == before[0]
    # But for the revision that it states.
    assert len(after[1]) == len(before[1])
    assert client.get(f"{BASE}/parts/{title}/panel-ink").status_code == 404


def test_a_part_is_given_a_file(client: TestClient, demo: Path) -> None:
    number = client.post(f"{SHEET}/parts", data={"kind": "picture"}).headers["Orvik-Part"]
    url = f"{BASE}/parts/{number}"
    assert "Choose a picture" in client.get(f"{SHEET}/drawn?parts={number}").json()[number]
    png = io.BytesIO()
    Image.new("RGB", (30, 20), "#336699").save(png, "PNG")
    for name, data in (("section.png", png.getvalue()), ("section.svg", SECTION)):
        answer = client.post(f"{url}/files/file", files={"file": (f"C:\\maps\\{name}", data)})
        assert answer.status_code == 200
        assert name in answer.text
    drawn = client.get(f"{SHEET}/drawn?parts={number}").json()[number]
    assert "#336699" in drawn
    assert "<image" not in drawn
    # What is not a picture changes nothing, and neither does a setting that takes none.
    before = client.get(f"{SHEET}/ink").json()["revision"]
    assert client.post(f"{url}/files/file", files={"file": ("a.png", b"no")}).status_code == 422
    assert client.post(f"{url}/files/name", files={"file": ("a.svg", SECTION)}).status_code == 404
    assert client.post(url, data={"file": "../../etc/passwd"}).status_code == 422
    assert client.get(f"{SHEET}/ink").json()["revision"] == before
    # A checksum that the project does not have: said on the page, and in words in print.
    client.post(url, data={"file": "0" * 64})
    assert "again.<" in client.get(f"{SHEET}/drawn?parts={number}").json()[number]


def test_an_arrow_of_ones_own_turns_with_its_panel(client: TestClient, demo: Path) -> None:
    (arrow,), (panel,) = numbers(demo, "north_arrow"), numbers(demo, "map_panel")
    answer = client.post(f"{BASE}/parts/{arrow}/files/file", files={"file": ("arrow.svg", SECTION)})
    assert 'value="own" selected' in answer.text
    places = []
    for turned in ("0", "30"):
        client.post(f"{BASE}/parts/{panel}", data={"rotation": turned})
        project = ReadProject.open(demo)
        group = next(g for g in composed(project, 1).groups if g.name == f"part-{arrow}")
        project.close()
        (fill,) = (i for i in walk(group.items) if isinstance(i, Fill) and i.colour == "#336699")
        places.append(fill.paths.xy)
    one, other = (xy - xy.mean(axis=0) for xy in places)
    cos, sin = np.cos(np.radians(30)), np.sin(np.radians(30))
    np.testing.assert_allclose(other, one @ np.array([[cos, sin], [-sin, cos]]), atol=1e-9)


def test_a_selected_line_is_stood_upright(client: TestClient, demo: Path) -> None:
    """Its ends lie one above the other on the page, and true north stands off by its azimuth, by PROJ's geodesic."""
    (panel,) = numbers(demo, "map_panel")
    project = ReadProject.open(demo)
    lines = project.all_features()["lines"]
    faults = [i for i, kind in enumerate(lines.columns["kind"]) if "fault" in kind]
    number = int(lines.ids[max(faults, key=lambda i: lines.geometries[i].length)])
    xy = shapely.get_coordinates(project.whole("lines", [number])[number].geometry)[[0, -1]]
    project.close()
    url = f"{BASE}/parts/{panel}/aim/upright"
    assert client.post(url, data={"keys": json.dumps([["points", 1]])}).status_code == 422
    assert client.post(url, data={"keys": json.dumps([["areas", 1], ["lines", number]])}).status_code == 200
    part = next(part for part in kept(demo)[1] if part.id == panel)
    shown = panel_of(part, UTM, None)
    ends = np.column_stack(pyproj.Transformer.from_crs(UTM.text, shown.crs.text, always_xy=True).transform(*xy.T))
    page = apply(shown.to_page, ends)
    assert abs(page[0, 0] - page[1, 0]) < 0.05
    longitude, latitude = UTM.to_geographic(xy[:, 0], xy[:, 1])
    low, high = np.argsort(latitude)
    azimuth, _, _ = pyproj.Geod(ellps="WGS84").inv(longitude[low], latitude[low], longitude[high], latitude[high])
    assert norths_of(shown, None).true == pytest.approx(-azimuth, abs=0.2)


def test_texts_follow_the_styles_of_their_sheet(client: TestClient, demo: Path) -> None:
    (title,) = numbers(demo, "title")
    other = numbers(demo, "text")[-1]

    def drawn(number: int) -> str:
        return client.get(f"{SHEET}/drawn?parts={number}").json()[str(number)]

    client.post(f"{BASE}/parts/{title}", data={"size": "6.4"})
    assert 'font-size="6.4"' in drawn(title)
    client.post(f"{BASE}/parts/{title}", data={"set_as": "title"})
    before = keys_of(client)
    client.post(f"{SHEET}/page", data={"title_size": "9"})
    client.post(f"{SHEET}/page", data={"title_face": "capitals"})
    client.post(f"{SHEET}/page", data={"title_colour": "#c2431f"})
    assert [n for n in (title, numbers(demo, "scale_bar")[0]) if keys_of(client)[n] != before[n]] == [title]
    for said in ('font-size="9"', 'font-family="Spectral SC"', 'fill="#C2431F"'):
        assert said in drawn(title)
        assert said not in drawn(other)
    # A font file of the sheet: sent, served, set, and gone again without a gap in the page.
    font = (FONTS / "Companion-Italic.ttf").read_bytes()
    answer = client.post(f"{SHEET}/font", files={"file": ("House.ttf", font)})
    assert "House.ttf" in answer.text
    checksum = client.get(f"{SHEET}/ink").json()["font"]
    served = client.get(f"{BASE}/fonts/{checksum}.ttf")
    assert served.content[:4] == b"\x00\x01\x00\x00"
    assert client.get(f"{BASE}/fonts/{'0' * 64}.ttf").status_code == 404
    client.post(f"{SHEET}/page", data={"title_face": "own"})
    assert f'font-family="own-{checksum}"' in drawn(title)
    (pdf,) = export_routes(client).files.values()
    assert b"OrvikCompanion-Italic" in pdf
    client.post(f"{SHEET}/page", data={"font": ""})
    assert 'font-family="Spectral"' in drawn(title)
    assert client.post(f"{SHEET}/font", files={"file": ("a.ttf", b"no")}).status_code == 422
    assert client.post(f"{SHEET}/page", data={"title_face": "wide"}).status_code == 422


def test_what_has_a_colour_of_the_palette_goes_along_with_it(client: TestClient, demo: Path) -> None:
    palette = kept(demo)[0].layout.palette
    panel = next(p for p in kept(demo)[1] if p.kind == "map_panel")
    client.post(f"{BASE}/parts/{panel.id}", data={"ground_colour": palette[3]})
    client.post(f"{SHEET}/palette", data={"before": palette[3], "colour": "#cfe3f0"})
    sheet, parts = kept(demo)
    assert sheet.layout.palette == (*palette[:3], "#CFE3F0", *palette[4:])
    assert next(p for p in parts if p.id == panel.id).settings.ground_colour == "#CFE3F0"
    # Taken away, what has it keeps it.
    client.post(f"{SHEET}/palette", data={"before": "#CFE3F0"})
    sheet, parts = kept(demo)
    assert "#CFE3F0" not in sheet.layout.palette
    assert next(p for p in parts if p.id == panel.id).settings.ground_colour == "#CFE3F0"
    client.post(f"{SHEET}/palette", data={"colour": "#404040"})
    assert kept(demo)[0].layout.palette[-1] == "#404040"
    for wrong in ({"before": "#123456", "colour": "#654321"}, {"colour": "red"}):
        assert client.post(f"{SHEET}/palette", data=wrong).status_code == 422
    for grey in range(11):
        client.post(f"{SHEET}/palette", data={"colour": f"#{grey:02X}0000"})
    assert len(kept(demo)[0].layout.palette) == 12


def test_frames_are_put_on_and_taken_off_all_parts_at_once(client: TestClient, demo: Path) -> None:
    client.post(f"{SHEET}/frames", data={"on": "true"})
    others = [p for p in kept(demo)[1] if p.kind not in ("map_panel", "graticule")]
    assert all(p.settings.frame > 0 and p.settings.padding >= 2 for p in others)
    client.post(f"{SHEET}/frames", data={"on": "false"})
    framed = [p.kind for p in kept(demo)[1] if p.settings.frame]
    assert framed == ["map_panel"]


def test_map_first_is_shown_before_it_is_taken(client: TestClient, demo: Path) -> None:
    (panel,) = numbers(demo, "map_panel")
    url = f"{BASE}/parts/{panel}"
    client.post(url, data={"width": "100"})
    before = next(p for p in kept(demo)[1] if p.id == panel)
    assert "Apply" in client.get(f"{url}/most-room").text
    assert next(p for p in kept(demo)[1] if p.id == panel) == before
    client.post(f"{url}/most-room")
    after = next(p for p in kept(demo)[1] if p.id == panel)
    assert after.width * after.height > 2 * before.width * before.height
    assert isinstance(before.settings, MapPanel)
    assert isinstance(after.settings, MapPanel)
    assert after.settings.scale == before.settings.scale
    assert "no more room" in client.get(f"{url}/most-room").text


def test_a_template_is_changed_and_the_sheets_of_the_series_are_offered_it(client: TestClient, demo: Path) -> None:
    sheet, _ = kept(demo)
    assert "follows House" in client.post(f"{SHEET}/template", data={"name": "House", "for_all": "true"}).text
    form = {"name": "Sule", "paper": "own", "own_size": f"{sheet.width:g} x {sheet.height:g}", "template": "all-house"}
    answer = client.post(f"{BASE}/sheets", data=form)
    number = int(re.findall(r"sheet=([0-9]+)", answer.headers.get("HX-Redirect", "") + answer.text)[0])
    other = f"{BASE}/sheets/{number}"
    assert "has changed" not in client.get(f"{other}/page").text
    (title,) = numbers(demo, "title")
    client.post(f"{BASE}/parts/{title}", data={"size": "12"})
    form = {"name": "House", "for_all": "true"}
    assert client.post(f"{SHEET}/template", data=form).status_code == 422
    answer = client.post(f"{SHEET}/template", data=form | {"instead": "true"})
    assert "Sule (Isle of Quennet) is offered the change." in answer.text
    slip = client.get(f"{other}/page").text
    assert "has changed" in slip
    assert "1 part would go along" in slip
    assert "has changed" not in client.post(f"{other}/follow").text
    (mine,) = [p for p in kept(demo, number)[1] if p.kind == "title"]
    assert mine.settings.to_dict()["size"] == 12
    assert "follows House" not in client.post(f"{other}/follow", data={"on": "false"}).text


def test_boxes_of_a_correlation_are_moved(client: TestClient, demo: Path) -> None:
    (number,) = numbers(demo, "correlation")
    url = f"{BASE}/parts/{number}/boxes"
    found = json.loads(html.unescape(re.findall(r'data-boxes="([^"]*)"', client.get(url).text)[0]))
    box = max(found, key=lambda one: one["height"])
    form = {"code": box["key"], "right": "0", "down": "-6", "hold": "older"}
    answer = client.post(f"{url}/drag", data=form)
    assert "moved" in answer.text
    assert "Drawn from" in answer.text
    assert client.post(f"{url}/drag", data=form | {"down": "inf"}).status_code == 422
    assert client.post(f"{url}/drag", data=form | {"hold": "side"}).status_code == 404
    answer = client.post(f"{url}/change", data={"code": box["key"], "older": "1e9"})
    assert answer.status_code == 422
    assert "type ages within that" in answer.text
    assert "moved" not in client.post(f"{url}/reset", data={"code": box["key"]}).text
