"""The map in an emphasis as a small picture, beside the map as it is."""

from __future__ import annotations

import shapely

from orvik.core.ink.affine import Affine
from orvik.core.ink.primitives import Group, Item, Ornaments, moved
from orvik.core.symbols.emphasis import Emphasis
from orvik.core.symbols.portrayal.portray import portray
from orvik.press.svg import swatch
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of

# With more than this the picture leaves points out, and it could not be seen anyway.
MOST_POINTS, MOST_LINES = 3000, 6000
LAYERS = ("units", "linework", "attitudes")


def emphasis_picture(project: Reader, emphasis: Emphasis | None, prefix: str) -> str:
    """An SVG of the map, in an emphasis or as it is, drawn at publication scale, as small as the page wants it.

    Parameters
    ----------
    prefix
        Of the ids in the picture.
    """
    features = dict(project.all_features())
    if len(features["points"]) > MOST_POINTS:
        del features["points"]
    if len(features["lines"]) > MOST_LINES:
        del features["lines"]
    shapes = [g for columns in features.values() for g in columns.geometries]
    if not shapes:
        return ""
    west, south, east, north = shapely.total_bounds(shapes).tolist()
    scale = project.scales.publication
    k = 1000 * project.crs.metres_per_unit / scale
    book, units = symbol_book_of(project), project.units_by_code()
    if emphasis is not None:
        book, units = emphasis.book(book), emphasis.units(units)
    layers = portray(features, book, units, project.crs, scale)
    place: Affine = (k, 0.0, -k * west, 0.0, -k, k * north)
    items: list[Item] = [Group(name, _shown(moved(layers[name].items, place))) for name in LAYERS]
    width, height = k * (east - west), k * (north - south)
    title = f"The map in the emphasis {emphasis.name}" if emphasis is not None else "The map as it is"
    return swatch(items, round(width, 2), round(height, 2), title, prefix)


def _shown(items: tuple[Item, ...]) -> tuple[Item, ...]:
    return tuple(item for item in items if not isinstance(item, Ornaments) or len(item.at))
