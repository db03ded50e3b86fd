"""A section on a sheet, measured in the PDF by PDFium: true to the panel's scale, in the words that it needs."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import rasterio
from scipy.ndimage import map_coordinates

from orvik.core.ink.primitives import Text, walk
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.structure.section.section import Section
from orvik.exchange.rasters.raster import files_folder
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.printing import sheet_pdf
from orvik.usecases.structure.sections import ask_of_section, section_of_letter
from tests.press.measure import segments

SIZE = 2.2


def placed(
    demo: Path, letter: str, width: float = 300.0, height: float = 120.0, beside: bool = False
) -> tuple[int, int]:
    """A section on the demo's quadrangle, alone or beside those there; gives the numbers of the sheet and the part."""
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0]
        panel = next(part for part in project.parts(sheet.number) if isinstance(part.settings, MapPanel))
        settings = CrossSection(panel=panel.id, letter=letter, size=SIZE, says_crossings=True)
        part = Part(settings, 20.0, 30.0, width, height, position=99)
        there = [p for p in project.parts(sheet.number) if isinstance(p.settings, CrossSection) and not beside]
        gone = [Change("parts", p.id, None) for p in there]
        entry = project.apply("section", [*gone, rows.part_change(part.changed(sheet_id=sheet.number))])
        return sheet.number, int(entry.changes[-1].id or 0)


def texts(demo: Path, sheet: int, part: int) -> list[str]:
    with opened_for_reading(demo) as read:
        groups = composed(read, sheet).groups
    (group,) = [group for group in groups if group.name == f"part-{part}"]
    return [item.run.chars for item in walk([group]) if isinstance(item, Text)]


@pytest.mark.parametrize(("letter", "exaggeration"), [("A", 1.0), ("B", 2.0)])
def test_lengths_and_heights_are_those_of_the_ground_within_a_tenth_of_a_millimetre(
    demo: Path, letter: str, exaggeration: float
) -> None:
    with opened_for_writing(demo) as project:
        line = section_of_letter(project, letter).section.line_id
        ask_of_section(project, Section(line, exaggeration, -300.0))
    sheet, _ = placed(demo, letter)
    with opened_for_reading(demo) as read:
        found = section_of_letter(read, letter)
        relief = files_folder(demo) / read.source(1).file
    paths = [np.array(path) for path in segments(sheet_pdf(demo, sheet))]
    long = found.line.length * 1000 / 25_000
    # The frame: down one end, along the foot, up the other.
    frames = [p for p in paths if len(p) == 4 and abs(np.ptp(p[:, 0]) - long) < 0.05 and abs(p[1, 1] - p[2, 1]) < 0.01]
    assert len(frames) == 1
    (_, foot), left, right = frames[0][1], frames[0][1, 0], frames[0][2, 0]
    assert right - left == pytest.approx(long, abs=0.02)
    # The ground, by places of its own on the file of heights (rasterio for the file, scipy between its cells).
    with rasterio.open(relief) as source:
        heights, transform = source.read(1).astype(float), source.transform
    inside = [p for p in paths if len(p) > 200 and p[:, 0].min() > left - 0.05 and p[:, 0].max() < right + 0.05]
    ground = max(inside, key=lambda p: float(np.ptp(p[:, 0])))
    assert np.ptp(ground[:, 0]) == pytest.approx(long, abs=0.02)
    x, y = found.line.at((ground[:, 0] - left) * 25.0).T
    columns, lines = ~transform * (x, y)
    wanted = map_coordinates(heights, [lines - 0.5, columns - 0.5], order=1)
    drawn = (foot - ground[:, 1]) * 25.0 / exaggeration - 300.0
    assert np.abs(drawn - wanted).max() * exaggeration / 25.0 < 0.1


def test_it_has_its_letters_its_heights_its_crossings_and_says_its_exaggeration(demo: Path) -> None:
    sheet, part = placed(demo, "B")
    said = texts(demo, sheet, part)
    assert {"B", "B′", "bend", "sea level", "0", "Jc | Jh", "Section B–B′, no vertical exaggeration"} <= set(said)
    assert {"Jh", "Jc", "Kw"} <= set(said)


def test_it_says_what_it_lacks(demo: Path) -> None:
    """A part that cannot be is not printed, and told of."""
    sheet, part = placed(demo, "Z")
    assert texts(demo, sheet, part) == []
    placed(demo, "A", 100.0, 50.0, beside=True)
    with opened_for_reading(demo) as read:
        told = " ".join(finding.message for finding in all_findings(read, sheet))
    assert "the map has A, B" in told
    assert "make the part larger" in told
