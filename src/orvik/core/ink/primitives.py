"""Ink: the short list of primitives that every painter paints.

Places (``paths``, ``at``) are in the *frame* of the ink: ground coordinates with y to the north, or
sheet millimetres with y downwards. Everything that has a size (line widths, dashes, symbols, text) is
in millimetres on the sheet, whatever the frame; angles are degrees clockwise from the top of the frame.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import groupby

import numpy as np

from orvik.core.arrays import Floats, Ints
from orvik.core.ink.paths import Paths

# How wide leaders are, in millimetres.
LEADER = 0.15
# The colour of lines and letters where nothing else is said.
INK = "#22303C"
# What nothing is printed on.
PAPER = "#FFFFFF"
# Two by three: x' = a x + b y + c, y' = d x + e y + f.
Affine = tuple[float, float, float, float, float, float]


@dataclass(frozen=True)
class LineStyle:
    """How a line is drawn. Dashes are lengths of mark and gap in millimetres.

    ``offset`` is how far to the right of its path the line is drawn, in millimetres; ``beside`` says how. ``phase`` is
    how far into its dashes it begins, for a line of which a part has been cut away.
    """

    width: float
    colour: str
    dash: tuple[float, ...] = ()
    cap: str = "butt"
    join: str = "round"
    offset: float = 0.0
    phase: float = 0.0


@dataclass(frozen=True)
class Stroke:
    """Lines in one style. ``keys`` says for each path which feature it belongs to."""

    style: LineStyle
    paths: Paths
    keys: Ints | None = None


@dataclass(frozen=True)
class Fill:
    """Areas in one colour, even-odd.

    ``parts`` groups rings into areas: area ``i`` has the rings ``parts[i]`` up to ``parts[i + 1]``.
    ``spread`` is how far the fill reaches past its edge, so that neighbours show no seam.
    """

    colour: str
    paths: Paths
    parts: Ints
    keys: Ints | None = None
    spread: float = 0.0


@dataclass(frozen=True)
class Run:
    """Characters with their places along a baseline, from the alignment point, in millimetres.

    ``fonts`` names the font of each character where some of them are set in another than ``font``.
    """

    font: str
    size: float
    chars: str
    x: tuple[float, ...]
    width: float
    fonts: tuple[str, ...] = ()

    def pieces(self) -> Iterator[tuple[str, str, tuple[float, ...]]]:
        """Font, characters and places of each stretch that is set in one font."""
        start = 0
        for font, group in groupby(self.fonts or (self.font,) * len(self.chars)):
            stop = start + sum(1 for _ in group)
            yield font, self.chars[start:stop], self.x[start:stop]
            start = stop


@dataclass(frozen=True)
class Text:
    """One run of text.

    ``at`` is in the frame; ``offset`` is in millimetres right and down from it and does not turn with ``angle``.
    ``largest`` is the coarsest scale denominator at which the text is shown. ``leader`` is where a thin line begins
    that leads to ``at``, in millimetres right and down from it.
    """

    run: Run
    at: tuple[float, float]
    colour: str
    angle: float = 0.0
    offset: tuple[float, float] = (0.0, 0.0)
    halo: str | None = None
    largest: float | None = None
    key: int | None = None
    leader: tuple[float, float] | None = None


@dataclass(frozen=True)
class Stamp:
    """A small drawing in its own millimetres: x to the right, y downwards, turned about its origin."""

    name: str
    items: tuple[Stroke | Fill, ...]


@dataclass(frozen=True)
class Marks:
    """One stamp at many places; one that is ``upright`` does not turn with its frame."""

    stamp: Stamp
    at: Floats
    angles: Floats
    keys: Ints | None = None
    upright: bool = False


@dataclass(frozen=True)
class Ornaments:
    """One stamp along lines, at places that are found on the whole lines.

    The stamp is drawn for a line that runs upwards, with its right side to the right. ``largest`` is for each
    place the coarsest scale denominator at which it is shown, so that ornaments thin out evenly.
    """

    stamp: Stamp
    at: Floats
    angles: Floats
    largest: Floats
    keys: Ints | None = None


@dataclass(frozen=True)
class Tile:
    """What a pattern repeats, in millimetres from its upper left corner.

    Pieces may reach past the edges: the neighbours are drawn as well, so that no seam shows.
    """

    name: str
    width: float
    height: float
    items: tuple[Stroke | Fill, ...]


@dataclass(frozen=True)
class Pattern:
    """Areas filled with a tile; ``parts`` and ``keys`` as in ``Fill``. Holes run the other way round than edges.

    ``anchor`` is a place of the frame where a corner of the tile lies: all areas share it, so that the pattern
    runs on from one to the next, and stays upright on the sheet.
    """

    tile: Tile
    paths: Paths
    parts: Ints
    keys: Ints | None = None
    anchor: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Picture:
    """A picture as PNG bytes. ``place`` maps the unit square (y downwards) to the frame."""

    png: bytes
    place: Affine
    name: str = ""


@dataclass(frozen=True)
class Group:
    """Items painted together: clipped, then laid over what is below with an opacity and a blend.

    ``title`` is what it is called as a layer of a file that has such; empty for no layer of its own.
    """

    name: str
    items: tuple[Item, ...]
    clip: Paths | None = None
    opacity: float = 1.0
    multiply: bool = False
    title: str = ""


Item = Stroke | Fill | Text | Marks | Ornaments | Pattern | Picture | Group


def moved(items: Iterable[Item], m: Affine) -> tuple[Item, ...]:
    """The same ink in another frame; sizes in millimetres stay as they are.

    ``m`` may scale and flip y (ground to sheet) and turn; angles turn with it.
    """
    turn = turn_of(m)
    return tuple(_moved(item, m, turn) for item in items)


def scaled(stamp: Stamp, k: float) -> Stamp:
    """A stamp drawn larger or smaller, its lines as well."""
    pieces: list[Stroke | Fill] = []
    for item in stamp.items:
        paths = Paths(item.paths.xy * k, item.paths.starts)
        if isinstance(item, Stroke):
            pieces.append(replace(item, style=larger(item.style, k), paths=paths))
        else:
            pieces.append(replace(item, paths=paths))
    return Stamp(stamp.name, tuple(pieces))


def enlarged(items: Iterable[Item], k: float) -> tuple[Item, ...]:
    """The same ink drawn larger about the corner of its frame, with all that has a size in millimetres."""
    return tuple(items) if k == 1 else tuple(_enlarged(item, k) for item in items)


def larger(style: LineStyle, k: float) -> LineStyle:
    """A line drawn larger or smaller in all its measures."""
    return replace(style, width=style.width * k, dash=tuple(d * k for d in style.dash), offset=style.offset * k)


def walk(items: Iterable[Item]) -> Iterator[Item]:
    """Every primitive below the items, groups opened."""
    for item in items:
        if isinstance(item, Group):
            yield from walk(item.items)
        else:
            yield item


def apply(m: Affine, xy: Floats) -> Floats:
    """Points through an affine mapping; ``xy`` is (n, 2).

    >>> apply((0.04, 0.0, 10.0, 0.0, -0.04, 90.0), np.array([[100.0, 200.0]])).tolist()
    [[14.0, 82.0]]
    """
    moved_xy: Floats = xy @ np.array([[m[0], m[3]], [m[1], m[4]]]) + np.array([m[2], m[5]])
    return moved_xy


def inverse(m: Affine) -> Affine:
    """The mapping that leads back.

    >>> inverse((2.0, 0.0, 10.0, 0.0, -2.0, 4.0))
    (0.5, 0.0, -5.0, 0.0, -0.5, 2.0)
    """
    a, b, c, d, e, f = m
    size = a * e - b * d
    back = (e / size, -b / size, -d / size, a / size)
    x, y = -(back[0] * c + back[1] * f), -(back[2] * c + back[3] * f)
    return tuple(v + 0.0 for v in (back[0], back[1], x, back[2], back[3], y))  # type: ignore[return-value]


def chained(outer: Affine, inner: Affine) -> Affine:
    """The mapping that carries out the inner one first.

    >>> chained((2.0, 0.0, 10.0, 0.0, -2.0, 4.0), (1.0, 0.0, 3.0, 0.0, 1.0, 5.0))
    (2.0, 0.0, 16.0, 0.0, -2.0, -6.0)
    """
    a, b, c, d, e, f = inner
    return (
        outer[0] * a + outer[1] * d,
        outer[0] * b + outer[1] * e,
        outer[0] * c + outer[1] * f + outer[2],
        outer[3] * a + outer[4] * d,
        outer[3] * b + outer[4] * e,
        outer[3] * c + outer[4] * f + outer[5],
    )


def turn_of(m: Affine) -> float:
    """By how many degrees clockwise the frame's upward direction turns."""
    flipped = m[0] * m[4] - m[1] * m[3] < 0
    up = -np.array([m[1], m[4]]) if not flipped else np.array([m[1], m[4]])
    return float(np.degrees(np.arctan2(up[0], -up[1])))


def _moved(item: Item, m: Affine, turn: float) -> Item:
    if isinstance(item, Stroke | Fill):
        return replace(item, paths=Paths(apply(m, item.paths.xy), item.paths.starts))
    if isinstance(item, Text):
        x, y = apply(m, np.array([item.at]))[0]
        return replace(item, at=(float(x), float(y)), angle=item.angle + turn)
    if isinstance(item, Marks | Ornaments):
        upright = isinstance(item, Marks) and item.upright
        return replace(item, at=apply(m, item.at), angles=item.angles if upright else item.angles + turn)
    if isinstance(item, Pattern):
        x, y = apply(m, np.array([item.anchor]))[0]
        return replace(item, paths=Paths(apply(m, item.paths.xy), item.paths.starts), anchor=(float(x), float(y)))
    if isinstance(item, Picture):
        return replace(item, place=chained(m, item.place))
    clip = Paths(apply(m, item.clip.xy), item.clip.starts) if item.clip is not None else None
    return replace(item, items=moved(item.items, m), clip=clip)


def _enlarged(item: Item, k: float) -> Item:
    if isinstance(item, Stroke):
        return replace(item, style=larger(item.style, k), paths=_paths_enlarged(item.paths, k))
    if isinstance(item, Fill):
        return replace(item, paths=_paths_enlarged(item.paths, k), spread=item.spread * k)
    if isinstance(item, Text):
        letters = item.run
        run = replace(letters, size=letters.size * k, x=tuple(x * k for x in letters.x), width=letters.width * k)
        leader = _pair_enlarged(item.leader, k) if item.leader is not None else None
        return replace(
            item, run=run, at=_pair_enlarged(item.at, k), offset=_pair_enlarged(item.offset, k), leader=leader
        )
    if isinstance(item, Marks | Ornaments):
        return replace(item, stamp=scaled(item.stamp, k), at=item.at * k)
    if isinstance(item, Pattern):
        tile = item.tile
        pieces = scaled(Stamp(tile.name, tile.items), k).items
        larger_tile = Tile(f"{tile.name} ×{k:g}", tile.width * k, tile.height * k, pieces)
        paths = _paths_enlarged(item.paths, k)
        return replace(item, tile=larger_tile, paths=paths, anchor=_pair_enlarged(item.anchor, k))
    if isinstance(item, Picture):
        a, b, c, d, e, f = (v * k for v in item.place)
        return replace(item, place=(a, b, c, d, e, f))
    clip = _paths_enlarged(item.clip, k) if item.clip is not None else None
    return replace(item, items=enlarged(item.items, k), clip=clip)


def _paths_enlarged(paths: Paths, k: float) -> Paths:
    return Paths(paths.xy * k, paths.starts)


def _pair_enlarged(pair: tuple[float, float], k: float) -> tuple[float, float]:
    return pair[0] * k, pair[1] * k
