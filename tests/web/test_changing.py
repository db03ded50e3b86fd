"""Changing what is there, over the live connection: shared vertices, tools, drafts, and undo of everything."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.faces.forming import proven
from orvik.core.features.feature import Feature
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.web.pages import Page

LINE = {"table": "lines", "id": 2}
AREA = {"table": "areas", "id": 1}
URL = "ws://127.0.0.1:8460/p/small/live"


def reopened(project: Project) -> Project:
    return ReadProject.open(project.path)


def geometry(project: Project, table: str, number: int) -> Any:
    return reopened(project).feature(table, number).geometry  # type: ignore[arg-type]


def at_ring(page: Page, do: str, x: float, y: float, **values: Any) -> dict[str, Any]:
    """A click of a tool, with the ring that its place shows."""
    ring = page.ask("hover", x=x, y=y, moving=True)
    return page.ask(do, x=x, y=y, ring=ring["ring"], scale=6250, **values)


def test_snapping_to_an_edge_puts_the_vertex_into_the_other(page: Page, project: Project) -> None:
    # The area's western edge and the contact's middle.
    page.draw("contact-certain", (511_001, 6_802_000), (510_500, 6_802_300))
    new = geometry(project, "lines", 3)
    assert new.coords[0] == (511_000, 6_802_000)
    assert (511_000.0, 6_802_000.0) in geometry(project, "areas", 1).exterior.coords
    page.draw("contact-certain", (511_502, 6_801_750), (511_900, 6_801_100))
    place = geometry(project, "lines", 4).coords[0]
    assert place in geometry(project, "lines", 2).coords
    page.ask("undo")
    assert len(geometry(project, "lines", 2).coords) == 2


def test_a_shared_vertex_moves_for_all_or_alone(page: Page, project: Project) -> None:
    page.draw("contact-certain", (512_000, 6_802_500), (512_600, 6_802_900))
    answer = at_ring(page, "move_vertex", 512_100, 6_802_450, features=[LINE], revision=3, path=0, vertex=1)
    assert answer["hand"][0]["paths"][0][1] == [512_100, 6_802_450]
    assert geometry(project, "lines", 3).coords[0] == (512_100, 6_802_450)
    at_ring(page, "move_vertex", 512_050, 6_802_400, features=[LINE], revision=4, path=0, vertex=1, apart=True)
    assert geometry(project, "lines", 3).coords[0] == (512_100, 6_802_450)
    # What was changed since the page saw it is not changed again.
    stale = at_ring(page, "move_vertex", 512_000, 6_802_000, features=[LINE], revision=3, path=0, vertex=1)
    assert "another window" in stale["refused"]


def test_a_new_vertex_in_a_shared_edge_goes_into_both(page: Page, client: TestClient, project: Project) -> None:
    page.draw(
        "unit_area-certain",
        (513_000, 6_801_000),
        (514_000, 6_801_000),
        (514_000, 6_803_000),
        (513_000, 6_803_000),
        unit="Qt",
    )
    edge = np.array(geometry(project, "areas", 1).exterior.coords)
    segment = next(i for i in range(4) if edge[i, 0] == edge[i + 1, 0] == 513_000)
    at_ring(page, "move_vertex", 513_200, 6_802_000, features=[AREA], revision=3, path=0, vertex=segment, insert=True)
    areas = reopened(project).features("areas").geometries
    assert proven(areas) == (True, pytest.approx(0, abs=1e-6))
    assert all((513_200.0, 6_802_000.0) in a.exterior.coords for a in areas)
    # And out of both again.
    ring = np.array(geometry(project, "areas", 1).exterior.coords)
    vertex = int(np.flatnonzero((ring == (513_200, 6_802_000)).all(axis=1))[0])
    page.ask("remove_vertex", features=[AREA], revision=4, path=0, vertex=vertex)
    areas = reopened(project).features("areas").geometries
    assert shapely.coverage_is_valid(areas)
    assert shapely.area(areas).sum() == 6_000_000


def test_cut_join_reverse_extend_and_trim(page: Page, project: Project) -> None:
    answer = at_ring(page, "cut", 511_500, 6_801_752, features=[LINE], revision=2)
    assert [f["id"] for f in answer["hand"]] == [2, 3]
    page.ask("reverse", features=[{"table": "lines", "id": 3}], revision=3)
    assert geometry(project, "lines", 3).coords[0] == (512_000, 6_802_500)
    page.ask("join", features=[LINE], revision=4, x=511_900, y=6_802_350, reach=30)
    assert reopened(project).count("lines") == 2
    assert geometry(project, "lines", 2).length == pytest.approx(np.hypot(1000, 1500))
    page.draw("fault-certain", (511_900, 6_803_200), (513_500, 6_803_200))
    page.ask("extend", features=[LINE], revision=6, x=512_000, y=6_802_500)
    end = geometry(project, "lines", 2).coords[-1]
    assert end[1] == 6_803_200
    # The fault has the vertex where the contact meets it.
    assert end in geometry(project, "lines", 4).coords
    page.draw("fault-certain", (511_300, 6_801_800), (511_900, 6_801_800))
    page.ask("trim", features=[LINE], revision=reopened(project).revision, x=511_000, y=6_801_000)
    assert geometry(project, "lines", 2).coords[0][1] == pytest.approx(6_801_800)
    assert "no other line" in page.ask("trim", features=[{"table": "lines", "id": 1}], revision=99, x=0, y=0)["refused"]


def test_a_stretch_by_its_two_ends(page: Page, project: Project) -> None:
    begun = at_ring(page, "stretch", 511_200, 6_801_300, features=[LINE], revision=2, certainty="inferred")
    assert "Click where this stretch ends" in begun["words"]
    at_ring(page, "stretch", 511_600, 6_801_900, features=[LINE], revision=2, certainty="inferred")
    line = reopened(project).feature("lines", 2)
    (stretch,) = line.stretches
    assert (stretch.first, stretch.last, stretch.certainty) == (1, 2, "inferred")
    assert len(line.geometry.coords) == 4
    far = at_ring(page, "stretch", 514_000, 6_801_300, features=[LINE], revision=3, certainty="inferred")
    assert "not on contact 2" in far["refused"]


def test_smooth_lines_are_kept_as_such(page: Page, project: Project) -> None:
    page.ask("pen", name="contact-certain")
    page.ask("way", way="curve")
    for x, y in ((513_500, 6_801_200), (513_800, 6_801_500), (514_200, 6_801_300), (514_400, 6_801_700)):
        answer = page.press(x, y)
    assert len(answer["drawing"]["line"]) > 8
    page.ask("finish")
    line = reopened(project).feature("lines", 3)
    held = np.array(line.geometry.coords)[list(line.knots)]
    assert held.tolist() == [[513_500, 6_801_200], [513_800, 6_801_500], [514_200, 6_801_300], [514_400, 6_801_700]]
    # On the sheet no more vertices than the curve needs.
    assert len(line.geometry.coords) / (line.geometry.length * 1000 / 25_000) < 2
    named = {"features": [{"table": "lines", "id": 3}], "revision": 3}
    at_ring(page, "move_vertex", 513_850, 6_801_650, path=0, vertex=line.knots[1], **named)
    again = reopened(project).feature("lines", 3)
    assert np.array(again.geometry.coords)[again.knots[1]].tolist() == [513_850, 6_801_650]
    assert len(again.knots) == 4


def test_ways_of_leading_a_line(page: Page, project: Project) -> None:
    page.ask("pen", name="contact-certain")
    page.press(513_500, 6_803_500)
    # Typed: the bearing is from true north, the grid's turns by its convergence.
    step = page.ask("step", text="090/500")
    crs = reopened(project).crs
    turn = np.radians(float(crs.convergence(513_500, 6_803_500)))
    assert step["at"] == pytest.approx([513_500 + 500 * np.cos(turn), 6_803_500 + 500 * np.sin(turn)], abs=1e-6)
    assert "type 045/120" in page.ask("step", text="north")["refused"]
    # At a right angle to the last span, wherever the pointer is.
    page.ask("align", how="right")
    ring = page.ask("hover", x=514_100, y=6_803_700)
    page.ask("press", x=514_100, y=6_803_700, ring=ring["ring"], scale=6250)
    page.ask("finish")
    a, b, c = np.array(geometry(project, "lines", 3).coords)
    assert float(np.dot(b - a, c - b)) == pytest.approx(0, abs=1e-3)
    # Parallel to the contact that is pointed at.
    page.press(513_600, 6_800_300)
    page.ask("align", how="parallel", x=511_510, y=6_801_750)
    ring = page.ask("hover", x=514_300, y=6_801_600)
    page.ask("press", x=514_300, y=6_801_600, ring=ring["ring"], scale=6250)
    page.ask("finish")
    a, b = np.array(geometry(project, "lines", 4).coords)
    step_of = b - a
    assert step_of[1] / step_of[0] == pytest.approx(1.5)
    assert "No edge is near" in page.ask("align", how="parallel", x=514_900, y=6_803_900)["refused"]


def test_a_free_hand_is_thinned_and_an_edge_is_followed(page: Page, project: Project) -> None:
    page.ask("pen", name="contact-certain")
    t = np.linspace(0, 1, 400)
    places = np.column_stack([513_400 + 900 * t, 6_801_300 + 120 * np.sin(5 * t)])
    page.ask("free", places=places.tolist(), scale=6250)
    page.ask("finish")
    kept = geometry(project, "lines", 3)
    assert 6 < len(kept.coords) < 40
    assert shapely.hausdorff_distance(kept, shapely.LineString(places)) < 2.5
    # Two clicks on the area's edge take all its corners between them, the shorter way.
    page.ask("way", way="follow")
    page.press(511_000, 6_802_400)
    answer = page.press(512_000, 6_803_000)
    assert answer["drawing"]["vertices"][1:-1] == [[511_000, 6_803_000]]
    page.ask("finish")
    assert list(geometry(project, "lines", 4).coords) == [
        (511_000, 6_802_400),
        (511_000, 6_803_000),
        (512_000, 6_803_000),
    ]
    assert "must hold an edge" in (page.press(511_000, 6_802_400), page.press(514_800, 6_800_200))[1]["refused"]


def test_areas_cut_filled_split_and_merged(page: Page, project: Project) -> None:
    page.ask("begin", what="hole", features=[AREA], revision=2)
    for x, y in ((511_500, 6_802_000), (512_000, 6_802_000), (512_000, 6_802_300)):
        page.press(x, y)
    assert "Choose the map unit" in page.ask("finish", fill=True)["refused"]
    page.ask("finish", fill=True, unit="Qt")
    areas = reopened(project).features("areas")
    assert sorted(areas.columns["map_unit"]) == ["Kp", "Qt"]
    assert proven(areas.geometries)[0]
    assert shapely.area(areas.geometries).sum() == 4_000_000
    page.ask("begin", what="split", features=[AREA], revision=3)
    page.press(510_900, 6_801_400)
    page.press(513_100, 6_801_400)
    page.ask("finish")
    areas = reopened(project).features("areas")
    assert len(areas) == 3
    assert proven(areas.geometries)[0]
    parts = [
        {"table": "areas", "id": int(i)} for i, u in zip(areas.ids, areas.columns["map_unit"], strict=True) if u == "Kp"
    ]
    page.ask("merge", features=parts, revision=4)
    assert reopened(project).count("areas") == 2
    assert "two or more" in page.ask("merge", features=parts[:1], revision=5)["refused"]


def test_an_area_filled_to_its_neighbours(page: Page, project: Project) -> None:
    corners = ((512_800, 6_801_200), (513_800, 6_801_200), (513_800, 6_802_800), (512_800, 6_802_800))
    assert "Which is cut?" in page.draw("unit_area-certain", *corners, unit="Qt")["asks"]
    page.ask("finish", unit="Qt", overlap="below")
    areas = reopened(project).features("areas")
    assert proven(areas.geometries)[0]
    assert geometry(project, "areas", 2).equals(shapely.box(513_000, 6_801_200, 513_800, 6_802_800))


def test_several_selected_change_in_one_entry(page: Page, client: TestClient, project: Project) -> None:
    page.draw("contact-certain", (513_500, 6_801_200), (514_000, 6_801_600))
    keys = ["lines-2", "lines-3"]
    slip = client.get("/p/small/slips", params={"keys": keys})
    assert "2 selected" in slip.text
    client.post(
        "/p/small/slips", data={"keys": keys, "revision": "3", "certainty": "inferred", "note": "by the relief"}
    )
    told = reopened(project)
    assert told.revision == 4
    assert [told.feature("lines", i).certainty for i in (2, 3)] == ["inferred", "inferred"]
    alike = page.ask("alike", features=[LINE])
    assert [f["id"] for f in alike["hand"]] == [2, 3]
    box = page.ask("pick_box", west=513_400, south=6_801_100, east=514_100, north=6_801_700)
    assert [(f["table"], f["id"]) for f in box["hand"]] == [("lines", 3)]
    following = page.ask("neighbour", features=[LINE], forward=True)
    assert following["hand"][0]["id"] == 3
    assert page.ask("neighbour", features=[{"table": "lines", "id": 3}], forward=True)["hand"][0]["id"] == 2


def test_locked_layers_are_not_touched_by_what_is_shared(page: Page, client: TestClient, project: Project) -> None:
    client.post("/p/small/stack/units", data={"locked": "true"})
    page.draw("contact-certain", (511_001, 6_802_000), (510_500, 6_802_300))
    assert len(geometry(project, "areas", 1).exterior.coords) == 5
    answer = at_ring(page, "move_vertex", 513_100, 6_803_100, features=[AREA], revision=3, path=0, vertex=0)
    assert "locked" in answer["refused"]


def test_a_half_drawn_line_comes_back(client: TestClient, project: Project) -> None:
    with client.websocket_connect(URL) as socket:
        page = Page(socket)
        page.ask("hello", window_id="one")
        page.ask("pen", name="fault-certain")
        page.press(513_500, 6_801_200)
        page.press(513_900, 6_801_500)
    # The same window after a reload.
    with client.websocket_connect(URL) as socket:
        page = Page(socket)
        answer = page.ask("hello", window_id="one")
        assert answer["pen"] == "fault-certain"
        assert answer["drawing"]["vertices"] == [[513_500, 6_801_200], [513_900, 6_801_500]]
        # Another window does not take it away.
        with client.websocket_connect(URL) as other:
            assert Page(other).ask("hello", window_id="two")["drawing"] is None
    # A new window is told of what nobody is drawing any more, and takes it up when it is asked to.
    with client.websocket_connect(URL) as socket:
        page = Page(socket)
        told = page.ask("hello", window_id="three")
        assert (told["drawing"], told["left"]) == (None, "Fault, certain, 2 vertices")
        assert page.ask("take_up")["drawing"]["count"] == "2"
        page.press(514_200, 6_801_500)
        page.ask("finish")
    assert len(geometry(project, "lines", 3).coords) == 3
    with client.websocket_connect(URL) as socket:
        assert Page(socket).ask("hello", window_id="four")["drawing"] is None


def test_a_crash_between_two_clicks_loses_no_vertex(project: Project, client: TestClient) -> None:
    with client.websocket_connect(URL) as socket:
        page = Page(socket)
        page.ask("hello", window_id="one")
        page.ask("pen", name="fault-certain")
        page.press(513_500, 6_801_200)
        # What was acknowledged is in the file, whatever becomes of the process.
        rows = sqlite3.connect(project.path).execute("SELECT drawing FROM drafts").fetchall()
        assert len(rows) == 1
        assert "513500" in rows[0][0]


def dump(path: Path) -> dict[str, list[Any]]:
    connection = sqlite3.connect(path)
    try:
        return {
            t: connection.execute(f"SELECT * FROM {t} ORDER BY id").fetchall()
            for t in ("lines", "areas", "points", "units", "stations", "kinds")
        }
    finally:
        connection.close()


def any_edit(page: Page, rng: np.random.Generator, project: Project) -> None:
    """One edit of any sort at any place; refusals are answers too."""
    told = reopened(project)
    keys = [
        {"table": t, "id": int(i)}
        for t in ("lines", "areas")
        for i in told.features(t).ids
        if (t, int(i)) != ("lines", 1)
    ]  # type: ignore[arg-type]
    named = {"features": [keys[int(rng.integers(len(keys)))]] if keys else [], "revision": told.revision}
    places = [(float(x), float(y)) for x, y in rng.uniform((510_200, 6_800_200), (514_800, 6_803_800), (4, 2))]
    what = rng.choice(
        [
            "line",
            "curve",
            "area",
            "move",
            "remove",
            "cut",
            "smooth",
            "simplify",
            "extend",
            "reverse",
            "hole",
            "stretch",
            "delete",
            "tag",
        ]
    )
    page.ask("drop")
    if what in ("line", "curve"):
        page.ask("pen", name=str(rng.choice(["contact-certain", "fault-certain"])))
        page.ask("way", way="curve" if what == "curve" else "straight")
        for place in places[: int(rng.integers(2, 5))]:
            page.press(*place)
        page.ask("finish")
    elif what == "area":
        page.ask("pen", name="unit_area-certain")
        page.ask("way", way="straight")
        for place in places:
            page.press(*place)
        page.ask("finish", unit="Qt", overlap=str(rng.choice(["below", "above"])))
    elif what == "tag":
        page.ask("pen", name="unit_tag-certain")
        page.press(*places[0], unit="Kp")
    elif what == "move":
        at_ring(page, "move_vertex", *places[0], **named, path=0, vertex=0)
    elif what == "remove":
        page.ask("remove_vertex", **named, path=0, vertex=1)
    elif what == "hole":
        page.ask("begin", what="hole", **named)
        for place in places[:3]:
            page.press(*place)
        page.ask("finish", fill=True, unit="Qt")
    elif what == "stretch":
        for _ in range(2):
            at_ring(page, "stretch", *places[0], **named, certainty="inferred", reach=3000)
    elif what == "cut":
        at_ring(page, "cut", *places[0], **named, reach=3000)
    else:
        page.ask(str(what), **named, x=places[0][0], y=places[0][1])
    page.ask("drop")


@pytest.mark.parametrize("seed", range(6))
def test_any_sequence_of_edits_undone_gives_back_the_exact_project(page: Page, project: Project, seed: int) -> None:
    rng = np.random.default_rng(seed)
    before = dump(project.path)
    start = reopened(project).revision
    for _ in range(25):
        any_edit(page, rng, project)
    edits = reopened(project).revision - start
    assert edits > 6
    after = dump(project.path)
    for table in ("lines", "areas"):
        assert shapely.is_valid(reopened(project).features(table).geometries).all()  # type: ignore[arg-type]
    for _ in range(edits):
        assert "refused" not in page.ask("undo")
    assert dump(project.path) == before
    for _ in range(edits):
        assert "refused" not in page.ask("redo")
    assert dump(project.path) == after


def test_an_area_that_the_others_give_way_to(page: Page, project: Project) -> None:
    corners = ((512_800, 6_801_200), (513_800, 6_801_200), (513_800, 6_802_800), (512_800, 6_802_800))
    page.draw("unit_area-certain", *corners, unit="Qt", overlap="above")
    areas = reopened(project).features("areas")
    assert proven(areas.geometries)[0]
    assert geometry(project, "areas", 2).equals(shapely.Polygon(corners))
    assert geometry(project, "areas", 1).area == 4_000_000 - 200 * 1600


def test_selected_by_what_they_have_in_common(page: Page, client: TestClient) -> None:
    page.draw("contact-inferred", (513_500, 6_801_200), (514_000, 6_801_600))
    both = page.ask("pick_where", kind="lines:contact", revision=0, features=[])
    assert [f["id"] for f in both["hand"]] == [2, 3]
    assert [f["id"] for f in page.ask("pick_where", kind="lines:contact", certainty="inferred")["hand"]] == [3]
    assert [f["id"] for f in page.ask("pick_where", kind="areas:unit_area", map_unit="Kp")["hand"]] == [1]
    assert [f["id"] for f in page.ask("alike", features=[{"table": "lines", "id": 3}])["hand"]] == [3]
    assert "Nothing in sight is so" in page.ask("pick_where", kind="lines:contact", questionable="yes")["refused"]
    client.post("/p/small/stack/linework", data={"shown": "false"})
    assert "Nothing in sight is so" in page.ask("pick_where", kind="lines:contact")["refused"]
    assert "Choose a kind" in page.ask("pick_where", kind="")["refused"]


def test_a_line_of_a_kind_that_nobody_knows_keeps_its_certainty_to_be_set(client: TestClient, project: Project) -> None:
    strange = Feature("lines", shapely.LineString([(511_000, 6_803_000), (512_000, 6_803_200)]), "left_by_another")
    other = Project.open(project.path)
    entry = other.apply("left", [rows.feature_change(strange, other.srs_id)])
    other.close()
    client.get("/p/small/compile")
    assert '<select id="certainty"' in client.get(f"/p/small/slip/lines/{entry.changes[0].id}").text
