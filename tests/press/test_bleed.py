"""Bleed and trim marks, read by pikepdf and pdfium (ISO 32000-2, 14.11.2)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pytest

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, Group
from orvik.core.sheet.output.export_settings import ExportRun, ExportSettings
from orvik.core.sheet.output.trimming import trimmed
from orvik.press import pdf
from orvik.press.pdf_standard import About
from orvik.usecases.export.export_run import carry_out

PT = 72 / 25.4
DPI = 254
# Ink that reaches 6 mm beyond a page of 60 by 40 on every side.
OVER = Paths.of([(-6.0, -6.0), (66.0, -6.0), (66.0, 46.0), (-6.0, 46.0), (-6.0, -6.0)])


def dots(bleed: float, marks: bool, path: Path) -> tuple[np.ndarray, float]:
    """The dots of such a page, ten a millimetre, and how far within it the trimmed page lies."""
    cut = trimmed([Group("part", (Fill("#C00000", OVER, np.array([0, 1])),))], 60.0, 40.0, bleed, marks)
    path.write_bytes(
        pdf.pages_pdf([pdf.Page(cut.items, cut.width, cut.height, (), cut.edge, cut.bleed)], About("Test"))
    )
    with pikepdf.open(path) as opened:
        page = opened.pages[0]
        if cut.edge:
            trim, over = ([float(v) / PT for v in page[box]] for box in ("/TrimBox", "/BleedBox"))
            assert trim == pytest.approx([cut.edge, cut.edge, cut.edge + 60, cut.edge + 40], abs=1e-3)
            assert over == pytest.approx(
                [cut.edge - bleed, cut.edge - bleed, cut.edge + 60 + bleed, cut.edge + 40 + bleed], abs=1e-3
            )
    page = pypdfium2.PdfDocument(path)[0]
    return page.render(scale=DPI / 72).to_numpy()[:, :, ::-1].astype(int), cut.edge


def is_red(dot: np.ndarray) -> bool:
    return bool(dot[0] > 150 and dot[1] < 60)


def test_ink_reaches_as_far_as_the_bleed_and_no_further(tmp_path: Path) -> None:
    seen, edge = dots(3.0, True, tmp_path / "t.pdf")
    middle = seen.shape[0] // 2
    for mm, there in ((edge - 2.8, True), (edge - 3.2, False), (edge + 62.8, True), (edge + 63.2, False)):
        assert is_red(seen[middle, round(mm * 10)]) is there


def test_marks_stand_at_the_edges_of_the_trimmed_page_and_off_it(tmp_path: Path) -> None:
    seen, edge = dots(3.0, True, tmp_path / "t.pdf")
    row = round((edge - 5.0) * 10)
    dark = np.flatnonzero(seen[row].max(axis=1) < 120) / 10
    assert sorted({round(float(v)) for v in dark}) == [round(edge), round(edge + 60)]
    # Nothing of them on the page itself.
    inner = seen[round(edge * 10) + 2 : round((edge + 40) * 10) - 2, round(edge * 10) + 2 : round((edge + 60) * 10) - 2]
    assert (inner[:, :, 0] > 150).all()


def test_without_both_a_page_is_as_it_was(tmp_path: Path) -> None:
    seen, edge = dots(0.0, False, tmp_path / "t.pdf")
    assert edge == 0
    assert seen.shape[:2] == (400, 600)


def test_the_ground_of_a_panel_moves_with_the_page(demo: Path, tmp_path: Path) -> None:
    """Each viewport stands where its panel is printed."""
    boxes = []
    for way in (ExportSettings(pattern="plain"), ExportSettings(pattern="cut", bleed=3.0, trim_marks=True)):
        (name,) = carry_out(demo, ExportRun((1,), way), tmp_path).files
        with pikepdf.open(tmp_path / name) as opened:
            page = opened.pages[0]
            edge = float(page.get("/TrimBox", [0])[0])
            boxes.append([float(v) - edge for v in page.VP[0].BBox])
    assert boxes[0] == pytest.approx(boxes[1], abs=1e-3)
