"""The live connection as a page uses it."""

from __future__ import annotations

import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.errors import OWN_FAULT
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.web.pages import Page

LINE = {"table": "lines", "id": 2}


def reopened(project: Project) -> Project:
    return ReadProject.open(project.path)


def test_a_contact_shares_the_exact_end_of_another(page: Page, project: Project) -> None:
    page.ask("pen", name="contact-approximate")
    ring = page.ask("hover", x=512_004.0, y=6_802_496.0)
    assert ring["held"]["label"] == "end of contact 2"
    page.press(512_004.0, 6_802_496.0)
    page.press(512_600.0, 6_802_900.0)
    assert page.ask("finish")["kept"] == 3
    assert page.notices[-1]["revision"] == 3
    assert len(page.inks) == 1
    kept = reopened(project).feature("lines", 3)
    assert kept.geometry.coords[0] == (512_000.0, 6_802_500.0)
    assert (kept.certainty, kept.capture_scale) == ("approximate", 6250)


def test_ring_settings_and_switches(page: Page) -> None:
    assert page.ask("snap", radius=1, unit="mm", vertex=True, edge=True, end=True)["words"] == "= 25 m"
    page.ask("pen", name="contact-certain")
    assert page.ask("hover", x=512_020.0, y=6_802_500.0)["held"]["what"] == "end"
    page.ask("snap", radius=15, unit="m", vertex=True, edge=True, end=True)
    assert "held" not in page.ask("hover", x=512_020.0, y=6_802_500.0)
    page.ask("snap", radius=15, unit="m", vertex=False, edge=True, end=False)
    assert page.ask("hover", x=512_000.0, y=6_802_495.0)["held"]["what"] == "edge"
    assert "held" not in page.ask("hover", x=512_000.0, y=6_802_495.0, free=True)
    for radius in (0, -5, 1e9):
        assert "radius" in page.ask("snap", radius=radius, unit="m", vertex=True, edge=True, end=True)["refused"]


def test_self_crossing_is_shown_and_refused(page: Page) -> None:
    page.ask("snap", radius=0.1, unit="m", vertex=True, edge=True, end=True)
    page.ask("pen", name="contact-certain")
    for x, y in ((513_000, 6_801_000), (513_500, 6_801_000), (513_500, 6_801_500)):
        page.press(x, y)
    assert page.ask("hover", x=513_200, y=6_800_500)["drawing"]["crosses"] is True
    assert "cross" in page.press(513_200, 6_800_500)["refused"]
    assert page.ask("hover", x=513_700, y=6_801_900)["drawing"]["crosses"] is False
    assert page.ask("back")["drawing"]["count"] == "2"


def test_attitude_turns_at_once_and_is_kept(page: Page, project: Project) -> None:
    page.ask("pen", name="bedding-certain")
    assert page.press(511_500, 6_801_200)["waiting"] == [511_500, 6_801_200]
    preview = page.ask("reading", text="350/60")
    assert preview["words"] == "strikes 350, dips 60 to the east"
    marks = next(i for i in preview["symbol"] if i["t"] == "marks")
    assert marks["angles"][0] == pytest.approx(350, abs=0.5)
    assert "not a direction" in page.ask("keep_reading", text="400/60")["refused"]
    page.ask("keep_reading", text="350/60")
    kept = reopened(project).feature("points", 2)
    assert (kept.azimuth, kept.inclination) == (350, 60)


def test_area_with_its_unit(page: Page, project: Project) -> None:
    page.ask("pen", name="unit_area-certain")
    for x, y in ((513_200, 6_801_000), (514_000, 6_801_000), (514_000, 6_801_800)):
        page.press(x, y)
    assert "no map unit" in page.ask("finish", unit="Zz")["refused"]
    page.ask("finish", unit="Qt")
    assert reopened(project).feature("areas", 2).map_unit == "Qt"


def test_a_new_border_takes_the_place_of_the_old_in_one_entry(page: Page, project: Project) -> None:
    page.ask("pen", name="border-certain")
    for x, y in ((510_100, 6_800_100), (514_100, 6_800_100), (514_100, 6_803_100), (510_100, 6_803_100)):
        page.press(x, y)
    page.ask("finish")
    assert len(reopened(project).border_ids()) == 1
    page.ask("undo")
    border = reopened(project).border()
    assert border is not None
    assert border.bounds == (510_000, 6_800_000, 515_000, 6_804_000)


def test_what_is_picked_deleted_and_undone(page: Page, project: Project) -> None:
    (picked,) = page.ask("pick", x=511_500, y=6_801_752, reach=10)["hand"]
    assert (picked["table"], picked["id"]) == ("lines", 2)
    page.ask("delete", features=[LINE], revision=2)
    assert page.ask("show", features=[LINE])["hand"] == []
    page.ask("undo")
    line = reopened(project).feature("lines", 2).geometry
    assert line.equals_exact(shapely.LineString([(511_000, 6_801_000), (512_000, 6_802_500)]), 0)
    assert "nothing to redo" not in str(page.ask("redo"))
    assert page.ask("redo")["refused"] == "There is nothing to redo."


def test_locked_and_hidden_layers_cannot_be_touched(page: Page, client: TestClient) -> None:
    client.post("/p/small/stack/linework", data={"locked": "true"})
    assert "locked" in page.ask("pen", name="contact-certain")["refused"]
    assert "locked" in page.ask("delete", features=[LINE], revision=2)["refused"]
    client.post("/p/small/stack/linework", data={"locked": "false", "shown": "false"})
    assert "hidden" in page.ask("pen", name="contact-certain")["refused"]
    page.ask("pen", name="bedding-certain")
    assert "held" not in page.ask("hover", x=512_000, y=6_802_500) or page.ask("hover", x=512_000, y=6_802_500)["held"][
        "label"
    ].startswith("edge of unit area")


def test_two_pages_see_each_other(client: TestClient) -> None:
    with (
        client.websocket_connect("ws://127.0.0.1:8460/p/small/live") as a,
        client.websocket_connect("ws://127.0.0.1:8460/p/small/live") as b,
    ):
        one, two = Page(a), Page(b)
        one.ask("pen", name="contact-certain")
        one.press(513_000, 6_801_000)
        one.press(513_500, 6_801_400)
        one.ask("finish")
        two.ask("pen", name="fault-certain")
        assert two.ask("hover", x=513_502, y=6_801_401)["held"]["label"] == "end of contact 3"
        told = [n for n in two.notices if n["do"] == "changed"]
        assert told[-1]["label"] == "draw contact"
        # What the ring showed has changed meanwhile: the click is refused, not taken.
        ring = two.ask("hover", x=513_502, y=6_801_401)["ring"]
        one.ask("delete", features=[{"table": "lines", "id": 3}], revision=3)
        assert "changed in another window" in two.ask("press", x=513_502, y=6_801_401, ring=ring, scale=6250)["refused"]


def test_nonsense_is_answered_in_words(page: Page) -> None:
    for message in ("[]", "{", '"x"', "x" * 70_000):
        page.socket.send_text(message)
        assert "cannot be read" in page.take()["refused"]
    assert "not known" in page.ask("explode")["refused"]
    assert "cannot be read" in page.ask("hover", x="a", y=1)["refused"]
    assert "cannot be read" in page.ask("hover", x=1e999, y=1)["refused"]
    assert "Choose a pen" in page.ask("press", x=513_000, y=6_801_000, ring=None, scale=6250)["refused"]
    page.ask("pen", name="contact-certain")
    assert "far outside" in page.ask("press", x=9e9, y=9e9, ring=None, scale=6250)["refused"]
    assert "ring has moved on" in page.ask("press", x=513_000, y=6_801_000, ring=77, scale=6250)["refused"]
    assert "needs 2 more vertices" not in page.ask("finish")["refused"]


def test_an_error_of_our_own_is_said_and_the_connection_stays(
    page: Page, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError

    with monkeypatch.context() as patch:
        patch.setattr("orvik.core.drawing.line_changes.made_smooth", broken)
        answer = page.ask("smooth", features=[LINE], revision=2)
    assert answer["refused"] == OWN_FAULT
    assert "ZeroDivisionError" in caplog.text
    assert "straight already" in page.ask("smooth", features=[LINE], revision=2)["refused"]


def test_tools_ask_for_something_selected(page: Page) -> None:
    for tool in ("cut", "join", "like", "move", "reverse", "simplify", "smooth", "extend", "merge", "delete"):
        answer = page.ask(tool, features=[], revision=2, x=512_000, y=6_802_000, ring=None, scale=6250)
        assert answer["refused"] == "Select a feature first.", (tool, answer)


def test_a_kept_reading_is_changed_as_the_switch_reads_it(client: TestClient, project: Project) -> None:
    def kept() -> tuple[float | None, float | None]:
        point = ReadProject.open(project.path).feature("points", 1)
        return point.azimuth, point.inclination

    def post(**values: str) -> int:
        return client.post("/p/small/slip/points/1", data={"revision": "99", **values}).status_code

    # What the field shows, the way that the switch has it, is not a change.
    assert post(reading="080/60", dip_direction="true", note="seen again") == 200
    assert kept() == (350, 60)
    assert post(reading="100/60", dip_direction="true") == 200
    assert kept() == (10, 60)
    assert post(reading="100/60") == 200
    assert kept() == (100, 60)
