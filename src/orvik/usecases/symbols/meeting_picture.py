"""The units as a small picture: in other colours than they have, and with the edge of two of them marked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.ink.affine import Affine
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Group, Item, LineStyle, Stroke, Text, moved
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import labelled
from orvik.core.symbols.portrayal.portray import portray
from orvik.press.svg import swatch
from orvik.store.reader import Reader
from orvik.store.tables.labels import label_rules
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.symbols.meeting_colours import printed_opacity

# The longer side in millimetres, and how an edge is marked.
SIDE = 96.0
MARK = LineStyle(1.1, "#C8431B", (), "round")


def picture(project: Reader, colours: Mapping[str, str], pair: tuple[str, str] | None, prefix: str) -> str:
    """An SVG of the unit areas as printed, without their labels.

    Parameters
    ----------
    colours
        Other colours for some units, by code.
    pair
        Two codes whose common edge is marked.
    prefix
        Of the ids in the picture.
    """
    areas = project.features("areas")
    areas = areas.select(np.array([kind == UNIT_AREA for kind in areas.columns["kind"]], dtype=bool))
    if not len(areas):
        return ""
    units = {
        code: replace(unit, colour=colours.get(code, unit.colour)) for code, unit in project.units_by_code().items()
    }
    west, south, east, north = shapely.total_bounds(areas.geometries).tolist()
    k = SIDE / max(east - west, north - south)
    book, crs = symbol_book_of(project), project.crs
    layers = portray({"areas": areas}, book, units, crs, project.scales.publication)
    place: Affine = (k, 0.0, -k * west, 0.0, -k, k * north)
    opacity = printed_opacity(project)
    items: list[Item] = [Group("units", moved(layers["units"].items, place), opacity=opacity)]
    scale = 1000 * crs.metres_per_unit / k
    written = Written(book, units, crs, label_rules(project))
    codes = labelled({"areas": areas}, {}, written, scale, place, tint_opacity=opacity).layers["labels"]
    items += [i for i in moved(codes.items, place) if isinstance(i, Text) and (i.largest is None or scale <= i.largest)]
    if pair is not None:
        items += moved(_marked(areas, pair), place)
    width, height = k * (east - west), k * (north - south)
    return swatch(items, round(width, 2), round(height, 2), "The units of the map", prefix)


def _marked(areas: Features, pair: tuple[str, str]) -> list[Item]:
    """The edge that two units have in common."""
    grounds = [
        shapely.union_all(
            [g for g, unit in zip(areas.geometries, areas.columns["map_unit"], strict=True) if unit == code]
        )
        for code in pair
    ]
    edge = shapely.intersection(shapely.boundary(grounds[0]), shapely.boundary(grounds[1]))
    lines = [part for part in shapely.get_parts(shapely.line_merge(edge)) if part.geom_type == "LineString"]
    return [Stroke(MARK, Paths.of_lines(np.array(lines, dtype=object)))] if lines else []
