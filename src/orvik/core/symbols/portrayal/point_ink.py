"""Points as ink: symbols that turn with their azimuth, and planes that share a place."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.feature import Features
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.primitives import INK, Item, Marks, Stamp, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.symbols.portrayal.ink_keys import key_of, keys_of
from orvik.core.symbols.symbol import Caption, Symbol, moved_by
from orvik.core.symbols.symbol_book import SymbolBook


@dataclass(frozen=True)
class Standing:
    """How points stand on the sheet, one row for each.

    Attributes
    ----------
    xy
        (n, 2), in ground coordinates.
    turned
        How far each symbol is turned, in degrees clockwise from the grid's north.
    shifts
        How far each is moved along its strike, in millimetres downwards in its own frame.
    """

    xy: Floats
    turned: Floats
    shifts: Floats
    symbols: list[Symbol]

    @staticmethod
    def of(points: Features, book: SymbolBook, crs: ProjectCrs) -> Standing:
        """How the points of a project stand."""
        xy = shapely.get_coordinates(points.geometries)
        azimuth = np.array([a or 0.0 for a in points.columns["azimuth"]], dtype=float)
        turned = azimuth - crs.convergence(xy[:, 0], xy[:, 1])
        symbols = book.symbols_of(points)
        return Standing(xy, np.where([s.turns for s in symbols], turned, 0.0), _shifts(xy, turned, symbols), symbols)

    def stamp(self, row: int) -> Stamp:
        """The symbol of a point as it is drawn there, before it is turned."""
        stamp, shift = self.symbols[row].stamp, float(self.shifts[row])
        assert stamp is not None
        return moved_by(stamp, 0.0, shift) if shift else stamp


def point_ink(points: Features, book: SymbolBook, crs: ProjectCrs, layers: dict[str, list[Item]]) -> None:
    """Put the ink of points into their layers; aids for compiling among the tags, with what is written by them."""
    standing = Standing.of(points, book, crs)
    groups: dict[tuple[str, float], list[int]] = defaultdict(list)
    for i, symbol in enumerate(standing.symbols):
        groups[symbol.id, float(standing.shifts[i])].append(i)
    for numbers in groups.values():
        rows = np.array(numbers)
        symbol = standing.symbols[numbers[0]]
        layer = layers["tags" if symbol.aid else "attitudes"]
        stamp = standing.stamp(numbers[0])
        layer.append(
            Marks(stamp, standing.xy[rows], standing.turned[rows], keys_of(points, rows), upright=not symbol.turns)
        )
        aids = [caption for caption in symbol.captions if symbol.aid and not caption.printed]
        # Many say the same, which is set once.
        made: list[dict[str, Text]] = [{} for _ in aids]
        layer += [
            _aid(points, i, caption, standing.xy[i], known)
            for i in numbers
            for caption, known in zip(aids, made, strict=True)
        ]


def _aid(points: Features, row: int, caption: Caption, at: Floats, made: dict[str, Text]) -> Text:
    words = caption_text(points, row, caption)
    if words not in made:
        text = caption_run(caption, words)
        made[words] = replace(text, offset=(caption.at[0] + text.offset[0], caption.at[1] + text.offset[1]))
    return replace(made[words], at=(float(at[0]), float(at[1])), key=key_of("points", int(points.ids[row])))


def _shifts(xy: Floats, turned: Floats, symbols: list[Symbol]) -> Floats:
    """How far each symbol is moved along its strike, in millimetres downwards in its own frame.

    Planes that were read at one place share it: each stands with an end of its strike line there, the one that keeps
    them apart best, so that they meet in the place; and a line begins there.
    """
    out = np.zeros(len(symbols))
    _, place, counts = np.unique(xy, axis=0, return_inverse=True, return_counts=True)
    place = place.ravel()
    if not (counts > 1).any():
        return out
    together: dict[int, list[int]] = defaultdict(list)
    for i in np.flatnonzero(counts[place] > 1).tolist():
        if symbols[i].turns:
            together[int(place[i])].append(i)
    for rows in together.values():
        planes = [i for i in rows if symbols[i].strike]
        lines = [i for i in rows if not symbols[i].strike]
        if len(rows) > 1:
            for i in lines:
                out[i] = -_tail(symbols[i])
        if len(planes) < 2:
            continue
        taken = [float(turned[i]) for i in lines]
        for i in sorted(planes, key=lambda row: float(turned[row]) % 180):
            ways = (float(turned[i]) % 360, (float(turned[i]) + 180) % 360)
            best = max(ways, key=lambda way: min((_apart(way, other) for other in taken), default=180.0))
            taken.append(best)
            out[i] = -symbols[i].strike if best == ways[0] else symbols[i].strike
    return out


def _tail(symbol: Symbol) -> float:
    """How far a line's symbol reaches behind its place, in millimetres."""
    assert symbol.stamp is not None
    return max(0.0, max(float(item.paths.xy[:, 1].max()) for item in symbol.stamp.items))


def _apart(one: float, two: float) -> float:
    return abs((one - two + 180) % 360 - 180)


def caption_text(features: Features, row: int, caption: Caption) -> str:
    """What a caption writes of a feature; empty for nothing."""
    columns = features.columns
    if caption.of == "inclination":
        value = columns["inclination"][row]
        if value is None:
            return ""
        return f"{round(value)}{'?' if columns['questionable'][row] else ''}"
    if caption.of == "map_unit":
        return str(columns["map_unit"][row] or "?")
    return " ".join(str(columns["note"][row] or "").split())[:60]


def turned_place(place: tuple[float, float], turned: float) -> tuple[float, float]:
    """Where a place of a stamp's own frame stands when the stamp is turned by degrees clockwise."""
    angle = np.radians(turned)
    x = place[0] * np.cos(angle) - place[1] * np.sin(angle)
    y = place[0] * np.sin(angle) + place[1] * np.cos(angle)
    return float(x), float(y)


def caption_run(caption: Caption, text: str) -> Text:
    """A caption at the origin, its middle or its beginning there."""
    letters = run(text, ITALIC if caption.italic else ROMAN, caption.size, "left" if caption.begins else "centre")
    return Text(letters, (0.0, 0.0), caption.colour or INK, offset=(0.0, cap_height(caption.size) / 2))
