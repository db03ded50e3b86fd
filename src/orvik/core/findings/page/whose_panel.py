"""Parts against panels: which one a part speaks of, and whether that shows what the part counts on."""

from __future__ import annotations

from collections import Counter

import numpy as np
import shapely

from orvik.core.features.kind import SECTION_LINE
from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.scale import figures
from orvik.core.ink.affine import apply
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.panels.panel import Panel, aimed
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fields import largest_panel
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import LAYER_WORDS, MapPanel
from orvik.core.sheet.parts.section import CrossSection

rule(
    "other_panel",
    "error",
    "sheet",
    "A part speaks of another panel than the one it stands at",
    why="what it says is not so of the map that it stands at",
)
rule(
    "layer_off",
    "warning",
    "sheet",
    "A panel leaves out a layer that a part of the sheet counts on",
    why="readers look in vain for what it speaks of",
    spoils="reading",
)
rule(
    "border_cut",
    "warning",
    "sheet",
    "The main panel leaves out some of the ground within the border",
    why="ground that belongs to the sheet is not printed",
)
rule(
    "section_untraced",
    "error",
    "sheet",
    "The panel that a section speaks of does not show its line",
    why="nobody can tell where the section runs",
    spoils="reading",
)
rule(
    "no_figures",
    "warning",
    "sheet",
    "Lines of a graticule have no figures that say which they are",
    why="nobody can tell which lines they are",
    spoils="reading",
)

# A part stands at a panel within so many millimetres, and not at its own if that is so much further off.
AT_MM, FURTHER_MM = 30.0, 15.0
# The ground within a border that a panel shows to less than this share is a detail of it, to more than this all of it.
DETAIL, WHOLE = 0.5, 0.9995


@of_sheet
def other_panel(ground: SheetGround) -> list[Finding]:
    """Scale bars, fractions and north arrows at the wrong panel; what stands at another panel than the main one."""
    panels = ground.page.panels
    if len(panels) < 2:
        return []
    out = []
    for number, part in ground.parts.items():
        settings = part.settings
        own = settings.panel if isinstance(settings, PanelPartSettings) and settings.stands_by else None
        if own is None or own not in panels:
            continue
        apart = {n: _apart(part, panel.part) for n, panel in panels.items()}
        nearest = min(apart, key=lambda n: (apart[n], -panels[n].part.width))
        if apart[nearest] > AT_MM or apart[own] < apart[nearest] + FURTHER_MM:
            continue
        here, there = panels[nearest].part.label, panels[own].part.label
        kind = settings.label[0].lower() + settings.label[1:]
        named = f"{part.label} ({kind})" if part.settings.name and part.label.lower() != kind else f"The {kind}"
        message = f"{named} stands at {here} and speaks of {there}; a reader takes it to be of {here}."
        fix = Fix("set", f"Let it speak of {here}", values={"panel": str(nearest)}) if not part.locked else None
        out.append(Finding("other_panel", "error", message, None, (), fix, (), (number, nearest), part.middle))
    return [*out, *_main_lacks(ground)]


def _main_lacks(ground: SheetGround) -> list[Finding]:
    """Explanations and graticules of which the main panel has none, and another one has what was meant for it."""
    panels, main = ground.page.panels, largest_panel(ground.page)
    assert main is not None
    out = []
    for kind, least, what in ((Explanation, 1, "explains"), (Graticule, 2, "lies on")):
        parts = [part for part in ground.parts.values() if isinstance(part.settings, kind)]
        of = Counter(part.settings.panel for part in parts if isinstance(part.settings, PanelPartSettings))
        if main.part.number in of or not parts:
            continue
        doubled = [part for part in parts if isinstance(part.settings, kind) and of[part.settings.panel] >= least]
        for part in doubled[:1]:
            other = panels.get(part.settings.panel or 0)  # type: ignore[attr-defined]
            if other is None or other.scale > 4 * main.scale:
                continue
            message = f"{part.label} {what} {other.part.label}, and none {what} {main.part.label}, the main panel."
            fix = Fix("set", f"Let it speak of {main.part.label}", values={"panel": str(main.part.number)})
            spot = main.part.middle if part.settings.lies_on_panel else part.middle
            numbers = (part.number, main.part.number)
            out.append(Finding("other_panel", "error", message, None, (), fix, (), numbers, spot))
    return out


def _apart(one: Part, other: Part) -> float:
    """Millimetres between two parts; 0 where they meet."""
    dx = max(one.x - other.x - other.width, other.x - one.x - one.width, 0.0)
    dy = max(one.y - other.y - other.height, other.y - one.y - one.height, 0.0)
    return float(np.hypot(dx, dy))


@of_sheet
def layers_off(ground: SheetGround) -> list[Finding]:
    """Layers that a panel does not print, and by which what explanations and descriptions say would be found."""
    out = []
    for number, panel in ground.page.panels.items():
        off = [layer for layer in LAYER_WORDS if panel.layers.get(layer, 1.0) <= 0]
        for layer in off:
            parts = [part for part in ground.parts.values() if _counts(part, number, layer)]
            if not parts:
                continue
            what, label = LAYER_WORDS[layer].lower(), panel.part.label
            named = " and ".join(part.label for part in parts[:3])
            verb = "counts" if len(parts) == 1 else "count"
            message = f"{label} does not print its {what}, on which {named} {verb}; a reader looks for them in vain."
            fix = Fix("print_layer", f"Print the {what}", key=layer) if not panel.part.locked else None
            numbers = (number, *(part.number for part in parts))
            out.append(Finding("layer_off", "warning", message, None, (), fix, (), numbers, panel.part.middle, layer))
    return out


def _counts(part: Part, panel: int, layer: str) -> bool:
    settings = part.settings
    return isinstance(settings, PanelPartSettings) and settings.panel == panel and layer in settings.counts_on


@of_sheet
def border_cut(ground: SheetGround) -> list[Finding]:
    """A main panel whose frame cuts some of the ground off that the border holds."""
    panel = largest_panel(ground.page)
    if panel is None or panel.border is None or panel.shape != "border":
        return []
    frame = shapely.transform(panel.frame, lambda xy: apply(panel.to_ground, xy))
    share = shapely.intersection(panel.border, frame).area / panel.border.area
    if not DETAIL <= share < WHOLE:
        return []
    part = panel.part
    west, north, east, south = shapely.transform(panel.border, lambda xy: apply(panel.to_page, xy)).bounds
    over = {
        "left": part.x - west,
        "upper": part.y - north,
        "right": east - part.x - part.width,
        "lower": south - part.y - part.height,
    }
    side = max(over, key=lambda name: over[name])
    message = (
        f"{part.label} cuts off {over[side]:.1f} mm of the ground within the border at its {side} edge "
        f"({100 * (1 - share):.0f} % of the ground in all)."
    )
    fix = None
    ring = shapely.LineString(panel.border.exterior.coords)
    centre, width, height = aimed(ring, panel.scale, panel.crs)
    if width <= part.width + 0.1 and height <= part.height + 0.1 and not part.locked and not panel.rotation:
        fix = Fix("set", "Aim it at the border", values={"east": f"{centre[0]!r}", "north": f"{centre[1]!r}"})
    return [Finding("border_cut", "warning", message, None, (), fix, (), (part.number,), part.middle)]


@of_sheet
def section_untraced(ground: SheetGround) -> list[Finding]:
    """Sections whose line their panel does not show, or not whole."""
    out = []
    for number, part in ground.parts.items():
        settings = part.settings
        if not isinstance(settings, CrossSection) or settings.panel not in ground.page.panels:
            continue
        panel = ground.page.panels[settings.panel or 0]
        why = _untraced(settings.letter.strip(), panel, ground)
        if why:
            message = f"{part.label} {settings.letter}–{settings.letter}′ speaks of {panel.part.label}, which {why}."
            numbers = (number, panel.part.number)
            out.append(Finding("section_untraced", "error", message, None, (), None, (), numbers, part.middle))
    return out


def _untraced(letter: str, panel: Panel, ground: SheetGround) -> str:
    lines = ground.page.map.carried(panel).features["lines"]
    mine = [
        geometry
        for geometry, kind, note in zip(lines.geometries, lines.columns["kind"], lines.columns["note"], strict=True)
        if kind == SECTION_LINE and note.strip() == letter
    ]
    if not mine:
        # That there is none the part says itself.
        return ""
    whole = max(float(shapely.length(line)) for line in mine)
    seen = max(float(shapely.length(shapely.intersection(line, panel.ground))) for line in mine)
    if seen < 0.99 * whole:
        lost = (whole - seen) * panel.mm_per_unit
        return f"shows only {100 * seen / whole:.0f} % of its line ({figures(lost, 3)} mm of it lie outside)"
    if panel.layers.get("linework", 1.0) <= 0:
        return "does not print its linework, and so not the line of the section"
    return ""


@of_sheet
def no_figures(ground: SheetGround) -> list[Finding]:
    """Panels whose graticules all leave their figures out."""
    out = []
    for number, panel in ground.page.panels.items():
        mine = [p for p in ground.parts.values() if isinstance(p.settings, Graticule) and p.settings.panel == number]
        bare = [p for p in mine if isinstance(p.settings, Graticule) and p.settings.figures == "none"]
        if not mine or len(bare) < len(mine) or not isinstance(panel.part.settings, MapPanel):
            continue
        part = bare[0]
        message = f"{part.label} on {panel.part.label} has lines and no figures; nobody can read a place from it."
        fix = Fix("set", "Print its figures", values={"figures": "outside"}) if not part.locked else None
        out.append(Finding("no_figures", "warning", message, None, (), fix, (), (part.number,), panel.part.middle))
    return out
