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
from orvik.core.ink.affine import Affine, apply, chained, turn_of
from orvik.core.ink.paths import Paths

# How wide leaders and halos are drawn, in millimetres.
LEADER, HALO = 0.15, 0.35
# The colour of lines and letters where nothing else is said.
INK = "#22303C"
# What nothing is printed on.
PAPER = "#FFFFFF"


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

    def enlarged(self, k: float) -> LineStyle:
        """The same drawn larger or smaller in all its measures."""
        return replace(self, width=self.width * k, dash=tuple(d * k for d in self.dash), offset=self.offset * k)


@dataclass(frozen=True)
class Stroke:
    """Lines in one style. ``keys`` says for each path which feature it belongs to."""

    style: LineStyle
    paths: Paths
    keys: Ints | None = None

    def moved(self, m: Affine) -> Stroke:
        """The same in another frame."""
        return replace(self, paths=self.paths.moved(m))

    def enlarged(self, k: float) -> Stroke:
        """The same drawn larger about the corner of its frame."""
        return replace(self, style=self.style.enlarged(k), paths=self.paths.enlarged(k))


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

    def moved(self, m: Affine) -> Fill:
        """The same in another frame."""
        return replace(self, paths=self.paths.moved(m))

    def enlarged(self, k: float) -> Fill:
        """The same drawn larger about the corner of its frame."""
        return replace(self, paths=self.paths.enlarged(k), spread=self.spread * k)


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

    def enlarged(self, k: float) -> Run:
        """The same set larger."""
        return replace(self, size=self.size * k, x=tuple(x * k for x in self.x), width=self.width * k)


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

    def moved(self, m: Affine) -> Text:
        """The same in another frame."""
        return replace(self, at=_place(m, self.at), angle=self.angle + turn_of(m))

    def enlarged(self, k: float) -> Text:
        """The same drawn larger about the corner of its frame."""
        leader = _pair_enlarged(self.leader, k) if self.leader is not None else None
        at, offset = _pair_enlarged(self.at, k), _pair_enlarged(self.offset, k)
        return replace(self, run=self.run.enlarged(k), at=at, offset=offset, leader=leader)


@dataclass(frozen=True)
class Stamp:
    """A small drawing in its own millimetres: x to the right, y downwards, turned about its origin."""

    name: str
    items: tuple[Stroke | Fill, ...]

    def enlarged(self, k: float) -> Stamp:
        """The same drawn larger or smaller, its lines as well."""
        return Stamp(self.name, tuple(item.enlarged(k) for item in self.items))


@dataclass(frozen=True)
class Marks:
    """One stamp at many places; one that is ``upright`` does not turn with its frame."""

    stamp: Stamp
    at: Floats
    angles: Floats
    keys: Ints | None = None
    upright: bool = False

    def moved(self, m: Affine) -> Marks:
        """The same in another frame."""
        angles = self.angles if self.upright else self.angles + turn_of(m)
        return replace(self, at=apply(m, self.at), angles=angles)

    def enlarged(self, k: float) -> Marks:
        """The same drawn larger about the corner of its frame."""
        return replace(self, stamp=self.stamp.enlarged(k), at=self.at * k)


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

    def moved(self, m: Affine) -> Ornaments:
        """The same in another frame."""
        return replace(self, at=apply(m, self.at), angles=self.angles + turn_of(m))

    def enlarged(self, k: float) -> Ornaments:
        """The same drawn larger about the corner of its frame."""
        return replace(self, stamp=self.stamp.enlarged(k), at=self.at * k)


@dataclass(frozen=True)
class Tile:
    """What a pattern repeats, in millimetres from its upper left corner.

    Pieces may reach past the edges: the neighbours are drawn as well, so that no seam shows.
    """

    name: str
    width: float
    height: float
    items: tuple[Stroke | Fill, ...]

    def enlarged(self, k: float) -> Tile:
        """The same drawn larger, under a name of its own."""
        pieces = tuple(item.enlarged(k) for item in self.items)
        return Tile(f"{self.name} ×{k:g}", self.width * k, self.height * k, pieces)


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

    def moved(self, m: Affine) -> Pattern:
        """The same in another frame."""
        return replace(self, paths=self.paths.moved(m), anchor=_place(m, self.anchor))

    def enlarged(self, k: float) -> Pattern:
        """The same drawn larger about the corner of its frame."""
        tile, anchor = self.tile.enlarged(k), _pair_enlarged(self.anchor, k)
        return replace(self, tile=tile, paths=self.paths.enlarged(k), anchor=anchor)


@dataclass(frozen=True)
class Picture:
    """A picture as PNG bytes. ``place`` maps the unit square (y downwards) to the frame."""

    png: bytes
    place: Affine
    name: str = ""

    def moved(self, m: Affine) -> Picture:
        """The same in another frame."""
        return replace(self, place=chained(m, self.place))

    def enlarged(self, k: float) -> Picture:
        """The same drawn larger about the corner of its frame."""
        a, b, c, d, e, f = (v * k for v in self.place)
        return replace(self, place=(a, b, c, d, e, f))


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

    def moved(self, m: Affine) -> Group:
        """The same in another frame."""
        clip = self.clip.moved(m) if self.clip is not None else None
        return replace(self, items=moved(self.items, m), clip=clip)

    def enlarged(self, k: float) -> Group:
        """The same drawn larger about the corner of its frame."""
        clip = self.clip.enlarged(k) if self.clip is not None else None
        return replace(self, items=enlarged(self.items, k), clip=clip)


Item = Stroke | Fill | Text | Marks | Ornaments | Pattern | Picture | Group


def moved(items: Iterable[Item], m: Affine) -> tuple[Item, ...]:
    """The same ink in another frame; sizes in millimetres stay as they are.

    ``m`` may scale and flip y (ground to sheet) and turn; angles turn with it.
    """
    return tuple(item.moved(m) for item in items)


def enlarged(items: Iterable[Item], k: float) -> tuple[Item, ...]:
    """The same ink drawn larger about the corner of its frame, with all that has a size in millimetres."""
    return tuple(items) if k == 1 else tuple(item.enlarged(k) for item in items)


def walk(items: Iterable[Item]) -> Iterator[Item]:
    """Every primitive below the items, groups opened."""
    for item in items:
        if isinstance(item, Group):
            yield from walk(item.items)
        else:
            yield item


def _place(m: Affine, at: tuple[float, float]) -> tuple[float, float]:
    x, y = apply(m, np.array([at]))[0]
    return float(x), float(y)


def _pair_enlarged(pair: tuple[float, float], k: float) -> tuple[float, float]:
    return pair[0] * k, pair[1] * k
