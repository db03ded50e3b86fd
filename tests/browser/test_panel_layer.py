"""A map panel on the page is what its PDF prints, also turned, zoomed and moved."""

from __future__ import annotations

import base64
import io
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from PIL import Image
from scipy.ndimage import uniform_filter
from selenium.webdriver import ActionChains, Chrome

from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.project import opened_for_writing
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.arranging import remove_parts
from orvik.usecases.sheet.parts import PartChange, change_part
from orvik.usecases.sheet.printing import sheet_pdf
from tests.browser.hands import find, heard, until

pytestmark = pytest.mark.browser

# Averaged over 5 by 5 dots, because each library smooths thin lines and letters in its own way.
LEVELS, SHARE = 30, 0.985


def only_a_panel(path: Path, **typed: str) -> int:
    """The first sheet of the demo with nothing but its panel."""
    with opened_for_writing(path) as project:
        parts = project.parts(1)
        panel = next(p.id or 0 for p in parts if isinstance(p.settings, MapPanel))
        remove_parts(project, [p.id or 0 for p in parts if p.id != panel])
        change_part(project, panel, PartChange(typed=typed))
    return panel


def of_page(driver: Chrome) -> np.ndarray:
    """What the panel's canvas shows, on white."""
    url = driver.execute_script("return document.querySelector('canvas.layer').toDataURL()")
    image = Image.open(io.BytesIO(base64.b64decode(url.split(",")[1])))
    white = Image.new("RGBA", image.size, "#FFFFFF")
    return np.asarray(Image.alpha_composite(white, image).convert("RGB"), dtype=float)


def of_pdf(path: Path, driver: Chrome, shape: tuple[int, ...]) -> np.ndarray:
    """The same cut of the PDF, drawn twice as fine and averaged."""
    place = find(driver, "#page > g").get_dom_attribute("transform")
    x, y, k = (float(v) for v in place.replace("translate(", "").replace(") scale(", " ").rstrip(")").split())
    page = pypdfium2.PdfDocument(sheet_pdf(path, 1, 120))[0]
    drawn = page.render(scale=2 * k * 25.4 / 72).to_pil().convert("RGB")
    # From a dot of the cut to one of the page.
    across, down = (dots / (size / 72 * 25.4 * k) for dots, size in zip(drawn.size, page.get_size(), strict=True))
    way = (across / 2, 0.0, -x * across, 0.0, down / 2, -y * down)
    size = (shape[1] * 2, shape[0] * 2)
    cut = drawn.transform(size, Image.Transform.AFFINE, way)
    paper = Image.new("L", drawn.size, 255).transform(size, Image.Transform.AFFINE, way)
    return np.asarray(Image.composite(cut, Image.new("RGB", size, "#FFFFFF"), paper).reduce(2), dtype=float)


def shared(path: Path, driver: Chrome) -> float:
    """How much of what is inked is the same on the page and in the PDF."""
    seen = of_page(driver)
    printed = of_pdf(path, driver, seen.shape)
    one, other = (np.stack([uniform_filter(p[..., i], 5) for i in range(3)], axis=-1) for p in (seen, printed))
    inked = np.any(other < 250, axis=-1) | np.any(one < 250, axis=-1)
    assert inked.mean() > 0.05
    return float((np.abs(one - other).max(axis=-1)[inked] <= LEVELS).mean())


def agree(path: Path, driver: Chrome) -> None:
    # Sharp again when the hand has rested for a moment.
    until(driver, lambda _: shared(path, driver) >= SHARE)


def settled(driver: Chrome) -> None:
    until(driver, lambda d: find(d, "canvas.layer").get_dom_attribute("data-ink") == "whole")
    heard(driver)


OTHERWISE = {
    "rotation": "31",
    "neatline": "circle",
    "scale": "1:12 000",
    "symbol_scale": "1.4",
    "system": "EPSG:3035",
}


@pytest.mark.parametrize("typed", [{}, OTHERWISE], ids=["as it is", "turned, round, larger symbols, another system"])
def test_the_page_shows_what_is_printed(
    driver: Chrome, corner_address: str, corner: Path, typed: dict[str, str]
) -> None:
    panel = only_a_panel(corner, **typed)
    driver.get(f"{corner_address}/p/{corner.stem}/sheet")
    settled(driver)
    agree(corner, driver)
    # Nearer, and moved by hand: the same ink somewhere else.
    for _ in range(3):
        find(driver, "#zoom-in").click()
    before = place_of(corner, panel)
    hit = find(driver, f'[data-hit="{panel}"]')
    drag = ActionChains(driver).move_to_element(hit).click_and_hold().move_by_offset(25, 0)
    drag.move_by_offset(30, 17).release().perform()
    until(driver, lambda _: place_of(corner, panel) != before)
    settled(driver)
    agree(corner, driver)


def place_of(path: Path, panel: int) -> tuple[float, float]:
    project = ReadProject.open(path)
    try:
        part = project.part(panel)
        return part.x, part.y
    finally:
        project.close()
