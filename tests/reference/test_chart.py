"""Ages and colours against the International Chronostratigraphic Chart, as another library carries it."""

from __future__ import annotations

import json
from importlib import resources
from typing import Any

import pytest

from orvik.core.features.age import Age, chart, chart_colour, span


@pytest.fixture(scope="module")
def published() -> list[dict[str, Any]]:
    """The chart 2026/06 from geophylo (PyPI), which takes it from the commission's own repository."""
    path = resources.files("geophylo") / "data" / "snapshots" / "ics_chart-2026-06.json"
    intervals: list[dict[str, Any]] = json.loads(path.read_text())["intervals"]
    return intervals


def test_every_interval_has_the_ends_and_the_colour_of_the_chart(published: list[dict[str, Any]]) -> None:
    assert {row["name"] for row in published} == {age.name for age in chart()}
    for row in published:
        age = Age.of(row["name"])
        assert age.older == pytest.approx(row["older_boundary"]["age_ma"])
        assert age.younger == pytest.approx(row["younger_boundary"]["age_ma"])
        assert age.colour == row["color"].upper()


def test_intervals_lie_within_what_they_are_part_of() -> None:
    for age in chart():
        if age.parent:
            parent = Age.of(age.parent)
            assert parent.younger <= age.younger < age.older <= parent.older


def test_a_range_has_the_colour_of_what_holds_it_all() -> None:
    assert chart_colour("Bajocian", "Callovian") == Age.of("Middle Jurassic").colour
    assert chart_colour("Bajocian") == Age.of("Bajocian").colour
    assert chart_colour("Triassic", "Cretaceous") == Age.of("Mesozoic").colour
    held = span("Bajocian", "Callovian")
    assert held is not None
    assert (held.words, held.figures) == ("Bajocian to Callovian", "170.9 to 161.5 Ma")
