"""Running text as ink: lines in a frame, from its upper left corner."""

from __future__ import annotations

from orvik.core.ink import INK, Item, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.part import Part

LEADING = 1.32
# Height in millimetres of what a part says in place of what it would show.
WORDS_SIZE = 2.6


def text_ink(text: str, part: Part, font: str = ROMAN, size: float = WORDS_SIZE, colour: str = INK) -> list[Item]:
    """A text with its lines wrapped to a part's width; ``size`` is in millimetres."""
    return [
        Text(run(line, font, size), (part.x, part.y + cap_height(size) + 0.2 * size + i * size * LEADING), colour)
        for i, line in enumerate(wrapped(text, font, size, part.width))
        if line
    ]


def words_instead(words: str, part: Part) -> list[Item]:
    """What a part says while it cannot show what it is there for."""
    return text_ink(words, part, ITALIC)
