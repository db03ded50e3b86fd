"""Emphases: the same map with its ground held back and its subject brought out, rank by rank."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

from orvik.core.colour.hex import mixed
from orvik.core.errors import SymbolRefused
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import INK, PAPER, Fill, Stamp, Stroke
from orvik.core.symbols.symbol import WHITE, Symbol
from orvik.core.symbols.symbol_book import SymbolBook

# The ranks of an emphasis: what it is about, what belongs to that, and all else.
RANKS = ("subject", "companion", "ground")
LONGEST_NAME = 60
# How items are called in an emphasis: a unit by its code, and a kind by its name.
UNIT, KIND = "unit ", "kind "


@dataclass(frozen=True)
class RankLook:
    """How everything of a rank is drawn.

    Attributes
    ----------
    lightness
        Added to the lightness of colours (CIELAB under D50), -50 to 50.
    saturation, opacity
        Of the chroma that colours have, 0 to 200 per cent; and of full ink over white, 0 to 100 per cent.
    """

    lightness: float = 0.0
    saturation: float = 100.0
    opacity: float = 100.0

    def __post_init__(self) -> None:
        for what, value, low, high in (
            ("lightness", self.lightness, -50, 50),
            ("saturation", self.saturation, 0, 200),
            ("opacity", self.opacity, 0, 100),
        ):
            if not low <= value <= high:
                raise SymbolRefused(f"The {what} of a rank is {low} to {high}, not {value:g}.")

    def colour(self, colour: str) -> str:
        """A colour as it is drawn in this rank.

        >>> RankLook(opacity=50).colour("#000000"), RankLook().colour("#e0ae75")
        ('#808080', '#e0ae75')
        """
        return _shifted(colour, self.lightness, self.saturation, self.opacity) if colour else colour


@lru_cache(maxsize=8192)
def _shifted(colour: str, lightness: float, saturation: float, opacity: float) -> str:
    from coloraide import Color

    if lightness or saturation != 100:
        lch = Color(colour).convert("lch")
        lch["lightness"] = min(max(lch["lightness"] + lightness, 0), 100)
        lch["chroma"] = lch["chroma"] * saturation / 100
        # What no screen shows loses chroma until one does: the hue stays.
        colour = lch.convert("srgb").fit("srgb", method="lch-chroma").to_string(hex=True, upper=True)
    return mixed(colour, PAPER, opacity / 100) if opacity != 100 else colour


@dataclass(frozen=True)
class Emphasis:
    """A way of showing the map.

    Attributes
    ----------
    looks
        One for each of ``RANKS``.
    ranks
        Which rank units and kinds have that are not ``ground``.
    """

    name: str
    looks: tuple[RankLook, ...] = (RankLook(), RankLook(4, 75, 90), RankLook(8, 45, 70))
    ranks: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not self.name.strip() or len(self.name) > LONGEST_NAME:
            raise SymbolRefused(f"An emphasis needs a name of 1 to {LONGEST_NAME} letters.")
        if len(self.looks) != len(RANKS):
            raise SymbolRefused(f"An emphasis has {len(RANKS)} ranks.")
        for rank in self.ranks.values():
            if rank not in RANKS:
                raise SymbolRefused(f"“{str(rank)[:20]}” is not a rank; there are {', '.join(RANKS)}.")

    def rank(self, item: str) -> str:
        """The rank of a unit or a kind."""
        return self.ranks.get(item, "ground")

    def look(self, item: str) -> RankLook:
        """How a unit or a kind is drawn."""
        return self.looks[RANKS.index(self.rank(item))]

    def renamed(self, item: str, name: str) -> Emphasis:
        """The same where a unit or a kind is called otherwise."""
        return replace(self, ranks={name if key == item else key: rank for key, rank in self.ranks.items()})

    def units(self, units: Mapping[str, MapUnit]) -> dict[str, MapUnit]:
        """Map units in the colours of the emphasis, by code."""
        out = {}
        for code, unit in units.items():
            colour = self.look(UNIT + code).colour
            out[code] = replace(unit, colour=colour(unit.colour), pattern_colour=colour(unit.pattern_colour or INK))
        return out

    def book(self, book: SymbolBook) -> SymbolBook:
        """A symbol book in the colours of the emphasis."""

        def toned(symbols: tuple[Symbol, ...]) -> tuple[Symbol, ...]:
            return tuple(_toned(symbol, self.look(KIND + symbol.kind).colour) for symbol in symbols)

        conditional = tuple(
            replace(one, by_usual={usual: toned(symbols) for usual, symbols in one.by_usual.items()})
            for one in book.conditional
        )
        return replace(book, symbols=toned(book.symbols), conditional=conditional)

    @property
    def body(self) -> str:
        """All but the name as JSON, as ``of`` reads it."""
        looks = [[look.lightness, look.saturation, look.opacity] for look in self.looks]
        return json.dumps({"looks": looks, "ranks": dict(self.ranks)}, ensure_ascii=False, separators=(",", ":"))

    @staticmethod
    def of(name: str, body: str) -> Emphasis:
        """An emphasis as it was kept; raises SymbolRefused for what is none."""
        try:
            row = json.loads(body)
            looks = tuple(RankLook(float(a), float(b), float(c)) for a, b, c in row["looks"])
            return Emphasis(name, looks, {str(item): str(rank) for item, rank in row.get("ranks", {}).items()})
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            raise SymbolRefused(f"The emphasis “{name[:30]}” cannot be read: {error}.") from error


def _toned(symbol: Symbol, colour: Callable[[str], str]) -> Symbol:
    return replace(
        symbol,
        strokes=tuple(replace(style, colour=colour(style.colour)) for style in symbol.strokes),
        ornaments=tuple(replace(one, stamp=_toned_stamp(one.stamp, colour)) for one in symbol.ornaments),
        stamp=_toned_stamp(symbol.stamp, colour) if symbol.stamp is not None else None,
        captions=tuple(replace(one, colour=colour(one.colour or INK)) for one in symbol.captions),
        tint=colour(symbol.tint),
        pattern_colour=colour(symbol.pattern_colour or INK) if symbol.pattern is not None else symbol.pattern_colour,
    )


def _toned_stamp(stamp: Stamp, colour: Callable[[str], str]) -> Stamp:
    items: list[Stroke | Fill] = [
        replace(item, style=replace(item.style, colour=colour(item.style.colour)))
        if isinstance(item, Stroke)
        # What is left white is a clearing, not ink.
        else replace(item, colour=item.colour if item.colour == WHITE else colour(item.colour))
        for item in stamp.items
    ]
    return Stamp(stamp.name, tuple(items))
