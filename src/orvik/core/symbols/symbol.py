"""Symbols: what a feature of a kind looks like, standard ones and a project's own in one form."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import takewhile
from typing import Literal, get_args

import numpy as np

from orvik.core.arrays import Ints
from orvik.core.errors import SymbolRefused
from orvik.core.features.table import Table
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, LineStyle, Stamp, Stroke, Tile
from orvik.core.symbols.piece import Piece

# Where ornaments stand on a line.
# repeat: evenly between ends and sharp corners. once: one for each length of spacing, at a share of it (phase).
# ends: at both, pointing outwards. plunge: at the end that the line's own trend points to.
OrnamentPlace = Literal["repeat", "once", "ends", "plunge"]
CaptionPlace = Literal["beside", "along", "ends", "plunge"]
WHITE = "#FFFFFF"
# How far lines of a pattern reach over the edge of their tile, in millimetres.
OVERLAP = 0.1
Basis = Literal["standard", "ours"]


@dataclass(frozen=True)
class Ornament:
    """A small drawing along a line, for a line that runs upwards, so that x is to its right.

    Attributes
    ----------
    spacing
        Wanted distance from one to the next in millimetres; they close up evenly, so that they fit whole.
    phase
        Where in its share of the line each one stands, 0 to 1.
    """

    stamp: Stamp
    place: OrnamentPlace = "repeat"
    spacing: float = 8.0
    phase: float = 0.5

    def __post_init__(self) -> None:
        if self.place not in get_args(OrnamentPlace):
            raise SymbolRefused(
                f"“{str(self.place)[:20]}” is not a place of ornaments; there are {', '.join(get_args(OrnamentPlace))}."
            )
        if not 0.5 <= self.spacing <= 10_000:
            raise SymbolRefused(f"Ornaments stand 0.5 mm apart or more, not {self.spacing:g}.")
        if not 0 <= self.phase <= 1:
            raise SymbolRefused(f"Where an ornament stands in its share of the line is 0 to 1, not {self.phase:g}.")


@dataclass(frozen=True)
class Caption:
    """A text that a feature's symbol writes.

    Attributes
    ----------
    of
        The attribute that is written: ``inclination``, ``map_unit`` or ``note``.
    at
        Its middle, or the middle of its beginning if ``begins``, in millimetres from the point, or from where a
        line's plunge is shown, in the symbol's own frame; the letters stay upright.
    place
        ``beside`` a point; ``along`` a line at its middle, at both its ``ends``, or beside its ``plunge``.
    printed
        Whether it is printed even where its symbol is only an aid.
    """

    of: str
    at: tuple[float, float]
    size: float = 2.0
    colour: str = ""
    begins: bool = False
    italic: bool = False
    place: CaptionPlace = "beside"
    printed: bool = False

    def __post_init__(self) -> None:
        if not 0.5 <= self.size <= 20:
            raise SymbolRefused(f"Letters of a symbol are 0.5 to 20 mm high, not {self.size:g}.")
        if not all(abs(value) <= 60 for value in self.at):
            raise SymbolRefused("A text lies more than 60 mm from its symbol's place; bring it nearer.")


@dataclass(frozen=True)
class PatternSymbol:
    """A pattern of the symbol book: a tile in millimetres whose pieces take the colour that is asked for."""

    id: str
    title: str
    width: float
    height: float
    pieces: tuple[Piece, ...]
    number: str = ""
    basis: Basis = "ours"

    def tile(self, colour: str) -> Tile:
        """The tile in a colour; pieces of one look are put together, which painters are thankful for."""
        return _tile(self, colour)

    def led_on(self, piece: Piece) -> Piece:
        """A line that ends on an edge of the tile goes on past it: two ends that only meet leave a paler dot."""
        if piece.shape != "line" or piece.closed:
            return piece
        points = list(piece.points)
        for end, before in ((0, 1), (-1, -2)):
            (x, y), (bx, by) = points[end], points[before]
            far = np.hypot(x - bx, y - by)
            if far > OVERLAP and (x in (0.0, self.width) or y in (0.0, self.height)):
                points[end] = (x + OVERLAP * float((x - bx) / far), y + OVERLAP * float((y - by) / far))
        return replace(piece, points=tuple(points))


@lru_cache(maxsize=1024)
def _tile(pattern: PatternSymbol, colour: str) -> Tile:
    items = [item for piece in pattern.pieces for item in in_colour(pattern.led_on(piece), colour).ink()]
    return Tile(f"{pattern.id} {colour}", pattern.width, pattern.height, merged(items))


@dataclass(frozen=True)
class Symbol:
    """The symbol of a kind of feature at one certainty, range of inclination or value of an own list.

    Attributes
    ----------
    id
        Unlike any other of the book: ``thrust-approximate``.
    title, meaning
        As the explanation writes it; and what it says of the ground or of its ornaments, in a sentence.
    advice
        What who draws with it should know: how well its place is known, where a figure of it is written.
    family
        Of the plate.
    certainty
        The certainty, or the value of an own list, that it is for; empty for all.
    inclination
        The range in degrees that it is for; None for all.
    number
        Its reference number in the standard, where that is known.
    basis
        Where its measures come from: the ``standard``, from memory, or ``ours``.
    side
        What lies on the side of a one-sided ornament, in words: ``the upper plate``.
    strokes
        Of a line, or the outline of an area; the lowest first.
    tint
        Of an area, or of a band; empty for a unit's own, or for none.
    pattern, pattern_colour
        Of an area.
    turns
        Whether a point symbol turns with its azimuth.
    strike
        How far its strike line reaches from the point to either side, in millimetres; 0 for a symbol that has none.
    aid
        Whether it helps while the map is compiled and is not printed.
    left_out
        Whether it stands for features that are not drawn.
    """

    id: str
    table: Table
    kind: str
    title: str
    meaning: str = ""
    family: str = ""
    certainty: str = ""
    inclination: tuple[float, float] | None = None
    number: str = ""
    basis: Basis = "ours"
    explained: bool = True
    side: str = ""
    strokes: tuple[LineStyle, ...] = ()
    ornaments: tuple[Ornament, ...] = ()
    tint: str = ""
    pattern: PatternSymbol | None = None
    pattern_colour: str = ""
    stamp: Stamp | None = None
    captions: tuple[Caption, ...] = ()
    turns: bool = False
    strike: float = 0.0
    aid: bool = False
    left_out: bool = False
    advice: str = ""

    @property
    def words(self) -> str:
        """What is told of it while the map is compiled; of a line that is less than certain, how well it is placed."""
        if self.table == "lines" and self.certainty not in ("", "certain") and self.advice:
            return self.advice
        return f"{self.meaning} {self.advice}".strip()

    @property
    def weight(self) -> float:
        """The width of its heaviest stroke in millimetres."""
        return max((style.width for style in self.strokes), default=0.0)

    @property
    def colour(self) -> str:
        """The colour of its topmost stroke."""
        return self.strokes[-1].colour if self.strokes else self.tint

    def scaled(self, k: float) -> Symbol:
        """The same symbol larger or smaller, its tile as it is."""
        return replace(
            self,
            strokes=tuple(style.enlarged(k) for style in self.strokes),
            ornaments=tuple(replace(o, stamp=o.stamp.enlarged(k), spacing=o.spacing * k) for o in self.ornaments),
            stamp=self.stamp.enlarged(k) if self.stamp is not None else None,
            captions=tuple(replace(c, at=(c.at[0] * k, c.at[1] * k), size=c.size * k) for c in self.captions),
            strike=self.strike * k,
        )


def shared_title(symbols: Sequence[Symbol]) -> str:
    """What symbols of one kind are called together: what their titles begin and end with."""
    if len(symbols) == 1:
        return symbols[0].title
    # That a reading was estimated says nothing of its kind.
    titles = [symbol.title.removesuffix(", approximate").split(", ") for symbol in symbols]
    begins = _shared(titles)
    ends = _shared([pieces[len(begins) :][::-1] for pieces in titles])[::-1]
    return ", ".join([*begins, *ends]) or symbols[0].title


def _shared(rows: list[list[str]]) -> list[str]:
    """What all rows begin with."""
    return [pieces[0] for pieces in takewhile(lambda pieces: len(set(pieces)) == 1, zip(*rows, strict=False))]


def stamp_of(name: str, pieces: tuple[Piece, ...]) -> Stamp:
    """The drawing that pieces make, the first one lowest."""
    return Stamp(name, tuple(item for piece in pieces for item in piece.ink()))


def tile_scaled(tile: Tile, k: float) -> Tile:
    """A tile larger or smaller in all its measures."""
    return tile if k == 1 else replace(tile.enlarged(k), name=tile.name)


# What reaches so little further to one side is the rounding of a round.
LEANING = 0.02


def mirrored(stamp: Stamp) -> Stamp:
    """A stamp seen in a mirror that stands upright: right is left."""
    return Stamp(stamp.name, tuple(_moved(item, -1.0, 0.0, 0.0) for item in stamp.items))


def leans(stamp: Stamp) -> float:
    """How much further a stamp reaches to the right of its place than to the left, in millimetres; 0 for alike."""
    xs = [float(x) for item in stamp.items for x in item.paths.xy[:, 0]]
    reach = max(xs) + min(xs) if xs else 0.0
    return reach if abs(reach) > LEANING else 0.0


def moved_by(stamp: Stamp, dx: float, dy: float) -> Stamp:
    """A stamp drawn so many millimetres to the right of and below its place."""
    return Stamp(stamp.name, tuple(_moved(item, 1.0, dx, dy) for item in stamp.items))


def in_colour(piece: Piece, colour: str) -> Piece:
    """A piece in another colour; a fill that is left white stays so."""
    return replace(piece, outline=colour, fill=colour if piece.fill and piece.fill != WHITE else piece.fill)


def merged(items: list[Stroke | Fill]) -> tuple[Stroke | Fill, ...]:
    """Items of one look put together, in the order in which each look comes first."""
    looks: dict[object, list[Stroke | Fill]] = {}
    for item in items:
        look = (True, item.style) if isinstance(item, Stroke) else (False, item.colour)
        looks.setdefault(look, []).append(item)
    out: list[Stroke | Fill] = []
    for group in looks.values():
        paths = Paths.of(*(list(map(tuple, item.paths[i])) for item in group for i in range(len(item.paths))))
        first = group[0]
        if isinstance(first, Stroke):
            out.append(replace(first, paths=paths))
        else:
            out.append(replace(first, paths=paths, parts=_each(len(paths))))
    return tuple(out)


def _each(count: int) -> Ints:
    """Every ring an area of its own."""
    return np.arange(count + 1)


def _moved(item: Stroke | Fill, flip: float, dx: float, dy: float) -> Stroke | Fill:
    return replace(item, paths=Paths(item.paths.xy * (flip, 1.0) + (dx, dy), item.paths.starts))
