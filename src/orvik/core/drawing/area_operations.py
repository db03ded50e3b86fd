"""Areas: filled, cut, split, merged and trimmed so that no gap, no overlap and no unsound ring is left.

Each operation gives the areas that change. Where an edge gets a new vertex, every neighbour gets the very same
one, so that edges never part.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.errors import FeatureRefused
from orvik.core.faces.forming import faces_of
from orvik.core.features.feature import Feature
from orvik.core.geometry.nodes import NODE, with_common_nodes

# Of the ground that an operation moves so much may be rounding.
BALANCE = 1e-9
# A side of the shoreline with so much of an area is land.
CERTAIN = 0.8


@dataclass(frozen=True)
class Outcome:
    """Areas added or changed, and the ids of those that go."""

    kept: tuple[Feature, ...]
    deleted: tuple[int, ...] = ()


def fill_to_neighbours(new: Feature, neighbours: Sequence[Feature]) -> Outcome:
    """A new area, drawn over its neighbours' edges, that is replaced by them and shares their edges.

    Raises
    ------
    FeatureRefused
        The neighbours leave it no ground.
    """
    others = [n for n in neighbours if n.id != new.id]
    over = [n.geometry for n in others if shapely.relate_pattern(n.geometry, new.geometry, "T********")]
    free = _polygons(shapely.difference(new.geometry, shapely.union_all(over))) if over else [new.geometry]
    if not free:
        raise FeatureRefused("The areas beside it leave this one no ground; draw it where there is none yet.")
    return _settled(_in_parts(new, free), others)


def lies_over(new: Feature, other: Feature) -> bool:
    """Whether two areas have ground in common, more than rounding."""
    common = shapely.intersection(new.geometry, other.geometry)
    return bool(common.area > BALANCE * min(new.geometry.area, other.geometry.area) + 1e-6)


def laid_over(new: Feature, neighbours: Sequence[Feature]) -> Outcome:
    """A new area that its neighbours give way to."""
    kept: list[Feature] = [new]
    deleted: list[int] = []
    over = [n for n in neighbours if n.id != new.id and lies_over(new, n)]
    for other in over:
        rest = _polygons(shapely.difference(other.geometry, new.geometry))
        if rest:
            kept += _in_parts(other, rest)
        else:
            deleted.append(other.number)
    names = {o.id for o in over}
    return _settled(kept, [n for n in neighbours if n.id not in names], tuple(deleted))


def filled_at(x: float, y: float, areas: Sequence[Feature], lines: Sequence[Feature], new: Feature) -> Outcome:
    """The open ground around a place, closed by the edges of areas and lines around it, as a new area.

    Parameters
    ----------
    new
        The attributes of the new area; its geometry is not looked at.
    """
    point = shapely.Point(x, y)
    if any(a.geometry.contains(point) for a in areas):
        raise FeatureRefused("There is an area here already; give it another unit in its slip, or cut a hole first.")
    edges = [ring for a in areas for ring in _rings(a.geometry)] + [line.geometry for line in lines]
    for face in faces_of(np.array(edges, dtype=object), None):
        if face.contains(point):
            taken = [a.geometry for a in areas if a.geometry.intersects(face)]
            free = [p for p in _polygons(shapely.difference(face, shapely.union_all(taken))) if p.contains(point)]
            if free:
                return _settled(_in_parts(new, free[:1]), areas)
    raise FeatureRefused("The edges around this place do not close; draw the area instead.")


def cut_out(
    areas: Sequence[Feature], drawn: BaseGeometry, neighbours: Sequence[Feature], fill: Feature | None
) -> Outcome:
    """A hole cut into areas, or a notch where it reaches over their edge, filled with another unit if told.

    Parameters
    ----------
    areas
        Those that are cut.
    drawn
        The ground that is cut out.
    fill
        The attributes of the area that comes in its place; None leaves the hole open.
    """
    kept: list[Feature] = []
    deleted: list[int] = []
    taken: list[BaseGeometry] = []
    for area in areas:
        common = shapely.intersection(area.geometry, drawn)
        if common.area == 0:
            continue
        taken += _polygons(common)
        rest = _polygons(shapely.difference(area.geometry, drawn))
        if not rest:
            deleted.append(area.number)
            continue
        kept += _in_parts(area, rest)
    if not taken:
        raise FeatureRefused("What was drawn lies beside the area; draw the hole within it.")
    if fill is not None:
        pieces = _polygons(shapely.union_all(taken))
        kept += [fill.changed(geometry=p, id=None) for p in pieces]
    names = {a.id for a in areas}
    outcome = _settled(kept, [n for n in neighbours if n.id not in names], tuple(deleted))
    if fill is not None:
        _check_balance([a.geometry for a in areas], [f.geometry for f in kept])
    return outcome


def split(area: Feature, line: shapely.LineString, neighbours: Sequence[Feature]) -> Outcome:
    """An area in parts along a line; the largest one keeps its number.

    Raises
    ------
    FeatureRefused
        The line does not lead through the area from edge to edge.
    """
    cuts = np.array([*_rings(area.geometry), line], dtype=object)
    pieces = [p for p in faces_of(cuts, None) if area.geometry.contains(p.point_on_surface())]
    if len(pieces) < 2:
        raise FeatureRefused(f"The line does not lead through {area.name} from edge to edge; draw past both edges.")
    kept = _in_parts(area, pieces)
    outcome = _settled(kept, [n for n in neighbours if n.id != area.id])
    _check_balance([area.geometry], [f.geometry for f in kept])
    return outcome


def merge(areas: Sequence[Feature]) -> Outcome:
    """Areas side by side as one, with the attributes of the first.

    Raises
    ------
    FeatureRefused
        Fewer than two, or they do not share an edge.
    """
    if len(areas) < 2:
        raise FeatureRefused("Select two or more areas to merge them: click one, then others with Shift.")
    if len({a.kind for a in areas}) > 1:
        raise FeatureRefused("These areas are not of one kind, and lie over one another; merge areas of one kind.")
    whole = _polygons(shapely.union_all([a.geometry for a in areas]))
    if len(whole) != 1:
        raise FeatureRefused("These areas do not share an edge, so they cannot be one; merge neighbours.")
    notes = "\n".join(dict.fromkeys(a.note for a in areas if a.note))
    scales = [a.capture_scale for a in areas if a.capture_scale]
    first = areas[0].changed(geometry=whole[0], note=notes, capture_scale=max(scales) if scales else None)
    return Outcome((first,), tuple(a.number for a in areas[1:]))


def trim_overlaps(area: Feature, others: Sequence[Feature], below: bool) -> Outcome:
    """An area that lies over others, cut back to them (``below``), or they to it."""
    over = [
        o
        for o in others
        if o.id != area.id and shapely.intersection(o.geometry, area.geometry).area > BALANCE * area.geometry.area
    ]
    if not over:
        raise FeatureRefused(f"{area.name.capitalize()} lies over no other area; there is nothing to trim.")
    before = shapely.union_all([area.geometry, *(o.geometry for o in over)]).area
    kept: list[Feature] = []
    deleted: list[int] = []
    changes = [(area, shapely.union_all([o.geometry for o in over]))] if below else [(o, area.geometry) for o in over]
    for feature, cover in changes:
        rest = _polygons(shapely.difference(feature.geometry, cover))
        if rest:
            kept += _in_parts(feature, rest)
        else:
            deleted.append(feature.number)
    changed = {f.id for f in kept if f.id} | set(deleted)
    standing = [f for f in (area, *over) if f.id not in changed]
    outcome = _settled(kept, [o for o in (area, *others) if o.id not in changed], tuple(deleted))
    after = sum(f.geometry.area for f in kept) + sum(f.geometry.area for f in standing)
    if abs(after - before) > BALANCE * before + 1e-6:
        raise FeatureRefused("These areas cannot be trimmed without leaving an overlap; trim them one by one.")
    return outcome


def clip_to_shore(
    area: Feature,
    shore: Sequence[Feature],
    neighbours: Sequence[Feature],
    tags: Sequence[Feature] = (),
    side: str = "",
) -> Outcome:
    """An area cut off at the shoreline: what lies on the other side of it goes.

    Going over the shoreline leads from land to water and back, so that an island in a lake is land again.

    Parameters
    ----------
    tags
        Unit tags, which stand on land.
    side
        Which side stays, ``larger`` or ``smaller``; empty for the one with the tags, or the one that is by far the
        larger.

    Raises
    ------
    FeatureRefused
        No shoreline runs through it, or which side is land is not certain.
    """
    near = [line.geometry for line in shore if line.geometry.intersects(area.geometry)]
    if not near:
        raise FeatureRefused(f"No shoreline runs through {area.name}; there is nothing to clip it to.")
    cuts = np.array([*_rings(area.geometry), *near], dtype=object)
    pieces = [p for p in faces_of(cuts, None) if area.geometry.contains(p.point_on_surface())]
    if len(pieces) < 2:
        raise FeatureRefused(f"The shoreline ends within {area.name}; lead it on first.")
    sides = _two_sides(pieces, area)
    ground = [sum(p.area for p in one) for one in sides]
    large, small = (0, 1) if ground[0] >= ground[1] else (1, 0)
    tagged = [any(p.contains(tag.geometry) for p in one for tag in tags) for one in sides]
    if side in ("larger", "smaller"):
        land = large if side == "larger" else small
    elif tagged[0] != tagged[1]:
        land = tagged.index(True)
    elif ground[large] >= CERTAIN * sum(ground):
        land = large
    else:
        share = round(100 * ground[large] / sum(ground))
        raise FeatureRefused(
            f"The shoreline parts {area.name} in {share} and {100 - share} %, and no tag says which of them is land; "
            "choose beside Clip which side stays."
        )
    kept = _in_parts(area, _polygons(shapely.union_all(sides[land])))
    return _settled(kept, [n for n in neighbours if n.id != area.id])


def _two_sides(pieces: Sequence[shapely.Polygon], area: Feature) -> tuple[list[shapely.Polygon], list[shapely.Polygon]]:
    """Pieces parted by a shoreline, those on its one side and those on its other."""
    of: dict[int, int] = {}
    for start in sorted(range(len(pieces)), key=lambda i: -pieces[i].area):
        waiting = [] if start in of else [start]
        of.setdefault(start, 0)
        while waiting:
            i = waiting.pop()
            for j, piece in enumerate(pieces):
                if j != i and shapely.intersection(pieces[i].boundary, piece.boundary).length > NODE:
                    if j in of and of[j] == of[i]:
                        raise FeatureRefused(
                            f"The shoreline within {area.name} does not part land from water: three of its lines meet, "
                            "or one ends in another; fix it first."
                        )
                    if j not in of:
                        of[j] = 1 - of[i]
                        waiting.append(j)
    return [p for i, p in enumerate(pieces) if of[i] == 0], [p for i, p in enumerate(pieces) if of[i] == 1]


def check_together(before: Sequence[Feature], after: Sequence[Feature]) -> None:
    """Areas that a new course of an edge has changed must not lie over one another nor leave ground between them.

    Where three areas meet within the course, each of two neighbours has a part of the edge only, and nobody can tell
    how the edge between them runs on.

    Parameters
    ----------
    before, after
        The areas around the course, as they were and as they would be.

    Raises
    ------
    FeatureRefused
        They would not stay together.
    """
    for kind in {feature.kind for feature in after}:
        was, now = ([f.geometry for f in some if f.kind == kind] for some in (before, after))
        whole, left = shapely.union_all(was), shapely.union_all(now)
        least = BALANCE * max(whole.area, 1.0) + 1e-6
        apart = sum(g.area for g in now) - left.area > sum(g.area for g in was) - whole.area + least
        for gap in _polygons(shapely.difference(whole, left)):
            beside = [g for g in now if shapely.intersection(g.boundary, gap.boundary).length > NODE]
            apart = apart or (gap.area > least and len(beside) > 1)
        if apart:
            raise FeatureRefused(
                "Three areas meet within this course, and nobody can tell how the edge between the other two runs on; "
                "draw it up to there, and then on from there."
            )


def _settled(kept: Sequence[Feature], neighbours: Iterable[Feature], deleted: tuple[int, ...] = ()) -> Outcome:
    """Areas and their neighbours with every vertex of a shared edge in common."""
    names = {f.id for f in kept} | set(deleted)
    untouched = [n for n in neighbours if n.id not in names]
    made, around = with_common_nodes(kept, untouched)
    changed = [now for was, now in zip(untouched, around, strict=True) if now is not was]
    for feature in (*made, *changed):
        if not feature.geometry.is_valid:
            raise FeatureRefused("This would leave an area whose edge crosses itself; draw it a little otherwise.")
    return Outcome((*made, *changed), deleted)


def _in_parts(feature: Feature, pieces: Sequence[BaseGeometry]) -> list[Feature]:
    """The largest piece keeps the number, the others are new areas with the same attributes."""
    ordered = sorted(pieces, key=lambda p: -float(p.area))
    return [feature.changed(geometry=p, id=feature.id if i == 0 else None) for i, p in enumerate(ordered)]


def _polygons(geometry: BaseGeometry) -> list[shapely.Polygon]:
    """The areas in a geometry; lines, points and what is thinner than rounding are dropped."""
    return [p for p in shapely.get_parts(geometry) if p.geom_type == "Polygon" and p.area > 1e-6]


def _rings(polygon: BaseGeometry) -> list[shapely.LineString]:
    return [shapely.LineString(ring.coords) for ring in shapely.get_rings(polygon)]


def _check_balance(before: Sequence[BaseGeometry], after: Sequence[BaseGeometry]) -> None:
    was, now = sum(g.area for g in before), sum(g.area for g in after)
    if abs(was - now) > BALANCE * max(was, 1.0) + 1e-6:
        raise FeatureRefused("This would lose or gain ground; draw it a little otherwise.")
