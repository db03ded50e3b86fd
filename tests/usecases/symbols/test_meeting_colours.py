"""Colours that meet in a project: as printed at the weakest opacity, near the water, proposed and taken."""

from __future__ import annotations

from pathlib import Path

import pytest
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store import rows
from orvik.store.project import Project
from orvik.usecases.symbols.meeting_colours import (
    colour_report,
    printed_opacity,
    proposal,
    take_colours,
    water_colours,
)
from orvik.usecases.symbols.meeting_picture import picture


@pytest.fixture
def two(project: Project) -> Project:
    """Kp and Qt side by side along 2 000 m, in colours that are nearly the same."""
    beside = Feature("areas", shapely.box(513_000, 6_801_000, 514_000, 6_803_000), "unit_area", map_unit="Qt")
    project.apply("draw", [rows.feature_change(beside, project.srs_id)])
    take_colours(project, {"Kp": "#BBD5A6", "Qt": "#BCD4A4"})
    return project


def panel(project: Project, opacity: float, water: str = "") -> None:
    settings = MapPanel(
        scale=25_000, centre=(513_000.0, 6_802_000.0), layers={"units": opacity}, ground_colour=water or None
    )
    part = Part(settings, 10, 10, 200, 150, position=1)
    project.apply("sheet", rows.sheet_changes(Sheet(f"S{opacity}", "A4", 297, 210), [part]))


def test_the_pair_its_edge_and_the_fix(two: Project) -> None:
    (pair,) = colour_report(two).pairs
    assert (pair.one, pair.other, round(pair.metres)) == ("Kp", "Qt", 2000)
    assert pair.least < 1.5
    assert len(pair.swatches) == 5
    found = proposal(two)
    assert found.least >= 5.0
    assert len(found.moves) == 1
    take_colours(two, {move.unit: move.new for move in found.moves})
    assert colour_report(two).bad == ()
    two.undo()
    assert len(colour_report(two).bad) == 1


def test_as_printed_at_the_weakest_opacity(two: Project) -> None:
    take_colours(two, {"Kp": "#BBD5A6", "Qt": "#A4CEC6"})
    strong = colour_report(two).pairs[0].least
    assert printed_opacity(two) == 1.0
    panel(two, 0.8)
    panel(two, 0.4)
    # A panel that prints no units at all says nothing of them.
    panel(two, 0.0)
    assert printed_opacity(two) == 0.4
    assert colour_report(two).pairs[0].least < 0.6 * strong


def test_what_comes_near_to_the_water_is_told(two: Project) -> None:
    assert colour_report(two).near_water == ()
    panel(two, 1.0, "#BBD6A8")
    assert water_colours(two) == ["#BBD6A8"]
    assert {code for code, _ in colour_report(two).near_water} == {"Kp", "Qt"}


def test_what_cannot_be_taken(two: Project) -> None:
    before = two.revision
    for colours in ({"Zz": "#FFFFFF"}, {"Kp": "white"}):
        with pytest.raises(FeatureRefused):
            take_colours(two, colours)
    assert take_colours(two, {}) is None
    assert two.revision == before


def test_a_picture_marks_the_edge(two: Project, demo: Path) -> None:
    assert "#C8431B" in picture(two, {}, ("Kp", "Qt"), "a")
    assert "#C8431B" not in picture(two, {}, None, "a")
    assert "#123456" in picture(two, {"Kp": "#123456"}, None, "a")


def test_without_areas_there_is_nothing_to_tell(project: Project) -> None:
    assert colour_report(project).pairs == ()
    assert proposal(project).moves == ()
