"""The demo's sheets: a quadrangle, a regional one with two insets in systems of their own, and a figure for a page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from orvik.core.ground import crs_build
from orvik.core.ground.crs import project_crs
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.paper import OWN_SIZE, paper_size
from orvik.core.sheet.page.part import Part, PartSettings
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.identifier import Identifier
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.templates import laid_out
from orvik.core.sheet.templates.brief import DETAIL, LOCATOR, MAIN, Brief, text_lengths
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.structure.sections import section_heights

SHEET, REGIONAL, FIGURE = "Harrack Head", "Quennet and its waters", "Figure 1"
SEA = "#D9E9F0"
# Its paper is as wide as all that stands beside its map needs, in millimetres, as such sheets are cut.
QUADRANGLE = (720.0, 430.0)
# The day that the declination on the sheets is of.
SURVEYED = date(2026, 7, 2)
# Names on the sheet: what is named, where its first letter stands, and how large.
PLACES = (
    ("Harrack Head", 516_090.0, 6_804_760.0, 3.0),
    ("Bay of Sule", 510_450.0, 6_804_900.0, 3.4),
    ("The Skerries", 515_750.0, 6_800_230.0, 2.8),
    ("Sound of Wray", 510_050.0, 6_800_450.0, 3.4),
)
SAID = "Invented geology, drawn from a fixed random seed."
SOURCES = "field sheet 3 and the island survey's grid of heights, both invented"
AUTHOR = "H. Quill"
# The locator is drawn in Europe's Lambert, as maps of the whole ocean are; the detail stands on its own meridian.
OCEAN = "EPSG:3034"
_MADE = {"author": AUTHOR, "day": SURVEYED.isoformat()}
# What the detail shows, in the project's system: the head of the burn.
HEAD_OF_THE_BURN = (514_600.0, 6_803_300.0)


def add_sheets(project: Project) -> None:
    """All three of them, the quadrangle first."""
    for name, parts, paper, layout in (
        (SHEET, _quadrangle(project), (OWN_SIZE, *QUADRANGLE), PageLayout()),
        (REGIONAL, _regional(project), paper_size("A2", True), PageLayout()),
        (FIGURE, _figure(project), paper_size("A4", False), PageLayout(purpose="figure")),
    ):
        label, width, height = paper
        project.apply(f"add sheet {name}", rows.sheet_changes(Sheet(name, label, width, height, layout=layout), parts))


def _laid_out(project: Project, name: str, template: str, paper: tuple[str, float, float]) -> list[Part]:
    border = project.border()
    if border is None:
        raise AssertionError("the demo has a border")
    label, width, height = paper
    scale, size = project.scales.publication, (width, height)
    sections = section_heights(project) if template == "survey" else ()
    brief = Brief(
        name,
        project.name,
        size,
        border,
        scale,
        project.crs,
        SURVEYED,
        label,
        sections=sections,
        readings=True,
        heights=True,
        texts=text_lengths([unit for _, unit in project.units()]),
    )
    return laid_out(brief, template)


def _with(part: Part, kind: type[PartSettings], **values: Any) -> Part:
    """A part with other settings, if it is of a kind."""
    return part.changed(settings=replace(part.settings, **values)) if isinstance(part.settings, kind) else part


def _quadrangle(project: Project) -> list[Part]:
    parts = _laid_out(project, SHEET, "survey", (OWN_SIZE, *QUADRANGLE))
    parts = [_with(part, MapPanel, ground_colour=SEA, underlays={"1": 0.3}) for part in parts]
    notes = next(part for part in parts if part.label == "Notes")
    code = Part(Identifier(), notes.x - 66.0, notes.y, 56.0, 16.0, position=90)
    return [*parts, code, *_names(parts)]


def _names(parts: Sequence[Part]) -> list[Part]:
    """Names at places of the ground, on the panel that shows it."""
    panel = next(part for part in parts if isinstance(part.settings, MapPanel))
    found: list[Part] = []
    for name, x, y, size in PLACES:
        left, top = panel.x + (x - BORDER[0]) / 25.0, panel.y + (BORDER[3] - y) / 25.0
        position = len(parts) + len(found) + 1
        found.append(Part(RunningText(text=name, size=size), left, top, 26.0, 6.0, position=position))
    return found


def _regional(project: Project) -> list[Part]:
    """The main map upright on its own meridian's grid, where Quennet lies in the ocean, and the head of the burn."""
    middle = ((BORDER[0] + BORDER[2]) / 2, (BORDER[1] + BORDER[3]) / 2)
    longitude, latitude = (float(v) for v in project.crs.to_geographic(*HEAD_OF_THE_BURN))
    own = crs_build.built(
        crs_build.Parameters("tm", round(latitude, 2), round(longitude, 2), name="Quennet transverse Mercator")
    )
    parts = []
    for part in _laid_out(project, REGIONAL, "regional", paper_size("A2", True)):
        if part.id == MAIN:
            part = _with(part, MapPanel, ground_colour=SEA, underlays={"1": 0.3})
        elif part.id == LOCATOR:
            part = _with(
                part,
                MapPanel,
                ground_colour=SEA,
                system=OCEAN,
                centre=carried_place(project.crs, project_crs(OCEAN), middle),
                scale=3_000_000,
                neatline="circle",
                # The lands around are invented, too: a layer of the project instead of the outline of the real ones.
                land=False,
                underlays={"3": 1.0},
                # The island is two millimetres across here: its tints are all that can be seen of it.
                layers={"linework": 0.0, "attitudes": 0.0, "labels": 0.0},
            )
        elif part.id == DETAIL:
            part = _with(
                part,
                MapPanel,
                ground_colour=SEA,
                underlays={"1": 0.3},
                system=own.text,
                centre=carried_place(project.crs, own, HEAD_OF_THE_BURN),
                scale=15_000,
                name="Head of the burn",
            )
        elif part.settings.name == "Title of the detail":
            part = _with(part, RunningText, text="Head of the burn")
        part = _with(part, Explanation, headings="age")
        parts.append(_with(part, CreditNote, text=SAID, sources=SOURCES, size=2.75, **_MADE))
    far = Graticule(panel=LOCATOR, lines_of="geographic", style="lines", figures="inside", size=1.8, spacing=60)
    near = Graticule(panel=DETAIL, lines_of="geographic", style="ticks", figures="inside", size=1.8)
    locator = next(part for part in parts if part.id == LOCATOR)
    x, y = locator.middle
    name = RunningText(text="Quennet", size=2.8)
    count = len(parts)
    return [
        *parts,
        Part(replace(far, colour="#7B8A96"), locator.x, locator.y, 10.0, 10.0, position=count + 1),
        Part(near, locator.x, locator.y, 10.0, 10.0, position=count + 2),
        Part(name, x + 1.2, y - 1.6, 20.0, 4.0, position=count + 3),
    ]


def _figure(project: Project) -> list[Part]:
    parts = _laid_out(project, SHEET, "figure", paper_size("A4", False))
    parts = [_with(part, MapPanel, ground_colour=SEA) for part in parts]
    words = "Figure 1. Geologic map of the Isle of Quennet, simplified from sheet Harrack Head. Invented geology."
    return [_with(part, RunningText, text=words) for part in parts]
