"""Boxes of a correlation in the hand: where they may go, and that they stay there through edits of their units."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from orvik.core.errors import NotFound, OrvikError, SheetRefused
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.store.project import Project
from orvik.usecases.sheet.correlations import HOLDS, change_box, correlation_view, drag_box, reset_boxes
from orvik.usecases.symbols.units import change_unit, move_unit_to


@pytest.fixture
def project(demo: Path) -> Iterator[Project]:
    project = Project.open(demo)
    yield project
    project.close()


def correlation(project: Project) -> int:
    return next(part.number for part in project.parts(1) if isinstance(part.settings, Correlation))


def test_any_drags_keep_every_box_within_its_age_and_undo_brings_all_back(project: Project) -> None:
    rng = random.Random(25)
    number = correlation(project)
    before = project.part(number)
    made = 0
    for _ in range(60):
        view = correlation_view(project, number)
        assert view.words == ""
        box = rng.choice(view.boxes)
        by = (rng.uniform(-60, 60), rng.uniform(-40, 40))
        made += drag_box(project, number, box.unit.code, rng.choice(HOLDS), by) is not None
        for placed in correlation_view(project, number).boxes:
            span = placed.unit.span
            assert span is not None
            older, younger = placed.shown
            assert span.younger - 1e-6 <= younger < older <= span.older + 1e-6
            assert placed.height >= 2.0
    assert made > 20
    for _ in range(made):
        project.undo()
    assert project.part(number) == before


def test_an_edge_goes_as_far_as_the_age_allows_and_no_further(project: Project) -> None:
    number = correlation(project)
    box = max(correlation_view(project, number).boxes, key=lambda one: one.height)
    code = box.unit.code
    drag_box(project, number, code, "younger", (0.0, box.height / 2))
    half = next(b for b in correlation_view(project, number).boxes if b.unit.code == code)
    assert half.y == pytest.approx(box.y + box.height / 2, abs=0.5)
    assert half.moved
    drag_box(project, number, code, "whole", (0.0, -500.0))
    top = next(b for b in correlation_view(project, number).boxes if b.unit.code == code)
    assert top.y == pytest.approx(box.y, abs=0.5)
    assert top.height < box.height
    reset_boxes(project, number, code)
    assert next(b for b in correlation_view(project, number).boxes if b.unit.code == code) == box
    assert reset_boxes(project, number) is None


def test_a_box_is_put_by_figures_and_what_cannot_be_is_refused(project: Project) -> None:
    number = correlation(project)
    box = correlation_view(project, number).boxes[0]
    code, span = box.unit.code, box.unit.span
    assert span is not None
    middle = (span.older + span.younger) / 2
    change_box(project, number, code, older=f"{middle:.6g}")
    now = next(b for b in correlation_view(project, number).boxes if b.unit.code == code)
    assert now.shown == pytest.approx((middle, span.younger), rel=1e-4)
    for wrong in (
        {"older": f"{span.older * 2}"},
        {"younger": "-3"},
        {"older": "x"},
        {"older": f"{span.younger}"},
        {"lane": "0"},
        {"lane": "1.5"},
        {"lane": "900"},
    ):
        with pytest.raises(OrvikError):
            change_box(project, number, code, **wrong)
    with pytest.raises(NotFound):
        change_box(project, number, "none")
    title = next(p.number for p in project.parts(1) if p.kind == "title")
    with pytest.raises(SheetRefused, match="not a correlation"):
        correlation_view(project, title)


def test_moves_stay_through_a_renamed_and_a_reordered_unit(project: Project) -> None:
    number = correlation(project)
    box = max(correlation_view(project, number).boxes, key=lambda one: one.height)
    drag_box(project, number, box.unit.code, "older", (0.0, -box.height / 3))
    put = next(b for b in correlation_view(project, number).boxes if b.unit.code == box.unit.code)
    unit_id, unit = next((i, u) for i, u in project.units() if u.code == box.unit.code)
    change_unit(project, unit_id, replace(unit, code="Zz", name="Zz Gneiss"))
    renamed = next(b for b in correlation_view(project, number).boxes if b.unit.code == "Zz")
    assert (renamed.shown, renamed.moved, renamed.height) == (put.shown, True, put.height)
    move_unit_to(project, unit_id, 0)
    again = next(b for b in correlation_view(project, number).boxes if b.unit.code == "Zz")
    assert again.shown == put.shown
