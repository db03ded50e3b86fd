"""Parts that leave the page, lie hidden, run into one another, or show nothing."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ink.primitives import Group, Item
from orvik.core.sheet.page.ink_bounds import bounds_of
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.text_ink import INSTEAD
from orvik.core.sheet.panels.cut_ground import share_without_ground
from orvik.core.sheet.parts.fields import empty_fields
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel

rule(
    "off_page",
    "error",
    "sheet",
    "A part reaches beyond the page",
    why="what lies beyond the page is cut off",
    spoils="reading",
)
rule(
    "hidden_part",
    "error",
    "sheet",
    "A panel, a picture or a coloured ground lies over a part and hides it",
    why="what lies below is not seen",
    spoils="reading",
)
rule(
    "run_together",
    "warning",
    "sheet",
    "Letters of two parts run into each other",
    why="neither of them can be read",
    spoils="reading",
)
rule(
    "figures_off",
    "warning",
    "sheet",
    "Figures of a graticule have no room on the page",
    why="the lines of the grid say nothing without them",
    spoils="reading",
)
rule(
    "unshown",
    "error",
    "sheet",
    "A panel cannot show all of its ground in its system",
    why="the panel is printed with a gap",
)
rule(
    "empty_part",
    "error",
    "sheet",
    "A part cannot show what it is there for",
    why="its place on the sheet is bare",
    spoils="reading",
)

# Ink that reaches less far over an edge than this, in millimetres, is its rounding.
EDGE_MM = 0.05
# Less of a panel than this is its rounding.
LEAST_SHARE = 0.002
# Letters that share so much of the smaller one's area run into each other.
SHARED = 0.12


@of_sheet
def off_page(ground: SheetGround) -> list[Finding]:
    """Parts whose ink, or whose frame if they are panels, reaches beyond the page."""
    sheet = ground.page.sheet
    out = []
    for number, part in ground.parts.items():
        if part.settings.lies_on_panel:
            continue
        box = (part.x, part.y, part.x + part.width, part.y + part.height)
        if not isinstance(part.settings, MapPanel):
            box = bounds_of(ground.ink[number].items) or box
        left, top, right, bottom = -box[0], -box[1], box[2] - sheet.width, box[3] - sheet.height
        reach = max(left, top, right, bottom)
        if reach <= EDGE_MM:
            continue
        side = ("left", "upper", "right", "lower")[int(np.argmax([left, top, right, bottom]))]
        dx = left if left > 0 else -right if right > 0 else 0.0
        dy = top if top > 0 else -bottom if bottom > 0 else 0.0
        values = {"x": f"{part.x + dx:.3f}", "y": f"{part.y + dy:.3f}"}
        fits = box[2] - box[0] <= sheet.width and box[3] - box[1] <= sheet.height
        fix = Fix("onto_page", "Move it onto the page", values=values) if fits and not part.locked else None
        spot = (
            min(max((box[0] + box[2]) / 2, 4.0), sheet.width - 4.0),
            min(max((box[1] + box[3]) / 2, 4.0), sheet.height - 4.0),
        )
        message = f"{part.label} reaches {reach:.1f} mm beyond the {side} edge of the page."
        out.append(
            Finding(
                "off_page",
                "error",
                message,
                None,
                (),
                fix,
                (),
                (number,),
                spot,
                facts=(f"{ground.page.sheet.width} x {ground.page.sheet.height}",),
            )
        )
    return out


@of_sheet
def hidden(ground: SheetGround) -> list[Finding]:
    """Parts over which a panel, a picture or a coloured ground lies that comes later."""
    parts = list(ground.parts.values())
    out = []
    for i, part in enumerate(parts):
        if not part.settings.can_be_hidden or part.settings.lies_on_panel:
            continue
        box = bounds_of(ground.ink[part.number].items)
        if box is None:
            continue
        area = shapely.box(*box)
        for over in parts[i + 1 :]:
            cover = covers(over, ground)
            if cover is None or area.area <= 0:
                continue
            shared = shapely.intersection(area, cover)
            if shared.area > 0.02 * area.area:
                message = f"{part.label} lies below {over.label}, which hides it; bring it to the front, or move it."
                keys = (part.number, over.number)
                out.append(Finding("hidden_part", "error", message, None, (), None, (), keys, _middle(shared)))
                break
    return out


def covers(part: Part, ground: SheetGround) -> shapely.Polygon | None:
    """The area of the page that a part hides; None where what lies below is seen through it."""
    panel = ground.page.panels.get(part.number)
    if panel is not None:
        return panel.page_area
    if not part.settings.hides:
        return None
    return shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)


@of_sheet
def run_together(ground: SheetGround) -> list[Finding]:
    """Pairs of parts whose letters run into each other, each told once."""
    letters = ground.letters
    if len(letters) < 2:
        return []
    boxes = np.array([found.box for found in letters], dtype=object)
    one, two = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    keep = one < two
    told: dict[tuple[int, int], tuple[str, str, shapely.Geometry]] = {}
    for i, j in zip(one[keep].tolist(), two[keep].tolist(), strict=True):
        a, b = letters[i], letters[j]
        pair = (min(a.part, b.part), max(a.part, b.part))
        if a.part == b.part or pair in told:
            continue
        shared = shapely.intersection(a.box, b.box)
        if shared.area >= SHARED * min(a.box.area, b.box.area):
            first, second = (a, b) if a.part == pair[0] else (b, a)
            told[pair] = (first.text.run.chars, second.text.run.chars, shared)
    out = []
    for (first, second), (said, other, shared) in sorted(told.items()):
        names = ground.parts[first].label, ground.parts[second].label
        message = f"“{said[:30]}” of {names[0]} and “{other[:30]}” of {names[1]} run into each other; move one of them."
        keys = (first, second)
        out.append(
            Finding("run_together", "warning", message, None, (), None, (), keys, _middle(shared), facts=(said, other))
        )
    return out


@of_sheet
def empty(ground: SheetGround) -> list[Finding]:
    """Parts that show nothing, or say why they cannot show what they are there for."""
    out = []
    for number, part in ground.parts.items():
        group = ground.ink[number]
        instead = _instead(group.items)
        if instead is None and any(True for item in group.items if not isinstance(item, Group) or item.items):
            continue
        if instead is None and empty_fields(getattr(part.settings, "text", ""), ground.page):
            # What its fields lack is told by itself.
            continue
        why = instead or "nothing is in it yet"
        message = f"{part.label} shows nothing: {why[0].lower()}{why[1:].rstrip('.')}."
        out.append(
            Finding("empty_part", "error", message, None, (), None, (), (number,), _on_page(part, ground), facts=(why,))
        )
    return out


@of_sheet
def unshown(ground: SheetGround) -> list[Finding]:
    """Panels that reach beyond what their system can show, or where it tears what lies on them."""
    out = []
    for number, panel in ground.page.panels.items():
        part = ground.parts[number]
        share = share_without_ground(panel.ground, panel.crs)
        lost = ground.page.shown(number).lost
        if share < LEAST_SHARE and not lost:
            continue
        what = []
        if share >= LEAST_SHARE:
            what.append(f"{max(1, round(100 * share))} % of it lie beyond what the system can show")
        if lost:
            what.append(f"{lost} {'features lie' if lost > 1 else 'feature lies'} across its edge")
        message = (
            f"{part.label} cannot show all of its ground in {panel.crs.label}: {' and '.join(what)}; "
            "aim it elsewhere, or choose another system."
        )
        out.append(
            Finding(
                "unshown", "error", message, None, (), None, (), (number,), _on_page(part, ground), facts=tuple(what)
            )
        )
    return out


@of_sheet
def figures_off(ground: SheetGround) -> list[Finding]:
    """Graticules that lie so near to the edge of the page that figures of theirs are not printed."""
    out = []
    for number, part in ground.parts.items():
        if not isinstance(part.settings, Graticule) or part.settings.panel not in ground.page.panels:
            continue
        gone = part.settings.off_page(ground.page)
        if gone:
            many = f"{len(gone)} figures of {part.label} have" if len(gone) > 1 else f"A figure of {part.label} has"
            message = (
                f"{many} no room between panel and edge of the page and {'are' if len(gone) > 1 else 'is'} not "
                f"printed, {gone[0]} among them; move the panel, or set the figures inside."
            )
            panel = ground.page.panels[part.settings.panel or 0].part
            spot = _on_page(panel, ground)
            out.append(
                Finding("figures_off", "warning", message, None, (), None, (), (number,), spot, facts=tuple(gone))
            )
    return out


def _instead(items: tuple[Item, ...]) -> str | None:
    for item in items:
        if isinstance(item, Group):
            if item.name == INSTEAD:
                return item.title
            found = _instead(item.items)
            if found is not None:
                return found
    return None


def _on_page(part: Part, ground: SheetGround) -> tuple[float, float]:
    sheet = ground.page.sheet
    x, y = part.middle
    return min(max(x, 4.0), sheet.width - 4.0), min(max(y, 4.0), sheet.height - 4.0)


def _middle(area: shapely.Geometry) -> tuple[float, float]:
    ((x, y),) = shapely.get_coordinates(shapely.centroid(area))
    return float(x), float(y)
