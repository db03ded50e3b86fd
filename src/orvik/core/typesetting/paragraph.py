"""Breaking a paragraph into lines, as evenly as its width allows, without hyphenation.

Lines break at spaces and after hyphens and dashes, never at spaces that do not break. Of all ways that need the fewest
lines that one is taken whose lines leave the least room, by the sum of its squares (after Knuth and Plass, Breaking
paragraphs into lines, Software: Practice and Experience 11, 1981, for ragged lines; from memory).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import groupby

from orvik.core.ink.primitives import Run, Text
from orvik.core.lettering import ROMAN, run
from orvik.core.typesetting.spans import Span, Style

# Sub- and superscripts, in heights of the letters around them: how high they are, and how far they are shifted up.
SMALL = 0.66
SHIFTS = {0: 0.0, 1: 0.3, -1: -0.16}
# A last line shorter than this share of its room looks forgotten, where the lines before could spare a word.
SHORTEST_LAST = 0.12
# Units of measure stay with their figures.
_UNITS = r"(?:km|cm|mm|m|Ma|ka|ft|%|°)(?!\w)"
# Figures stay with each other from one "to" another.
# Where a line may break: after a hyphen or a dash before a letter, at spaces, and where the text says so.
_BREAKS = re.compile(rf"(?<=[-‐–—/])(?=[^\W\d_])|(?<![\d ])(?<!\d to)(?<!\d or) +| +(?!{_UNITS}| |(?:to|or) \d)|\n")
_EPSILON = 1e-6


@dataclass(frozen=True)
class Piece:
    """A run of a line: how far from its beginning and above its baseline it stands, in millimetres."""

    x: float
    rise: float
    run: Run


@dataclass(frozen=True)
class Line:
    """A line as it is set.

    Attributes
    ----------
    indent
        How far from the edge of its paragraph it begins, in millimetres.
    width
        Of what stands in it.
    room
        What it might be wide.
    text
        Its characters.
    """

    pieces: tuple[Piece, ...]
    indent: float
    width: float
    room: float
    text: str

    @property
    def is_overfull(self) -> bool:
        """Whether a word of it is wider than its room: it cannot be broken."""
        return self.width > self.room + 1e-3

    def enlarged(self, k: float) -> Line:
        """The same set larger."""
        pieces = tuple(Piece(piece.x * k, piece.rise * k, piece.run.enlarged(k)) for piece in self.pieces)
        return Line(pieces, self.indent * k, self.width * k, self.room * k, self.text)

    def ink(self, x: float, y: float, colour: str, align: str = "left") -> list[Text]:
        """The line with its baseline at a height of the page, and its paragraph's edge at ``x``."""
        slack = {"left": 0.0, "centre": (self.room - self.width) / 2, "right": self.room - self.width}[align]
        left = x + self.indent + slack
        return [Text(piece.run, (left + piece.x, y - piece.rise), colour) for piece in self.pieces]


@dataclass(frozen=True)
class _Word:
    """What no line break parts: stretches of one style, their width, the space that follows, whether it ends a text."""

    spans: tuple[Span, ...]
    width: float
    after: Span | None
    space: float
    ends: bool


def lines_of(
    spans: Iterable[Span], size: float, width: float, first: float = 0.0, hang: float = 0.0, roman: str = ROMAN
) -> list[Line]:
    """The lines of a text; where it holds line breaks, those of several paragraphs.

    Parameters
    ----------
    size
        Height of the body of its letters in millimetres.
    width
        Of the column in millimetres.
    first, hang
        How far the first line of a paragraph stands in, and its others.
    roman
        The font of plain text.

    Returns
    -------
    list of Line
        None is wider than its room but that of a single word.
    """
    out: list[Line] = []
    for paragraph in _paragraphs(_words(tuple(spans), size, roman)):
        out += _broken(paragraph, size, width, first, hang, roman)
    return out


def _paragraphs(words: Sequence[_Word]) -> list[list[_Word]]:
    out: list[list[_Word]] = [[]]
    for word in words:
        out[-1].append(word)
        if word.ends:
            out.append([])
    return out


def _words(spans: Sequence[Span], size: float, roman: str) -> list[_Word]:
    """The words of a text; stretches of several styles that no space parts are one."""
    out: list[_Word] = []
    held: list[Span] = []

    def end(space: str, style: Style, is_last: bool) -> None:
        after = Span(" ", replace(style, rise=0)) if space else None
        gap = _width(after, size, roman) if after else 0.0
        out.append(_Word(tuple(held), sum(_width(span, size, roman) for span in held), after, gap, is_last))
        held.clear()

    for span in spans:
        at = 0
        for found in _BREAKS.finditer(span.text):
            if found.start() > at:
                held.append(Span(span.text[at : found.start()], span.style))
            if held or found.group() == "\n":
                end("" if found.group() == "\n" else found.group(), span.style, found.group() == "\n")
            at = found.end()
        if at < len(span.text):
            held.append(Span(span.text[at:], span.style))
    if held or not out or out[-1].ends:
        end("", Style(), False)
    return out


@lru_cache(maxsize=65536)
def _width(span: Span, size: float, roman: str) -> float:
    return run(span.text, span.style.font(roman), _size(span.style, size)).width


def _size(style: Style, size: float) -> float:
    return size * SMALL if style.rise else size


def _broken(words: Sequence[_Word], size: float, width: float, first: float, hang: float, roman: str) -> list[Line]:
    """A paragraph's lines."""
    count = len(words)
    if not count:
        return [_set([], size, first, width - first, roman)]
    # The fewest lines, then the least sum of squares of empty room, for the words up to each; and where its last line
    # begins.
    best: list[tuple[int, float]] = [(0, 0.0)] + [(count + 1, 0.0)] * count
    begins = [0] * (count + 1)
    for start in range(count):
        lines, cost = best[start]
        room = width - (first if start == 0 else hang)
        used = 0.0
        for stop in range(start, count):
            used += words[stop].width
            if used > room + _EPSILON and stop > start:
                break
            slack = max(room - used, 0.0) / max(room, _EPSILON)
            penalty = slack**2 if stop + 1 < count else _last(slack, start)
            reached = (lines + 1, cost + penalty)
            if reached < best[stop + 1]:
                best[stop + 1] = reached
                begins[stop + 1] = start
            used += words[stop].space
    out: list[Line] = []
    stop = count
    while stop > 0:
        start = begins[stop]
        indent = first if start == 0 else hang
        out.append(_set(words[start:stop], size, indent, width - indent, roman))
        stop = start
    return out[::-1]


def _last(slack: float, start: int) -> float:
    """What a last line costs: nothing, but where a forgotten word stands alone."""
    return 0.5 if start and 1 - slack < SHORTEST_LAST else 0.0


def _set(words: Sequence[_Word], size: float, indent: float, room: float, roman: str) -> Line:
    """Words in a line, each stretch of one style as one run, so that letters keep their distances across words."""
    spans: list[Span] = []
    for number, word in enumerate(words):
        spans += word.spans
        if word.after is not None and number + 1 < len(words):
            spans.append(word.after)
    pieces: list[Piece] = []
    x = 0.0
    for style, group in groupby(spans, key=lambda span: span.style):
        made = run("".join(span.text for span in group), style.font(roman), _size(style, size))
        pieces.append(Piece(round(x, 4), SHIFTS[style.rise] * size, made))
        x += made.width
    return Line(tuple(pieces), indent, x, room, "".join(span.text for span in spans))
