"""Tables of units as other people write them: their heads, colours in numbers, ages in millions of years."""

from __future__ import annotations

import itertools

import pytest

from orvik.core.colour.text import parse_colour
from orvik.core.errors import FeatureRefused, FileRefused
from orvik.core.features.map_unit import RANKS, MapUnit
from orvik.exchange.features.unit_headers import HEADERS, columns_by_name, put_together, read_headers
from orvik.exchange.features.unit_table import COLUMNS, read, written
from orvik.exchange.mappings.attributes import whole_letters


@pytest.mark.parametrize(("name", "called"), [(n, c) for n, listed in HEADERS.items() for c in (n, *listed)])
def test_every_name_of_every_column_is_found(name: str, called: str) -> None:
    parts = [
        p
        for group in (("red", "green", "blue"), ("cyan", "magenta", "yellow", "black"))
        if name in group
        for p in group
    ]
    head = [called.upper(), *(part for part in parts if part != name)]
    assert columns_by_name(head, COLUMNS, {})[name] == 0


def test_no_name_stands_for_two_columns() -> None:
    held = [(whole_letters(called), name) for name, listed in HEADERS.items() for called in (name, *listed)]
    for letters in {one for one, _ in held}:
        assert len({name for one, name in held if one == letters}) == 1, letters


def test_letters_alone_are_no_colour() -> None:
    assert columns_by_name(["code", "C", "R"], COLUMNS, {}) == {"code": 0}


@pytest.mark.parametrize(
    ("text", "colour"),
    [
        ("#a9cfc9", "#A9CFC9"),
        ("A9CFC9", "#A9CFC9"),
        ("169,207,201", "#A9CFC9"),
        ("rgb(169, 207, 201)", "#A9CFC9"),
        ("169/207/201", "#A9CFC9"),
        ("0 0 0 100", "#000000"),
        ("0, 0, 0, 0", "#FFFFFF"),
    ],
)
def test_colours_in_digits_parts_and_percentages(text: str, colour: str) -> None:
    assert parse_colour(text) == colour


@pytest.mark.parametrize("text", ["300,0,0", "1.5,2,3", "12,12", "red", "0 0 0 120", "-3,0,0", "1,2,3,4,5"])
def test_what_is_no_colour_is_refused(text: str) -> None:
    with pytest.raises(FeatureRefused):
        parse_colour(text)


def test_colours_in_columns_of_their_own() -> None:
    text = "MapUnit,FullName,R,G,B\nKp,Pellan Mudstone,169,207,201\n"
    ((row,),) = [read(text.encode(), [])]
    assert row.unit is not None
    assert (row.unit.code, row.unit.name, row.unit.colour) == ("Kp", "Pellan Mudstone", "#A9CFC9")
    percent = "code;C;M;Y;K\nKp;0;0;0;100\n"
    ((row,),) = [read(percent.encode(), [])]
    assert row.unit is not None
    assert row.unit.colour == "#000000"


def test_ages_in_millions_of_years_fall_on_the_chart_in_words() -> None:
    # ICS chart 2026/06: the Oxfordian lasted from 161.5 to 154.8 million years, the Campanian ends at 72.2 ± 0.2.
    assert put_together({"code": "A", "ma_older": "161.5", "ma_younger": "154.8"}) == {
        "code": "A",
        "age": "161.5–154.8 Ma",
        "age_from": "Oxfordian",
        "age_to": "",
    }
    held = put_together({"code": "A", "age": "66–30 Ma"})
    assert (held["age"], held["age_from"], held["age_to"]) == ("66–30 Ma", "Danian", "Rupelian")
    assert "age_from" not in put_together({"code": "A", "age": "Jurassic"})
    with pytest.raises(FeatureRefused, match="not an age"):
        put_together({"code": "A", "ma": "old"})
    with pytest.raises(FeatureRefused, match="chart has no age"):
        put_together({"code": "A", "ma": "9000"})


def test_our_own_table_of_a_unit_with_an_age_in_numbers_changes_nothing() -> None:
    unit = MapUnit("A", "A unit", "66–30 Ma", "#A9CFC9")
    ((row,),) = [read(written([unit]).encode(), [unit])]
    assert row.unit == unit


@pytest.mark.parametrize("rank", [rank for rank in RANKS if rank])
def test_all_ranks_of_the_trade(rank: str) -> None:
    ((row,),) = [read(f"code,name,rank\nA,A unit,{rank.upper()}\n".encode(), [])]
    assert row.unit is not None
    assert row.unit.rank == rank


def test_columns_may_be_said() -> None:
    text = "LEG_KURZ,WAS,Farbe\nq1,Schotter,A9CFC9\n"
    ((row,),) = [read(text.encode(), [], {"code": "LEG_KURZ", "name": "WAS", "colour": ""})]
    assert row.unit is not None
    assert (row.unit.code, row.unit.name) == ("q1", "Schotter")
    assert row.unit.colour != "#A9CFC9"
    with pytest.raises(FileRefused, match="no column"):
        read(text.encode(), [], {"code": "NO"})
    said = read_headers(b'{"orvik_units_mapping": 1, "columns": {"code": "LEG_KURZ"}}', "m.json")
    assert said == {"code": "LEG_KURZ"}
    with pytest.raises(FileRefused, match=r"m\.json"):
        read_headers(b"{}", "m.json")


@pytest.mark.parametrize(("one", "other"), list(itertools.combinations(["unit", "MapUnit", "code"], 2)))
def test_a_column_of_ours_wins_and_two_others_are_taken_in_order(one: str, other: str) -> None:
    found = columns_by_name([one, other], COLUMNS, {})["code"]
    assert [one, other][found] == ("code" if "code" in (one, other) else "MapUnit")
