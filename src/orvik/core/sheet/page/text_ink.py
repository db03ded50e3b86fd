"""Body text as ink: lines in a frame, from its upper left corner, with lists and without widows."""

from __future__ import annotations

import re

from orvik.core.ink.primitives import INK, Group, Item, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.part import Part
from orvik.core.typesetting.paragraph import lines_of
from orvik.core.typesetting.spans import spans_of

LEADING = 1.32
# Height in millimetres of what a part says in place of what it would show.
WORDS_SIZE = 2.6
# The group of ink that says why a part cannot show what it is there for; its title is what it says.
INSTEAD = "instead"
ALIGNED = {"left": "left", "centre": "in the middle", "right": "right"}
# What begins an item of a list: a hyphen, a dot, or a number.
_ITEM = re.compile(r"(?P<mark>[-•–]|\d{1,3}[.)])\s+(?P<text>.*)")
# How far the lines of an item stand in, in heights of letters.
INDENT = 1.5


def text_ink(
    text: str,
    part: Part,
    font: str = ROMAN,
    size: float = WORDS_SIZE,
    colour: str = INK,
    align: str = "left",
    marked: bool = False,
) -> list[Item]:
    """A text with its lines wrapped to a part's width.

    Lines that begin with ``- `` or ``1. `` are items of a list, whose further lines stand in.

    Parameters
    ----------
    size
        Height of the letters in millimetres.
    align
        A name of ``ALIGNED``.
    marked
        Whether marks in it set styles, as ``spans`` reads them; its lines are broken evenly then.
    """
    at = {"left": part.x, "centre": part.middle[0], "right": part.x + part.width}[align]
    items: list[Item] = []
    y = part.y + cap_height(size) + 0.2 * size
    for paragraph in text.split("\n"):
        item = _ITEM.fullmatch(paragraph) if align == "left" else None
        indent = INDENT * size if item else 0.0
        if item:
            mark = "•" if item["mark"] in "-•–" else item["mark"]
            items.append(Text(run(mark, font, size), (at, y), colour))
        words = item["text"] if item else paragraph
        if marked:
            for set_line in lines_of(spans_of(words), size, part.width - indent, roman=font):
                items += set_line.ink(part.x + indent, y, colour, align)
                y += size * LEADING
            continue
        for line in without_widow(wrapped(words, font, size, part.width - indent)):
            if line:
                items.append(Text(run(line, font, size, align), (at + indent, y), colour))
            y += size * LEADING
    return items


def without_widow(lines: list[str]) -> list[str]:
    """A paragraph whose last line is not a single word, where the line before can give it another.

    >>> without_widow(["thin beds of grey mudstone", "coal"])
    ['thin beds of grey', 'mudstone coal']
    """
    if len(lines) < 2 or " " in lines[-1]:
        return lines
    words = lines[-2].split(" ")
    if len(words) < 4 or len(words[-1]) + len(lines[-1]) + 1 > len(lines[-2]):
        return lines
    return [*lines[:-2], " ".join(words[:-1]), f"{words[-1]} {lines[-1]}"]


def words_instead(words: str, part: Part) -> list[Item]:
    """What a part says while it cannot show what it is there for."""
    return [Group(INSTEAD, tuple(text_ink(words, part, ITALIC)), title=words)]
