"""Ink really cut to the areas that its groups are clipped to, so that files need no clipping paths."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from dataclasses import replace

import numpy as np
import shapely
from PIL import Image, ImageDraw
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Flags, Floats, Ints, Objects
from orvik.core.ink.affine import Affine, apply, inverse
from orvik.core.ink.paths import Paths, beside, repeated
from orvik.core.ink.primitives import Fill, Group, Item, Marks, Ornaments, Pattern, Picture, Stamp, Stroke, Text

# Fewer geometries than this are cut to the whole of an area, more cell by cell, of so many millimetres.
FEW, CELL = 50, 16.0


def cut(items: Iterable[Item], area: BaseGeometry | None = None) -> tuple[Item, ...]:
    """The same ink without clips: lines, areas and symbols end where their clip ends.

    Parameters
    ----------
    area
        What is shown of it, in the frame of the ink, in millimetres; None for all.

    Returns
    -------
    Items in the same order. A text is kept whole if its place is shown, and left out else. A symbol that the edge
    crosses is drawn out and cut.
    """
    out: list[Item] = []
    for item in items:
        if isinstance(item, Group):
            mine = area
            if item.clip is not None:
                own = _area_of(item.clip)
                mine = own if area is None else _areal(shapely.intersection(area, own))
            out.append(replace(item, items=cut(item.items, mine), clip=None))
        elif area is None:
            out.append(item)
        else:
            out += cut_to(item, area)
    return tuple(out)


def _areal(geometry: BaseGeometry) -> BaseGeometry:
    """Its areas alone: where two only touch they have lines and points in common, which show nothing."""
    parts = shapely.get_parts(geometry)
    return shapely.union_all(parts[shapely.get_dimensions(parts) == 2])


def _area_of(clip: Paths) -> BaseGeometry:
    """The area within a clip: its rings, even-odd."""
    area: BaseGeometry = shapely.Polygon()
    for i in range(len(clip)):
        if len(clip[i]) >= 3:
            area = shapely.symmetric_difference(area, shapely.make_valid(shapely.Polygon(clip[i])))
    return area


def cut_to(item: Item, area: BaseGeometry) -> list[Item]:
    """What of one item, which is not a group, lies within an area."""
    shapely.prepare(area)
    if isinstance(item, Stroke):
        return _lines(item, area)
    if isinstance(item, Fill | Pattern):
        return _areas(item, area)
    if isinstance(item, Marks | Ornaments):
        return _marks(item, area)
    if isinstance(item, Picture):
        return _picture(item, area)
    if isinstance(item, Text):
        return [item] if shapely.intersects_xy(area, *item.at) else []
    raise AssertionError("groups are cut by cut")


def _lines(stroke: Stroke, area: BaseGeometry) -> list[Item]:
    style = stroke.style
    paths = beside(stroke.paths, style.offset) if style.offset and len(stroke.paths) else stroke.paths
    lines = paths.lines()
    kept, owners = _parts_within(lines, area, 1)
    if not len(kept):
        return []
    keys = stroke.keys[owners] if stroke.keys is not None else None
    style = replace(style, offset=0.0)
    if not style.dash:
        return [Stroke(style, Paths.of_lines(kept), keys)]
    out: list[Item] = []
    for i, (piece, owner) in enumerate(zip(kept, owners.tolist(), strict=True)):
        # Dashes go on where they would have been.
        phase = float(shapely.line_locate_point(lines[owner], shapely.Point(piece.coords[0])))
        of = keys[i : i + 1] if keys is not None else None
        out.append(Stroke(replace(style, phase=phase % sum(style.dash)), Paths.of_lines(kept[i : i + 1]), of))
    return out


def _areas(item: Fill | Pattern, area: BaseGeometry) -> list[Item]:
    kept, owners = _parts_within(polygons_of(item), area, 2)
    if not len(kept):
        return []
    rings, owner = shapely.get_rings(shapely.orient_polygons(kept), return_index=True)
    parts = np.concatenate([[0], np.cumsum(np.bincount(owner, minlength=len(kept)))]).astype(np.int64)
    keys = item.keys[owners] if item.keys is not None else None
    return [replace(item, paths=Paths.of_lines(rings), parts=parts, keys=keys)]


def polygons_of(item: Fill | Pattern) -> Objects:
    """The areas of a fill or a pattern."""
    return np.array([_polygon(item, i) for i in range(len(item.parts) - 1)], dtype=object)


def _polygon(item: Fill | Pattern, i: int) -> BaseGeometry:
    """An area of a fill: its rings, even-odd."""
    rings = [item.paths[k] for k in range(item.parts[i], item.parts[i + 1])]
    rings = [ring for ring in rings if len(ring) >= 3]
    if not rings:
        return shapely.Polygon()
    whole = shapely.Polygon(rings[0], rings[1:])
    if whole.is_valid:
        return whole
    made: BaseGeometry = shapely.Polygon()
    for ring in rings:
        made = shapely.symmetric_difference(made, shapely.make_valid(shapely.Polygon(ring)))
    return made


def _parts_within(geometries: Objects, area: BaseGeometry, dimension: int) -> tuple[Objects, Ints]:
    """What of geometries lies within an area, piece by piece, and which of them each piece is of."""
    inside = shapely.contains_properly(area, geometries)
    there = np.flatnonzero(inside | shapely.intersects(area, geometries))
    found = geometries[there]
    for rows, near in _by_cell(found, np.flatnonzero(~inside[there]), area):
        found[rows] = shapely.intersection(found[rows], near)
    pieces, owners = shapely.get_parts(found, return_index=True)
    # Collections of what touches the edge hold points and lines as well.
    deep, of = shapely.get_parts(pieces, return_index=True)
    keep = (shapely.get_dimensions(deep) == dimension) & ~shapely.is_empty(deep)
    return deep[keep], there[owners[of][keep]]


def _by_cell(geometries: Objects, rows: Ints, area: BaseGeometry) -> Iterator[tuple[Ints, BaseGeometry]]:
    """Geometries that lie near one another, with what of an area is near them: what is far away cuts nothing."""
    if len(rows) < FEW:
        yield rows, area
        return
    bounds = shapely.bounds(geometries[rows])
    _, cell = np.unique(np.floor((bounds[:, :2] + bounds[:, 2:]) / 2 / CELL), axis=0, return_inverse=True)
    order = np.argsort(cell, kind="stable")
    for some in np.split(order, np.flatnonzero(np.diff(cell[order])) + 1):
        (west, south), (east, north) = bounds[some, :2].min(axis=0) - 1, bounds[some, 2:].max(axis=0) + 1
        yield rows[some], shapely.intersection(area, shapely.box(west, south, east, north))


def drawn_out(marks: Marks | Ornaments) -> list[Stroke | Fill]:
    """Each symbol as lines and areas of its own, at its place and in its turn."""
    angles = np.radians(marks.angles)
    cos, sin = np.cos(angles), np.sin(angles)
    out: list[Stroke | Fill] = []
    count = len(marks.at)
    for piece in marks.stamp.items:
        # A line beside its path lies there before it is turned.
        offset = piece.style.offset if isinstance(piece, Stroke) else 0.0
        paths = beside(piece.paths, offset) if offset else piece.paths
        x, y = paths.xy[:, 0], paths.xy[:, 1]
        xs = marks.at[:, :1] + cos[:, None] * x - sin[:, None] * y
        ys = marks.at[:, 1:] + sin[:, None] * x + cos[:, None] * y
        xy = np.stack([xs, ys], axis=2).reshape(-1, 2)
        starts = repeated(paths.starts, count)
        if isinstance(piece, Stroke):
            keys = np.repeat(marks.keys, len(paths)) if marks.keys is not None else None
            out.append(Stroke(replace(piece.style, offset=0.0), Paths(xy, starts), keys))
        else:
            keys = np.repeat(marks.keys, len(piece.parts) - 1) if marks.keys is not None else None
            out.append(replace(piece, paths=Paths(xy, starts), parts=repeated(piece.parts, count), keys=keys))
    return out


def _marks(marks: Marks | Ornaments, area: BaseGeometry) -> list[Item]:
    if not len(marks.at):
        return []
    reach = _reach(marks.stamp)
    edge = shapely.boundary(area)
    shapely.prepare(edge)
    crossing = np.asarray(shapely.dwithin(edge, shapely.points(marks.at), reach))
    whole = ~crossing & np.asarray(shapely.contains_xy(area, marks.at[:, 0], marks.at[:, 1]))
    out: list[Item] = [_some(marks, whole)] if whole.any() else []
    if crossing.any():
        for piece in drawn_out(_some(marks, crossing)):
            out += _lines(piece, area) if isinstance(piece, Stroke) else _areas(piece, area)
    return out


def _reach(stamp: Stamp) -> float:
    """How far a symbol reaches from its place."""
    far = 0.0
    for piece in stamp.items:
        if len(piece.paths.xy):
            wide = piece.style.width / 2 + abs(piece.style.offset) if isinstance(piece, Stroke) else piece.spread
            far = max(far, float(np.hypot(*piece.paths.xy.T).max()) + wide)
    return far


def _some(marks: Marks | Ornaments, keep: Flags) -> Marks | Ornaments:
    keys = marks.keys[keep] if marks.keys is not None else None
    if isinstance(marks, Ornaments):
        return replace(marks, at=marks.at[keep], angles=marks.angles[keep], largest=marks.largest[keep], keys=keys)
    return replace(marks, at=marks.at[keep], angles=marks.angles[keep], keys=keys)


def _picture(picture: Picture, area: BaseGeometry) -> list[Item]:
    """A picture without the dots that lie outside: cropped, and cleared where the edge is not a rectangle of dots."""
    corners = apply(picture.place, np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)]))
    frame = shapely.Polygon(corners)
    if shapely.contains(area, frame):
        return [picture]
    shown = shapely.intersection(frame, area)
    if shown.is_empty or shapely.get_dimensions(shown) < 2:
        return []
    with Image.open(io.BytesIO(picture.png)) as opened:
        dots = opened.convert("RGBA")
    size = np.array(dots.size, dtype=float)
    back = inverse(picture.place)
    mask = Image.new("L", dots.size, 0)
    draw = ImageDraw.Draw(mask)
    for part in shapely.get_parts(shown):
        if isinstance(part, shapely.Polygon):
            _fill_mask(draw, part, back, size)
    alpha = np.minimum(np.asarray(dots.getchannel("A")), np.asarray(mask))
    dots.putalpha(Image.fromarray(alpha))
    out = io.BytesIO()
    dots.save(out, "PNG")
    return [replace(picture, png=out.getvalue())]


def _fill_mask(draw: ImageDraw.ImageDraw, part: shapely.Polygon, back: Affine, size: Floats) -> None:
    rings = [part.exterior, *part.interiors]
    for i, ring in enumerate(rings):
        xy = apply(back, shapely.get_coordinates(ring)) * size
        draw.polygon([(float(x), float(y)) for x, y in xy], fill=255 if i == 0 else 0)
