"""The painted page measured by other readers: PDFium, poppler."""

from __future__ import annotations

import io
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group, LineStyle, Marks, Picture, Stamp, Stroke, Text
from orvik.core.lettering import ROMAN, run, wrapped
from orvik.press.pdf import page_pdf
from orvik.press.picture_file import page_png
from orvik.press.svg_file import document
from tests.press.measure import MM, segments

BLACK = LineStyle(0.2, "#000000")


def page(*items: object) -> bytes:
    return page_pdf(items, 420, 297, "Test")  # type: ignore[arg-type]


def test_places_are_true_to_a_hundredth_of_a_millimetre() -> None:
    data = page(Stroke(BLACK, Paths.of([(10, 20), (210, 20), (210.123, 33.456)])))
    assert np.array(segments(data)[0]) == pytest.approx(np.array([(10, 20), (210, 20), (210.123, 33.456)]), abs=0.01)


def test_page_size_and_title_for_poppler(tmp_path: Path) -> None:
    path = tmp_path / "a.pdf"
    path.write_bytes(page(Stroke(BLACK, Paths.of([(0, 0), (1, 1)]))))
    out = subprocess.run(["pdfinfo", path], capture_output=True, text=True, check=True).stdout
    assert "Test" in out
    width, height = (float(v) for v in out.split("Page size:")[1].split("pts")[0].split("x"))
    assert (width / MM, height / MM) == pytest.approx((420, 297), abs=0.01)


def test_text_is_found_where_it_was_set(tmp_path: Path) -> None:
    path = tmp_path / "a.pdf"
    letters = run("Harrack Head 61°21′", ROMAN, 5.0)
    path.write_bytes(page(Text(letters, (50.0, 100.0), "#000000")))
    out = subprocess.run(["pdftotext", "-bbox", path, "-"], capture_output=True, text=True, check=True).stdout
    words = [line for line in out.splitlines() if "<word" in line]
    assert [w.split(">")[1].split("<")[0] for w in words] == ["Harrack", "Head", "61°21′"]
    first = float(words[0].split('xMin="')[1].split('"')[0])
    last = float(words[-1].split('xMax="')[1].split('"')[0])
    assert first / MM == pytest.approx(50, abs=0.05)
    assert (last - first) / MM == pytest.approx(letters.width, abs=0.05)


def test_fonts_are_embedded(tmp_path: Path) -> None:
    path = tmp_path / "a.pdf"
    path.write_bytes(page(Text(run("Explanation", ROMAN, 5.0), (50.0, 100.0), "#000000")))
    rows = subprocess.run(["pdffonts", path], capture_output=True, text=True, check=True).stdout.splitlines()[2:]
    assert len(rows) == 1
    assert rows[0][6:].startswith("+Spectral-Regular")
    assert rows[0].split()[-5:-2] == ["yes", "yes", "yes"]


def dots(*items: object, dpi: float = 254) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(page_png(page(*items), dpi)))).astype(int)


def test_upright_and_turned_text_lie_where_they_should() -> None:
    up = dots(Text(run("HHHH", ROMAN, 10.0), (100.0, 100.0), "#000000"))
    down = dots(Text(run("HHHH", ROMAN, 10.0), (100.0, 100.0), "#000000", angle=90.0))
    ys, xs = np.nonzero(up[:, :, 0] < 128)
    assert xs.min() > 995
    assert ys.max() < 1005
    ys, xs = np.nonzero(down[:, :, 0] < 128)
    assert ys.min() > 995
    assert xs.min() > 995


def test_symbols_turn_clockwise() -> None:
    arrow = Stamp("arrow", (Stroke(BLACK, Paths.of([(0, 0), (0, -10)])),))
    grey = dots(Marks(arrow, np.array([[100.0, 100.0]]), np.array([90.0])))
    ys, xs = np.nonzero(grey[:, :, 0] < 128)
    assert (xs.min(), xs.max()) == pytest.approx((1000, 1100), abs=3)
    assert ys.max() - ys.min() < 5


def test_holes_clips_opacity_and_multiply() -> None:
    rings = Paths.of([(10, 10), (50, 10), (50, 50), (10, 50)], [(20, 20), (40, 20), (40, 40), (20, 40)])
    fill = Fill("#FF0000", rings, np.array([0, 2]))
    blue = Fill("#0000FF", Paths.of([(0, 0), (60, 0), (60, 60), (0, 60)]), np.array([0, 1]))
    grey = Fill("#808080", Paths.of([(0, 0), (60, 0), (60, 60), (0, 60)]), np.array([0, 1]))
    plain = dots(fill)
    assert tuple(plain[150, 150]) == (255, 0, 0)
    assert tuple(plain[300, 300]) == (255, 255, 255)
    clipped = dots(Group("c", (blue,), clip=Paths.of([(10, 10), (20, 10), (20, 20), (10, 20)])))
    assert tuple(clipped[150, 150]) == (0, 0, 255)
    assert tuple(clipped[300, 300]) == (255, 255, 255)
    half = dots(Group("s", (fill, blue), opacity=0.5))
    assert np.abs(half[150, 150] - (127, 127, 255)).max() <= 2
    product = dots(fill, Group("m", (grey,), multiply=True))
    assert np.abs(product[150, 150] - (128, 0, 0)).max() <= 2


def test_pictures_stand_upright() -> None:
    import io

    pixels = np.zeros((2, 2, 4), dtype=np.uint8)
    pixels[:, :, 3] = 255
    pixels[0, 0] = (255, 0, 0, 255)
    pixels[1, 1] = (0, 0, 255, 0)
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG")
    seen = dots(Picture(out.getvalue(), (40.0, 0.0, 10.0, 0.0, 40.0, 10.0)))
    assert seen[150, 150, 0] > 200
    assert seen[150, 150, 2] < 60
    assert tuple(seen[480, 480]) == (255, 255, 255)


def test_no_seam_between_neighbours() -> None:
    left = Fill("#BBD5A6", Paths.of([(10, 10), (30.013, 10), (33.37, 90), (10, 90)]), np.array([0, 1]), spread=0.05)
    right = Fill("#BBD5A6", Paths.of([(30.013, 10), (60, 10), (60, 90), (33.37, 90)]), np.array([0, 1]), spread=0.05)
    seen = dots(left, right, dpi=300)
    middle = seen[200:1000, 200:650]
    assert np.abs(middle - middle[0, 0]).max() <= 2


def test_svg_has_the_same_places_as_the_pdf() -> None:
    from xml.etree import ElementTree

    stroke = Stroke(LineStyle(0.375, "#22303C", (3.4, 1.0)), Paths.of([(10, 20), (210.5, 20.25)]))
    text = Text(run("Qt & <Kp>", ROMAN, 3.0), (50.0, 60.0), "#000000")
    root = ElementTree.fromstring(document([stroke, text], 420, 297, "A & B"))
    space = {"s": "http://www.w3.org/2000/svg"}
    assert root.get("width") == "420mm"
    assert root.find("s:path", space).get("d") == "M10 20L210.5 20.25"  # type: ignore[union-attr]
    assert root.find("s:path", space).get("stroke-dasharray") == "3.4 1"  # type: ignore[union-attr]
    assert root.find("s:text", space).text == "Qt & <Kp>"  # type: ignore[union-attr]


def test_lines_of_text_fit_their_width() -> None:
    text = "Transverse Mercator, World Geodetic System 1984, digitized at 1:6 250 or larger\nSecond"
    lines = wrapped(text, ROMAN, 2.4, 50)
    assert " ".join(lines).replace(" Second", "\nSecond") == text
    assert all(run(line, ROMAN, 2.4).width <= 50 for line in lines)


@pytest.mark.parametrize("dpi", [5, 3000])
def test_useless_resolutions_are_refused(dpi: float) -> None:
    with pytest.raises(Exception, match="dots per inch"):
        page_png(page(), dpi)


def test_the_same_page_is_the_same_file() -> None:
    items = [
        Text(run("Ꞓ, αβ, e\u0301", ROMAN, 4.0), (10, 10), "#000000"),
        Text(run("", ROMAN, 4.0), (10, 20), "#000000"),
    ]
    one, two = (page_pdf(items, 100, 60, "Twice") for _ in range(2))
    assert one == two


def test_letters_of_other_alphabets_can_be_read_out_again(tmp_path: Path) -> None:
    """Poppler's pdftotext finds the letters, and no box stands for any of them."""
    file = tmp_path / "letters.pdf"
    words = "Ꞓambrian étage Ордовик αβγ SiO₂"
    file.write_bytes(page_pdf([Text(run(words, ROMAN, 5.0), (10, 20), "#000000")], 120, 60, "Letters"))
    told = subprocess.run(["pdftotext", str(file), "-"], capture_output=True, text=True, check=True).stdout
    assert told.split() == words.split()
