"""Pictures of pages: strips that meet dot for dot, resolution and ground told, bounded memory, and what cannot be."""

from __future__ import annotations

import math
import subprocess
import sys
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import rasterio
from PIL import Image

from orvik.core.errors import FileRefused, SheetRefused
from orvik.core.ink.affine import apply
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, LineStyle, Stroke, Text
from orvik.core.lettering import ROMAN, run
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.press import picture_file
from orvik.press.pdf import page_pdf
from orvik.press.picture_file import PageDots, write_picture
from orvik.store.project import opened_for_writing
from orvik.store.read_project import ReadProject
from orvik.usecases.export.export_sheets import export
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.parts import PartChange, change_part

Image.MAX_IMAGE_PIXELS = None
DPI = 160.0


def page() -> bytes:
    """Slanting lines, round letters and areas, over 90 by 70 mm."""
    rng = np.random.default_rng(5)
    lines = Paths.of(*(rng.uniform(0, 70, (9, 2)) for _ in range(30)))
    areas = Paths.of(*(np.vstack([p, p[:1]]) for p in (rng.uniform(0, 70, (5, 2)) for _ in range(6))))
    words = [Text(run("Quennet Gneiss", ROMAN, 5.0), (5.0, y), "#AA3333") for y in range(10, 70, 9)]
    items = [Fill("#A9CFC9", areas, np.arange(7)), Stroke(LineStyle(0.3, INK), lines), *words]
    return page_pdf(items, 90, 70, "a")


@pytest.mark.parametrize("ending", ["png", "tif", "jpg"])
def test_strips_are_the_page_as_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, ending: str) -> None:
    monkeypatch.setattr(picture_file, "STRIP_DOTS", 40_000)
    target = tmp_path / f"sheet.{ending}"
    pdf = page()
    assert PageDots(pdf, DPI).rows_at_a_time < 100
    write_picture(pdf, target, DPI)
    whole = pypdfium2.PdfDocument(pdf)[0].render(scale=DPI / 72).to_numpy()[:, :, ::-1].astype(int)
    image = Image.open(target)
    assert image.info["dpi"][0] == pytest.approx(DPI, abs=0.02)
    dots = np.asarray(image.convert("RGB"), dtype=int)
    assert dots.shape == whole.shape == (math.ceil(70 / 25.4 * DPI), math.ceil(90 / 25.4 * DPI), 3)
    apart = np.abs(dots - whole)
    # What draws it as a whole stretches it to whole dots, by a seventh of a dot here; JPEG smooths besides.
    assert apart.mean() < (5 if ending == "jpg" else 1.5)
    monkeypatch.setattr(picture_file, "STRIP_DOTS", 10**9)
    write_picture(pdf, tmp_path / f"one.{ending}", DPI)
    one = np.asarray(Image.open(tmp_path / f"one.{ending}").convert("RGB"), dtype=int)
    assert np.abs(one - dots).max() <= (40 if ending == "jpg" else 3)
    assert not list(tmp_path.glob(".out-*"))


@pytest.mark.parametrize("rotation", ["0", "-23"])
def test_a_tiff_tells_its_ground(demo: Path, tmp_path: Path, rotation: str) -> None:
    with opened_for_writing(demo) as project:
        number = next(p.id or 0 for p in project.parts(2) if p.label == "Main map")
        change_part(project, number, PartChange(typed={"rotation": rotation}))
    project = ReadProject.open(demo)
    target = tmp_path / "sheet.tif"
    export(project, project.sheet(2), target, ExportSettings(dpi=60.0))
    panel = composed(project, 2, 20).panels[number]
    project.close()
    with rasterio.open(target) as source:
        assert source.crs.to_epsg() == 32628
        places = panel.corners.mean(axis=0) + np.array([[-900.0, 700.0], [400.0, -1100.0], [1000.0, 900.0]])
        dots = np.array([~source.transform * tuple(place) for place in places])
    np.testing.assert_allclose(dots * 25.4 / 60, apply(panel.to_page, places), atol=0.01)


def test_what_cannot_be_is_said_and_leaves_nothing(tmp_path: Path) -> None:
    long = page_pdf([], 3000, 100, "a")
    with pytest.raises(SheetRefused, match="65535"):
        write_picture(long, tmp_path / "a.jpg", 600)
    for dpi in (9.0, 1201.0, float("nan")):
        with pytest.raises(SheetRefused, match="10 to 1200"):
            write_picture(page(), tmp_path / "a.png", dpi)
    with pytest.raises(FileRefused, match="another place"):
        write_picture(page(), tmp_path / "missing" / "a.png", 50)
    assert list(tmp_path.iterdir()) == []


A0 = """
import sys
from pathlib import Path
from orvik.press.pdf import page_pdf
from orvik.press.picture_file import write_picture
write_picture(page_pdf([], 1189, 841, "a"), Path(sys.argv[1]), 300)
held = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
print(int(held.split()[1]) // 1024)
"""


def test_a_large_page_takes_little_memory(tmp_path: Path) -> None:
    """An A0 of 14 044 by 9 934 dots, 420 MB of them, in less than 400 MB, with the interpreter and its libraries."""
    target = tmp_path / "a0.png"
    command = [sys.executable, "-c", A0, str(target)]
    used = int(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
    assert used < 400
    with Image.open(target) as image:
        assert image.size == (14_044, 9_934)
