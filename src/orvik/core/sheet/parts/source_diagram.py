"""A diagram of which ground was taken from which source, as the features say, with its key."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats, Ints
from orvik.core.features.kind import SECTION_LINE, SHEET_BORDER
from orvik.core.ground.scale import spaced
from orvik.core.ink.affine import apply
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Figure, Words, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import LEADING, words_instead
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import Panel
from orvik.core.typesetting.paragraph import lines_of
from orvik.core.typesetting.spans import Span

KEYS = {"beside": "beside it", "below": "below it", "none": "not shown"}
# Ground is told apart by light tints and by its numbers.
TINTS = ("#FFFFFF", "#E6E1D2", "#CFDAD8", "#EAD9CF", "#D6DDE8", "#DFE5CC", "#E3D6E2", "#F1EBD3")
# So many places of features stand for all of them, and none is nearer to another than this, in millimetres.
MOST_PLACES, APART_MM = 4000, 0.6
# Patches smaller than this, in square millimetres, are no ground of their own; edges are evened within this.
SMALLEST_MM2, EVEN_MM = 6.0, 0.9
HERE = "Drawn in this project"


@dataclass(frozen=True)
class Region:
    """The ground that was taken from one source: its name in the key, and where it lies on the page."""

    words: str
    ground: BaseGeometry


@dataclass(frozen=True, kw_only=True)
class SourceDiagram(PanelPartSettings):
    """The ground of a panel, small; every place belongs to the source of the feature that is nearest."""

    kind: ClassVar[str] = "source_diagram"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Sources"
    icon: ClassVar[str] = "M3 2h18v12H3zM3 8l7-2 5 3 6-4M11 6V2"
    sets_text: ClassVar[bool] = True

    key: str = entry(Choice("Key", KEYS), "beside")
    caption: str = entry(Words("Caption", longest=100), "Sources")
    here: str = entry(Words("What has no source is", longest=200), HERE)
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 2.2)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 90.0, 34.0

    @property
    def supplied(self) -> tuple[str, ...]:
        return ("Sources",) if self.key != "none" else ()

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels[self.panel or 0]
        box = self._room(part, panel)
        found = regions(page.shown(self.panel or 0), panel, box, self.here)
        if not found:
            return words_instead("The panel shows no features that could say where they are from.", part)
        items: list[Item] = []
        for number, region in enumerate(found, 1):
            pieces = _polygons(region.ground)
            rings = [ring for piece in pieces for ring in (piece.exterior, *piece.interiors)]
            counts = np.cumsum([0, *(1 + len(piece.interiors) for piece in pieces)])
            paths = Paths.of(*(list(map(tuple, ring.coords)) for ring in rings))
            items.append(Fill(TINTS[(number - 1) % len(TINTS)], paths, counts, spread=0.02))
            items.append(Stroke(LineStyle(0.15, INK), paths))
            largest = max(pieces, key=lambda piece: piece.area)
            x, y = shapely.get_coordinates(shapely.maximum_inscribed_circle(largest))[0]
            if len(found) > 1:
                mark = run(str(number), ROMAN, self.size, "centre")
                items.append(Text(mark, (float(x), float(y) + cap_height(self.size) / 2), INK))
        left, top, right, bottom = box
        frame = [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]
        items.append(Stroke(LineStyle(0.25, INK, join="miter"), Paths.of(frame)))
        if self.caption:
            baseline = bottom + 0.5 * self.size + cap_height(self.size)
            items.append(Text(run(self.caption, ITALIC, self.size, "centre"), ((left + right) / 2, baseline), INK))
        return [*items, *self._key(found, part, box)]

    def _room(self, part: Part, panel: Panel) -> tuple[float, float, float, float]:
        """Where the ground lies: left, top, right and bottom in millimetres, as the panel is shaped."""
        foot = self.size * 1.7 if self.caption else 0.0
        left, top, right, bottom = panel.page_area.bounds
        shape = (right - left) / (bottom - top)
        width = part.width * (0.42 if self.key == "beside" else 1.0)
        height = max(2.0, (part.height - foot) * (0.6 if self.key == "below" else 1.0))
        k = min(width, height * shape)
        return part.x, part.y, part.x + k, part.y + k / shape

    def _key(self, found: Sequence[Region], part: Part, box: tuple[float, float, float, float]) -> list[Item]:
        if self.key == "none":
            return []
        mark = 1.6 * self.size
        x = box[2] + 3.0 if self.key == "beside" else part.x
        y = part.y if self.key == "beside" else box[3] + 2.4 * self.size
        width = max(5.0, part.x + part.width - x)
        items: list[Item] = []
        baseline = y + cap_height(self.size)
        for number, region in enumerate(found, 1):
            if len(found) > 1:
                items.append(Text(run(str(number), ROMAN, self.size), (x, baseline), INK))
            for line in lines_of([Span(region.words)], self.size, width, mark, mark):
                items += line.ink(x, baseline, INK)
                baseline += self.size * LEADING
            baseline += 0.25 * self.size
        return items


def regions(
    context: MapContext, panel: Panel, box: tuple[float, float, float, float], here: str = HERE
) -> list[Region]:
    """The ground of a panel by source, in a box of the page; the largest first.

    Parameters
    ----------
    context
        The map as the panel shows it.
    box
        Left, top, right and bottom in millimetres.
    here
        How features are credited that name no source.
    """
    xy, owner, scales = _places(context, panel, box)
    if not len(xy):
        return []
    frame = shapely.box(*box)
    outline = shapely.transform(panel.page_area, lambda at: _into(at, panel, box))
    numbers = sorted(set(owner.tolist()))
    whole = shapely.intersection(outline, frame)
    if len(numbers) == 1:
        return [Region(_words(context, numbers[0], scales, here), whole)]
    cells = shapely.get_parts(shapely.voronoi_polygons(shapely.MultiPoint(xy), extend_to=frame))
    tree = shapely.STRtree(cells)
    point, cell = tree.query(shapely.points(xy), predicate="within")
    of_cell = np.full(len(cells), numbers[0])
    of_cell[cell] = owner[point]
    grounds = [shapely.intersection(shapely.union_all(cells[of_cell == number]), whole) for number in numbers]
    out = [
        Region(_words(context, number, scales, here), ground)
        for number, ground in zip(numbers, _smoothed(grounds), strict=True)
        if ground.area > 0
    ]
    return sorted(out, key=lambda region: -region.ground.area)


def _smoothed(grounds: Sequence[BaseGeometry]) -> list[BaseGeometry]:
    """Grounds without patches too small to be told apart, which go to what is around them, and with even edges."""
    pieces = [(i, piece) for i, ground in enumerate(grounds) for piece in _polygons(ground)]
    kept = [(i, piece) for i, piece in pieces if piece.area >= SMALLEST_MM2]
    large = {i for i, _ in kept}
    # A source that has no more than patches keeps its largest.
    for i in {i for i, _ in pieces} - large:
        kept.append((i, max((piece for j, piece in pieces if j == i), key=lambda piece: piece.area)))
    held = {id(piece) for _, piece in kept}
    owned: dict[int, list[BaseGeometry]] = {}
    for i, piece in kept:
        owned.setdefault(i, []).append(piece)
    tree = shapely.STRtree([piece for _, piece in kept])
    for _, patch in sorted(pieces, key=lambda one: -one[1].area):
        if id(patch) in held:
            continue
        beside = tree.query(patch, predicate="intersects")
        shared = [shapely.intersection(patch.boundary, kept[k][1].boundary).length for k in beside]
        if shared and max(shared) > 0:
            owned[kept[int(beside[int(np.argmax(shared))])][0]].append(patch)
        else:
            owned[kept[int(tree.nearest(patch))][0]].append(patch)
    whole = [shapely.union_all(owned.get(i, [])) for i in range(len(grounds))]
    return list(shapely.coverage_simplify(whole, EVEN_MM, simplify_boundary=False))


def _polygons(ground: BaseGeometry) -> list[shapely.Polygon]:
    return [piece for piece in shapely.get_parts(ground) if piece.geom_type == "Polygon"]


def _into(xy: Floats, panel: Panel, box: tuple[float, float, float, float]) -> Floats:
    """Places on the page as they lie in the small ground."""
    left, top, right, bottom = panel.page_area.bounds
    k = (box[2] - box[0]) / (right - left), (box[3] - box[1]) / (bottom - top)
    return np.asarray((xy - (left, top)) * k + (box[0], box[1]))


def _places(
    context: MapContext, panel: Panel, box: tuple[float, float, float, float]
) -> tuple[Floats, Ints, dict[int, list[int]]]:
    """Places of features in a box of the page, (n, 2), the number of the source of each, and its scales."""
    found: list[Floats] = []
    owners: list[Ints] = []
    scales: dict[int, list[int]] = {}
    for features in context.features.values():
        if not len(features):
            continue
        kinds = features.columns["kind"]
        keep = np.array([kind not in (SHEET_BORDER, SECTION_LINE) for kind in kinds], dtype=bool)
        source = np.array(
            [number if isinstance(number, int) else 0 for number in features.columns["source_id"]], dtype=np.int64
        )
        for number, scale in zip(source[keep].tolist(), features.column("capture_scale")[keep], strict=True):
            if scale:
                scales.setdefault(number, []).append(int(scale))
        xy, row = shapely.get_coordinates(features.geometries[keep], return_index=True)
        found.append(_into(apply(panel.to_page, xy), panel, box))
        owners.append(source[keep][row])
    if not found:
        return np.zeros((0, 2)), np.zeros(0, dtype=np.int64), {}
    xy, owner = np.concatenate(found), np.concatenate(owners)
    left, top, right, bottom = box
    inside = (xy[:, 0] >= left) & (xy[:, 0] <= right) & (xy[:, 1] >= top) & (xy[:, 1] <= bottom)
    xy, owner = xy[inside], owner[inside]
    # One place for each small square, the first of it, so that dense linework weighs no more than it covers.
    cells = np.floor((xy - (left, top)) / APART_MM).astype(np.int64)
    _, first = np.unique(cells[:, 0] * 1_000_000 + cells[:, 1], return_index=True)
    first = np.sort(first)
    each = max(1, -(-len(first) // MOST_PLACES))
    return xy[first[::each]], owner[first[::each]], scales


def _words(context: MapContext, number: int, scales: dict[int, list[int]], here: str) -> str:
    """How a source is credited: by its credit or name, and at which scales its features were captured."""
    origin = context.sources.get(number)
    said = (origin.credit or origin.name) if origin is not None else here
    held = scales.get(number, [])
    if held and "1:" not in said:
        low, high = min(held), max(held)
        said += f", 1:{spaced(low)}" + (f" to 1:{spaced(high)}" if high != low else "")
    return said
