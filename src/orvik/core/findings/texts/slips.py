"""Slips of the pen in texts: a word twice, a bracket left open, a placeholder that nobody has filled."""

from __future__ import annotations

import re

from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, ReadText, of_text, quoted

rule(
    "slip",
    "warning",
    "texts",
    "A text has a word twice, a bracket that is left open, or a placeholder",
    why="readers trust a sheet less that was not read over",
    spoils="finish",
)

_TWICE = re.compile(r"(?<![\w-])([a-z]+|The|In|Of|And) (\1)(?![\w-])", re.IGNORECASE)
_MAY_STAND_TWICE = frozenset({"that", "had", "is", "aa", "very"})
_PLACEHOLDER = re.compile(
    r"\b(?:TODO|TBD|FIXME|lorem ipsum|x{3,}|XX+\b|to be (?:added|completed|supplied|written)|insert \w+ here)\b"
    r"|\?{2,}|\[\s*\]|_{3,}"
)
_PAIRS = {")": "(", "]": "["}


@of_text
def slips(text: ReadText, known: Known) -> list[Finding]:
    """Words that stand twice, placeholders, and brackets without their other half."""
    out = []
    for found in _TWICE.finditer(text.text):
        word = found.group(1)
        if word.lower() in _MAY_STAND_TWICE or (word[:1].isupper() and found.group(2)[:1].isupper()):
            continue
        message = f"{text.what} has {quoted(found.group(0))}: a word twice."
        out.append(text.finding("slip", message, found, word, f"Write {word} once"))
    for found in _PLACEHOLDER.finditer(text.text):
        message = f"{text.what} still has {quoted(found.group(0))}, which waits to be filled in."
        out.append(text.finding("slip", message, found))
    out += _brackets(text)
    return out


def _brackets(text: ReadText) -> list[Finding]:
    held: list[tuple[str, int]] = []
    for i, letter in enumerate(text.text):
        if letter in "([":
            held.append((letter, i))
        elif letter in _PAIRS:
            if held and held[-1][0] == _PAIRS[letter]:
                held.pop()
            elif not re.match(r"(?:^|.*\s)\(?[a-z0-9]{1,3}$", text.text[max(0, i - 5) : i]):
                # A list may count "a)" and "2)".
                return [_open(text, i)]
    return [_open(text, held[0][1])] if held else []


def _open(text: ReadText, at: int) -> Finding:
    around = text.text[max(0, at - 12) : at + 14]
    message = f"{text.what} has a bracket without its other half, in {quoted(around)}."
    return text.finding("slip", message, (at, at + 1))
