"""Bands as ink: a fill between two margins that follow the centre line exactly to its ends, and dip marks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints
from orvik.core.features.band import Band
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of
from orvik.core.features.stretch import Stretch, certainties, runs
from orvik.core.ink.paths import Paths, beside
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Marks, Stamp, Stroke, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.symbols.portrayal.ink_keys import key_of, keys_of
from orvik.core.symbols.portrayal.ornaments import as_ink, placed
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook

# Dip marks stand so far apart along a band, and are so long, on the sheet.
MARKS_MM = 22.0
MARK_MM = 1.6
FIGURE = 2.0


def bands(
    lines: Features, rows: list[int], book: SymbolBook, publication: int, metres_per_unit: float
) -> Iterator[Item]:
    """The ink of lines that are bands. Concealed parts have no fill, and margins of dots in the colour of the band."""
    keys = keys_of(lines, np.arange(len(lines)))
    for row in rows:
        band: Band = lines.columns["band"][row]
        certainty, stretches = lines.columns["certainty"][row], lines.columns["stretches"][row]
        centre = shapely.get_coordinates(lines.geometries[row])
        half = band.ground_width(publication, metres_per_unit) / 2
        # On the ground y grows upwards, so that what is right on the sheet is left here.
        whole = Paths(centre, np.array([0, len(centre)]))
        left, right = beside(whole, half).xy, beside(whole, -half).xy
        segments = len(centre) - 1
        key = np.array([int(keys[row])], dtype=np.int64)
        symbol = book.row_symbol(lines, row, certainty)
        tint = symbol.tint or "#9AA39B"
        margin_kind = kind_of(str(lines.columns["kind"][row])).margin
        seen = certainties(certainty, stretches, segments)
        for a, b, value in runs(_seen(seen)):
            if value == "seen":
                ring = np.vstack([left[a : b + 1], right[a : b + 1][::-1], left[a : a + 1]])
                yield Fill(tint, Paths(ring, np.array([0, len(ring)])), np.array([0, 1]), key)
        for side, path, stated in (("left", left, band.left), ("right", right, band.right)):
            for a, b, value in runs(_margin_certainties(stated or certainty, seen, stretches, segments, side)):
                for style in book.symbol("lines", margin_kind, value).strokes:
                    own = replace(style, colour=symbol.colour) if value == "concealed" and symbol.colour else style
                    yield Stroke(own, Paths(path[a : b + 1], np.array([0, b + 1 - a])), key)
        yield from _margin_ornaments(symbol, right, key, publication, metres_per_unit)
        if band.dips and lines.columns["inclination"][row] is not None:
            path = right if band.dips == "right" else left
            for a, b, value in runs(_seen(seen)):
                if value == "seen":
                    yield from _dip_marks(lines, row, band, path[a : b + 1], publication, metres_per_unit)


def _seen(certainty: list[str]) -> list[str]:
    return ["hidden" if value == "concealed" else "seen" for value in certainty]


def _margin_ornaments(
    symbol: Symbol, margin: Floats, key: Ints, publication: int, metres_per_unit: float
) -> Iterator[Item]:
    """The ornaments of a band stand on its right margin."""
    path = Paths(margin, np.array([0, len(margin)]))
    for ornament in symbol.ornaments:
        found = placed(ornament, path, 1000 * metres_per_unit / publication)
        if len(found.at):
            yield as_ink(ornament, found, publication, np.full(len(found.at), int(key[0]), dtype=np.int64))


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
    keys = np.full(count, key_of("lines", int(lines.ids[row])), dtype=np.int64)
    tick = Stamp("Dip of a sheet", (Stroke(LineStyle(0.2, INK), Paths.of([(0.0, 0.0), (MARK_MM, 0.0)])),))
    yield Marks(tick, np.array(at), np.array(angles), keys)
    letters = run(f"{round(lines.columns['inclination'][row])}", ROMAN, FIGURE, "centre")
    for (x, y), angle in zip(at, np.radians(angles), strict=True):
        reach = MARK_MM + 1.5
        offset = (float(reach * np.cos(angle)), float(reach * np.sin(angle)) + cap_height(FIGURE) / 2)
        yield Text(letters, (x, y), INK, offset=offset, key=key_of("lines", int(lines.ids[row])))
