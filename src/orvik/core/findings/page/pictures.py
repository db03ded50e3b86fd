"""Pictures that are too coarse for print, and panels whose scale says more than is true."""

from __future__ import annotations

from orvik.core.errors import OrvikError
from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.land import LARGEST_SCALE
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.part import PanelPartSettings
from orvik.core.sheet.panels.scale_distortion import truth_of
from orvik.core.sheet.parts.map_panel import MapPanel

rule(
    "rough_picture",
    "warning",
    "sheet",
    "A picture has fewer than 200 dots per inch",
    why="its dots are seen",
    spoils="finish",
)
rule(
    "enlarged",
    "warning",
    "sheet",
    "A panel is larger than what it shows was digitized at",
    why="lines look more exact than anybody has drawn them",
)
rule(
    "untrue_scale",
    "warning",
    "sheet",
    "Lengths on a panel are off by more than 0.2 %",
    why="lengths that are measured on it are wrong",
)
rule(
    "land_too_large",
    "warning",
    "sheet",
    "A panel is too large in scale for the outline of the land",
    why="the coast is coarser than the map",
    spoils="finish",
)

LEAST_DPI = 200.0


@of_sheet
def rough_picture(ground: SheetGround) -> list[Finding]:
    """Pictures with fewer than 200 dots per inch where they are printed."""
    out = []
    for found in ground.resolutions:
        if found.dpi < LEAST_DPI - 0.5:
            part = ground.parts[found.part]
            message = f"{found.name} has {found.dpi:.0f} dots per inch in {part.label}; print wants 200 and more."
            out.append(
                Finding(
                    "rough_picture",
                    "warning",
                    message,
                    None,
                    (),
                    None,
                    (),
                    (found.part,),
                    part.middle,
                    found.name,
                    (f"{found.dpi:.0f}",),
                )
            )
    return out


@of_sheet
def land_too_large(ground: SheetGround) -> list[Finding]:
    """Panels that are to show the land around at a scale that its outline is not fit for: they are without it."""
    out = []
    for number, panel in ground.page.panels.items():
        settings = panel.part.settings
        if isinstance(settings, MapPanel) and settings.land and panel.scale < LARGEST_SCALE:
            message = (
                f"{panel.part.label} shows no land around at 1:{spaced(panel.scale)}: its outline is fit for "
                f"1:{spaced(LARGEST_SCALE)} and smaller; give it such a scale, or show a reference layer in it."
            )
            out.append(
                Finding(
                    "land_too_large",
                    "warning",
                    message,
                    None,
                    parts=(number,),
                    spot=panel.part.middle,
                    facts=(f"1:{panel.scale:g}",),
                )
            )
    return out


@of_sheet
def panel_scales(ground: SheetGround) -> list[Finding]:
    """Panels larger than what they show was digitized at, and those measured on whose lengths are off."""
    measured = {
        part.settings.panel
        for part in ground.parts.values()
        if part.settings.measures and isinstance(part.settings, PanelPartSettings)
    }
    digitizing = ground.page.map.scales.digitizing
    out = []
    for number, panel in ground.page.panels.items():
        part = panel.part
        if panel.scale < digitizing:
            message = (
                f"{part.label} is at 1:{spaced(panel.scale)}; what it shows was digitized at 1:{spaced(digitizing)}."
            )
            out.append(
                Finding(
                    "enlarged",
                    "warning",
                    message,
                    None,
                    (),
                    None,
                    (),
                    (number,),
                    part.middle,
                    facts=(f"1:{digitizing}",),
                )
            )
        if number not in measured:
            continue
        try:
            said = truth_of(panel).warning(panel.scale)
        except OrvikError:
            continue
        if said:
            out.append(
                Finding("untrue_scale", "warning", said, None, (), None, (), (number,), part.middle, facts=(said,))
            )
    return out
