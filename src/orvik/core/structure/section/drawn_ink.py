"""What is drawn on a section as ink: units and lines below the ground, dashed lines above it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import cast

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.cut import cut
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Group, Item, LineStyle, Marks, Ornaments, Stroke, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.structure.section.below import Below
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.structure.section.section_frame import SectionFrame
from orvik.core.structure.section.section_plane import SectionPlane
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol_book import SymbolBook

# What the rain has taken is drawn so.
ABOVE = LineStyle(0.15, INK, (1.2, 0.8))
# An area whose code would stand nearer to its edges has none.
CLEAR_MM = 0.3


def drawn_ink(
    found: SectionOfMap, book: SymbolBook, units: Mapping[str, MapUnit], frame: SectionFrame, *, tags: bool = False
) -> list[Item]:
    """What is drawn on a section, in millimetres of a page.

    Parameters
    ----------
    tags
        Whether the tags of units are shown: where one draws, and not where one prints.
    """
    if not found.is_drawn:
        return []
    # True shapes, with heights as they are exaggerated: what symbols say of a line's course holds on the page.
    upright = frame.exaggeration
    shown = {table: _stretched(features, upright) for table, features in found.drawn.items()}
    layers = portray(shown, book, units, SectionPlane(), round(1000 / frame.mm_per_metre))
    m = (frame.mm_per_metre, 0.0, frame.x, 0.0, -frame.mm_per_metre, frame.y)
    below = Below(found)
    ground = frame.at(shapely.get_coordinates(below.whole.exterior))
    # Teeth, ticks and balls say of the map's plane what a section shows by itself.
    lines = [item for item in layers["linework"].moved(m).items if not isinstance(item, Ornaments | Marks)]
    items = [*layers["units"].moved(m).items, *lines, *(layers["tags"].moved(m).items if tags else ())]
    return [*cut([Group("below", tuple(items), Paths.of(ground))]), *_above(found, below, frame)]


def _stretched(features: Features, upright: float) -> Features:
    geometries = shapely.transform(features.geometries, lambda xy: xy * [1.0, upright])
    return Features(features.table, features.ids, geometries, features.columns)


def _above(found: SectionOfMap, below: Below, frame: SectionFrame) -> list[Item]:
    """The parts of lines that lie above the ground."""
    lines = found.drawn["lines"].geometries
    if not len(lines):
        return []
    over = shapely.get_parts(shapely.difference(lines, below.whole))
    over = over[(shapely.get_dimensions(over) == 1) & (shapely.length(over) * frame.mm_per_metre > 0.1)]
    inside = shapely.box(0.0, found.base, found.line.length, found.top)
    over = shapely.get_parts(shapely.intersection(over, inside))
    paths = [frame.at(shapely.get_coordinates(line)) for line in over if shapely.get_num_coordinates(line) > 1]
    return [Stroke(ABOVE, Paths.of(*paths))] if paths else []


def codes_ink(found: SectionOfMap, units: Mapping[str, MapUnit], frame: SectionFrame, size: float) -> list[Item]:
    """The codes of units within their areas, where these have room."""
    items: list[Item] = []
    areas = found.drawn["areas"]
    for geometry, code in zip(areas.geometries, areas.columns["map_unit"], strict=True):
        unit = units.get(str(code))
        if unit is None:
            continue
        letters = run(unit.printed_label, ROMAN, size, "centre")
        page = cast(shapely.Polygon, shapely.transform(geometry, frame.at))
        room = shapely.maximum_inscribed_circle(page, 0.2)
        if room.length < cap_height(size) / 2 + CLEAR_MM:
            continue
        x, y = np.asarray(shapely.get_coordinates(room)[0]).tolist()
        half, high = letters.width / 2, cap_height(size) / 2
        if not page.contains(shapely.box(x - half, y - high, x + half, y + high)):
            continue
        items.append(Text(letters, (x, y + high), INK, halo=unit.colour))
    return items
