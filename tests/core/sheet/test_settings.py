"""Settings of parts: what is kept comes back the same, and what cannot be drawn is refused in words."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page import PART_KINDS, Part
from orvik.core.sheet.settings import PanelSettings, TextSettings, changed, kept_values, settings_of

STRENGTHS = st.dictionaries(st.text(max_size=8), st.floats(0, 1), max_size=4)
PANELS = st.builds(
    PanelSettings,
    scale=st.integers(100, 1_000_000),
    centre=st.tuples(st.floats(-1e7, 1e7), st.floats(-1e7, 1e7)),
    ground_colour=st.sampled_from([None, "#DCE9EC"]),
    grid=st.booleans(),
    cut=st.booleans(),
    layers=STRENGTHS,
    underlays=STRENGTHS,
)
TEXTS = st.builds(TextSettings, text=st.text(max_size=200), size=st.none() | st.floats(1, 40))


@given(PANELS)
def test_a_panel_comes_back_as_it_was_kept(settings: PanelSettings) -> None:
    assert settings_of("map_panel", json.loads(json.dumps(kept_values(settings)))) == settings


@given(TEXTS)
def test_a_text_comes_back_as_it_was_kept(settings: TextSettings) -> None:
    assert settings_of("title", json.loads(json.dumps(kept_values(settings)))) == settings


@pytest.mark.parametrize(
    ("kind", "values", "words"),
    [
        ("map_panel", {"scale": 25_000}, "does not say what ground"),
        ("map_panel", {"scale": 0, "centre": [0, 0]}, "scale"),
        ("map_panel", {"scale": True, "centre": [0, 0]}, "scale"),
        ("map_panel", {"scale": 25_000, "centre": [0]}, "centre"),
        ("map_panel", {"scale": 25_000, "centre": [0, float("nan")]}, "centre"),
        ("map_panel", {"scale": 25_000, "centre": "00"}, "centre"),
        ("map_panel", {"scale": 25_000, "centre": [0, 0], "ground_colour": "sea"}, "ground colour"),
        ("map_panel", {"scale": 25_000, "centre": [0, 0], "layers": {"units": 2}}, "layers"),
        ("map_panel", {"scale": 25_000, "centre": [0, 0], "underlays": [1]}, "underlays"),
        ("map_panel", {"scale": 25_000, "centre": [0, 0], "grid": "yes"}, "grid"),
        ("title", {"text": 3}, "text"),
        ("title", {"text": "x" * 4001}, "text"),
        ("text", {"size": 0.2}, "size of letters"),
    ],
)
def test_what_cannot_be_drawn_is_refused(kind: str, values: dict[str, Any], words: str) -> None:
    with pytest.raises(SheetRefused, match=words):
        settings_of(kind, values)


def test_what_a_kind_does_not_have_is_passed_over_in_a_file_and_refused_by_hand() -> None:
    assert settings_of("scale_bar", {"text": "left from a title"}) == settings_of("scale_bar", {})
    with pytest.raises(SheetRefused, match="no scale to set"):
        changed(TextSettings("A title"), {"scale": 25_000})
    with pytest.raises(SheetRefused, match="no such settings"):
        Part("scale_bar", 0, 0, 10, 10, settings=TextSettings("A title"))


@pytest.mark.parametrize("kind", [kind for kind in PART_KINDS if kind != "map_panel"])
def test_a_part_without_settings_has_those_of_its_kind(kind: str) -> None:
    assert Part(kind, 0, 0, 10, 10).settings == settings_of(kind, {})
