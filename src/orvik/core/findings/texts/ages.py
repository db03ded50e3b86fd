"""Ages and codes that are typed of units, against those of the column."""

from __future__ import annotations

import re
from collections.abc import Iterator
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
)
rule("typed_code", "warning", "texts", "A text says another code of a unit than the column has, or one that it lacks")

# How far behind the name of a unit its age or code may stand, in letters.
REACH = 4
_IN_BRACKETS = re.compile(r"\s?\(([^()]{1,60})\)")
_UNIT_CODE = re.compile(r"\bunits?\s([A-Z][A-Za-z0-9Ꞓ-ꟿ]{1,5})\b(?!\s(?:Formation|Group|Member))")


@of_text
def typed_ages(text: ReadText, known: Known) -> list[Finding]:
    """Ages that are said of a unit beside its name, or of its own in a description, and that lie apart from its age."""
    out = []
    for unit, found, typed in _said(text, known):
        held = unit.span
        if held is None or (typed.older > held.younger and held.older > typed.younger):
            continue
        right, said = unit.printed_age, quoted(found.group("age"))
        message = f"{text.what} says {said} of {unit.name} ({unit.code}); the column says {right}."
        out.append(
            text.finding("typed_age", message, found.span("age"), right, f"Write {right}", facts=(unit.code, right))
        )
    return out


def _said(text: ReadText, known: Known) -> Iterator[tuple[MapUnit, re.Match[str], Span]]:
    ages = _ages()
    patterns: list[tuple[MapUnit, re.Pattern[str]]] = []
    for unit in known.units.values():
        name = re.escape(unit.name)
        if unit.name.lower() not in text.text.lower():
            continue
        before = rf"\b(?P<age>{ages})(?:[ -]aged?)? (?:{name})\b"
        code = rf"(?: \({re.escape(unit.code)}\))?"
        behind = rf"\b{name}{code}(?:,? \(?(?:of )?(?:the )?|\s?\()(?P<age>{ages})(?=\)| age|,|\.|;|$)"
        patterns += [(unit, re.compile(before)), (unit, re.compile(behind))]
    own = known.units.get(text.unit)
    if own is not None:
        begins = r"(?:^|[.;] )(?:of (?:the )?|age:? |probably |perhaps )?"
        patterns.append((own, re.compile(rf"{begins}(?P<age>{ages})(?: in)?(?: age\b|[.;]|$)", re.IGNORECASE)))
    for unit, pattern in patterns:
        for found in pattern.finditer(text.text):
            typed = _span(found.group("age"))
            if typed is not None:
                yield unit, found, typed


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
    for unit in known.units.values():
        for found in re.finditer(rf"\b{re.escape(unit.name)}{_IN_BRACKETS.pattern}", text.text):
            said = found.group(1).strip()
            if said in (unit.code, unit.printed_label) or not (said in codes or _is_like(said, unit.code)):
                continue
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
