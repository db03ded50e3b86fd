"""Labels and codes of units that are alike, or unlike what they stand for."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from itertools import pairwise

from orvik.core.errors import OrvikError
from orvik.core.features.age import written_ends
from orvik.core.features.age_letters import LETTERS, letter_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.findings.nearness import slips_apart
from orvik.core.findings.rule import rule

rule(
    "label_unlike",
    "warning",
    "symbols",
    "A unit prints a label that is nearly its code",
    units=("code", "label"),
    why="readers look for one code and find another",
    spoils="reading",
)
rule(
    "label_doubled",
    "error",
    "symbols",
    "Two units print one label, or labels that read alike",
    units=("code", "label"),
    why="readers cannot tell the two rocks apart",
    spoils="reading",
)
rule(
    "age_letter",
    "warning",
    "symbols",
    "A code begins with the letter of another age than the unit has, where the others agree",
    units=("code", "age", "age_from", "age_to"),
    why="its first letter tells readers an age that it has not",
)

# A code of up to so many letters is written to be printed; longer ones are keys of a database.
PRINTED_CODE = 6
# Shapes that are read for one another.
_ALIKE = str.maketrans({"l": "1", "I": "1", "|": "1", "O": "0", "o": "0"})
# So many units of which so large a share begin with the letter of their age follow that practice.
FOLLOW, SHARE = 4, 0.7


def labels(units: Sequence[MapUnit]) -> list[Finding]:
    """What is to be said of the labels of some units."""
    return [*_unlike(units), *_doubled(units), *_letters(units)]


def _plain(label: str) -> str:
    """A label as a code would be typed: with the letters of ages as letters."""
    for letter in LETTERS.values():
        if len(letter.printed) == 1 and not letter.printed.isascii():
            label = label.replace(letter.printed, letter.typed[0])
    return re.sub(r"[^A-Za-z0-9]", "", label)


def _unlike(units: Sequence[MapUnit]) -> list[Finding]:
    out = []
    for unit in units:
        label, code = _plain(unit.label), _plain(unit.code)
        if not unit.label or label == code or not 2 <= len(code) <= PRINTED_CODE or len(label) != len(code):
            continue
        if label.lower() == code.lower() or slips_apart(label, code) > 1:
            continue
        message = f"Unit {unit.code} prints the label {unit.label}, one letter off its code; one of them is a slip?"
        out.append(Finding("label_unlike", "warning", message, None, units=(unit.code,)))
    return out


def _doubled(units: Sequence[MapUnit]) -> list[Finding]:
    by_label = defaultdict(list)
    for unit in units:
        by_label[unit.printed_label.translate(_ALIKE)].append(unit)
    out = []
    for some in by_label.values():
        for one, two in pairwise(some):
            same = one.printed_label == two.printed_label
            what = "print one label" if same else "print labels that read alike"
            shown = one.printed_label if same else f"{one.printed_label} and {two.printed_label}"
            both = f"{one.code} ({one.name}) and {two.code} ({two.name})"
            message = f"{both} {what}, {shown}; a reader takes one for the other."
            out.append(Finding("label_doubled", "error", message, None, units=(one.code, two.code)))
    return out


def _letters(units: Sequence[MapUnit]) -> list[Finding]:
    agree: list[tuple[MapUnit, tuple[str, ...]]] = []
    off: list[tuple[MapUnit, tuple[str, ...]]] = []
    for unit in units:
        letters = _of_age(unit)
        if letters is None or len(unit.code) > PRINTED_CODE:
            continue
        (agree if any(unit.code.startswith(typed) for typed in letters) else off).append((unit, letters))
    if len(agree) + len(off) < FOLLOW or len(agree) < SHARE * (len(agree) + len(off)):
        return []
    out = []
    for unit, letters in off:
        other = next((name for name, letter in LETTERS.items() if unit.code.startswith(letter.typed[0])), None)
        if other is None:
            continue
        message = (
            f"{unit.code} ({unit.name}) begins with the letter of the {other}, and its age is {unit.printed_age}, "
            f"whose letter is {letters[0]}; the other units keep to their letters."
        )
        out.append(Finding("age_letter", "warning", message, None, units=(unit.code,)))
    return out


def _of_age(unit: MapUnit) -> tuple[str, ...] | None:
    """The letters with which the code of a unit may begin: those of both ends of its age."""
    ends = (unit.age_from, unit.age_to) if unit.age_from else written_ends(unit.age)
    if ends is None:
        return None
    typed: list[str] = []
    for end in ends:
        try:
            letter = letter_of(end) if end else None
        except OrvikError:
            return None
        typed += letter.typed if letter is not None else ()
    return tuple(typed) or None
