"""What ink takes of a page."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Group, Item, Picture, Text
from orvik.core.lettering import heights

Box = tuple[float, float, float, float]


def text_box(text: Text) -> shapely.Polygon:
    """The area that a text takes, in millimetres of its frame, as it is turned."""
    letters = text.run
    above, below = heights(letters)
    left = min(letters.x, default=0.0)
    corners = np.array([(left, -above), (left + letters.width, -above), (left + letters.width, below), (left, below)])
    angle = np.radians(text.angle)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return shapely.Polygon(corners @ turn + np.array(text.at) + np.array(text.offset))


def bounds_of(items: Iterable[Item]) -> Box | None:
    """Left, top, right and bottom of ink in millimetres, as far as it is not clipped; None of no ink."""
    boxes = [box for item in items if (box := _bounds(item)) is not None]
    if not boxes:
        return None
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


def _bounds(item: Item) -> Box | None:
    if isinstance(item, Group):
        held = bounds_of(item.items)
        if held is None or item.clip is None:
            return held
        edge = _around(item.clip.xy)
        shared = max(held[0], edge[0]), max(held[1], edge[1]), min(held[2], edge[2]), min(held[3], edge[3])
        return shared if shared[0] < shared[2] and shared[1] < shared[3] else None
    if isinstance(item, Text):
        left, top, right, bottom = text_box(item).bounds
        return float(left), float(top), float(right), float(bottom)
    if isinstance(item, Picture):
        return _around(apply(item.place, np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])))
    xy = item.at if hasattr(item, "at") else item.paths.xy
    return _around(xy) if len(xy) else None


def _around(xy: np.ndarray) -> Box:
    (left, top), (right, bottom) = xy.min(axis=0), xy.max(axis=0)
    return float(left), float(top), float(right), float(bottom)
