"""Grid ticks of a panel: crosses inside, ticks and coordinates along the neatline."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.ground.scale import spaced
from orvik.core.ink import INK, Item, LineStyle, Stroke, Text, apply
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.sheet.panel import Panel

TICK = 1.5
CROSS = 1.0
SIZE = 1.9
# Crosses further apart than this on the sheet are too few to measure from.
CLOSEST_MM = 30.0


def interval(panel: Panel) -> float:
    """A round grid interval in project units whose crosses stand at least ``CLOSEST_MM`` apart."""
    least = CLOSEST_MM / panel.mm_per_unit
    power = 10.0 ** np.floor(np.log10(least))
    for step in (1, 2, 5, 10):
        if step * power >= least:
            return float(step * power)
    return float(10 * power)


def crosses(panel: Panel) -> list[Item]:
    """Small crosses where grid lines meet on the shown ground."""
    step = interval(panel)
    west, south, east, north = panel.window
    xs = np.arange(np.ceil(west / step), np.floor(east / step) + 1) * step
    ys = np.arange(np.ceil(south / step), np.floor(north / step) + 1) * step
    places = np.array([(x, y) for x in xs for y in ys]).reshape(-1, 2)
    if not len(places):
        return []
    inside = places[shapely.contains_xy(panel.ground, places[:, 0], places[:, 1])]
    paths: list[list[tuple[float, float]]] = []
    for x, y in apply(panel.to_page, inside):
        paths.append([(x - CROSS, y), (x + CROSS, y)])
        paths.append([(x, y - CROSS), (x, y + CROSS)])
    return [Stroke(LineStyle(0.1, INK), Paths.of(*paths))] if paths else []


def margin(panel: Panel) -> list[Item]:
    """Ticks where grid lines reach the neatline, outside it, and coordinates along its lower and left edges.

    A neatline of meridians and parallels is curved on the grid; a tick stands where the grid line really
    meets it, and where the line would only graze it there is none.
    """
    step = interval(panel)
    west, south, east, north = panel.window
    paths: list[list[tuple[float, float]]] = []
    items: list[Item] = []
    for n in range(int(np.ceil(west / step)), int(np.floor(east / step)) + 1):
        ends = _ends(panel, (n * step, south), (n * step, north))
        if ends is None:
            continue
        (x, low), (_, high) = ends
        paths += [[(x, low), (x, low + TICK)], [(x, high), (x, high - TICK)]]
        label = run(f"{spaced(n * step)} E", ROMAN, SIZE, "centre")
        if panel.part.x + label.width / 2 < x < panel.part.x + panel.part.width - label.width / 2:
            items.append(Text(label, (x, low + TICK + 0.6 + cap_height(SIZE)), INK))
    for n in range(int(np.ceil(south / step)), int(np.floor(north / step)) + 1):
        ends = _ends(panel, (west, n * step), (east, n * step))
        if ends is None:
            continue
        (left, y), (right, _) = ends
        paths += [[(left - TICK, y), (left, y)], [(right, y), (right + TICK, y)]]
        label = run(f"{spaced(n * step)} N", ROMAN, SIZE, "centre")
        if panel.part.y + label.width / 2 < y < panel.part.y + panel.part.height - label.width / 2:
            items.append(Text(label, (left - TICK - 0.8, y), INK, angle=-90.0))
    if paths:
        items.insert(0, Stroke(LineStyle(0.15, INK), Paths.of(*paths)))
    return items


def _ends(
    panel: Panel, start: tuple[float, float], end: tuple[float, float]
) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """Where a grid line enters and leaves the shown ground, on the page; None where it hardly touches it."""
    within = shapely.intersection(panel.ground, shapely.LineString([start, end]))
    if within.length * panel.mm_per_unit < 2 * TICK:
        return None
    xy = shapely.get_coordinates(within)
    order = np.argsort(xy @ (np.array(end) - np.array(start)))
    (x0, y0), (x1, y1) = apply(panel.to_page, xy[order[[0, -1]]]).tolist()
    return (x0, y0), (x1, y1)
