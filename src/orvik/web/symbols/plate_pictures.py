"""The pictures of the plate, made in a worker: some hundred specimens take longer than a pointer may wait."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from orvik.core.ink.primitives import INK
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.specimen import pattern_specimen
from orvik.core.symbols.symbol import PatternSymbol, Symbol
from orvik.press.svg import swatch
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.web.symbols.swatches import WIDTH, symbol_swatch

LINE_WIDTH = 20.0
PATTERN = (26.0, 14.0)


@dataclass(frozen=True)
class PlatePictures:
    """SVG of each symbol and of each pattern by its id."""

    symbols: dict[str, str]
    patterns: dict[str, str]


# Makes the pictures of symbols and of patterns, by their ids.
Make = Callable[[frozenset[str], frozenset[str]], Awaitable[PlatePictures]]


def plate_pictures(path: Path, symbols: frozenset[str], patterns: frozenset[str]) -> PlatePictures:
    """The specimens of some symbols and patterns of a project's symbol book, by their ids."""
    with opened_for_reading(path) as project:
        book = symbol_book_of(project)
    return PlatePictures(
        {symbol.id: _symbol(symbol) for symbol in book.symbols if symbol.id in symbols},
        {name: _pattern(pattern) for name, pattern in book.patterns.items() if name in patterns},
    )


class PictureShelf:
    """The pictures of what all projects have in common, kept for the next page that shows them."""

    def __init__(self) -> None:
        self._standard = {symbol.id: symbol for symbol in standard().symbols}
        self._patterns = standard().patterns
        self._symbols_made: dict[str, str] = {}
        self._patterns_made: dict[str, str] = {}

    async def pictures(self, symbols: Sequence[Symbol], patterns: Sequence[PatternSymbol], make: Make) -> PlatePictures:
        """The pictures of symbols and patterns; ``make`` makes those that are not on the shelf."""
        common = {symbol.id for symbol in symbols if self._standard.get(symbol.id) is symbol}
        common_patterns = {pattern.id for pattern in patterns if self._patterns.get(pattern.id) is pattern}
        there = {name: self._symbols_made[name] for name in common if name in self._symbols_made}
        patterns_there = {n: self._patterns_made[n] for n in common_patterns if n in self._patterns_made}
        wanted = frozenset(symbol.id for symbol in symbols) - there.keys()
        patterns_wanted = frozenset(pattern.id for pattern in patterns) - patterns_there.keys()
        if wanted or patterns_wanted:
            made = await make(wanted, patterns_wanted)
            there |= made.symbols
            patterns_there |= made.patterns
            self._symbols_made |= {name: svg for name, svg in made.symbols.items() if name in common}
            self._patterns_made |= {name: svg for name, svg in made.patterns.items() if name in common_patterns}
        return PlatePictures(there, patterns_there)


@cache
def shelf() -> PictureShelf:
    """The shelf of this process."""
    return PictureShelf()


def _symbol(symbol: Symbol) -> str:
    width = LINE_WIDTH if symbol.table == "lines" else WIDTH
    return symbol_swatch(symbol, f"plate-{symbol.id}", width, figures=True)


def _pattern(pattern: PatternSymbol) -> str:
    width, height = PATTERN
    items = pattern_specimen(pattern, INK, "#FFFFFF", 0.1, 0.1, width - 0.2, height - 0.2)
    return swatch(items, width, height, pattern.title, f"pattern-{pattern.id}")
