"""Colours for a whole column of map units: by their ages, by their headings, or by their rocks.

Units that would get one colour get it lighter and darker, the youngest lightest, so that they are told apart.
"""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Literal

from orvik.core.colour.hex import lab_of, of_lab
from orvik.core.features.age import Age, chart, chart_colour, written_ends
from orvik.core.features.map_unit import HEADINGS, MapUnit, stratigraphic_order
from orvik.core.features.phrases import letters

Way = Literal["age", "heading", "rock"]
WAYS: Mapping[Way, str] = {
    "age": "by age: the chart's hues, lighter to darker within an era",
    "heading": "by heading: a hue each, in even steps",
    "rock": "by rock: the hues that rocks commonly have",
}
# Lightness of the youngest and of the oldest of units that share a hue: letters are read on both.
LIGHTEST, DARKEST = 92.0, 64.0
# Two of one hue are not spread farther than this a step.
STEP = 9.0
# Hues of the usual headings in degrees of the Lab plane, and the chroma of all: ours.
_HEADING_HUES = dict(zip(HEADINGS, (98.0, 150.0, 45.0, 10.0, 320.0), strict=True))
_CHROMA = 30.0
# Hues of the chart are not laid over whole areas stronger than this, where they are made lighter and darker.
_STRONGEST = 38.0
_ROCKS: Mapping[str, Mapping[str, object]] = tomllib.loads(
    Path(__file__).with_name("rock_colours.toml").read_text(encoding="utf-8")
)


def column_colours(units: Sequence[MapUnit], way: Way) -> dict[str, str]:
    """A colour for each unit that the way can say one for, by code; units without an age or a rock are left out."""
    ways: Mapping[Way, Callable[[Sequence[MapUnit]], dict[str, str]]] = {
        "age": _by_age,
        "heading": _by_heading,
        "rock": _by_rock,
    }
    return ways[way](stratigraphic_order(list(units)))


def rock_of(unit: MapUnit) -> str:
    """Which of the rocks that have colours a unit is of: the first that its rock, name or description says."""
    for text in (unit.rock, unit.name, unit.description):
        said = letters(text)
        found = [
            (match.start(), -len(word), rock)
            for rock, row in _ROCKS.items()
            for word in _words(row)
            if (match := re.search(rf"(?<!\w){re.escape(word)}", said))
        ]
        if found:
            return min(found)[2]
    return ""


def _words(row: Mapping[str, object]) -> list[str]:
    held = row["words"]
    assert isinstance(held, list)
    return [str(word) for word in held]


def _by_age(units: Sequence[MapUnit]) -> dict[str, str]:
    by_era: dict[str, list[tuple[str, str]]] = {}
    for unit in units:
        ends = (unit.age_from, unit.age_to) if unit.age_from else written_ends(unit.age)
        if ends is None:
            continue
        by_era.setdefault(_era(ends[1] or ends[0]), []).append((unit.code, chart_colour(*ends)))
    out: dict[str, str] = {}
    for held in by_era.values():
        if len(held) == 1:
            out[held[0][0]] = held[0][1]
            continue
        for (code, colour), lightness in zip(held, _steps(len(held)), strict=True):
            _, a, b = lab_of(colour)
            out[code] = _shown(lightness, math.degrees(math.atan2(b, a)), min(_STRONGEST, math.hypot(a, b)))
    return out


def _era(name: str) -> str:
    """The era that an age of the chart belongs to; itself where it is longer than one."""
    age = Age.of(name)
    holding = [one for one in chart() if one.rank == "era" and one.older >= age.older and one.younger <= age.younger]
    return holding[0].name if holding else age.name


def _by_heading(units: Sequence[MapUnit]) -> dict[str, str]:
    headings = list(dict.fromkeys(unit.heading for unit in units))
    hues = _hues(headings)
    out: dict[str, str] = {}
    for heading in headings:
        held = [unit for unit in units if unit.heading == heading]
        for unit, lightness in zip(held, _steps(len(held)), strict=True):
            out[unit.code] = _shown(lightness, hues[heading], _CHROMA)
    return out


def _hues(headings: Sequence[str]) -> dict[str, float]:
    """A hue for each heading: the usual ones have theirs, others lie as far from all as they can."""
    hues = {heading: _HEADING_HUES[heading] for heading in headings if heading in _HEADING_HUES}
    for heading in headings:
        if heading not in hues:
            there = list(hues.values()) or [98.0 + 180]
            hues[heading] = max(
                (float(hue) for hue in range(0, 360, 5)), key=lambda hue: min(_apart(hue, one) for one in there)
            )
    return hues


def _apart(one: float, other: float) -> float:
    return abs((one - other + 180) % 360 - 180)


def _by_rock(units: Sequence[MapUnit]) -> dict[str, str]:
    by_rock: dict[str, list[MapUnit]] = {}
    for unit in units:
        rock = rock_of(unit)
        if rock:
            by_rock.setdefault(rock, []).append(unit)
    out: dict[str, str] = {}
    for rock, held in by_rock.items():
        row = _ROCKS[rock]
        for unit, lightness in zip(held, _steps(len(held)), strict=True):
            out[unit.code] = _shown(lightness, float(str(row["hue"])), float(str(row["chroma"])))
    return out


def _steps(count: int) -> list[float]:
    """Lightness from the youngest to the oldest, in even steps."""
    middle = (LIGHTEST + DARKEST) / 2
    if count == 1:
        return [middle + STEP / 2]
    whole = min(LIGHTEST - DARKEST, STEP * (count - 1))
    first = min(LIGHTEST, middle + STEP / 2 + whole / 2)
    return [first - whole * i / (count - 1) for i in range(count)]


def _shown(lightness: float, hue: float, chroma: float) -> str:
    """The colour of a lightness and a hue, as strong as screens show it up to a chroma."""
    turn = math.radians(hue)
    for share in range(20, -1, -1):
        strength = chroma * share / 20
        try:
            return of_lab(lightness, strength * math.cos(turn), strength * math.sin(turn))
        except ValueError:
            continue
    raise ValueError(f"no colour of lightness {lightness:g}")
