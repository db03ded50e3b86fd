"""Codes on sheets: clear of what lies over their panel, and read on whatever they stand on."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import shapely

from orvik.core.colour.hex import contrast, readable_on_all
from orvik.core.ink.primitives import INK, Stroke
from orvik.core.labels.candidates import boxes
from orvik.core.labels.label_request import halves_of
from orvik.core.labels.tints import Tints
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.map_panel import panel_labels, panels_of
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.composing import context


def test_codes_keep_off_the_lines_of_a_graticule(demo: Path) -> None:
    """All areas of the demo have room beside them: crosses on the quadrangle, whole lines on the regional sheet."""
    project = ReadProject.open(demo)
    whole = context(project)
    for sheet in project.sheets()[:2]:
        parts = project.parts(sheet.id or 0)
        page = PageContext(sheet, parts, whole, panels_of(parts, whole))
        number = next(part.id or 0 for part in parts if part.settings.name == "Main map")
        shown = page.shown(number)
        drawn = [item for item in shown.over() if isinstance(item, Stroke)]
        lines = [shapely.LineString(item.paths[i]) for item in drawn for i in range(len(item.paths))]
        assert len(lines) > 10
        labels = panel_labels(page.panels[number], shown).labels
        codes = [label for label in labels if label.request.placing == "inside"]
        middles, halves = (np.array([c.place.middle for c in codes]), halves_of([c.request for c in codes]))
        letters = boxes(middles, halves, np.zeros(len(codes)))
        assert len(codes) > 30
        assert not len(shapely.STRtree(lines).query(letters, predicate="intersects")[0])
    project.close()


def test_letters_over_two_tints_are_read_on_both() -> None:
    tree = shapely.STRtree([shapely.box(0, 0, 5, 10), shapely.box(5, 0, 10, 10)])
    tints = Tints(tree, ["#4A2A1A", "#F6EFC4"])
    one, both, half, none = tints.under(
        np.array(
            [shapely.box(1, 1, 3, 2), shapely.box(3, 1, 7, 2), shapely.box(9, 1, 11, 2), shapely.box(20, 1, 22, 2)]
        )
    )
    assert (one, set(both), set(half), none) == (
        ("#4A2A1A",),
        {"#4A2A1A", "#F6EFC4"},
        {"#F6EFC4", "#FFFFFF"},
        ("#FFFFFF",),
    )
    # White letters in the dark halo of the area below their middle were hard to read on the pale half.
    colour, halo = readable_on_all(both, dark=INK)
    assert (colour, halo) == (INK, "#F6EFC4")
    assert contrast(colour, halo) > 4.5
