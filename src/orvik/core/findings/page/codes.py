"""Codes of units that hands have hidden, or dragged off their ground, onto one another or onto a line."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.scale import figures
from orvik.core.ink.affine import apply
from orvik.core.labels.label import Label
from orvik.core.labels.label_move import in_force
from orvik.core.labels.label_request import CODE, LabelKey, LabelRequest
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.panel import Panel

rule(
    "code_hidden",
    "warning",
    "letters",
    "The code of an area of more than 1 cm² is hidden",
    why="nobody can tell what the area is but by its colour",
    spoils="reading",
)
rule(
    "code_astray",
    "error",
    "letters",
    "A code was moved onto the ground of another unit",
    why="readers take the ground there for another rock",
)
rule(
    "code_run_over",
    "warning",
    "letters",
    "A code that was moved lies on a line or on other letters",
    why="the code cannot be read",
    spoils="reading",
)

# Square millimetres on the sheet from which an area is in want of its code.
WANTS_CODE = 100.0
# Letters are narrower than the box that is kept for them, by so many millimetres all around.
WITHIN_BOX = 0.25


@of_sheet
def codes(ground: SheetGround) -> list[Finding]:
    """What hands have done to codes that a reader stumbles over, panel by panel."""
    out: list[Finding] = []
    for number, labelling in ground.labels.items():
        panel, shown = ground.page.panels[number], ground.page.shown(number)
        by_hand = in_force(list(shown.moves), number, panel.scale == shown.scales.publication)
        moved = {key for key, move in by_hand.items() if move.at is not None}
        out += _hidden(number, panel, labelling.hidden, {label.request.key for label in labelling.labels})
        if moved:
            out += _moved(number, panel, labelling.labels, moved, shown)
    return out


def _hidden(number: int, panel: Panel, hidden: Sequence[LabelRequest], seen: set[LabelKey]) -> Iterator[Finding]:
    standing = {(key.table, key.id) for key in seen}
    for request in hidden:
        key = request.key
        if key.table != "areas" or key.number or (key.table, key.id) in standing:
            continue
        visible = shapely.intersection(request.geometry, panel.ground)
        square = float(visible.area) * panel.natural.mm_per_unit**2
        if square < WANTS_CODE:
            continue
        chars = request.run.chars
        message = (
            f"The code {chars} of area {key.id} is hidden; {figures(square / 100, 2)} cm² of "
            f"{panel.part.label} say nothing of what they are."
        )
        yield Finding(
            "code_hidden",
            "warning",
            message,
            None,
            ((key.table, key.id),),
            None,
            (),
            (number,),
            _spot(panel, shapely.point_on_surface(visible)),
            chars,
        )


def _moved(
    number: int, panel: Panel, labels: tuple[Label, ...], moved: set[LabelKey], shown: MapContext
) -> Iterator[Finding]:
    areas, lines = shown.features["areas"], shown.features["lines"]
    grounds, courses = shapely.STRtree(areas.geometries), shapely.STRtree(lines.geometries)
    natural = panel.natural
    boxes = [_box(label) for label in labels]
    others = shapely.STRtree(boxes)
    units = dict(zip(areas.ids.tolist(), areas.columns["map_unit"], strict=True))
    told: set[frozenset[LabelKey]] = set()
    for i, label in enumerate(labels):
        key, chars = label.request.key, label.request.run.chars
        if key not in moved or key.table != "areas" or label.request.priority != CODE:
            continue
        features, spot = ((key.table, key.id),), _on_page(label, panel)
        middle = shapely.Point(apply(natural.to_ground, np.array([label.place.middle]))[0])
        held = [areas.columns["map_unit"][row] for row in grounds.query(middle, predicate="intersects").tolist()]
        yield from _astray(label, units.get(key.id), [str(unit) for unit in held if unit], number, panel, shown)
        letters = boxes[i].buffer(-WITHIN_BOX)
        for j in others.query(letters, predicate="intersects").tolist():
            pair = frozenset({key, labels[j].request.key})
            if j != i and pair not in told:
                told.add(pair)
                its = labels[j].request
                message = f"The code {chars} of area {key.id} lies on “{its.run.chars}”, and neither can be read."
                both = (*features, (its.key.table, its.key.id))
                yield Finding("code_run_over", "warning", message, None, both, None, (), (number,), spot, chars)
        on_ground = shapely.transform(letters, lambda xy: apply(natural.to_ground, xy))
        for row in courses.query(on_ground, predicate="intersects").tolist()[:1]:
            line = (lines.table, int(lines.ids[row]))
            message = f"The code {chars} of area {key.id} lies on a line, which runs through its letters."
            yield Finding(
                "code_run_over", "warning", message, None, (*features, line), None, (), (number,), spot, chars
            )


def _astray(
    label: Label, own: str | None, below: list[str], number: int, panel: Panel, shown: MapContext
) -> Iterator[Finding]:
    """A code on the ground of another unit; at a leader only where its own ground has room for it."""
    if not below or own in below:
        return
    key, chars, other = label.request.key, label.request.run.chars, below[0]
    name = shown.units[other].printed_label if other in shown.units else other
    stands = f"The code {chars} of area {key.id} stands on ground of {name}"
    square = float(shapely.area(label.request.geometry)) * panel.natural.mm_per_unit**2
    if label.place.leader is None:
        severity, message = "error", f"{stands}, which a reader takes for {chars}."
    elif square >= WANTS_CODE:
        long = float(np.hypot(*np.ptp(label.place.leader, axis=0)))
        severity = "warning"
        message = f"{stands}, at a leader of {long:.0f} mm, and its own ground has room for it."
    else:
        return
    features = ((key.table, key.id),)
    spot = _on_page(label, panel)
    yield Finding("code_astray", severity, message, None, features, None, (), (number,), spot, chars, (other,))


def _box(label: Label) -> shapely.Polygon:
    (x, y), (wide, high) = label.place.middle, label.request.half
    angle = math.radians(label.place.angle)
    cos, sin = math.cos(angle), math.sin(angle)
    corners = [(-wide, -high), (wide, -high), (wide, high), (-wide, high)]
    return shapely.Polygon([(x + cos * a - sin * b, y + sin * a + cos * b) for a, b in corners])


def _on_page(label: Label, panel: Panel) -> tuple[float, float]:
    k = panel.symbol_scale
    return float(label.place.middle[0]) * k, float(label.place.middle[1]) * k


def _spot(panel: Panel, place: shapely.Point) -> tuple[float, float]:
    x, y = apply(panel.to_page, np.array([(place.x, place.y)]))[0]
    return float(x), float(y)
