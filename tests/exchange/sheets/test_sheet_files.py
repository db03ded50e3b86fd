"""Pictures and drawings for sheets: what is taken in, what is refused, and where it comes to lie in print."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import shapely
from PIL import Image

from orvik.core.errors import SheetRefused
from orvik.core.ink.primitives import Fill, walk
from orvik.core.sheet.page.sheet_file import Drawn
from orvik.exchange.sheets.sheet_files import LARGEST_FILE, drawing_of, picture_or_drawing, shown
from orvik.press.pdf import page_pdf

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="10 20 40 20">{}</svg>'


def written(image: Image.Image, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def quarters() -> Image.Image:
    """Red, green, blue and white from the upper left on."""
    return Image.fromarray(
        np.array([[(200, 0, 0), (0, 200, 0)], [(0, 0, 200), (255, 255, 255)]], dtype=np.uint8).repeat(8, 0).repeat(8, 1)
    )


@pytest.mark.parametrize(
    ("kind", "mode", "close"),
    [
        ("PNG", "RGB", 0),
        ("TIFF", "RGB", 0),
        ("WEBP", "RGB", 40),
        ("JPEG", "RGB", 40),
        ("JPEG", "CMYK", 60),
        ("GIF", "P", 8),
    ],
)
def test_pictures_of_many_kinds_become_what_they_show(kind: str, mode: str, close: int) -> None:
    kept = picture_or_drawing("a", written(quarters().convert(mode), kind))
    image = Image.open(io.BytesIO(kept.data))
    assert (kept.kind, image.format, image.size) == ("picture", "PNG", (16, 16))
    colours = np.asarray(image.convert("RGB"), dtype=int)[[4, 4, 12, 12], [4, 12, 4, 12]]
    assert np.abs(colours - [(200, 0, 0), (0, 200, 0), (0, 0, 200), (255, 255, 255)]).max() <= close


def test_a_photograph_stands_upright() -> None:
    """Orientation 6 of EXIF 2.32: the first row of the file is the right side of what is seen."""
    exif = Image.Exif()
    exif[0x0112] = 6
    kept = picture_or_drawing("a.jpg", written(quarters().resize((32, 16)), "JPEG", exif=exif.tobytes(), quality=95))
    image = Image.open(io.BytesIO(kept.data)).convert("RGB")
    assert image.size == (16, 32)
    assert image.getpixel((12, 4))[0] > 150


@pytest.mark.parametrize("mode", ["I;16", "F", "LA", "1"])
def test_grey_pictures_stay_grey(mode: str) -> None:
    kept = picture_or_drawing("a.tif", written(Image.new("L", (9, 7), 255).convert(mode), "TIFF"))
    assert Image.open(io.BytesIO(kept.data)).size == (9, 7)


@pytest.mark.parametrize("size", [(20_000, 10_000), (9_000, 8_000)])
def test_too_many_dots_are_refused_in_words(size: tuple[int, int]) -> None:
    data = written(Image.new("1", size), "PNG")
    with pytest.raises(SheetRefused, match="64 million at the most"):
        picture_or_drawing("scan.png", data)


def test_what_is_no_picture_is_refused(tmp_path: Path) -> None:
    whole = written(quarters(), "PNG")
    for data, why in (
        (b"", "empty"),
        (b"%PDF-1.7", "cannot be read"),
        (whole[: len(whole) // 2], "cannot be read"),
        (b"\x89PNG\r\n\x1a\n" + bytes(40), "cannot be read"),
        (bytes(LARGEST_FILE + 1), "more than 64 MB"),
        (SVG.format("").encode(), "nothing in this SVG"),
        (SVG.format("<text>Qt</text>").encode(), "paths and shapes"),
        (SVG.format('<image href="http://127.0.0.1/a.png"/>').encode(), "which a drawing does not take"),
        (SVG.format('<path d="M0 0h1" onclick="x()"/>').encode(), "script"),
        (b"<html><body/></html>", "not an SVG"),
    ):
        with pytest.raises(SheetRefused, match=why):
            picture_or_drawing("a", data)


def dots(drawn: Drawn, box: tuple[float, float, float, float], **values: float | bool) -> np.ndarray:
    """A page of 60 by 40 mm as it is printed, four dots a millimetre."""
    pdf = page_pdf(drawn.ink(box, **values), 60, 40, "a")
    return np.asarray(pypdfium2.PdfDocument(pdf)[0].render(scale=4 * 25.4 / 72).to_pil().convert("RGB"))


def of_dots() -> Drawn:
    return shown(picture_or_drawing("a", written(quarters(), "PNG")))


def of_lines() -> Drawn:
    return drawing_of(SVG_QUARTERS)


@pytest.mark.parametrize("make", [of_dots, of_lines])
def test_it_lies_whole_or_fills_its_frame(make: Callable[[], Drawn]) -> None:
    # A square in a frame of two to one: whole in the middle, or cut above and below.
    page = dots(make(), (10, 10, 40, 20))
    assert tuple(page[80, 60]) == (255, 255, 255)
    assert tuple(page[60, 100]) == (200, 0, 0)
    assert tuple(page[60, 140]) == (0, 200, 0)
    assert tuple(page[100, 100]) == (0, 0, 200)
    page = dots(make(), (10, 10, 40, 20), fill=True)
    assert tuple(page[60, 60]) == (200, 0, 0)
    assert tuple(page[60, 180]) == (0, 200, 0)
    assert tuple(page[36, 60]) == (255, 255, 255)
    # Turned by a quarter clockwise, what was at the upper left is at the upper right.
    page = dots(make(), (20, 10, 20, 20), turned=90.0)
    assert tuple(page[60, 140]) == (200, 0, 0)
    assert tuple(page[60, 100]) == (0, 0, 200)


SVG_QUARTERS = (
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 2 2"><rect width="1" height="1" fill="#c80000"/>'
    b'<rect x="1" width="1" height="1" fill="#00c800"/><rect y="1" width="1" height="1" fill="#0000c8"/></svg>'
)


def test_rings_fill_by_their_winding_or_even_odd() -> None:
    """SVG 2, 13.4.2: with nonzero, a ring that runs the other way is a hole, and one that runs along is none."""
    outer, along, against = "M0 0h30v20h-30z", "M5 5h9v9h-9z", "M5 5v9h9v-9z"
    for path, rule, area in (
        (outer + along, "nonzero", 600),
        (outer + against, "nonzero", 519),
        (outer + along, "evenodd", 519),
        (outer + "M40 0h5v5h-5z", "nonzero", 625),
    ):
        drawn = drawing_of(SVG.format(f'<path d="{path}" fill-rule="{rule}"/>').encode())
        (fill,) = (item for item in walk(drawn.items) if isinstance(item, Fill))
        ground = shapely.Polygon()
        for i in range(len(fill.paths)):
            ground = ground.symmetric_difference(shapely.Polygon(fill.paths[i]))
        assert ground.area == pytest.approx(area), (path, rule)


def test_a_screen_gets_fewer_dots_in_the_same_frame() -> None:
    kept = picture_or_drawing("a", written(quarters().resize((400, 300)), "PNG"))
    small = shown(kept, 100)
    assert (small.width, small.height) == (400, 300)
    assert Image.open(io.BytesIO(small.png)).size == (100, 75)


# The greys of a wedge as shares of white, and every form of picture that holds more than eight bits of them.
WEDGE = np.tile(np.linspace(0.0, 1.0, 256), (4, 1))


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("TIFF", np.round(WEDGE * 65_535).astype(np.uint16)),
        ("PNG", np.round(WEDGE * 65_535).astype(np.uint16)),
        ("TIFF", np.round(WEDGE * 4095).astype(np.uint16)),
        ("TIFF", np.round(WEDGE * 65_535).astype(np.int32)),
        ("TIFF", WEDGE.astype(np.float32)),
        ("TIFF", (WEDGE * 255).astype(np.float32)),
    ],
)
def test_greys_of_more_than_eight_bits_are_the_greys_they_are(kind: str, values: np.ndarray) -> None:
    kept = picture_or_drawing("wedge", written(Image.fromarray(values), kind))
    made = np.asarray(Image.open(io.BytesIO(kept.data)).convert("L"), dtype=int)
    np.testing.assert_allclose(made, np.round(WEDGE * 255), atol=1)
