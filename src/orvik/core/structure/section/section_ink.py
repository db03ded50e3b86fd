"""A section as ink: what a page shows under the map and what a sheet prints are the same."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.kind import UNIT_AREA, kind_words
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.scale import round_step, spaced
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import BOLD, ITALIC, ROMAN, cap_height, run
from orvik.core.structure.section.drawn_ink import codes_ink, drawn_ink
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.structure.section.section_frame import SectionFrame
from orvik.core.symbols.symbol_book import SymbolBook

GROUND = LineStyle(0.35, INK)
EDGE = LineStyle(0.2, INK)
THIN = LineStyle(0.12, INK)
OVER = LineStyle(0.25, INK, (0.8, 0.4))
SEA = LineStyle(0.15, "#4A6A84", (1.6, 0.8))
BEND = LineStyle(0.12, INK, (0.6, 0.6))
DIP = LineStyle(0.3, "#1D5F57")
SEA_LETTERS, DIP_LETTERS = "#3C5A73", "#17524B"
# Below the ground stands so much of each unit's colour, until beds are drawn.
STRIP_MM = 1.4
# What lies over the units is shown so far above the ground.
OVER_MM = 0.9
# Room for letters at the ends, above the ground and at the foot, in letter sizes.
SIDE, ABOVE, BELOW = 5.0, 5.2, 0.8
# A dip is a tick of this length, and its figures stand this far from its foot.
TICK_MM = 3.4
# Heights are figured no closer than this.
APART_MM = 5.0
# Nor, where there is no room for two so far apart, than this share of all of them.
CLOSEST = 0.25
CODE_MM = 4.0


def room(found: SectionOfMap, mm_per_metre: float, size: float) -> tuple[float, float]:
    """Width and height in millimetres that a section takes with its letters."""
    wide = found.line.length * mm_per_metre + 2 * SIDE * size
    high = (found.top - found.base) * mm_per_metre * found.section.exaggeration
    return wide, high + (ABOVE + BELOW) * size


def framed(found: SectionOfMap, x: float, y: float, mm_per_metre: float, size: float) -> SectionFrame:
    """The frame of a section whose upper left corner, letters and all, stands at a place of the page."""
    exaggeration = found.section.exaggeration
    sea = y + ABOVE * size + found.top * mm_per_metre * exaggeration
    return SectionFrame(x + SIDE * size, sea, mm_per_metre, exaggeration)


def section_ink(
    found: SectionOfMap,
    book: SymbolBook,
    units: Mapping[str, MapUnit],
    frame: SectionFrame,
    size: float,
    *,
    tags: bool = False,
    crossings: bool = True,
    dips: bool = True,
) -> list[Item]:
    """A section of the map.

    Parameters
    ----------
    size
        Of its letters, in millimetres.
    tags
        Whether the tags of units are shown that are drawn on it.
    crossings, dips
        Whether it says what crosses where, and how the readings dip that are carried onto it.
    """
    formed = len(found.drawn["areas"]) > 0
    items: list[Item] = [] if formed else _strips(found, units, frame)
    items += drawn_ink(found, book, units, frame, tags=tags)
    parts = [frame.at(part) for part in found.profile.parts]
    if parts:
        items.append(Stroke(GROUND, Paths.of(*parts)))
    items += _overlays(found, frame, size)
    items += _frame(found, frame, size)
    items += _heights(found, frame, size)
    items += _bends(found, frame, size)
    items += codes_ink(found, units, frame, size) if formed else _codes(found, frame, size)
    if dips:
        items += _dips(found, frame, size)
    if crossings:
        items += _crossings(found, frame, size)
    return items


def _between(found: SectionOfMap, begins: float, ends: float) -> list[Floats]:
    """The ground from one distance to another, as parts with heights (n, 2)."""
    profile = found.profile
    inside = profile.along[(profile.along > begins) & (profile.along < ends)]
    along = np.concatenate([[begins], inside, [ends]])
    up = profile.at(along)
    known = np.concatenate([[False], np.isfinite(up), [False]])
    edges = np.flatnonzero(np.diff(known.astype(np.int8))).reshape(-1, 2)
    both = np.column_stack([along, up])
    return [both[a:b] for a, b in edges.tolist() if b - a > 1]


def _strips(found: SectionOfMap, units: Mapping[str, MapUnit], frame: SectionFrame) -> list[Item]:
    items: list[Item] = []
    for stretch in found.stretches:
        unit = units.get(stretch.unit)
        if unit is None:
            continue
        for part in _between(found, stretch.begins, stretch.ends):
            ground = frame.at(part)
            ring = np.vstack([ground, (ground + [0.0, STRIP_MM])[::-1]])
            items.append(Fill(unit.colour, Paths.of(ring), np.array([0, 1])))
    return items


def _overlays(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """What lies over the units of the map, as a thin line above the ground, with what it is where there is room."""
    lines, items = [], list[Item]()
    for stretch in found.stretches:
        if stretch.kind == UNIT_AREA:
            continue
        for part in _between(found, stretch.begins, stretch.ends):
            above = frame.at(part) - [0.0, OVER_MM]
            lines.append(above)
            words = run(kind_words(stretch.kind), ITALIC, size * 0.9, "centre")
            if words.width < above[-1, 0] - above[0, 0]:
                x = float(above[0, 0] + above[-1, 0]) / 2
                y = float(np.interp(x, above[:, 0], above[:, 1])) - 0.4 * size
                items.append(Text(words, (x, y), INK, halo="#FFFFFF"))
    return [Stroke(OVER, Paths.of(*lines)), *items] if lines else items


def _frame(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """Both ends with their letters, the foot, and sea level."""
    long, base = found.line.length, found.base
    (left, foot), (right, _) = frame.at(np.array([[0.0, base], [long, base]])).tolist()
    top = frame.at(np.array([[0.0, found.top]]))[0, 1] - 1.2 * size
    items: list[Item] = [Stroke(EDGE, Paths.of([(left, top), (left, foot), (right, foot), (right, top)]))]
    letters = size * 1.5
    for x, side, letter in ((left, -1.0, found.ends[0]), (right, 1.0, found.ends[1])):
        anchor = "right" if side < 0 else "left"
        at = (x + side * 0.8 * size, top - 0.4 * size)
        items.append(Text(run(letter, BOLD, letters, anchor), at, INK))
    if base < 0 < found.top + 1:
        sea = frame.at(np.array([[0.0, 0.0], [long, 0.0]]))
        items.append(Stroke(SEA, Paths.of(sea)))
    return items


def _heights(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """Scales of heights at both ends, in metres."""
    span = found.top - found.base
    if span <= 0:
        return []
    high = span * frame.mm_per_metre * frame.exaggeration
    step = round_step(span * max(APART_MM, 2 * size) / high)
    # In a low picture figures may stand closer, so that there are two.
    while math.floor(found.top / step) - math.ceil(found.base / step) < 1 and step > CLOSEST * span:
        step = round_step(step / 2.5)
    values = np.arange(math.ceil(found.base / step), math.floor(found.top / step) + 1) * step
    items: list[Item] = []
    ticks = []
    for end, side, anchor in ((0.0, -1.0, "right"), (found.line.length, 1.0, "left")):
        for value in values.tolist():
            x, y = frame.at(np.array([[end, value]]))[0].tolist()
            ticks.append([(x, y), (x + side * 0.5 * size, y)])
            words = f"{spaced(value)} m" if value == values[-1] else spaced(value)
            at = (x + side * 0.8 * size, y + cap_height(size) / 2)
            sea = value == 0 and side < 0
            items.append(
                Text(run("sea level", ITALIC, size, anchor), at, SEA_LETTERS)
                if sea
                else Text(run(words, ROMAN, size, anchor), at, INK)
            )
    return [Stroke(THIN, Paths.of(*ticks)), *items] if ticks else items


def _bends(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    items: list[Item] = []
    for along in found.line.bends.tolist():
        (x, foot), (_, top) = frame.at(np.array([[along, found.base], [along, found.top]])).tolist()
        items.append(Stroke(BEND, Paths.of([(x, foot), (x, top - size)])))
        items.append(Text(run("bend", ITALIC, size * 0.9, "left"), (x + 0.4 * size, foot - 0.5 * size), INK))
    return items


def _codes(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """The code of each unit that is broad enough, below the ground."""
    items: list[Item] = []
    for stretch in found.stretches:
        wide = (stretch.ends - stretch.begins) * frame.mm_per_metre
        up = float(found.profile.at(np.array([(stretch.begins + stretch.ends) / 2]))[0])
        if not stretch.unit or wide < CODE_MM or not math.isfinite(up):
            continue
        x, y = frame.at(np.array([[(stretch.begins + stretch.ends) / 2, up]]))[0].tolist()
        at = (x, y + STRIP_MM + 1.6 * size)
        items.append(Text(run(stretch.unit, ROMAN, size, "centre"), at, INK, halo="#FFFFFF"))
    return items


def _dips(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """Apparent dips as ticks, as steep as the exaggeration has them, with the true figure of the apparent dip."""
    ticks, items = [], list[Item]()
    left, right = frame.at(np.array([[0.0, 0.0], [found.line.length, 0.0]]))[:, 0].tolist()
    taken: list[shapely.Polygon] = []
    for reading in found.readings:
        x, y = frame.at(np.array([[reading.along, reading.up]]))[0].tolist()
        fall = math.atan(frame.exaggeration * math.tan(math.radians(reading.apparent_dip)))
        way = 1.0 if reading.apparent_dip >= 0 else -1.0
        end = (x + way * TICK_MM * math.cos(fall), y + TICK_MM * abs(math.sin(fall)))
        ticks.append([(x, y), end])
        letters = run(f"{abs(reading.apparent_dip):.0f}", ROMAN, size * 0.9, "left")
        # Not beyond the ends, where heights stand.
        side = 0.3 * size if way > 0 else -0.3 * size - letters.width
        across = min(max(end[0] + side, left + 0.2 * size), right - letters.width - 0.2 * size)
        # Below those of other readings, where these stand in the way; where there is no room, the tick must do.
        for row in range(3):
            foot = end[1] + cap_height(size) * (1 + 1.3 * row)
            box = shapely.box(across, foot - cap_height(size), across + letters.width, foot).buffer(0.15 * size)
            if not any(box.intersects(other) for other in taken):
                taken.append(box)
                items.append(Text(letters, (across, foot), DIP_LETTERS, halo="#FFFFFF"))
                break
    return [Stroke(DIP, Paths.of(*ticks)), *items] if ticks else items


def _crossings(found: SectionOfMap, frame: SectionFrame, size: float) -> list[Item]:
    """Ticks above the ground where lines cross, with what they are where there is room; rows of labels, the fewest."""
    ups = found.profile.at(np.array([crossing.along for crossing in found.crossings]))
    ticks, items = [], list[Item]()
    rows_end: list[float] = [-math.inf] * 3
    left, right = frame.at(np.array([[0.0, 0.0], [found.line.length, 0.0]]))[:, 0].tolist()
    top = frame.at(np.array([[0.0, found.top]]))[0, 1] - size
    for crossing, up in zip(found.crossings, ups.tolist(), strict=True):
        if not math.isfinite(up):
            continue
        x, y = frame.at(np.array([[crossing.along, up]]))[0].tolist()
        label = run(crossing.label, ROMAN, size * 0.9, "centre")
        half = label.width / 2 + 0.4 * size
        # Beside the letters at the ends there is no room.
        middle = min(max(x, left + half), right - half)
        row = next((i for i, end in enumerate(rows_end) if middle - half > end), None)
        if row is None:
            ticks.append([(x, y), (x, y - 0.8 * size)])
            continue
        rows_end[row] = middle + half
        foot = top - row * 1.25 * size
        ticks.append([(x, y), (x, foot)])
        items.append(Text(label, (middle, foot - 0.3 * size), INK, halo="#FFFFFF"))
    return [Stroke(THIN, Paths.of(*ticks)), *items] if ticks else items


def scale_words(exaggeration: float) -> str:
    """How heights are drawn: ``true to scale`` or ``heights 2.5 times``.

    >>> scale_words(1.0), scale_words(2.5)
    ('no vertical exaggeration', 'vertical exaggeration 2.5')
    """
    return "no vertical exaggeration" if exaggeration == 1 else f"vertical exaggeration {exaggeration:g}"
