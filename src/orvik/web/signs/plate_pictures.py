"""The pictures of the plate, made in a worker: some hundred specimens take longer than a pointer may wait."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from orvik.core.ink import INK
from orvik.core.signs.sign import PatternSign, Sign
from orvik.core.signs.specimen import pattern_specimen
from orvik.press.svg import swatch
from orvik.store.project import opened_for_reading
from orvik.store.sign_book import sign_book_of
from orvik.web.signs.swatches import WIDTH, sign_swatch

LINE_WIDTH = 20.0
PATTERN = (26.0, 14.0)


@dataclass(frozen=True)
class PlatePictures:
    """SVG of each sign by its id, and of each pattern with its title."""

    signs: dict[str, str]
    patterns: tuple[tuple[str, str], ...]


def plate_pictures(path: Path, families: frozenset[str], with_patterns: bool) -> PlatePictures:
    """The specimens of some families of a project's sign book, and of its patterns if they are asked for."""
    with opened_for_reading(path) as project:
        book = sign_book_of(project)
    return PlatePictures(
        {sign.id: _sign(sign) for sign in book.signs if sign.family in families},
        tuple((p.title, _pattern(p)) for p in book.patterns.values()) if with_patterns else (),
    )


def _sign(sign: Sign) -> str:
    width = LINE_WIDTH if sign.table == "lines" else WIDTH
    return sign_swatch(sign, f"plate-{sign.id}", width, figures=True)


def _pattern(pattern: PatternSign) -> str:
    width, height = PATTERN
    items = pattern_specimen(pattern, INK, "#FFFFFF", 0.1, 0.1, width - 0.2, height - 0.2)
    return swatch(items, width, height, pattern.title, f"pattern-{pattern.id}")
