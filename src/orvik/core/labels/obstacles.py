"""What labels keep clear of: symbols and faults always, other linework where they can."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Item, Marks, Ornaments, Stamp, Stroke, Text
from orvik.core.labels.candidates import CLEAR, boxes
from orvik.core.lettering import heights

# Long lines are looked up by pieces of so many vertices.
PIECE = 12
# What it costs to lie over a piece of linework that may be written upon.
OVER_LINE = 4.0
# What it costs a leader to cross a line or a symbol.
LEADER_OVER_LINE = 0.4
LEADER_OVER_SYMBOL = 6.0
# The key of ink that is not a feature's, which no label may lie on as its own.
NOBODY = -2
# Of all costs the one that nothing makes up for.
NEVER = 1e6


@dataclass(frozen=True)
class Obstacles:
    """Pieces of ink in millimetres on the page.

    Attributes
    ----------
    pieces
        Lines and areas.
    hard
        Which of them no label may touch.
    keys
        Of which feature each is, as ink carries it; ``NOBODY`` for none.
    """

    pieces: Objects
    hard: Flags
    keys: Ints

    @staticmethod
    def of(items: Iterable[Item], hard_keys: Ints, scale: float) -> Obstacles:
        """The obstacles that some ink on the page makes.

        Parameters
        ----------
        hard_keys
            Of features whose lines no label may touch: faults. Symbols are never touched.
        scale
            The denominator that it is printed at; what is not shown at it is in nobody's way.
        """
        pieces: list[Objects] = []
        hard: list[Flags] = []
        keys: list[Ints] = []

        def add(found: Objects, of: Ints, is_hard: Flags) -> None:
            pieces.append(found)
            keys.append(of)
            hard.append(is_hard)

        for item in items:
            if isinstance(item, Stroke) and len(item.paths):
                found, path = _pieces(item.paths)
                of = item.keys[path] if item.keys is not None else np.full(len(path), NOBODY)
                add(found, of, np.isin(of, hard_keys))
            elif isinstance(item, Marks | Ornaments) and len(item.at):
                shown = item.largest >= scale if isinstance(item, Ornaments) else np.ones(len(item.at), dtype=bool)
                found, place = _symbols(item.stamp, item.at[shown], item.angles[shown])
                rows = np.flatnonzero(shown)[place]
                of = item.keys[rows] if item.keys is not None else np.full(len(rows), NOBODY)
                add(found, of, np.ones(len(rows), dtype=bool))
            elif isinstance(item, Text) and not (item.largest is not None and scale > item.largest):
                add(_text(item), np.array([item.key if item.key is not None else NOBODY]), np.ones(1, dtype=bool))
        if not pieces:
            return Obstacles(np.zeros(0, dtype=object), np.zeros(0, dtype=bool), np.zeros(0, dtype=np.int64))
        return Obstacles(np.concatenate(pieces), np.concatenate(hard), np.concatenate(keys))

    def costs(self, places: Objects, own: Ints) -> Floats:
        """What places cost for what they lie over; nothing for those that lie over nothing.

        Parameters
        ----------
        own
            Of each place the key of the feature whose own line it may lie on; -1 for none.
        """
        cost = np.zeros(len(places))
        # First what rules places out, which on a crowded map are most of them.
        hard, soft = self._trees
        cost[_ruled_out(*hard, places, own)] = NEVER
        free = np.flatnonzero(cost < NEVER)
        np.add.at(cost, free[_met(*soft, places[free], own[free])], OVER_LINE)
        return cost

    def leader_costs(self, leaders: Objects) -> Floats:
        """What leaders cost for what they cross; a code's leader always crosses the edge of its own area once."""
        cost = np.zeros(len(leaders))
        leader, piece = self._tree.query(leaders, predicate="intersects")
        closed = shapely.get_type_id(self.pieces[piece]) == shapely.GeometryType.POLYGON
        np.add.at(cost, leader, np.where(closed, LEADER_OVER_SYMBOL, LEADER_OVER_LINE))
        return cost

    @cached_property
    def _trees(self) -> tuple[tuple[shapely.STRtree, Ints], tuple[shapely.STRtree, Ints]]:
        """What no label may touch, and the rest: the pieces, and the keys of these."""
        one, other = ((shapely.STRtree(self.pieces[rows]), self.keys[rows]) for rows in (self.hard, ~self.hard))
        return one, other

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.pieces)


def _ruled_out(pieces: shapely.STRtree, keys: Ints, places: Objects, own: Ints) -> Ints:
    """Places that lie over a piece at all, but for pieces of their own.

    On a crowded map most places meet the first piece that is near them, and the others need not be asked.
    """
    place, piece = pieces.query(places)
    other = keys[piece] != own[place]
    place, piece = place[other], piece[other]
    open_rows, next_one, count = np.unique(place, return_index=True, return_counts=True)
    last = next_one + count
    met: list[Ints] = []
    while len(open_rows):
        hit = shapely.intersects(pieces.geometries[piece[next_one]], places[open_rows])
        met.append(open_rows[hit])
        next_one = next_one + 1
        left = ~hit & (next_one < last)
        open_rows, next_one, last = open_rows[left], next_one[left], last[left]
    return np.concatenate(met) if met else np.zeros(0, dtype=np.int64)


def _met(pieces: shapely.STRtree, keys: Ints, places: Objects, own: Ints) -> Ints:
    """Places that lie over some pieces, each as often as it does, but for pieces of their own."""
    place, piece = pieces.query(places, predicate="intersects")
    met: Ints = place[keys[piece] != own[place]]
    return met


def _pieces(paths: Paths) -> tuple[Objects, Ints]:
    """Paths in pieces of some vertices, which overlap by one, and the path that each is of."""
    counts = np.diff(paths.starts)
    many = np.maximum(1, np.ceil((counts - 1) / (PIECE - 1))).astype(np.int64)
    many = np.where(counts >= 2, many, 0)
    path = np.repeat(np.arange(len(paths)), many)
    number = np.arange(len(path)) - np.repeat(np.cumsum(many) - many, many)
    begin = paths.starts[path] + number * (PIECE - 1)
    stop = np.minimum(begin + PIECE, paths.starts[path + 1])
    length = stop - begin
    vertex = np.repeat(begin - (np.cumsum(length) - length), length) + np.arange(int(length.sum()))
    lines = np.asarray(shapely.linestrings(paths.xy[vertex], indices=np.repeat(np.arange(len(path)), length)))
    return lines, path.astype(np.int64)


def _symbols(stamp: Stamp, at: Floats, angles: Floats) -> tuple[Objects, Ints]:
    """The outline of a stamp at many places, piece by piece, and the place that each piece is of."""
    radians = np.radians(angles)
    cos, sin = np.cos(radians)[:, None], np.sin(radians)[:, None]
    out: list[Objects] = []
    for item in stamp.items:
        width = item.style.width / 2 if isinstance(item, Stroke) else 0.0
        for i in range(len(item.paths)):
            xy = item.paths[i]
            shape: shapely.Geometry = shapely.LineString(xy) if len(xy) > 1 else shapely.Point(xy[0])
            if not isinstance(item, Stroke) and len(xy) > 2:
                shape = shapely.Polygon(xy)
            grown = shapely.buffer(shape, max(width, 0.02), quad_segs=2)
            outline = shapely.get_coordinates(shapely.get_exterior_ring(grown))
            x = at[:, :1] + outline[:, 0] * cos - outline[:, 1] * sin
            y = at[:, 1:] + outline[:, 0] * sin + outline[:, 1] * cos
            out.append(np.asarray(shapely.polygons(np.stack([x, y], axis=-1))))
    place = np.tile(np.arange(len(at)), len(out))
    return np.concatenate(out) if out else np.zeros(0, dtype=object), place


def _text(text: Text) -> Objects:
    above, below = heights(text.run)
    first = text.run.x[0] if text.run.x else 0.0
    radians = np.radians(text.angle)
    local = np.array([first + text.run.width / 2, (below - above) / 2])
    turn = np.array([[np.cos(radians), np.sin(radians)], [-np.sin(radians), np.cos(radians)]])
    middle = np.array(text.at) + np.array(text.offset) + local @ turn
    half = np.array([[text.run.width / 2, (above + below) / 2]])
    return boxes(middle[None, :], half, np.array([text.angle]), CLEAR)
