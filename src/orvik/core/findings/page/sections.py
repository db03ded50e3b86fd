"""Sections that a sheet prints and that do not agree with its map, or with themselves."""

from __future__ import annotations

import numpy as np

from orvik.core.errors import OrvikError
from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.structure.section.checks import AGAINST_MAP, section_findings

rule(
    "section_against_map",
    "error",
    "sheet",
    "A section shows something else at the ground than the map along its line",
    why="section and map tell two stories of one line",
)
rule(
    "section_doubtful",
    "warning",
    "sheet",
    "On a section a line hangs, a bed thickens, or markers are offset by different amounts on one fault",
    why="rock cannot lie so",
)

# What is off by less than so many millimetres on the sheet nobody sees: lines are thicker.
SEEN_MM = 0.1


@of_sheet
def sections(ground: SheetGround) -> list[Finding]:
    """What there is to say of the sections that are printed."""
    out = []
    page = ground.page
    if page.map.section is None:
        return []
    for number, part in ground.parts.items():
        if not isinstance(part.settings, CrossSection):
            continue
        try:
            found = page.map.section(part.settings.letter.strip())
        except OrvikError:
            # The part itself says why it shows nothing.
            continue
        frame = part.settings.frame_of(part, page, found)
        begin, metre = (np.array(frame.at_place((along, 0.0))) for along in (0.0, 1.0))
        seen = SEEN_MM / float(np.hypot(*(metre - begin)))
        for one in section_findings(found, list(page.map.units)):
            if one.off < seen:
                continue
            message = f"Section {found.title}: {one.message}"
            x, y = frame.at_place(one.place)
            about = f"{found.name} {one.rule} {one.place[0]:.1f},{one.place[1]:.1f}"
            rest = (None, (), None, (), (number,), (x, y), about, (one.message,))
            if one.rule in AGAINST_MAP:
                out.append(Finding("section_against_map", "error", message, *rest))
            else:
                out.append(Finding("section_doubtful", "warning", message, *rest))
    return out
