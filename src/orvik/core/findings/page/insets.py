"""Insets: whether a reader sees where they lie, what they are and at what scale."""

from __future__ import annotations

import re

import numpy as np
import shapely

from orvik.core.errors import OrvikError
from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.panels.reprojection import OFF_MM, Carrier
from orvik.core.sheet.parts.fields import largest_panel
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel

rule(
    "inset_unplaced",
    "warning",
    "sheet",
    "Nothing shows where an inset lies",
    why="nobody can tell what ground it shows",
    spoils="reading",
)
rule(
    "inset_untitled",
    "warning",
    "sheet",
    "Nothing says what an inset shows",
    why="nobody can tell what it shows",
    spoils="reading",
)
rule(
    "inset_scaleless",
    "warning",
    "sheet",
    "Nothing says at what scale an inset is",
    why="nobody can measure on it",
    spoils="reading",
)

# A text within so many millimetres of an inset is its title, or says its scale.
TITLE_MM = 10.0
# At so many times the main panel's denominator a panel only says where the map lies.
LOCATOR = 4.0
_FRACTION = re.compile(r"1\s?:\s?\d|\bscale\b", re.IGNORECASE)


@of_sheet
def insets(ground: SheetGround) -> list[Finding]:
    """What insets lack: panels beside the main one, at another scale or of a detail of it."""
    main = largest_panel(ground.page)
    if main is None:
        return []
    out: list[Finding] = []
    for number, panel in ground.page.panels.items():
        if number == main.part.number:
            continue
        locator = panel.scale >= LOCATOR * main.scale
        if _is_unplaced(panel, main, locator):
            out.append(_unplaced(panel, main, locator))
        texts = _texts_at(panel, ground)
        spot, label = panel.part.middle, panel.part.label
        if not texts and not locator:
            message = f"Nothing at {label} says what it shows; set its title within {TITLE_MM:.0f} mm of it."
            out.append(Finding("inset_untitled", "warning", message, None, (), None, (), (number,), spot))
        if not locator and abs(panel.scale - main.scale) > 0.5 and not _says_scale(panel, texts, ground):
            message = (
                f"{label} is at 1:{spaced(round(panel.scale))} and {main.part.label} at 1:{spaced(round(main.scale))}; "
                "nothing at the inset says so."
            )
            out.append(Finding("inset_scaleless", "warning", message, None, (), None, (), (number,), spot))
    return out


def _is_unplaced(panel: Panel, main: Panel, locator: bool) -> bool:
    settings, of_main = panel.part.settings, main.part.settings
    assert isinstance(settings, MapPanel)
    assert isinstance(of_main, MapPanel)
    if locator:
        return panel.part.number not in of_main.footprints and _share(main, panel) > 0.5
    return main.part.number not in settings.footprints and _share(panel, main) > 0.25


def _share(one: Panel, other: Panel) -> float:
    """How much of a panel's ground another one shows, too."""
    try:
        carrier = Carrier(one.crs, other.crs, OFF_MM / other.mm_per_unit, one.centre)
        (there,) = carrier.geometries(np.array([one.ground]))
    except OrvikError:
        return 0.0
    return float(shapely.intersection(there, other.ground).area / there.area) if there.area else 0.0


def _unplaced(panel: Panel, main: Panel, locator: bool) -> Finding:
    label, shown = panel.part.label, main.part.label
    if locator:
        message = f"{label} does not show where {shown} lies; show the footprint of {shown} in it."
        of, other = main.part, panel.part
    else:
        message = f"{shown} does not show where {label} lies; show its footprint there."
        of, other = panel.part, main.part
    held = of.settings.footprints if isinstance(of.settings, MapPanel) else ()
    values = {"footprints": ",".join(str(n) for n in (*held, other.number))}
    fix = Fix("set", "Show its footprint", values=values) if not of.locked else None
    numbers = (of.number, other.number)
    return Finding("inset_unplaced", "warning", message, None, (), fix, (), numbers, panel.part.middle)


def _texts_at(panel: Panel, ground: SheetGround) -> list[Part]:
    """Texts that stand at a panel and at no other one more nearly."""
    frames = {n: other.frame for n, other in ground.page.panels.items()}
    out = []
    for part in ground.parts.values():
        if not part.settings.has_own_text or not getattr(part.settings, "text", "").strip():
            continue
        area = shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)
        mine = area.distance(frames[panel.part.number])
        if mine <= TITLE_MM and all(mine <= area.distance(f) for f in frames.values()):
            out.append(part)
    return out


def _says_scale(panel: Panel, texts: list[Part], ground: SheetGround) -> bool:
    if any(_FRACTION.search(getattr(part.settings, "text", "")) for part in texts):
        return True
    for part in ground.parts.values():
        settings = part.settings
        if isinstance(settings, PanelPartSettings) and settings.panel == panel.part.number:
            if settings.measures:
                return True
            if isinstance(settings, Graticule) and settings.figures != "none":
                return True
    return False
