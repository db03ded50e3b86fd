"""Settings of parts: what is kept comes back the same, and what cannot be drawn is refused in words."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.sheet.page.entries import (
    Choice,
    Colour,
    Day,
    Figure,
    FileOf,
    GroundPlace,
    GroupNumber,
    NameOf,
    Opacities,
    PanelNumber,
    PanelNumbers,
    Scale,
    SettingField,
    Switch,
    Words,
)
from orvik.core.sheet.page.part import PartSettings
from orvik.core.sheet.parts import PART_KINDS, settings_of
from orvik.core.sheet.parts.correlation.box_moves import BoxMovesEntry
from orvik.core.sheet.parts.explanation.row_edits import LISTS, RowEditsEntry
from orvik.core.sheet.parts.title import Title

KEYS = ["unit Kp", "symbol contact-certain", "text 1"]
ROWS = st.lists(st.sampled_from(KEYS), unique=True)
ROW_EDIT = st.fixed_dictionaries({}, optional={"name": st.text(max_size=9), "hidden": st.booleans()})
BOX_MOVE = st.builds(
    lambda lane, ends: {"lane": lane, "younger": min(ends), "older": max(ends)},
    st.none() | st.integers(0, 99),
    st.sampled_from([(0.0, 1.0), (0.25, 0.5), (1.0, 0.999), (0.0, 1e-6)]),
)
PANEL = {"scale": 25_000, "centre": [0, 0]}


def values_of(entry: SettingField) -> st.SearchStrategy[Any]:
    """Values that an entry takes."""
    if isinstance(entry, Figure):
        numbers = st.integers(int(entry.low) + 1, int(min(entry.high, 1e6)))
        return numbers if entry.whole else st.floats(entry.low, entry.high)
    return {
        Scale: st.integers(100, 1_000_000),
        GroundPlace: st.tuples(st.floats(-1e7, 1e7), st.floats(-1e7, 1e7)),
        Words: st.text(max_size=4),
        NameOf: st.text(max_size=20),
        FileOf: st.sampled_from(["", "0" * 64, "9f" * 32]),
        Day: st.sampled_from(["", "2026-07-02"]),
        Switch: st.booleans(),
        Choice: st.sampled_from(list(getattr(entry, "choices", {"": ""}))),
        Colour: st.sampled_from(["#DCE9EC", "#000000"]),
        PanelNumber: st.integers(1, 99),
        PanelNumbers: st.lists(st.integers(1, 99), unique=True).map(tuple),
        GroupNumber: st.integers(0, 99),
        RowEditsEntry: st.fixed_dictionaries({}, optional=dict.fromkeys(KEYS, ROW_EDIT) | dict.fromkeys(LISTS, ROWS)),
        BoxMovesEntry: st.dictionaries(st.text(max_size=4), BOX_MOVE, max_size=4),
        Opacities: st.dictionaries(st.text(max_size=8), st.floats(0, 1), max_size=4),
    }[type(entry)]


@pytest.mark.parametrize("made", PART_KINDS.values(), ids=list(PART_KINDS))
@given(data=st.data())
def test_every_kind_comes_back_as_it_was_kept(made: type[PartSettings], data: st.DataObject) -> None:
    settings = made(**{name: data.draw(values_of(entry), name) for name, entry in made.entries().items()})
    assert settings_of(made.kind, json.loads(json.dumps(settings.to_dict()))) == settings


@pytest.mark.parametrize("made", PART_KINDS.values(), ids=list(PART_KINDS))
def test_every_setting_refuses_what_it_is_not(made: type[PartSettings]) -> None:
    """Whatever stands in a file, nothing but a sound value becomes a setting."""
    base = PANEL if made.kind == "map_panel" else {}
    for name in made.entries():
        with pytest.raises(SheetRefused):
            settings_of(made.kind, {**base, name: object()})


@pytest.mark.parametrize(
    ("kind", "values", "words"),
    [
        ("map_panel", {"scale": 25_000}, "does not say what ground"),
        ("map_panel", {"scale": 0, "centre": [0, 0]}, "scale"),
        ("map_panel", {"scale": 1, "centre": [0, 0]}, "scale"),
        ("map_panel", {"scale": True, "centre": [0, 0]}, "scale"),
        ("map_panel", {"scale": 25_000, "centre": [0]}, "centre"),
        ("map_panel", {"scale": 25_000, "centre": [0, float("nan")]}, "centre"),
        ("map_panel", {"scale": 25_000, "centre": "00"}, "centre"),
        ("map_panel", PANEL | {"ground_colour": "sea"}, "ground colour"),
        ("map_panel", PANEL | {"layers": {"units": 2}}, "layers"),
        ("map_panel", PANEL | {"underlays": [1]}, "underlays"),
        ("map_panel", PANEL | {"neatline": "star"}, "clip to"),
        ("map_panel", PANEL | {"footprints": [True]}, "footprint"),
        ("map_panel", PANEL | {"rotation": float("inf")}, "rotation"),
        ("title", {"text": 3}, "text"),
        ("title", {"text": "x" * 100_001}, "text"),
        ("text", {"size": 0.2}, "letter size"),
        ("nonsense", {}, "not a part of a sheet"),
    ],
)
def test_what_cannot_be_drawn_is_refused(kind: str, values: dict[str, Any], words: str) -> None:
    with pytest.raises(SheetRefused, match=words):
        settings_of(kind, values)


def test_what_a_kind_does_not_have_is_passed_over_in_a_file_and_refused_by_hand() -> None:
    assert settings_of("scale_bar", {"text": "left from a title"}) == settings_of("scale_bar", {})
    with pytest.raises(SheetRefused, match="no scale to set"):
        Title(text="A title").changed({"scale": 25_000})
    with pytest.raises(SheetRefused, match="no scale to set"):
        Title(text="A title").typed({"scale": "1:25 000"})


@pytest.mark.parametrize(
    ("typed", "values"),
    [
        ({"scale": "1:10 000"}, {"scale": 10_000}),
        ({"east": "513 482.6", "north": "6 802 000"}, {"centre": (513_482.6, 6_802_000.0)}),
        ({"rotation": "12,5"}, {"rotation": 12.5}),
        ({"ground_colour": "#dce9ec"}, {"ground_colour": "#DCE9EC"}),
        ({"ground_colour": ""}, {"ground_colour": None}),
        ({"name": " Main   map "}, {"name": "Main map"}),
        ({"footprints": "3,1,3"}, {"footprints": (3, 1, 3)}),
    ],
)
def test_what_is_typed_is_read(typed: dict[str, str], values: dict[str, Any]) -> None:
    assert settings_of("map_panel", PANEL).typed(typed) == values


@pytest.mark.parametrize(
    "typed",
    [
        {"scale": ""},
        {"scale": "large"},
        {"rotation": "north"},
        {"east": "5"},
        {"footprints": "main"},
        {"east": "", "north": ""},
    ],
)
def test_what_cannot_be_read_is_refused(typed: dict[str, str]) -> None:
    with pytest.raises(OrvikError):
        settings_of("map_panel", PANEL).typed(typed)
