"""Canvas, SVG and PDF of one ground at publication scale are one picture; the SVG in two general renderers."""

from __future__ import annotations

import base64
import io

import numpy as np
import pypdfium2
import pytest
import resvg_py
from PIL import Image
from scipy.ndimage import uniform_filter
from selenium.webdriver import Chrome

from orvik.core.features.kind import KINDS
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES
from orvik.core.ground.crs import project_crs
from orvik.core.ink.cut import cut
from orvik.core.ink.primitives import Group, Text, moved
from orvik.core.lettering import FONTS
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import LAYERS, portray
from orvik.press.pdf import page_pdf
from orvik.press.svg_file import Manner, document
from orvik.web.session.ink_wire import packed
from tests.browser.chromium import resize
from tests.browser.hands import heard
from tests.core.symbols.ground import UNITS, X, Y, mixed

CRS = project_crs("EPSG:32628")
SCALE = 25_000
# Two and a half by two inches: whole dots at 300 to the inch.
WIDTH, HEIGHT = 63.5, 50.8
DPI = 300.0
# What may differ, and of how many of the inked pixels: of 255, averaged over 3 by 3 pixels.
LEVELS, SHARE = 16, 0.99
PAINT = """
const [text, x, y, denominator, width, height, done] = arguments;
const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
const modules = ["ink", "paint", "paint_letters", "view"].map((name) => import(`/static/frame/${name}.js`));
Promise.all(modules)
  .then(async ([{ decode }, { paintItem }, { facesReady }, { View }]) => {
    await facesReady();
    const view = new View(x, y, denominator, 1);
    view.width = width;
    view.height = height;
    const canvas = document.createElement("canvas");
    const dots = window.devicePixelRatio;
    canvas.width = Math.round(width * dots);
    canvas.height = Math.round(height * dots);
    const context = canvas.getContext("2d");
    context.scale(dots, dots);
    context.fillStyle = "#FFFFFF";
    context.fillRect(0, 0, width, height);
    for (const layer of decode(bytes.buffer).layers)
      for (const item of layer.items) paintItem(context, item, view, null, view.window(20));
    done(canvas.toDataURL("image/png").split(",")[1]);
  }, (error) => done(String(error)));
"""

SETTLED = """
const [done] = arguments;
document.fonts.ready.then(() => requestAnimationFrame(() => requestAnimationFrame(done)));
"""


def read(png: bytes) -> np.ndarray:
    """A picture averaged over 3 by 3 pixels."""
    pixels = np.asarray(Image.open(io.BytesIO(png)).convert("RGB"), dtype=float)
    return np.stack([uniform_filter(pixels[..., i], 3) for i in range(3)], axis=-1)


def of_pdf(data: bytes) -> bytes:
    out = io.BytesIO()
    pypdfium2.PdfDocument(data)[0].render(scale=DPI / 72).to_pil().save(out, "PNG")
    return out.getvalue()


def ground(part: int) -> dict[str, Group]:
    """A fifth of all kinds as ground ink.

    Every other one without tints and letters: flat ground agrees anyway, and each library smooths letters in its own
    way.
    """
    units = UNITS if part % 2 else {code: MapUnit(u.code, u.name, "", "#FFFFFF") for code, u in UNITS.items()}
    kinds = {t: [k.name for k in KINDS.values() if k.table == t and k.role != "unit_area"][part::5] for t in TABLES}
    layers = portray(mixed(kinds), standard(), units, CRS, SCALE)
    if part % 2:
        return layers
    return {n: Group(n, tuple(i for i in g.items if not isinstance(i, Text))) for n, g in layers.items()}


@pytest.mark.browser
@pytest.mark.parametrize("part", range(5))
def test_one_picture(driver: Chrome, corner_address: str, part: int) -> None:
    layers = ground(part)
    k = 1000 / SCALE
    items = [Group(n, moved(layers[n].items, (k, 0.0, -k * X, 0.0, -k, HEIGHT + k * Y))) for n in LAYERS]
    drawn = document(cut(items), WIDTH, HEIGHT, "all", manner=Manner(symbols=part % 2 == 0))
    message = base64.b64encode(packed(layers, (X, Y), 1)).decode()
    middle = (X + WIDTH / k / 2, Y + HEIGHT / k / 2)
    pixels = (WIDTH * 96 / 25.4, HEIGHT * 96 / 25.4)
    driver.get(corner_address)
    heard(driver)
    resize(driver, 400, 300, DPI / 96)
    try:
        canvas = driver.execute_async_script(PAINT, message, *middle, SCALE, *pixels)
        driver.get("data:text/html,<style>body{margin:0}svg{display:block}</style>")
        driver.execute_script("document.body.innerHTML = arguments[0]", drawn)
        driver.execute_async_script(SETTLED)
        clip = {"x": 0, "y": 0, "width": pixels[0], "height": pixels[1], "scale": 1}
        shot = driver.execute_cdp_cmd("Page.captureScreenshot", {"format": "png", "clip": clip})["data"]
    finally:
        resize(driver)
    pictures = {
        "canvas": read(base64.b64decode(canvas)),
        "svg": read(base64.b64decode(shot)),
        "other": read(resvg_py.svg_to_bytes(svg_string=drawn, dpi=DPI, skip_system_fonts=True, font_dirs=[str(FONTS)])),
        "pdf": read(of_pdf(page_pdf(items, WIDTH, HEIGHT, "all"))),
    }
    assert len({picture.shape for picture in pictures.values()}) == 1
    inked = np.any([np.any(p < 250, axis=-1) for p in pictures.values()], axis=0)
    assert inked.mean() > 0.1
    for one, other in (("canvas", "pdf"), ("svg", "pdf"), ("canvas", "svg"), ("other", "pdf")):
        apart = np.abs(pictures[one] - pictures[other]).max(axis=-1)
        share = float((apart[inked] <= LEVELS).mean())
        assert share >= SHARE, (one, other, share)
