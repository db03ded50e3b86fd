"""Lines as ink: strokes, ornaments along them, and bands."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.features.band import FAULTS
from orvik.core.features.feature import Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.stretch import certainties, runs
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Item, Stroke, Text
from orvik.core.lettering import BOLD, cap_height, run
from orvik.core.symbols.portrayal.band_ink import bands
from orvik.core.symbols.portrayal.dashes import Dashes
from orvik.core.symbols.portrayal.ink_keys import key_of, keys_of, rows_by
from orvik.core.symbols.portrayal.ornaments import as_ink, placed
from orvik.core.symbols.symbol import Ornament, Symbol
from orvik.core.symbols.symbol_book import SymbolBook

DOUBT_SIZE = 2.6


class Frame(Protocol):
    """What lines are drawn in: the ground of a project, or a page."""

    @property
    def metres_per_unit(self) -> float:
        """Length of one unit of its coordinates in metres."""

    def convergence(self, x: Floats, y: Floats) -> Floats:
        """By how much its y-axis is turned from true north at places, in degrees clockwise."""


@dataclass(frozen=True)
class _Parts:
    """Lines, cut where their certainty changes: the path of each part, its symbol, and the row that it is of.

    Bands are left out: they are drawn by their margins.
    """

    paths: Objects
    symbols: list[Symbol]
    owners: Ints


def line_ink(lines: Features, book: SymbolBook, crs: Frame, publication: int, layers: dict[str, list[Item]]) -> None:
    """Put the ink of lines into their layers.

    Ornaments are placed on the whole lines at ``publication``, so that what is cut afterwards does not move them.
    """
    symbols = book.symbols_of(lines)
    parts = _parts(lines, symbols, book)
    banded = [i for i, band in enumerate(lines.columns["band"]) if band is not None]
    below = [i for i in banded if FAULTS in lines.columns["band"][i].cut_by]
    above = [i for i in banded if FAULTS not in lines.columns["band"][i].cut_by]
    linework = layers["linework"]
    linework += bands(lines, below, book, publication, crs.metres_per_unit)
    by_id = {symbol.id: symbol for symbol in parts.symbols}
    rows_of = rows_by([symbol.id for symbol in parts.symbols])
    # Heavier lines last, so that a fault runs over the contacts that end on it.
    for name in sorted(rows_of, key=lambda n: by_id[n].weight):
        symbol, rows = by_id[name], rows_of[name]
        layer = "border" if symbol.kind == SHEET_BORDER else "tags" if symbol.aid else "linework"
        keys = keys_of(lines, parts.owners[rows])
        for style in symbol.strokes:
            layers[layer].append(Stroke(style, Paths.of_lines(parts.paths[rows]), keys))
    linework += bands(lines, above, book, publication, crs.metres_per_unit)
    mm_per_unit = 1000 * crs.metres_per_unit / publication
    linework += _ornaments(lines, symbols, parts, crs, publication, mm_per_unit)
    for i in np.flatnonzero(lines.column("questionable").astype(bool)).tolist():
        if not symbols[i].left_out:
            linework.append(_doubt(lines, i, symbols[i]))


def _parts(lines: Features, symbols: list[Symbol], book: SymbolBook) -> _Parts:
    stretched, banded = lines.columns["stretches"], lines.columns["band"]
    whole = np.array([not s and b is None for s, b in zip(stretched, banded, strict=True)], dtype=bool)
    rows = np.flatnonzero(whole)
    if whole.all():
        return _Parts(lines.geometries, symbols, rows)
    paths: list[shapely.LineString] = list(lines.geometries[whole])
    of_parts, owners = [symbols[i] for i in rows.tolist()], rows.tolist()
    columns = lines.columns
    for i in np.flatnonzero(~whole).tolist():
        if banded[i] is not None:
            continue
        xy = shapely.get_coordinates(lines.geometries[i])
        for a, b, value in runs(certainties(columns["certainty"][i], stretched[i], len(xy) - 1)):
            paths.append(shapely.LineString(xy[a : b + 1]))
            of_parts.append(book.row_symbol(lines, i, value))
            owners.append(i)
    out = np.empty(len(paths), dtype=object)
    out[:] = paths
    return _Parts(out, of_parts, np.array(owners, dtype=np.int64))


def part_symbols(lines: Features, book: SymbolBook) -> Iterator[tuple[int, Symbol]]:
    """The rows of lines, each with every symbol that some part of it takes."""
    whole = book.symbols_of(lines)
    counts = shapely.get_num_coordinates(lines.geometries).tolist()
    columns = lines.columns
    for i, stretches in enumerate(columns["stretches"]):
        if not stretches:
            yield i, whole[i]
            continue
        for certainty in dict.fromkeys(certainties(columns["certainty"][i], stretches, counts[i] - 1)):
            yield i, book.row_symbol(lines, i, certainty)


def _ornaments(
    lines: Features, symbols: list[Symbol], parts: _Parts, crs: Frame, publication: int, mm_per_unit: float
) -> list[Item]:
    """The ornaments of all lines, one item for each that symbols have.

    Parts of a line that follow one another and have the same ornaments carry them on as one; a part without them ends
    the row.
    """
    wanted: dict[int, tuple[Ornament, list[Floats], list[Dashes], list[int]]] = {}

    def add(ornaments: tuple[Ornament, ...], together: list[tuple[Floats, Symbol]], row: int) -> None:
        xy = np.vstack([together[0][0], *(part[1:] for part, _ in together[1:])])
        dashes = Dashes.of(together, mm_per_unit)
        for ornament in ornaments:
            _, paths, dashed, rows = wanted.setdefault(id(ornament), (ornament, [], [], []))
            paths.append(xy)
            dashed.append(dashes)
            rows.append(row)

    last: int = -1
    together: list[tuple[Floats, Symbol]] = []
    carried: tuple[Ornament, ...] = ()
    for path, symbol, owner in zip(parts.paths, parts.symbols, parts.owners.tolist(), strict=True):
        if not symbol.ornaments and not carried:
            continue
        xy = shapely.get_coordinates(path)
        if owner == last and symbol.ornaments is carried and (together[-1][0][-1] == xy[0]).all():
            together.append((xy, symbol))
            continue
        if carried:
            add(carried, together, last)
        last, together, carried = owner, [(xy, symbol)], symbol.ornaments
    if carried:
        add(carried, together, last)
    out: list[Item] = []
    for ornament, paths, dashed, of in wanted.values():
        rows = np.array(of, dtype=np.int64)
        starts = np.concatenate([[0], np.cumsum([len(xy) for xy in paths])]).astype(np.int64)
        trends = trends_of(lines, rows, crs) if ornament.place == "plunge" else None
        whole = Paths(np.vstack(paths), starts)
        places = placed(ornament, whole, mm_per_unit, trends, Dashes.together(dashed))
        if len(places.at):
            out.append(as_ink(ornament, places, publication, keys_of(lines, rows[places.paths])))
    return out


def trends_of(lines: Features, rows: Ints, crs: Frame) -> Floats:
    """Where lines plunge to, clockwise from the grid's north; NaN for those of which it is not known."""
    azimuths = np.array([lines.columns["azimuth"][i] for i in rows.tolist()], dtype=float)
    middle = shapely.get_coordinates(shapely.line_interpolate_point(lines.geometries[rows], 0.5, normalized=True))
    out: Floats = azimuths - crs.convergence(middle[:, 0], middle[:, 1])
    return out


def _doubt(lines: Features, i: int, symbol: Symbol) -> Text:
    """A question mark on the line, on a halo that interrupts it; off the middle where an ornament stands there."""
    share = 0.38 if any(ornament.place == "once" for ornament in symbol.ornaments) else 0.5
    at = shapely.line_interpolate_point(lines.geometries[i], share, normalized=True)
    return Text(
        run("?", BOLD, DOUBT_SIZE, "centre"),
        (at.x, at.y),
        symbol.colour or INK,
        offset=(0.0, cap_height(DOUBT_SIZE) / 2),
        halo=PAPER,
        key=key_of("lines", int(lines.ids[i])),
    )
