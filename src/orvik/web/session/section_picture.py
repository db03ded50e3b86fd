"""A section as a page shows it under the map, made by a worker: ready to be shown, with what the pointer asks of it."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from orvik.core.structure.section.checks import SectionFinding, section_findings
from orvik.core.structure.section.meeting import meeting_places, met_count
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.structure.section.section_ink import framed, room, section_ink
from orvik.press.svg import fragment
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.structure.sections import letter_of, section_lines, section_of_map

# Letters on the screen, in millimetres.
LETTERS = 2.9
# As many places of the ground are told to the page.
MOST_PLACES = 600


@dataclass(frozen=True, eq=False)
class SectionPicture:
    """A section, and what there is to say of it.

    Attributes
    ----------
    ink
        SVG elements, in millimetres.
    width, height
        Of the picture, in millimetres.
    measures
        For the pointer, as JSON: where the first end stands at sea level, millimetres in a metre along and up; the
        vertices of its line on the map with their distances along; and the ground, along and up.
    scale
        The denominator of its scale along.
    lines
        All section lines of the map: number and letter.
    findings
        What may be wrong with what is drawn on it.
    met, places
        At how many places where lines of the map come to it something ends, and how many there are.
    """

    found: SectionOfMap
    ink: str
    width: float
    height: float
    measures: str
    scale: float
    lines: tuple[tuple[int, str], ...]
    findings: tuple[SectionFinding, ...]
    met: int
    places: int


def section_picture(path: Path, line_id: int, width: float, height: float, zoom: float = 1.0) -> SectionPicture:
    """A section of a project, as large as fits a page's room in millimetres, or so many times as large."""
    with opened_for_reading(path) as project, project.snapshot():
        found = section_of_map(project, line_id)
        units, book = project.units_by_code(), symbol_book_of(project)
        metres = project.crs.metres_per_unit
        lines = tuple((line.number, letter_of(line)) for line in section_lines(project))
    mm_per_metre = zoom * _scale(found, width, height)
    width *= zoom
    wide, high = room(found, mm_per_metre, LETTERS)
    frame = framed(found, max(width - wide, 0.0) / 2, 0.0, mm_per_metre, LETTERS)
    profile = found.profile
    # Both ends are among them.
    told = np.unique(np.linspace(0, len(profile.along) - 1, MOST_PLACES).round().astype(int))
    ground = [
        [round(a, 1), round(u, 1) if np.isfinite(u) else None]
        for a, u in zip(profile.along[told].tolist(), profile.height[told].tolist(), strict=True)
    ]
    measures = {
        "x": frame.x,
        "y": frame.y,
        "along": mm_per_metre,
        "up": mm_per_metre * found.section.exaggeration,
        "length": found.line.length,
        "stations": found.line.stations.tolist(),
        "places": (found.line.xy / metres).tolist(),
        "crossings": [round(crossing.along, 2) for crossing in found.crossings],
        "ground": ground,
        "exaggeration": found.section.exaggeration,
    }
    places = meeting_places(found)
    return SectionPicture(
        found,
        fragment(section_ink(found, book, units, frame, LETTERS, tags=True), "section"),
        max(width, wide),
        high,
        json.dumps(measures, separators=(",", ":")),
        1000 / mm_per_metre,
        lines,
        tuple(section_findings(found, list(units))),
        met_count(found.ends_put, places),
        len(places),
    )


def _scale(found: SectionOfMap, width: float, height: float) -> float:
    """Millimetres in a metre so that a section fits a width and a height with its letters."""
    spare_wide, spare_high = room(found, 0.0, LETTERS)
    across = (width - spare_wide) / found.line.length
    span = (found.top - found.base) * found.section.exaggeration
    return max(min(across, (height - spare_high) / span if span > 0 else across), 1e-6)


def found_section(path: Path, line_id: int) -> SectionOfMap:
    """A section of a project as its map has it now."""
    with opened_for_reading(path) as project, project.snapshot():
        return section_of_map(project, line_id)


def first_section(path: Path) -> int | None:
    """The number of the first section line of a project; None where it has none."""
    with opened_for_reading(path) as project:
        return next((line.id for line in section_lines(project)), None)
