"""Colours for a whole column: told apart, readable under letters, in the hue of the chart, the heading, the rock."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from orvik.core.colour.difference import ciede2000
from orvik.core.colour.hex import contrast, lab_of
from orvik.core.features.age import chart, chart_colour
from orvik.core.features.column_colours import WAYS, column_colours, rock_of
from orvik.core.features.map_unit import HEADINGS, MapUnit
from orvik.core.ink.primitives import INK


def forty(era: str, rng: random.Random) -> list[MapUnit]:
    """Units of one era, as many as a survey has, with headings and rocks."""
    ages = [a for a in chart() if any(e.name == era and e.older >= a.older and e.younger <= a.younger for e in chart())]
    picked = sorted((rng.choice(ages) for _ in range(40)), key=lambda age: (age.younger, age.older))
    rocks = ["sandstone", "Kalkstein", "granite", "basalt", "Tonschiefer", "gneiss", "conglomérat", "limolita"]
    return [
        MapUnit(
            f"U{i}",
            f"Unit {i}",
            "",
            "#CCCCCC",
            position=i + 1,
            age_from=age.name,
            rock=rocks[i % 8],
            heading=HEADINGS[i % 5],
        )
        for i, age in enumerate(picked)
    ]


@pytest.mark.parametrize("era", ["Cenozoic", "Mesozoic", "Paleozoic", "Neoproterozoic", "Archean"])
def test_forty_units_of_one_era_differ_in_the_order_of_their_ages(era: str) -> None:
    units = forty(era, random.Random(5))
    colours = column_colours(units, "age")
    assert set(colours) == {unit.code for unit in units}
    by_era = itertools.groupby(units, key=lambda unit: _era_of(unit))
    for _, group in by_era:
        held = list(group)
        assert len({colours[unit.code] for unit in held}) == len(held)
        lightness = [lab_of(colours[unit.code])[0] for unit in held]
        # Eight bits a channel round a lightness by up to half a step.
        assert all(a > b - 0.3 for a, b in itertools.pairwise(lightness))


def _era_of(unit: MapUnit) -> str:
    assert unit.span is not None
    older, younger = unit.span.older, unit.span.younger
    return next((a.name for a in chart() if a.rank == "era" and a.older >= older and a.younger <= younger), "")


def test_a_unit_alone_in_its_era_has_the_colour_of_the_chart() -> None:
    units = [
        MapUnit(f"U{i}", "x", "", "#CCCCCC", position=i, age_from=name)
        for i, name in enumerate(["Holocene", "Bajocian", "Devonian", "Ediacaran"])
    ]
    assert column_colours(units, "age") == {unit.code: chart_colour(unit.age_from) for unit in units}


@pytest.mark.parametrize("way", WAYS)
def test_letters_are_read_on_every_colour(way: str) -> None:
    """WCAG 2.2: 4.5 to 1, in the map's own ink."""
    for seed in range(4):
        units = forty(random.Random(seed).choice(["Mesozoic", "Archean"]), random.Random(seed))
        for colour in column_colours(units, next(w for w in WAYS if w == way)).values():
            assert contrast(INK, colour) >= 4.5


def test_headings_have_hues_of_their_own_in_even_steps() -> None:
    units = [
        MapUnit(f"{heading[:3]}{i}", "x", "", "#CCCCCC", position=i, heading=heading)
        for heading in (*HEADINGS, "Rocks of the far side", "")
        for i in range(4)
    ]
    colours = column_colours(units, "heading")
    hues = {}
    for heading in dict.fromkeys(unit.heading for unit in units):
        labs = np.array([lab_of(colours[unit.code]) for unit in units if unit.heading == heading])
        steps = -np.diff(labs[:, 0])
        assert np.allclose(steps, steps[0], atol=0.8)
        turns = np.degrees(np.arctan2(labs[:, 2], labs[:, 1]))
        assert np.ptp(turns) < 8
        hues[heading] = labs.mean(axis=0)
    for one, other in itertools.combinations(hues.values(), 2):
        assert ciede2000(one, other) > 8


@pytest.mark.parametrize(
    ("text", "rock"),
    [
        ("Limestone, grey", "limestone"),
        ("Muschelkalk: Kalkstein und Mergel", "limestone"),
        ("grès jaune", "sandstone"),
        ("Sandstone and siltstone", "sandstone"),
        ("Sand and gravel", "alluvium"),
        ("Banded iron formation", "iron_formation"),
        ("granodiorite", "granite"),
        ("esquisto verde", "gneiss"),
        ("Tonschiefer", "mudstone"),
        ("Glimmerschiefer", "gneiss"),
        ("water", ""),
        ("", ""),
    ],
)
def test_rocks_are_known_by_their_words(text: str, rock: str) -> None:
    assert rock_of(MapUnit("A", "-", "", "#FFFFFF", rock=text)) == rock


def test_units_that_say_nothing_are_left_as_they_are() -> None:
    units = [MapUnit("A", "Water", "", "#ABCDEF"), MapUnit("B", "Ice", "", "#FEDCBA", position=2)]
    assert column_colours(units, "age") == {}
    assert column_colours(units, "rock") == {}
