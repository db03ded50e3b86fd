"""A page whose edges, baselines and margins nearly agree: what nearly agrees looks like a mistake."""

from __future__ import annotations

from collections import Counter

import shapely

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.page.part import Part

rule(
    "nearly_aligned",
    "warning",
    "sheet",
    "An edge, a baseline or a margin nearly agrees with that of other parts",
    why="the eye sees a slip where it expects a line",
    spoils="finish",
)

# Edges that are less than this apart, in millimetres, agree; up to this they nearly do.
AGREE_MM, NEARLY_MM = 0.1, 0.95
# So many parts that share an edge make a line that others should keep.
SHARED = 2


@of_sheet
def nearly_aligned(ground: SheetGround) -> list[Finding]:
    """Parts whose edge lies beside a line that others keep, and texts whose baseline lies beside their neighbour's."""
    panels = [panel.page_area for panel in ground.page.panels.values()]
    free = [
        part
        for part in ground.parts.values()
        if not part.settings.lies_on_panel
        and (part.number in ground.page.panels or not any(a.contains(shapely.Point(part.middle)) for a in panels))
    ]
    found = {**_edges(free, "x", "left"), **_edges(free, "y", "upper")}
    told = {number for number, _ in found}
    return [*found.values(), *_baselines(free, told, ground), *_margins(free, ground)]


def _edges(parts: list[Part], axis: str, side: str) -> dict[tuple[int, str], Finding]:
    values = {part.number: float(getattr(part, axis)) for part in parts}
    lines = Counter(round(v, 2) for v in values.values())
    kept = sorted(value for value, count in lines.items() if count >= SHARED)
    out = {}
    for part in parts:
        value = values[part.number]
        if any(abs(value - line) <= AGREE_MM for line in kept):
            continue
        near = [line for line in kept if AGREE_MM < abs(value - line) < NEARLY_MM]
        if not near:
            continue
        line = min(near, key=lambda v: abs(value - v))
        others = [p.label for p in parts if abs(values[p.number] - line) <= AGREE_MM]
        message = (
            f"The {side} edge of {part.label} stands {abs(value - line):.1f} mm beside that of {others[0]} and "
            f"{len(others) - 1} more; what nearly aligns looks like a slip."
        )
        label = f"Move it by {abs(value - line):.1f} mm"
        fix = Fix("onto_page", label, values={axis: f"{line:.3f}"}) if not part.locked else None
        spot = (part.x + 2.0, part.y + 2.0)
        out[(part.number, axis)] = Finding(
            "nearly_aligned", "warning", message, None, (), fix, (), (part.number,), spot, axis, (f"{line:.2f}",)
        )
    return out


def _baselines(parts: list[Part], told: set[int], ground: SheetGround) -> list[Finding]:
    """Texts side by side in letters of one size, whose first lines nearly stand on one baseline."""
    first: dict[int, tuple[float, float]] = {}
    for letters in ground.letters:
        at = (float(letters.text.at[1]), float(letters.text.run.size))
        if letters.part not in first or at[0] < first[letters.part][0]:
            first[letters.part] = at
    texts = [part for part in parts if part.settings.sets_text and part.number in first]
    out = []
    for i, one in enumerate(texts):
        for two in texts[i + 1 :]:
            (y, size), (other_y, other_size) = first[one.number], first[two.number]
            apart = abs(y - other_y)
            beside = one.x >= two.x + two.width - 0.5 or two.x >= one.x + one.width - 0.5
            near = min(abs(one.x - two.x - two.width), abs(two.x - one.x - one.width)) < 60
            if not (AGREE_MM < apart < NEARLY_MM and beside and near) or abs(size - other_size) > 0.05 * size:
                continue
            lower = one if y > other_y else two
            if lower.number in told:
                continue
            message = (
                f"The first lines of {one.label} and {two.label} stand {apart:.1f} mm apart in height; side by side "
                "they should share a baseline."
            )
            values = {"y": f"{lower.y - apart:.3f}"}
            fix = Fix("onto_page", f"Move it by {apart:.1f} mm", values=values) if not lower.locked else None
            numbers = (lower.number, one.number if lower is two else two.number)
            spot = (lower.x + 2.0, max(y, other_y))
            out.append(Finding("nearly_aligned", "warning", message, None, (), fix, (), numbers, spot, "baseline"))
    return out


def _margins(parts: list[Part], ground: SheetGround) -> list[Finding]:
    """Left and right margins, and upper and lower ones, that nearly are as wide."""
    sheet = ground.page.sheet
    inside = [p for p in parts if p.x >= 0 and p.y >= 0 and p.x + p.width <= sheet.width]
    if len(inside) < 3:
        return []
    left, right = min(p.x for p in inside), sheet.width - max(p.x + p.width for p in inside)
    apart = abs(left - right)
    if not AGREE_MM < apart < NEARLY_MM:
        return []
    message = (
        f"The left margin is {left:.1f} mm wide and the right one {right:.1f} mm; "
        f"{apart:.1f} mm apart, they look like a slip."
    )
    last = max(inside, key=lambda p: p.x + p.width)
    spot = (min(last.x + last.width, sheet.width - 4.0), last.middle[1])
    return [Finding("nearly_aligned", "warning", message, None, (), None, (), (last.number,), spot, "margins")]
