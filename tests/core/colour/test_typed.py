"""Colours as they were typed stay beside the digits, as long as they say the same colour."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest

from orvik.core.colour.text import cmyk_text, lab_text, parse_colour, still_typed, typed_colour
from orvik.core.errors import FeatureRefused
from orvik.core.features.map_unit import MapUnit
from orvik.exchange.features.unit_table import read, written


def test_every_percentage_is_remembered_and_read_again() -> None:
    """All full tens of cyan, magenta and yellow with any black, however the numbers are parted."""
    rng = random.Random(11)
    for cyan in range(0, 101, 20):
        for magenta in range(0, 101, 20):
            for yellow in range(0, 101, 20):
                numbers = [cyan, magenta, yellow, rng.randint(0, 100)]
                text = rng.choice([" ", ", ", "/", ";", " | "]).join(map(str, numbers))
                typed = typed_colour(text)
                assert typed == "CMYK " + " ".join(map(str, numbers))
                assert parse_colour(typed) == parse_colour(text)
                assert still_typed(typed, parse_colour(text)) == typed


@pytest.mark.parametrize("colour", ["#F4E6A8", "#000000", "#FFFFFF", "#A9CFC9"])
def test_every_space_says_the_colour_again(colour: str) -> None:
    red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    for text in (f"RGB {red} {green} {blue}", f"rgb({red}, {green}, {blue})", f"{red};{green};{blue}"):
        assert parse_colour(text) == colour
        assert typed_colour(text) == f"RGB {red} {green} {blue}"
    for text in (f"Lab {lab_text(colour)}", f"CMYK {cmyk_text(colour)}"):
        assert parse_colour(typed_colour(text)) == parse_colour(text)
    for text in (colour, colour[1:], colour.lower()):
        assert typed_colour(text) == ""


@pytest.mark.parametrize(
    "text", ["CMYK 0 22 48", "RGB 1 2", "rgb 1 2 3 4", "Lab 1 2", "CMYK 0 0 0 101", "lab", "cmyk a b c d"]
)
def test_a_space_that_is_named_takes_its_own_numbers(text: str) -> None:
    with pytest.raises(FeatureRefused):
        parse_colour(text)


def test_another_colour_forgets_what_was_typed() -> None:
    unit = MapUnit("Jh", "Harrack", "", parse_colour("0 22 48 12"), colour_typed="CMYK 0 22 48 12")
    assert unit.colour_typed == "CMYK 0 22 48 12"
    assert replace(unit, name="Harrack Sandstone").colour_typed == "CMYK 0 22 48 12"
    assert replace(unit, colour="#123456").colour_typed == ""
    for nonsense in ("CMYK 1 2", "x" * 5000, "CMYK 0 22 48 13", "#E0AE75", "Lab"):
        assert replace(unit, colour_typed=nonsense).colour_typed in ("", nonsense)


def test_a_table_brings_them_and_takes_them_along() -> None:
    found = read(b'code,name,colour\nJh,Harrack,0/22/48/12\nKp,Kelp,"244, 230, 168"\nQa,Alluvium,F4E6A8\n', [])
    units = [row.unit for row in found if row.unit is not None]
    assert [unit.colour_typed for unit in units] == ["CMYK 0 22 48 12", "RGB 244 230 168", ""]
    again = [row.unit for row in read(written(units).encode(), [])]
    assert [u and (u.colour, u.colour_typed) for u in again] == [(u.colour, u.colour_typed) for u in units]
    # Who edits the digits alone means the digits.
    edited = written(units).replace(units[0].colour, "#112233").encode()
    unit = read(edited, units)[0].unit
    assert unit is not None
    assert (unit.colour, unit.colour_typed) == ("#112233", "")
