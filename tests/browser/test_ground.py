"""Ground with real pointer and key events."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from selenium.webdriver import Chrome, Keys

from orvik.core.features.table import TABLES
from orvik.core.pictures.georeferencing import ControlSet, Mapping, fit
from orvik.exchange.rasters.raster import files_folder
from orvik.store.geometry import encoded
from orvik.store.read_project import ReadProject
from tests.browser.hands import MapHand, find, heard, text_of, until

pytestmark = pytest.mark.browser

PROJECT = "/p/isle-of-quennet"


def geometry_bytes(path: Path) -> list[bytes]:
    project = ReadProject.open(path)
    try:
        return [encoded(g, project.srs_id) for t in TABLES for g in project.features(t).geometries]
    finally:
        project.close()


def test_another_system_and_back(driver: Chrome, corner_address: str, corner: Path) -> None:
    before = geometry_bytes(corner)
    driver.get(f"{corner_address}{PROJECT}/ground")
    until(driver, lambda d: "Compare systems" in text_of(d, "#ground-facts"))
    find(driver, f'a[href="{PROJECT}/systems"]').click()
    until(driver, lambda d: d.find_elements("css selector", ".system-card"))
    find(driver, "#system-search").send_keys("lambert 2016")
    until(driver, lambda d: "EPSG:8088" in text_of(d, "#systems-found"))
    find(driver, ".system-pick").click()
    until(driver, lambda d: "ISN2016 to WGS 84" in text_of(d, "#system-report"))
    find(driver, "#system-report .main-button").click()
    until(driver, lambda d: "EPSG:8088" in text_of(d, "#ground-facts"))
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    assert geometry_bytes(corner) != before
    hand = MapHand(driver, 0, 0, 25_000)
    revision = hand.revision()
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    # The page comes back by itself, in the old system.
    until(driver, lambda d: "EPSG:32628" in text_of(d, "#ground-facts"))
    until(driver, lambda d: text_of(d, "#save-state").endswith(f"rev {revision + 1}"))
    assert geometry_bytes(corner) == before


def test_a_skewed_field_sheet_by_six_control_points(
    driver: Chrome, corner_address: str, corner: Path, tmp_path: Path
) -> None:
    project = ReadProject.open(corner)
    kept = project.source(2)
    truth = Mapping.of_json(kept.transform)
    points = ControlSet.of_json(kept.fit).points
    scan = tmp_path / "sheet.png"
    scan.write_bytes((files_folder(corner) / kept.file).read_bytes())
    project.close()
    # A scan that does not say where it lies leads straight to its georeferencing.
    driver.get(f"{corner_address}{PROJECT}/ground")
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    find(driver, "#underlay-files").send_keys(str(scan))
    find(driver, "#underlay-form .plain-button").click()
    until(driver, lambda d: d.current_url.endswith("/underlays/7/georeference"))
    until(driver, lambda d: d.find_elements("css selector", "#scan-field[data-sharp]"))
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    assert "needs 3 control points" in text_of(driver, "#control-points")
    # The next place is clicked before the last answer has settled, and stays.
    driver.execute_script("htmx.config.defaultSettleDelay = 400")
    # The whole scan is in its pane, the publication rung on the ground.
    width, height = 2100, 1650
    pane = find(driver, "#scan-field").rect
    k = min(pane["width"] / width, pane["height"] / height) * 0.96
    find(driver, '.rung[data-denominator="25000"]').click()
    home = (513_250.0, 6_802_500.0)
    hand = MapHand(driver, *home, 25_000)
    for number, point in enumerate(points, 1):
        if number == 4:
            driver.execute_script("htmx.config.defaultSettleDelay = 0")
        dx, dy = (point.column - width / 2) * k, (point.row - height / 2) * k
        hand.chain().move_to_element_with_offset(find(driver, "#scan-field"), round(dx), round(dy)).click().perform()
        until(driver, lambda d: text_of(d, "#pending-pixel") != "click it")
        if abs(point.x - home[0]) < 1200 and abs(point.y - home[1]) < 1500:
            # A little beside the crossing: the ring holds it.
            hand.move(point.x + 30, point.y + 25)
            until(driver, lambda d: text_of(d, "#ring-label").startswith("grid"))
            hand.chain().click().perform()
        else:
            find(driver, "#typed-east").send_keys(f"{point.x:.0f}")
            find(driver, "#typed-north").send_keys(f"{point.y:.0f}", Keys.ENTER)
        until(
            driver,
            lambda d, n=number: len(d.find_elements("css selector", "#control-points tbody tr th")) == n,
        )
    until(driver, lambda d: "RMS error" in text_of(d, "#control-points"))
    heard(driver)
    project = ReadProject.open(corner)
    placed = project.source(7)
    control = ControlSet.of_json(placed.fit)
    found = fit(control.points, control.kind)
    assert [(p.x, p.y) for p in control.points] == [(p.x, p.y) for p in points]
    # A pixel of the screen is six of the scan here: the fit is as good as the picking.
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float)
    away = np.hypot(*(Mapping.of_json(placed.transform).ground(corners) - truth.ground(corners)).T)
    assert away.max() < 20
    assert found.rms_pixels < 6
    # Switching one off and on again, and another kind of fit, are there at once.
    find(driver, '[aria-label="Use point 2"]').click()
    until(driver, lambda d: d.find_elements("css selector", "#control-points tr.off"))
    heard(driver)
    find(driver, '[aria-label="Use point 2"]').click()
    until(driver, lambda d: not d.find_elements("css selector", "#control-points tr.off"))
    find(driver, 'input[name="kind"][value="projective"]').click()
    until(driver, lambda d: Mapping.of_json(project.source(7).transform).kind == "projective")
    assert "left out" in text_of(driver, "#control-points")
    # Two rows of three lie on one curve of the second order (two lines): no such fit, and the picture stays.
    find(driver, 'input[name="kind"][value="second_order"]').click()
    until(driver, lambda d: "on one curve" in text_of(d, "#control-points"))
    assert Mapping.of_json(project.source(7).transform).kind == "projective"
    project.close()


def test_a_view_is_saved_and_come_back_to(driver: Chrome, corner_address: str, corner: Path) -> None:
    driver.get(f"{corner_address}{PROJECT}/ground")
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    find(driver, '.rung[data-denominator="6250"]').click()
    find(driver, '#view-form input[name="name"]').send_keys("Near", Keys.ENTER)
    until(driver, lambda d: "Near" in text_of(d, "#views"))
    find(driver, "#whole-sheet").click()
    until(driver, lambda d: find(d, "#free-zoom").get_dom_attribute("aria-pressed") == "true")
    driver.find_elements("css selector", ".view-go")[-1].click()
    until(
        driver,
        lambda d: find(d, '.rung[data-denominator="6250"]').get_dom_attribute("aria-pressed") == "true",
    )
    project = ReadProject.open(corner)
    kept = project.views()[-1]
    assert (kept.name, kept.denominator) == ("Near", 6250)
    assert (kept.x, kept.y) == pytest.approx((513_250, 6_802_500), abs=1)
    project.close()


def test_stations_are_brought_in_after_a_look(
    driver: Chrome, corner_address: str, corner: Path, tmp_path: Path
) -> None:
    table = tmp_path / "stations.csv"
    table.write_text("station,Easting,Northing,Strike,Dip\nA1,513000,6802000,350,60\nA2,513200,6802100,5,66\n")
    project = ReadProject.open(corner)
    before = project.count("points")
    driver.get(f"{corner_address}{PROJECT}/ground")
    until(driver, lambda d: d.find_elements("css selector", "#map[data-painted]"))
    find(driver, 'input[aria-label="A file of features"]').send_keys(str(table))
    until(driver, lambda d: "Points2" in text_of(d, "#import-outcome"))
    assert project.count("points") == before
    # A dip among the fields makes them attitudes without asking.
    assert find(driver, "#kind-points").get_property("value") == "bedding"
    find(driver, "#import-now").click()
    until(driver, lambda d: "2 features of stations.csv are saved" in text_of(d, "#import-outcome"))
    assert project.count("points") == before + 2
    hand = MapHand(driver, 0, 0, 1)
    hand.chain().key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    until(driver, lambda _: project.count("points") == before)
    project.close()


def test_a_new_project_for_a_known_ground(driver: Chrome, corner_address: str) -> None:
    driver.get(f"{corner_address}/new")
    find(driver, 'input[name="corners"][value="geographic"]').click()
    for side, value in (("west", "14°50'W"), ("east", "14°40'W"), ("north", "61°23'N"), ("south", "61°20'N")):
        find(driver, f"#{side}").send_keys(value)
    find(driver, ".new-project .hint .plain-button").click()
    until(driver, lambda d: "True to 1 in 2\u2009500" in text_of(d, "#crs-found"))
    find(driver, 'input[name="crs"][value="EPSG:32628"]').click()
    find(driver, "#name").send_keys("Fell", Keys.ENTER)
    until(driver, lambda d: d.current_url.endswith("/p/fell/ground"))
    until(driver, lambda d: "EPSG:32628" in text_of(d, "#ground-facts"))
