"""Bands as ink: a fill between two margins that follow the centre line exactly to its ends, and dip marks."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.band import Band
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of
from orvik.core.features.stretch import Stretch, certainties, runs
from orvik.core.ink import Fill, Item, LineStyle, Marks, Stroke, Symbol, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.signs.catalogue import INK, SignBook

# How much further than half the width a margin may stand off at a sharp bend.
MITRE = 2.0
# Dip marks stand so far apart along a band, and are so long, on the sheet.
MARKS_MM = 22.0
MARK_MM = 1.6
FIGURE = 2.0


def margin(centre: Floats, offset: float) -> Floats:
    """A path beside another, vertex for vertex, so that both have the same ends and stretches.

    Parameters
    ----------
    centre
        (n, 2).
    offset
        To the right of its direction; to the left where it is negative.
    """
    steps = np.diff(centre, axis=0)
    normals = np.column_stack([steps[:, 1], -steps[:, 0]]) / np.maximum(np.hypot(*steps.T), 1e-12)[:, None]
    closed = bool((centre[0] == centre[-1]).all())
    before = np.vstack([normals[-1:] if closed else normals[:1], normals])
    after = np.vstack([normals, normals[:1] if closed else normals[-1:]])
    middle = before + after
    # Along the bisector, longer at a bend, so that the margin keeps its distance from both sides of it.
    scale = np.minimum(
        2 / np.maximum((middle * middle).sum(axis=1), 1e-12), MITRE / np.maximum(np.hypot(*middle.T), 1e-12)
    )
    out: Floats = centre + offset * middle * scale[:, None]
    return out


def bands(lines: Features, rows: list[int], book: SignBook, publication: int, metres_per_unit: float) -> Iterator[Item]:
    """The ink of lines that are bands. Concealed parts have margins of dots and no fill."""
    keys = lines.ids * 3
    for row in rows:
        band: Band = lines.columns["band"][row]
        certainty, stretches = lines.columns["certainty"][row], lines.columns["stretches"][row]
        centre = shapely.get_coordinates(lines.geometries[row])
        half = band.ground_width(publication, metres_per_unit) / 2
        left, right = margin(centre, -half), margin(centre, half)
        segments = len(centre) - 1
        key = np.array([int(keys[row])], dtype=np.int64)
        tint = book.line(str(lines.columns["kind"][row]), "certain").fill or "#9AA39B"
        margin_kind = kind_of(str(lines.columns["kind"][row])).margin
        seen = certainties(certainty, stretches, segments)
        for a, b, value in runs(["hidden" if v == "concealed" else "seen" for v in seen]):
            if value == "seen":
                ring = np.vstack([left[a : b + 1], right[a : b + 1][::-1], left[a : a + 1]])
                yield Fill(tint, Paths(ring, np.array([0, len(ring)])), np.array([0, 1]), key)
        for side, path, stated in (("left", left, band.left), ("right", right, band.right)):
            for a, b, value in runs(_margin_certainties(stated or certainty, seen, stretches, segments, side)):
                style = book.line(margin_kind, value).style
                yield Stroke(style, Paths(path[a : b + 1], np.array([0, b + 1 - a])), key)
        if band.dips and lines.columns["inclination"][row] is not None:
            path = right if band.dips == "right" else left
            for a, b, value in runs(["hidden" if v == "concealed" else "seen" for v in seen]):
                if value == "seen":
                    yield from _dip_marks(lines, row, band, path[a : b + 1], publication, metres_per_unit)


def _margin_certainties(
    base: str, seen: list[str], stretches: tuple[Stretch, ...], segments: int, side: str
) -> list[str]:
    """What lies below a cover is concealed on both sides; else a margin's own stretches, then the line's."""
    on_side = certainties("", stretches, segments, side)
    line = certainties("", stretches, segments)
    return ["concealed" if seen[i] == "concealed" else on_side[i] or line[i] or base for i in range(segments)]


def _dip_marks(
    lines: Features, row: int, band: Band, path: Floats, publication: int, metres_per_unit: float
) -> Iterator[Item]:
    """Ticks along a part of the margin on the side that the sheet dips to, with the dip beside each."""
    line = shapely.LineString(path)
    apart = MARKS_MM * publication / 1000 / metres_per_unit
    count = max(1, int(line.length // apart))
    at, angles = [], []
    for i in range(count):
        along = line.length * (i + 0.5) / count
        one, two = line.interpolate(max(along - 1e-3, 0)), line.interpolate(min(along + 1e-3, line.length))
        course = np.degrees(np.arctan2(two.x - one.x, two.y - one.y))
        at.append((one.x, one.y))
        angles.append(course if band.dips == "right" else course + 180)
    keys = np.full(count, int(lines.ids[row]) * 3, dtype=np.int64)
    tick = Symbol("Dip of a sheet", (Stroke(LineStyle(0.2, INK), Paths.of([(0.0, 0.0), (MARK_MM, 0.0)])),))
    yield Marks(tick, np.array(at), np.array(angles), keys)
    letters = run(f"{round(lines.columns['inclination'][row])}", ROMAN, FIGURE, "centre")
    for (x, y), angle in zip(at, np.radians(angles), strict=True):
        reach = MARK_MM + 1.5
        offset = (float(reach * np.cos(angle)), float(reach * np.sin(angle)) + cap_height(FIGURE) / 2)
        yield Text(letters, (x, y), INK, offset=offset, key=int(lines.ids[row]) * 3)
