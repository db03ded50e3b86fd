"""Text in stretches of one style each, and the marks by which people type it.

``*italic*``, ``**bold**``, ``++small capitals++``, ``~subscript~`` and ``^superscript^``. A mark opens before a
character that is no space and closes after one, so that "2 * 3" stays as it is; one that is not closed, or stands after
a backslash, is a character like any other.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

from orvik.core.lettering import BOLD, CAPITALS, ITALIC, ROMAN


@dataclass(frozen=True)
class Style:
    """How a stretch of text is set.

    There is no face that is bold or of small capitals and slanted too: bold is before small capitals, these before
    italic.

    Attributes
    ----------
    rise
        1 for a superscript, -1 for a subscript.
    """

    bold: bool = False
    italic: bool = False
    capitals: bool = False
    rise: int = 0

    def font(self, roman: str = ROMAN) -> str:
        """The font that it is set in, where plain text is set in another than Spectral's roman too."""
        return BOLD if self.bold else CAPITALS if self.capitals else ITALIC if self.italic else roman


PLAIN = Style()


@dataclass(frozen=True)
class Span:
    """A stretch of text in one style."""

    text: str
    style: Style = PLAIN


# The longer marks first, so that ``**`` is not taken for two of ``*``.
MARKS = ("**", "++", "*", "~", "^")
_TURNED = {"**": "bold", "++": "capitals", "*": "italic"}
_RISES = {"~": -1, "^": 1}


@lru_cache(maxsize=4096)
def spans_of(typed: str) -> tuple[Span, ...]:
    """What was typed, without its marks.

    >>> [(s.text, s.style.rise, s.style.bold) for s in spans_of("H~2~O, **dry** at 2 * 3")]
    [('H', 0, False), ('2', -1, False), ('O, ', 0, False), ('dry', 0, True), (' at 2 * 3', 0, False)]
    """
    return tuple(_joined(_read(typed, PLAIN)))


def plain_text(spans: Iterable[Span]) -> str:
    """The characters alone."""
    return "".join(span.text for span in spans)


def escaped(text: str) -> str:
    """A text as it is typed so that none of its characters is a mark.

    >>> plain_text(spans_of(escaped("a*b* and ~"))) == "a*b* and ~"
    True
    """
    return "".join(f"\\{c}" if c in "\\*~^+" else c for c in text)


def _read(typed: str, style: Style) -> list[Span]:
    out: list[Span] = []
    held = ""
    at = 0
    while at < len(typed):
        if typed[at] == "\\" and at + 1 < len(typed) and typed[at + 1] in "\\*~^+":
            held += typed[at + 1]
            at += 2
            continue
        mark = next((m for m in MARKS if typed.startswith(m, at)), None)
        end = _closing(typed, mark, at) if mark else None
        if mark is None or end is None:
            step = len(mark) if mark else 1
            held += typed[at : at + step]
            at += step
            continue
        if held:
            out.append(Span(held, style))
            held = ""
        turned = replace(style, rise=_RISES[mark]) if mark in _RISES else replace(style, **{_TURNED[mark]: True})
        out += _read(typed[at + len(mark) : end], turned)
        at = end + len(mark)
    if held:
        out.append(Span(held, style))
    return out


def _closing(typed: str, mark: str, at: int) -> int | None:
    """Where a mark that opens here is closed; None where it is not, or does not open."""
    begin = at + len(mark)
    if begin >= len(typed) or typed[begin].isspace():
        return None
    i = begin
    while i < len(typed):
        if typed[i] == "\\" and i + 1 < len(typed):
            i += 2
            continue
        found = next((m for m in MARKS if typed.startswith(m, i)), None)
        if found == mark and i > begin and not typed[i - 1].isspace():
            return i
        i += len(found) if found else 1
    return None


def _joined(spans: Iterable[Span]) -> list[Span]:
    """Spans of one style that follow one another as one."""
    out: list[Span] = []
    for span in spans:
        if out and out[-1].style == span.style:
            out[-1] = Span(out[-1].text + span.text, span.style)
        else:
            out.append(span)
    return out
