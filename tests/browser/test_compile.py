"""A corner of the demo compiled from the field sheet, with pointer and keys alone."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
import shapely
from selenium.webdriver import Chrome, Keys

from orvik.core.faces.forming import proven
from orvik.store import rows
from orvik.store.project import opened_for_writing
from orvik.store.read_project import ReadProject
from tests.browser.hands import MapHand, find, text_of, until, value_of

pytestmark = pytest.mark.browser

PROJECT = "isle-of-quennet"
# Ground in the gneiss, between the drift to the north and the conglomerate to the south-east.
MIDDLE = (514_700.0, 6_802_600.0)


@pytest.fixture
def hand(driver: Chrome, demo_address: str) -> MapHand:
    driver.get(f"{demo_address}/p/{PROJECT}/compile")
    view = f'{{"x": {MIDDLE[0]}, "y": {MIDDLE[1]}, "denominator": 6250}}'
    driver.execute_script(f"sessionStorage.setItem('orvik-view-compile-32628-{PROJECT}', arguments[0])", view)
    driver.get(f"{demo_address}/p/{PROJECT}/compile")
    hand = MapHand(driver, *MIDDLE, 6250).wait()
    until(driver, lambda d: text_of(d, "#findings-count .count-words") == "1 error +2")
    return hand


def vertex_near(path: Path, kind: str, x: float, y: float) -> tuple[float, float]:
    """A vertex of the linework near a place."""
    project = ReadProject.open(path)
    lines = project.features("lines")
    project.close()
    chosen = [
        g
        for g, k, c in zip(lines.geometries, lines.columns["kind"], lines.columns["certainty"], strict=True)
        if k == kind and c != "concealed"
    ]
    xy = shapely.get_coordinates(chosen)
    best = xy[((xy - (x, y)) ** 2).sum(axis=1).argmin()]
    return float(best[0]), float(best[1])


def contacts(hand: MapHand, start: tuple[float, float], end: tuple[float, float]) -> None:
    """A smooth contact from the drift's edge to the conglomerate, which parts the gneiss."""
    hand.pen("2")
    hand.keys("c")
    until(hand.driver, lambda d: find(d, '[data-way="curve"]').get_dom_attribute("aria-pressed") == "true")
    hand.move(start[0] + 4, start[1] - 3)
    assert "contact" in hand.ring()
    hand.click(start[0] + 4, start[1] - 3)
    for share, aside in ((0.3, 45), (0.65, -30)):
        hand.click(start[0] + share * (end[0] - start[0]) + aside, start[1] + share * (end[1] - start[1]))
    # A vertex too many is taken back.
    hand.click(MIDDLE[0] - 200, MIDDLE[1] + 60)
    hand.keys(Keys.BACKSPACE)
    until(hand.driver, lambda d: text_of(d, '[data-fact="count"]') == "3")
    hand.click(end[0] + 3, end[1] + 3)
    hand.keys(Keys.ENTER)


def dyke(hand: MapHand) -> None:
    """A band 18 m wide, with one margin inferred and a fault that cuts it."""
    driver = hand.driver
    hand.pen("7")
    hand.keys("s")
    find(driver, "#band-width").send_keys("18", Keys.TAB)
    find(driver, "#map-field").click()
    hand.keys(Keys.ESCAPE)
    for x, y in ((514_260, 6_802_520), (514_400, 6_802_545), (514_560, 6_802_530)):
        hand.click(x, y)
    hand.keys(Keys.ENTER)


def fault(hand: MapHand) -> None:
    hand.pen("5")
    hand.click(514_420, 6_802_480)
    hand.click(514_440, 6_802_640)
    hand.keys(Keys.ENTER)


def attitudes(hand: MapHand) -> None:
    driver = hand.driver
    hand.pen("Shift+1")
    readings = (
        ("350/60", "strikes 350, dips 60 to the east"),
        ("N10W 60E", "strikes 350, dips 60 to the east"),
        ("000/65", "strikes 000, dips 65 to the east"),
        ("5/66", "strikes 005, dips 66 to the east"),
    )
    for i, (text, words) in enumerate(readings):
        hand.click(514_250 + 70 * i, 6_802_300)
        until(driver, lambda d: find(d, "#reading").is_enabled())
        hand.keys(text)
        until(driver, lambda d, w=words: text_of(d, "#reading-words") == w)
        hand.keys(Keys.ENTER)
        until(driver, lambda d, w=words: text_of(d, "#reading-words") == f"Saved: {w}.")
    # By its dip direction.
    find(driver, "#dip-direction").click()
    hand.click(514_250, 6_802_200)
    until(driver, lambda d: find(d, "#reading").is_enabled())
    hand.keys("080/60")
    until(driver, lambda d: text_of(d, "#reading-words") == "strikes 350, dips 60 to the east")
    hand.keys(Keys.ENTER)
    until(driver, lambda d: text_of(d, "#reading-words").startswith("Saved"))
    find(driver, "#dip-direction").click()


def bytes_of(path: Path) -> dict[str, list[tuple[object, ...]]]:
    connection = sqlite3.connect(path)
    try:
        return {
            t: connection.execute(f"SELECT * FROM {t} ORDER BY id").fetchall() for t in ("lines", "areas", "points")
        }
    finally:
        connection.close()


def turn(hand: MapHand, button: str, keys: str) -> int:
    """Undo or redo until there is nothing left to; how many there were."""
    count = 0
    while find(hand.driver, button).is_enabled():
        before = hand.revision()
        chain = hand.chain().key_down(Keys.CONTROL)
        if keys == "redo":
            chain.key_down(Keys.SHIFT).send_keys("z").key_up(Keys.SHIFT)
        else:
            chain.send_keys("z")
        chain.key_up(Keys.CONTROL).perform()
        until(hand.driver, lambda d, b=before: hand.revision() > b)
        count += 1
    return count


def test_a_corner_is_compiled(hand: MapHand, demo: Path) -> None:
    driver = hand.driver
    start = vertex_near(demo, "contact", 514_621, 6_802_638)
    end = vertex_near(demo, "contact", 514_702, 6_802_270)
    before = bytes_of(demo)
    revision = hand.revision()
    contacts(hand, start, end)
    hand.kept(revision + 1)
    dyke(hand)
    hand.kept(revision + 2)
    fault(hand)
    hand.kept(revision + 3)
    # The dyke's slip: one margin inferred, and cut by the fault.
    hand.keys(Keys.ESCAPE)
    hand.click(514_330, 6_802_532)
    until(driver, lambda d: "dyke" in text_of(d, "#slip .tray-head"))
    assert value_of(driver, "#width") == "18.0"
    hand.choose("#right", "inferred")
    hand.kept(revision + 4)
    find(driver, 'input[name="cut_by"][value="faults"]').click()
    hand.kept(revision + 5)
    find(driver, "#map-field").send_keys(Keys.ESCAPE)
    attitudes(hand)
    hand.kept(revision + 10)
    # Both parts of the conglomerate are conglomerate, with a tag or without one.
    hand.keys(Keys.ESCAPE)
    hand.pen("Shift+2")
    hand.choose("#current-unit", "Jc")
    find(driver, "#map-field").click()
    hand.kept(revision + 11)
    hand.keys(Keys.ESCAPE)
    until(driver, lambda d: "to form" in text_of(d, "#form-units .count-words"))
    hand.keys("u")
    hand.kept(revision + 12)
    until(driver, lambda d: "to form" not in text_of(d, "#form-units .count-words"))
    # A finding fixed with one click.
    hand.keys("i")
    extend = until(
        driver,
        lambda d: next(b for b in d.find_elements("css selector", ".finding-fix") if b.text.startswith("Extend")),
    )
    extend.click()
    hand.kept(revision + 13)
    # The contact meets the fault now, and the face that it closes asks for its tag.
    until(
        driver,
        lambda d: not [b for b in d.find_elements("css selector", ".finding-fix") if b.text.startswith("Extend")],
    )
    check_kept(demo, before, start, end)
    after = bytes_of(demo)
    undone = turn(hand, "#undo", "undo")
    assert undone > 13
    assert all(rows == [] for rows in bytes_of(demo).values())
    assert turn(hand, "#redo", "redo") == undone
    assert bytes_of(demo) == after


def check_kept(
    path: Path, before: dict[str, list[tuple[object, ...]]], start: tuple[float, float], end: tuple[float, float]
) -> None:
    project = ReadProject.open(path)
    try:
        first = max(int(str(row[0])) for row in before["lines"]) + 1
        contact, dyke_line, fault_line = (project.feature("lines", first + i) for i in range(3))
        # To the last bit where the ring held it; smooth between, and editable as such.
        assert contact.geometry.coords[0] == start
        assert contact.geometry.coords[-1] == end
        assert (contact.certainty, contact.capture_scale) == ("approximate", 6250)
        assert len(contact.knots) == 4
        assert len(contact.geometry.coords) > 8
        band = dyke_line.band
        assert band is not None
        assert (band.width, band.on, band.right, band.cut_by) == (18.0, "ground", "inferred", ("faults",))
        assert fault_line.kind == "fault"
        assert fault_line.geometry.crosses(dyke_line.geometry)
        points = project.features("points")
        new = points.select(points.ids > max(int(str(row[0])) for row in before["points"]))
        readings = list(zip(new.columns["azimuth"][:5], new.columns["inclination"][:5], strict=True))
        assert readings == [(350, 60), (350, 60), (0, 65), (5, 66), (350, 60)]
        areas = project.features("areas")
        units = areas.select(areas.column("kind") == "unit_area")
        assert len(units) == sum(row[2] == "unit_area" for row in before["areas"]) + 1
        sound, over = proven(units.geometries)
        assert sound
        assert abs(over) < 1e-3
    finally:
        project.close()


def test_ground_that_a_tag_would_take_is_shown_first(driver: Chrome, demo_address: str, demo: Path) -> None:
    with opened_for_writing(demo) as project:
        areas, points = project.features("areas"), project.features("points")
        mine = [i for i, unit in enumerate(areas.columns["map_unit"]) if unit == "Kw"]
        face = areas.geometries[max(mine, key=lambda i: float(areas.geometries[i].area))]
        tags = [
            project.feature("points", int(points.ids[i])).changed(map_unit="Qt")
            for i, kind in enumerate(points.columns["kind"])
            if kind == "unit_tag" and face.intersects(points.geometries[i])
        ]
        project.apply("tag it otherwise", [rows.feature_change(tag, project.srs_id) for tag in tags])
    driver.get(f"{demo_address}/p/{PROJECT}/compile")
    hand = MapHand(driver, *MIDDLE, 6250).wait()
    revision = hand.revision()
    find(driver, "#form-units").click()
    until(driver, lambda d: "Qt takes" in text_of(d, "#takings"))
    assert hand.revision() == revision
    find(driver, "#takings [data-take='no']").click()
    until(driver, lambda d: not text_of(d, "#takings"))
    find(driver, "#form-units").click()
    until(driver, lambda d: "Qt takes" in text_of(d, "#takings"))
    find(driver, "#takings [data-take='yes']").click()
    hand.kept(revision + 1)
    until(driver, lambda d: not text_of(d, "#takings"))
