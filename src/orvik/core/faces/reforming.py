"""Faces built again after an edit: only those that its lines touch, from only the lines that hang together with it.

A cycle that an edit closes or opens runs through the edited line, so it stays within the faces which that line
touches, and in what is joined to the line there. The rings of these faces that are not joined to it stand as they
were, to the last bit, and need no noding: a face that lies around half the sheet costs no more than a small one.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Flags, Geometries, Ints
from orvik.core.faces.forming import faces_of, oriented, polygonized
from orvik.core.geometry.nodes import NODE, nodes_of, same_nodes

# Long lines are compared in strips of so many segments: the box around the whole may hold half the sheet.
STRIP = 8


def refaced(
    old: Geometries, pieces: Geometries, touched: Geometries, frame: shapely.Polygon | None
) -> tuple[Flags, Geometries]:
    """Build again only the faces that an edit can have changed.

    Parameters
    ----------
    old
        The faces before the edit.
    pieces
        All pieces as they are now.
    touched
        The pieces that have changed, as they were and as they are.
    frame
        The ground within the sheet border, which is as it was.

    Returns
    -------
    keep, new
        Which of the old faces still stand, and the faces in place of the others.
    """
    keep = np.ones(len(old), dtype=bool)
    if not len(touched):
        return keep, np.empty(0, dtype=object)
    hit: Ints = np.unique(shapely.STRtree(old).query(touched, predicate="dwithin", distance=NODE)[1])
    region = old[hit]
    if frame is None and not _covers(region, touched):
        # Outside all faces the whole linework may close a new one.
        return np.zeros(len(old), dtype=bool), faces_of(pieces, None)
    keep[hit] = False
    if not len(region):
        return keep, np.empty(0, dtype=object)
    shapely.prepare(region)
    rings = _rings(region)
    joined, standing = _joined(pieces, touched, region, rings)
    holes = standing & rings.plain
    built = polygonized(pieces[joined], rings.lines[standing & ~holes])
    # So that faces built again do not part from their neighbours.
    built = same_nodes(built, nodes_of(rings.lines[~standing]))
    built = oriented(_with_holes(built, rings.filled[holes]))
    within = np.unique(shapely.STRtree(shapely.point_on_surface(built)).query(region, predicate="intersects")[1])
    return keep, built[within]


def _covers(region: Geometries, touched: Geometries) -> bool:
    if not len(region):
        return False
    ground = shapely.buffer(shapely.union_all(region), NODE)
    return bool(shapely.covers(ground, shapely.union_all(touched)))


@dataclass(frozen=True)
class _Rings:
    """The rings of faces, as closed lines and filled: which two faces share, and which are holes without a face."""

    lines: Geometries
    filled: Geometries
    shared: Flags
    plain: Flags


def _rings(region: Geometries) -> _Rings:
    rings, owners = shapely.get_rings(region, return_index=True)
    xy, ring_of = shapely.get_coordinates(rings, return_index=True)
    lines: Geometries = np.asarray(shapely.linestrings(xy, indices=ring_of), dtype=object)
    filled: Geometries = np.asarray(shapely.polygons(rings), dtype=object)
    shared = np.zeros(len(lines), dtype=bool)
    plain = np.diff(owners, prepend=-1) == 0
    if len(region) > 1:
        # Of two faces side by side, the edge between them belongs to the outer ring of one of them.
        outer, inner = np.flatnonzero(~plain), np.flatnonzero(plain)
        strips, strip_of = _strips(lines[outer])
        every, of = _strips(lines)
        one, two = shapely.STRtree(every).query(strips, predicate="dwithin", distance=NODE)
        one, two = outer[strip_of[one]], of[two]
        apart = owners[one] != owners[two]
        shared[one[apart]] = shared[two[apart]] = True
        holes = shapely.STRtree(filled[inner])
        plain[inner[holes.query(shapely.point_on_surface(region), predicate="intersects")[1]]] = False
    return _Rings(lines, filled, shared, plain)


def _joined(pieces: Geometries, touched: Geometries, region: Geometries, rings: _Rings) -> tuple[Ints, Flags]:
    """The pieces within the region that hang together with the edit, and the rings that do not."""
    strips, ring_of = _strips(rings.lines)
    piece_tree, region_tree, ring_tree = (shapely.STRtree(g) for g in (pieces, region, strips))
    reached_pieces = np.zeros(len(pieces), dtype=bool)
    # A ring that two faces share would stand twice; it is built from its pieces.
    reached_rings = rings.shared.copy()
    front = np.concatenate([touched, rings.lines[rings.shared]])
    while len(front):
        around, _ = _strips(front)
        new_rings = np.unique(ring_of[_beside(ring_tree, around)])
        new_rings = new_rings[~reached_rings[new_rings]]
        new_pieces = _beside(piece_tree, around)
        new_pieces = new_pieces[~reached_pieces[new_pieces]]
        at, face = region_tree.query(pieces[new_pieces])
        beside = shapely.dwithin(region[face], pieces[new_pieces[at]], NODE)
        new_pieces = new_pieces[np.unique(at[beside])]
        reached_rings[new_rings] = True
        reached_pieces[new_pieces] = True
        front = np.concatenate([rings.lines[new_rings], pieces[new_pieces]])
    return np.flatnonzero(reached_pieces), ~reached_rings


def _beside(tree: shapely.STRtree, lines: Geometries) -> Ints:
    return np.unique(tree.query(lines, predicate="dwithin", distance=NODE)[1])


def _strips(lines: Geometries) -> tuple[Geometries, Ints]:
    """Lines cut into strips of a few segments, and from which line each is."""
    xy, line = shapely.get_coordinates(lines, return_index=True)
    along = np.arange(len(xy)) - np.searchsorted(line, line)
    starts = along % STRIP == 0
    strip = np.cumsum(starts) - 1
    # Where a strip starts within a line, the one before ends.
    ends = np.flatnonzero(starts & (along > 0))
    of = np.concatenate([strip, strip[ends] - 1])
    vertex = np.concatenate([np.arange(len(xy)), ends])
    order = np.lexsort((vertex, of))
    of, vertex = of[order], vertex[order]
    long_enough = np.bincount(of)[of] > 1
    of, vertex = of[long_enough], vertex[long_enough]
    _, at, number = np.unique(of, return_index=True, return_inverse=True)
    return np.asarray(shapely.linestrings(xy[vertex], indices=number), dtype=object), line[vertex[at]]


def _with_holes(built: Geometries, holes: Geometries) -> Geometries:
    """Polygons less the holes that lie within them; no hole lies within another."""
    tree = shapely.STRtree(built)
    hole, shell = tree.query(shapely.point_on_surface(holes), predicate="intersects")
    inner = shapely.get_exterior_ring(holes)
    made = built.copy()
    for i in np.unique(shell).tolist():
        made[i] = shapely.polygons(built[i].exterior, [*built[i].interiors, *inner[hole[shell == i]]])
    return made
