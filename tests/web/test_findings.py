"""Findings while working: told to every page, fixed by one click; units formed as one entry."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from orvik.core.faces.forming import proven
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.web.pages import Page

URL = "ws://127.0.0.1:8460/p/small/live"


def reopened(project: Project) -> Project:
    return ReadProject.open(project.path)


def told(page: Page) -> dict[str, Any]:
    """The findings at the present revision, at once or as soon as the surveyor has looked."""
    answer = page.ask("findings")
    while "under_way" in answer:
        page.told("findings")
        answer = page.ask("findings")
    return answer


def rules(page: Page) -> list[str]:
    return [f["rule"] for f in told(page)["findings"]]


def test_findings_follow_every_edit_and_reach_every_page(client: TestClient, project: Project) -> None:
    with client.websocket_connect(URL) as a, client.websocket_connect(URL) as b:
        one, two = Page(a), Page(b)
        # The contact of the small project ends in the open on both sides.
        assert rules(one).count("dangle") == 2
        one.draw("contact-certain", (512_000, 6_802_500), (515_000, 6_803_000))
        notice = told(two)
        assert [f["rule"] for f in notice["findings"]].count("dangle") == 1
        assert notice["errors"] == sum(f["severity"] == "error" for f in notice["findings"])


def test_one_click_fixes(page: Page, project: Project) -> None:
    page.draw("contact-certain", (512_000, 6_802_500), (514_980, 6_803_000))
    short = next(f for f in told(page)["findings"] if f["fix"] and f["fix"].startswith("Extend to sheet border"))
    page.ask("fix", key=short["key"])
    line = reopened(project).feature("lines", 3)
    assert line.geometry.coords[-1][0] == 515_000
    assert line.geometry.coords[-1] in reopened(project).feature("lines", 1).geometry.coords
    # Until the next survey has come in, which may be at once, the finding speaks of what is not a more.
    refused = page.ask("fix", key=short["key"])["refused"]
    assert "has changed meanwhile" in refused or "no longer there" in refused
    told(page)
    assert "no longer there" in page.ask("fix", key=short["key"])["refused"]


@pytest.mark.parametrize(("there", "chosen", "kept"), [("Kp", "", "Kp"), ("Kp", "Qt", "Kp"), ("", "Qt", "Qt")])
def test_a_tag_takes_the_unit_of_the_area_that_is_there_else_the_one_chosen(
    page: Page, project: Project, there: str, chosen: str, kept: str
) -> None:
    if not there:
        page.ask("delete", features=[{"table": "areas", "id": 1}], revision=2)
    untagged = next(f for f in told(page)["findings"] if f["rule"] == "untagged")
    assert untagged["fix"] == f"Tag it {there}".strip()
    page.ask("fix", key=untagged["key"], unit=chosen)
    tag = reopened(project).feature("points", 2)
    assert (tag.kind, tag.map_unit) == ("unit_tag", kept)


def test_units_are_formed_once_and_locked_layers_refuse(client: TestClient, page: Page, project: Project) -> None:
    page.draw("contact-certain", (510_000, 6_802_600), (515_000, 6_802_700))
    for unit, y in (("Qt", 6_803_500), ("Kp", 6_800_500)):
        page.ask("pen", name="unit_tag-certain")
        page.press(510_500, y, unit=unit)
    page.ask("pen", name=None)
    before = reopened(project).revision
    # The tag of Qt would take ground that an area of Kp holds: that is shown, and waits.
    answer = client.post("/p/small/form-units")
    assert "One face waits" in answer.text
    assert answer.headers["Orvik-Waiting"] == "1"
    kept = reopened(project).features("areas").columns["map_unit"]
    assert set(kept) == {"Kp"}
    assert "Qt takes" in client.get("/p/small/form-units/takings").text
    assert "takes_ground" in {row["rule"] for row in told(page)["findings"]}
    answer = client.post("/p/small/form-units", params={"take": "true"})
    assert "formed" in answer.text
    assert reopened(project).revision == before + 2
    areas = reopened(project).features("areas")
    assert sorted(areas.columns["map_unit"]) == ["Kp", "Qt"]
    assert proven(areas.geometries) == (True, pytest.approx(0, abs=1e-3))
    assert told(page)["open"] == 0
    assert "are formed" in client.post("/p/small/form-units").text
    assert reopened(project).revision == before + 2
    client.post("/p/small/stack/units", data={"locked": "true"})
    refused = client.post("/p/small/form-units")
    assert refused.status_code == 422
    assert "locked" in refused.text


def test_bands_follow_the_units_unless_linework_is_locked(client: TestClient, page: Page, project: Project) -> None:
    page.draw("contact-certain", (510_000, 6_802_600), (515_000, 6_802_700))
    dyke = page.draw("dyke-certain", (511_500, 6_800_500), (511_500, 6_803_500), width="20")["feature"]["id"]
    slip = {"revision": str(reopened(project).revision), "width": "20", "cut_by": "Qt"}
    assert client.post(f"/p/small/slip/lines/{dyke}", data=slip).status_code == 200
    for unit, y in (("Qt", 6_803_500), ("Kp", 6_800_600)):
        page.ask("pen", name="unit_tag-certain")
        page.press(510_500, y, unit=unit)
    client.post("/p/small/stack/linework", data={"locked": "true"})
    told = client.post("/p/small/form-units", params={"take": "true"}).text
    assert "formed" in told
    assert "band" not in told
    assert reopened(project).feature("lines", dyke).stretches == ()
    assert "are formed" in client.post("/p/small/form-units").text
    client.post("/p/small/stack/linework", data={"locked": "false"})
    assert client.post("/p/small/form-units").text == "0 units formed, 0 changed, 0 replaced. 1 band follows them."
    (hidden,) = reopened(project).feature("lines", dyke).stretches
    assert hidden.certainty == "concealed"


def test_a_surveyor_that_was_ended_is_replaced(client: TestClient, page: Page) -> None:
    assert rules(page)
    workers = client.app.state.workers  # type: ignore[attr-defined]
    for process in workers._pools["survey"]._processes.values():
        process.kill()
        process.join()
    page.draw("contact-certain", (512_000, 6_802_500), (515_000, 6_803_000))
    assert rules(page).count("dangle") == 1


def test_findings_that_cannot_be_looked_up_are_said_to_be_old_and_tried_again(
    client: TestClient, page: Page, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert rules(page)
    workers = client.app.state.workers  # type: ignore[attr-defined]

    async def broken(*_: object) -> None:
        raise RuntimeError("no memory")

    with monkeypatch.context() as patch:
        patch.setattr(workers, "survey", broken)
        page.draw("contact-certain", (510_500, 6_802_600), (510_700, 6_802_700))
        assert "could not be looked up" in page.told("findings")["failed"]
    page.draw("contact-certain", (510_500, 6_803_600), (510_700, 6_803_700))
    assert rules(page).count("dangle") == 6
