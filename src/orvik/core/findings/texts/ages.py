"""Ages and codes that are typed of units, against those of the column."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from orvik.core.features.age import Span, chart, find, span, spoken
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, ReadText, of_text, quoted

rule(
    "typed_age",
    "warning",
    "texts",
    "A text says another age of a unit than the column has",
    units=("age", "age_from", "age_to"),
    why="the sheet says two ages of one rock",
)
rule(
    "typed_code",
    "warning",
    "texts",
    "A text says another code of a unit than the column has, or one that it lacks",
    why="readers look in vain for that code",
    spoils="reading",
)

# No age with what stands between it and a name is longer, in letters.
LONGEST_AGE = 80
# What follows the name of a unit in brackets; codes behind the word unit.
_IN_BRACKETS = re.compile(r"\s?\(([^()]{1,60})\)")
_UNIT_CODE = re.compile(r"\bunits?\s([A-Z][A-Za-z0-9Ꞓ-ꟿ]{1,5})\b(?!\s(?:Formation|Group|Member))")


@of_text
def typed_ages(text: ReadText, known: Known) -> list[Finding]:
    """Ages that are said of a unit beside its name, or of its own in a description, and that lie apart from its age."""
    out = []
    for unit, found in _said(text, known):
        typed, held = _span(found.group("age")), unit.span
        if typed is None or held is None or (typed.older > held.younger and held.older > typed.younger):
            continue
        right, said = unit.printed_age, quoted(found.group("age"))
        message = f"{text.what} says {said} of {unit.name} ({unit.code}); the column says {right}."
        out.append(
            text.finding("typed_age", message, found.span("age"), right, f"Write {right}", facts=(unit.code, right))
        )
    return out


def _said(text: ReadText, known: Known) -> Iterator[tuple[MapUnit, re.Match[str]]]:
    """Ages before and behind the names of units, and such as begin a sentence of a unit's own description."""
    ages = _age_patterns()
    for unit, begin, end in _mentions(text.text, known):
        before = ages.before.search(text.text, max(0, begin - LONGEST_AGE), begin)
        behind = ages.behind.match(text.text, end)
        yield from ((unit, found) for found in (before, behind) if found is not None)
    own = known.units.get(text.unit)
    if own is not None:
        yield from ((own, found) for found in ages.own.finditer(text.text))


def _mentions(text: str, known: Known) -> Iterator[tuple[MapUnit, int, int]]:
    """Where units are named; a name that several units have names none."""
    counts = Counter(unit.name for unit in known.units.values())
    units = {unit.name: unit for unit in known.units.values() if counts[unit.name] == 1}
    if units:
        for found in _any_of(tuple(units)).finditer(text):
            yield units[found.group(0)], found.start(), found.end()


@lru_cache(maxsize=8)
def _any_of(names: tuple[str, ...]) -> re.Pattern[str]:
    """A pattern for any of some names, the longest first."""
    return re.compile(rf"\b(?:{'|'.join(re.escape(name) for name in sorted(names, key=len, reverse=True))})\b")


@dataclass(frozen=True)
class _AgePatterns:
    """Ages before the name of a unit, behind it, and at the beginning of a sentence."""

    before: re.Pattern[str]
    behind: re.Pattern[str]
    own: re.Pattern[str]


@lru_cache(maxsize=1)
def _age_patterns() -> _AgePatterns:
    ages = _ages()
    begins = r"(?:^|[.;] )(?:of (?:the )?|age:? |probably |perhaps )?"
    return _AgePatterns(
        re.compile(rf"\b(?P<age>{ages})(?:[ -]aged?)? \Z"),
        re.compile(rf"(?: \([^()]{{1,20}}\))?(?:,? \(?(?:of )?(?:the )?|\s?\()(?P<age>{ages})(?=\)| age|,|\.|;|$)"),
        re.compile(rf"{begins}(?P<age>{ages})(?: in)?(?: age\b|[.;]|$)", re.IGNORECASE),
    )


@lru_cache(maxsize=1)
def _ages() -> str:
    """A pattern for names of the chart, as of rock and as of time, and for ranges of them."""
    names = {name for age in chart() for name in (age.name, spoken(age.name))}
    one = "|".join(re.escape(name) for name in sorted(names, key=len, reverse=True))
    return rf"(?:{one})(?: to (?:{one}))?"


def _span(words: str) -> Span | None:
    ends = words.split(" to ")
    ages = [find(end) for end in ends]
    if any(age is None for age in ages):
        return None
    held = sorted((age for age in ages if age is not None), key=lambda age: -age.older)
    return span(held[0].name, held[-1].name if len(held) > 1 else "")


@of_text
def typed_codes(text: ReadText, known: Known) -> list[Finding]:
    """Codes in brackets behind the name of another unit, and codes behind the word unit that no unit has."""
    out = []
    codes = {unit.code for unit in known.units.values()} | {unit.printed_label for unit in known.units.values()}
    for unit, _, end in _mentions(text.text, known):
        found = _IN_BRACKETS.match(text.text, end)
        said = found.group(1).strip() if found is not None else ""
        if found is None or said in (unit.code, unit.printed_label):
            continue
        if said in codes or _is_like(said, unit.code):
            message = f"{text.what} gives {unit.name} the code {quoted(said)}; the column says {unit.code}."
            out.append(
                text.finding("typed_code", message, found.span(1), unit.code, f"Write {unit.code}", facts=(unit.code,))
            )
    for found in _UNIT_CODE.finditer(text.text):
        said = found.group(1)
        if said in codes or not any(_is_like(said, code) for code in codes):
            continue
        near = ", ".join(sorted(codes))[:60]
        message = f"{text.what} speaks of unit {quoted(said)}; the column has {near}."
        out.append(text.finding("typed_code", message, found.span(1), facts=tuple(sorted(codes))))
    return out


def _is_like(said: str, code: str) -> bool:
    """Whether words have the shape of a code: as many letters or one more or less, capitals and small ones."""
    shape, wanted = _shape(said), _shape(code)
    alike = shape[:1] == wanted[:1] and shape[-1:] == wanted[-1:]
    return alike and abs(len(shape) - len(wanted)) <= 1 and " " not in said


def _shape(words: str) -> str:
    return "".join("A" if c.isupper() else "a" if c.islower() else "0" if c.isdigit() else c for c in words)
