"""Figures that are typed: how many units, contour intervals, exaggerations, numbers, editions, and spans of lengths."""

from __future__ import annotations

import re

from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, ReadText, of_text, quoted
from orvik.core.ground.scale import figures

rule(
    "typed_figure",
    "warning",
    "texts",
    "A text says another figure, number or edition than the project has",
    why="two figures of one thing stand on one sheet",
)
rule(
    "backward_range",
    "warning",
    "texts",
    "A span runs from more to less",
    why="readers cannot tell which end is meant",
    spoils="reading",
)

_NUMBERS = (
    *("zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"),
    *("thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen", "twenty"),
)
_ORDINALS = ("zeroth", "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
_UNITS = re.compile(
    rf"\b(\d{{1,3}}|{'|'.join(_NUMBERS[1:])})\s(?:geologic\s|geological\s|mapped\s|map\s){{0,2}}units\b", re.IGNORECASE
)
_INTERVAL = re.compile(
    r"\b(?:contours?(?:\sinterval|\slines)?)\b[^\d.\n]{0,25}?(\d+(?:[.,]\d+)?)\s?(m|metres|meters|ft|feet)\b", re.I
)
_TIMES = re.compile(
    r"\bexaggerat\w*[^\d.\n]{0,40}?(\d+(?:[.,]\d+)?)\s?(?:times|×|x\b|:\s?1\b)?"
    r"|\b(\d+(?:[.,]\d+)?)\s?(?:times|×|x)\s(?:vertical(?:ly)?\s)?exaggerat\w*"
    r"|\b(no|without)\s(?:vertical\s)?exaggeration",
    re.IGNORECASE,
)
_EDITION = re.compile(
    rf"\b(\d{{1,2}}(?:st|nd|rd|th)|{'|'.join(_ORDINALS[1:])})\sedition\b|\b(?:version|edition)\s(\d+(?:\.\d+)*)\b",
    re.IGNORECASE,
)
_SHEET = re.compile(r"\b(?:sheet|quadrangle|map)\s(?:no\.?\s|number\s)(\d{1,5}[A-Za-z]?)\b", re.IGNORECASE)
_RANGE = re.compile(
    r"(?<![\d.,:/])(\d+(?:[.,]\d+)?)\s?(?:to|–|-)\s?(\d+(?:[.,]\d+)?)\s?(m|metres|meters|km|cm|mm|ft|feet|%)(?![\w²])"
)
# In these a length may fall: what thins, and what is told from one place to another.
_FALLING = re.compile(
    r"\b(?:from|thins?|thinning|decreas\w*|falls?|drops?|declin\w*|wedges?)\b[^.;\n]*$", re.IGNORECASE
)


def _number(words: str) -> int:
    return int(words) if words.isdigit() else _NUMBERS.index(words.lower())


@of_text
def counts(text: ReadText, known: Known) -> list[Finding]:
    """How many units a text says that the map has, beside how many there are."""
    if known.shown_units is None or text.unit:
        return []
    out = []
    for found in _UNITS.finditer(text.text):
        said = _number(found.group(1))
        if said in (known.shown_units, len(known.units)) or text.of_sources(found.start()):
            continue
        message = f"{text.what} speaks of {quoted(found.group(0))}; the map shows {known.shown_units}."
        instead = "{units}" if text.takes_fields else str(known.shown_units)
        label = "Make it a field" if text.takes_fields else f"Write {known.shown_units}"
        out.append(
            text.finding("typed_figure", message, found.span(1), instead, label, facts=(str(known.shown_units),))
        )
    return out


@of_text
def intervals(text: ReadText, known: Known) -> list[Finding]:
    """Contour intervals that the panel does not have."""
    held = {_plain(words) for words in known.intervals}
    if not held:
        return []
    out = []
    for found in _INTERVAL.finditer(text.text):
        said = _plain(f"{found.group(1)} {found.group(2)}")
        if said in held or text.of_sources(found.start()):
            continue
        right = known.intervals[0]
        message = f"{text.what} says {quoted(found.group(0))}; the contour lines of the map are {right} apart."
        instead = "{contour interval}" if text.takes_fields else right
        label = "Make it a field" if text.takes_fields else f"Write {right}"
        span = found.start(1), found.end()
        out.append(text.finding("typed_figure", message, span, instead, label, facts=(right,)))
    return out


def _plain(words: str) -> str:
    number, unit = re.split(r"[\s\u00a0\u2009\u202f]+", words.replace(",", "."), maxsplit=1)
    return f"{float(number):g} {'ft' if unit.startswith('f') else 'm'}"


@of_text
def exaggerations(text: ReadText, known: Known) -> list[Finding]:
    """Vertical exaggerations that none of the sections on the sheet has."""
    typed_times = list(_TIMES.finditer(text.text))
    held = sorted(known.exaggerations()) if typed_times else []
    out: list[Finding] = []
    if not held:
        return out
    for found in typed_times:
        typed = found.group(1) or found.group(2)
        said = float(typed.replace(",", ".")) if typed else 1.0
        if any(abs(said - value) <= 0.05 * value for value in held):
            continue
        right = " and ".join(figures(value, 2) for value in held)
        drawn = f"the sections are exaggerated {right} times" if held != [1.0] else "the sections are not exaggerated"
        message = f"{text.what} says {quoted(found.group(0))}; {drawn}."
        span = found.span(1) if found.group(1) else found.span(2) if found.group(2) else None
        instead = figures(held[0], 2) if span and len(held) == 1 else None
        out.append(text.finding("typed_figure", message, span or found, instead, f"Write {instead}", "error", (right,)))
    return out


@of_text
def editions(text: ReadText, known: Known) -> list[Finding]:
    """Editions and versions other than that of the imprint."""
    right = known.imprint.edition
    wanted = _EDITION.search(right)
    if wanted is None:
        return []
    out = []
    for found in _EDITION.finditer(text.text):
        if _ordinal(found) == _ordinal(wanted) or text.of_sources(found.start()) or text.what == "The edition":
            continue
        message = f"{text.what} says {quoted(found.group(0))}; the imprint says “{right}”."
        instead = "{edition}" if text.takes_fields else wanted.group(0)
        label = "Make it a field" if text.takes_fields else f"Write {wanted.group(0)}"
        out.append(text.finding("typed_figure", message, found, instead, label, facts=(right,)))
    return out


def _ordinal(found: re.Match[str]) -> str:
    if found.group(2):
        return found.group(2)
    words = found.group(1).lower()
    return str(_ORDINALS.index(words)) if words in _ORDINALS else re.sub(r"\D", "", words)


@of_text
def numbers(text: ReadText, known: Known) -> list[Finding]:
    """Numbers of the sheet in its series that are not that of the imprint, nor one of a neighbour."""
    right, series = known.imprint.number, known.imprint.series
    if not right:
        return []
    patterns = [_SHEET]
    if series:
        patterns.append(
            re.compile(rf"{re.escape(series)},?\s(?:no\.?\s|number\s|sheet\s)?(\d{{1,5}}[A-Za-z]?)\b", re.IGNORECASE)
        )
    out, seen = [], set()
    for pattern in patterns:
        for found in pattern.finditer(text.text):
            said = found.group(1)
            of_neighbour = pattern is _SHEET and said in known.neighbours
            if said == right or of_neighbour or found.start(1) in seen or text.of_sources(found.start()):
                continue
            seen.add(found.start(1))
            message = f"{text.what} says {quoted(found.group(0))}; the number in the imprint is {right}."
            instead = "{number}" if text.takes_fields else right
            label = "Make it a field" if text.takes_fields else f"Write {right}"
            out.append(text.finding("typed_figure", message, found.span(1), instead, label, facts=(right,)))
    return out


@of_text
def backward_ranges(text: ReadText, known: Known) -> list[Finding]:
    """Lengths and shares from more to less, where nothing says that they fall."""
    out = []
    for found in _RANGE.finditer(text.text):
        one, two = found.group(1), found.group(2)
        if float(one.replace(",", ".")) <= float(two.replace(",", ".")) or _FALLING.search(
            text.sentence_before(found.start())
        ):
            continue
        turned = found.group(0).replace(one, "\0", 1).replace(two, one, 1).replace("\0", two, 1)
        message = f"{text.what} says {quoted(found.group(0))}, from more to less; it would read {turned}."
        out.append(text.finding("backward_range", message, found, turned, f"Write {turned}"))
    return out
