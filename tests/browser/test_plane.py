"""A plane over the relief: from three clicks on a contact, its trace followed by a pen, compared, measured, saved."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import rasterio
import shapely
from rasterio.transform import from_origin
from selenium.webdriver import Chrome, Keys

from orvik.core.features.attitude import Attitude, apart
from orvik.core.features.feature import Feature
from orvik.core.features.table import Table
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.structure.height_grid import HeightGrid
from orvik.core.structure.plane import Plane
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.ground.border import Corners
from orvik.usecases.ground.sources import add_underlay
from orvik.usecases.project.project import create_project
from tests.browser.chromium import served
from tests.browser.conftest import leave
from tests.browser.hands import MapHand, find, heard, text_of, typed, until
from tests.core.structure.relief import CELL, hills

pytestmark = pytest.mark.browser
WEST, SOUTH = 511_000.0, 6_800_500.0
MIDDLE = (WEST + 1500, SOUTH + 1500)
STRIKE, DIP = 60.0, 18.0


@pytest.fixture
def in_the_hills(tmp_path: Path, driver: Chrome) -> Iterator[tuple[str, Path, HeightGrid]]:
    folder = tmp_path / "projects"
    folder.mkdir()
    path = folder / "hills.gpkg"
    corners = Corners("510500", "6800000", "514500", "6804000")
    create_project(path, "Hills", project_crs("EPSG:32628"), Scales(25_000, 6_250), corners)
    ground = hills(11)
    file = tmp_path / "heights.tif"
    profile = {"driver": "GTiff", "dtype": "float32", "count": 1, "height": 150, "width": 150, "crs": "EPSG:32628"}
    place = from_origin(WEST, SOUTH + 150 * CELL, CELL, CELL)
    with rasterio.open(file, "w", transform=place, **profile) as out:
        out.write(ground.heights, 1)
    project = Project.open(path)
    add_underlay(project, file, None, "Heights of the hills")
    project.close()
    with served(folder) as address:
        yield address, path, HeightGrid(ground.heights, WEST, SOUTH + 150 * CELL, (CELL, CELL))
        leave(driver)


def newest(project: ReadProject, table: Table) -> Feature:
    return project.feature(table, max(project.features(table).ids.tolist()))


def the_trace(ground: HeightGrid) -> shapely.LineString:
    """The longest trace in view of a plane through the middle."""
    height = float(ground.at(np.array([MIDDLE]))[0])
    plane = Plane.of_attitude((*MIDDLE, height), Attitude(STRIKE, DIP), 0.0)
    view = shapely.box(MIDDLE[0] - 400, MIDDLE[1] - 450, MIDDLE[0] + 300, MIDDLE[1] + 450)
    parts = [p for line in plane.trace(ground) for p in shapely.get_parts(shapely.LineString(line).intersection(view))]
    return max(parts, key=lambda part: part.length)


def test_a_plane_from_three_clicks_followed_by_a_pen(
    driver: Chrome, in_the_hills: tuple[str, Path, HeightGrid]
) -> None:
    address, path, ground = in_the_hills
    trace = the_trace(ground)
    assert trace.length > 500
    driver.get(f"{address}/p/hills/compile")
    view = f'{{"x": {MIDDLE[0]}, "y": {MIDDLE[1]}, "denominator": 6250}}'
    driver.execute_script("sessionStorage.setItem('orvik-view-compile-32628-hills', arguments[0])", view)
    driver.get(f"{address}/p/hills/compile")
    hand = MapHand(driver, *MIDDLE, 6250).wait()
    driver.execute_script("document.getElementById('map-field').focus()")
    # Nothing is selected: the panel opens with places to pick.
    hand.keys("p")
    assert "three places or more" in text_of(driver, "#plane-words")
    for share in (0.05, 0.5, 0.95):
        hand.click(*trace.interpolate(share, normalized=True).coords[0])
    until(driver, lambda d: find(d, "#plane-trace").get_dom_attribute("data-trace") != "[]")
    project = ReadProject.open(path)
    convergence = float(project.crs.convergence(*MIDDLE))
    project.close()
    strike, dip = (float(v) for v in text_of(driver, "#plane-body dl dd:nth-of-type(2)").split("/"))
    bound = float(text_of(driver, "#plane-body dl dd:nth-of-type(3)").rstrip("°"))
    assert apart(strike - convergence, STRIKE) < 12
    assert abs(dip - DIP) < 4
    assert bound < 40

    # A pen follows the pencil: two clicks on it, and the line runs along.
    hand.keys(Keys.ESCAPE)
    shown = shapely.from_wkt(
        driver.execute_script(
            "const lines = JSON.parse(document.getElementById('plane-trace').dataset.trace);"
            "return `MULTILINESTRING(${lines.map(l => `(${l.map(p => p.join(' ')).join(',')})`).join(',')})`"
        )
    )
    assert shapely.hausdorff_distance(trace.segmentize(20), shown.intersection(trace.buffer(60))) < 80
    run = max(shapely.get_parts(shown), key=lambda part: part.intersection(trace.buffer(40)).length)
    revision = hand.revision()
    hand.pen("1")
    first = run.project(trace.interpolate(0.2, normalized=True))
    last = run.project(trace.interpolate(0.8, normalized=True))
    hand.click(*run.interpolate(first).coords[0])
    assert hand.ring() in ("edge of trace", "end of trace")
    hand.keys("e")
    hand.click(*run.interpolate(last).coords[0])
    hand.keys(Keys.ENTER)
    hand.kept(revision + 1)
    project = ReadProject.open(path)
    contact = newest(project, "lines")
    project.close()
    assert contact.geometry.length > 0.5 * abs(last - first)
    assert len(contact.geometry.coords) > 5
    assert shapely.hausdorff_distance(contact.geometry, run) > 0
    assert contact.geometry.segmentize(5).hausdorff_distance(run.intersection(contact.geometry.buffer(1))) < 3

    # Selected, it is compared with the trace; and its own plane is the plane again, and becomes a reading.
    hand.keys(Keys.ESCAPE, Keys.ESCAPE)
    hand.click(*run.interpolate((first + last) / 2).coords[0])
    heard(driver)
    until(driver, lambda d: re.search(r"lies 0\.\d m \(0\.0\d mm\) from the trace", text_of(d, "#plane-compared")))
    find(driver, "#plane-selected").click()
    heard(driver)
    assert "contact" in text_of(driver, "#plane-body dl dd:nth-of-type(1)")
    typed(driver, "#plane-direction", "150")
    find(driver, "#plane-apparent button").click()
    heard(driver)
    assert "It dips" in text_of(driver, "#plane-said")
    find(driver, "[data-measure='1']").click()
    hand.click(MIDDLE[0] + 100, MIDDLE[1] - 150)
    until(driver, lambda d: "The plane lies" in text_of(d, "#plane-said"))
    revision = hand.revision()
    find(driver, "#plane-body form button").click()
    hand.kept(revision + 1)
    project = ReadProject.open(path)
    reading = newest(project, "points")
    project.close()
    assert reading.note.startswith(f"Measured over Heights of the hills from contact {contact.id}")
    assert abs((reading.inclination or 0) - dip) <= 3

    # The plane of the reading goes with the reading.
    hand.keys(Keys.ESCAPE)
    hand.click(reading.geometry.x, reading.geometry.y)
    until(driver, lambda d: f"bedding {reading.id}" in text_of(d, "#slip .tray-head"))
    find(driver, "#plane-selected").click()
    until(driver, lambda d: f"bedding {reading.id}" in text_of(d, "#plane-body dl dd:nth-of-type(1)"))
    typed(driver, "#reading-kept", "070/33")
    until(driver, lambda d: text_of(d, "#plane-body dl dd:nth-of-type(2)") == "070/33")

    # Places in one line are refused where the hand is, and the panel closes as it came.
    hand.keys(Keys.ESCAPE)
    find(driver, "#plane-pick").click()
    for place in ((-100, 0), (0, 0.0), (100, 0)):
        hand.click(MIDDLE[0] + place[0], MIDDLE[1] + place[1])
    until(driver, lambda d: find(d, "#plane-form .refusal").is_displayed())
    assert "one line" in text_of(driver, "#plane-form .refusal") or "do not tell" in text_of(
        driver, "#plane-form .refusal"
    )
    find(driver, "#close-plane").click()
    heard(driver)
    assert not find(driver, "#plane").is_displayed()
