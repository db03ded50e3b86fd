"""The pictures of the plate, made in a worker: some hundred specimens take longer than a pointer may wait."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from orvik.core.ink.primitives import INK
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.specimen import pattern_specimen
from orvik.core.symbols.symbol import PatternSign, Sign
from orvik.press.svg import swatch
from orvik.store.project import opened_for_reading
from orvik.store.symbol_book import sign_book_of
from orvik.web.signs.swatches import WIDTH, sign_swatch

LINE_WIDTH = 20.0
PATTERN = (26.0, 14.0)


@dataclass(frozen=True)
class PlatePictures:
    """SVG of each sign and of each pattern by its id."""

    signs: dict[str, str]
    patterns: dict[str, str]


# Makes the pictures of signs and of patterns, by their ids.
Make = Callable[[frozenset[str], frozenset[str]], Awaitable[PlatePictures]]


def plate_pictures(path: Path, signs: frozenset[str], patterns: frozenset[str]) -> PlatePictures:
    """The specimens of some signs and patterns of a project's sign book, by their ids."""
    with opened_for_reading(path) as project:
        book = sign_book_of(project)
    return PlatePictures(
        {sign.id: _sign(sign) for sign in book.signs if sign.id in signs},
        {name: _pattern(pattern) for name, pattern in book.patterns.items() if name in patterns},
    )


class PictureShelf:
    """The pictures of what all projects have in common, kept for the next page that shows them."""

    def __init__(self) -> None:
        self._standard = {sign.id: sign for sign in standard().signs}
        self._patterns = standard().patterns
        self._signs_made: dict[str, str] = {}
        self._patterns_made: dict[str, str] = {}

    async def pictures(self, signs: Sequence[Sign], patterns: Sequence[PatternSign], make: Make) -> PlatePictures:
        """The pictures of signs and patterns; ``make`` makes those that are not on the shelf."""
        common = {sign.id for sign in signs if self._standard.get(sign.id) is sign}
        common_patterns = {pattern.id for pattern in patterns if self._patterns.get(pattern.id) is pattern}
        there = {name: self._signs_made[name] for name in common if name in self._signs_made}
        patterns_there = {n: self._patterns_made[n] for n in common_patterns if n in self._patterns_made}
        wanted = frozenset(sign.id for sign in signs) - there.keys()
        patterns_wanted = frozenset(pattern.id for pattern in patterns) - patterns_there.keys()
        if wanted or patterns_wanted:
            made = await make(wanted, patterns_wanted)
            there |= made.signs
            patterns_there |= made.patterns
            self._signs_made |= {name: svg for name, svg in made.signs.items() if name in common}
            self._patterns_made |= {name: svg for name, svg in made.patterns.items() if name in common_patterns}
        return PlatePictures(there, patterns_there)


@cache
def shelf() -> PictureShelf:
    """The shelf of this process."""
    return PictureShelf()


def _sign(sign: Sign) -> str:
    width = LINE_WIDTH if sign.table == "lines" else WIDTH
    return sign_swatch(sign, f"plate-{sign.id}", width, figures=True)


def _pattern(pattern: PatternSign) -> str:
    width, height = PATTERN
    items = pattern_specimen(pattern, INK, "#FFFFFF", 0.1, 0.1, width - 0.2, height - 0.2)
    return swatch(items, width, height, pattern.title, f"pattern-{pattern.id}")
