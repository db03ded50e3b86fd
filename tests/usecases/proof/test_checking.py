"""A project checked with its labels looked at in another process: the same findings."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import ProjectRefused
from orvik.core.features.feature import Feature
from orvik.store.project import opened_for_writing
from orvik.usecases.proof import checking
from orvik.usecases.proof.checking import check
from tests.proof import seeds


def test_in_two_processes_the_same_is_found(corner: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with opened_for_writing(corner) as project:
        spring = seeds.station(project, 0).geometry
        places = [shapely.Point(spring.x + 5 * i, spring.y) for i in range(30)]
        beds = [Feature("points", place, "bedding", azimuth=40.0, inclination=30.0) for place in places]
        seeds.keep(project, *beds)
    alone = check(corner)
    assert "label" in {finding.rule for finding in alone.open}
    monkeypatch.setattr(checking, "LARGE", 0)
    assert check(corner) == alone


def ended(path: Path) -> None:
    """As the system ends a process that takes too much memory."""
    os._exit(9)


def test_a_look_that_was_ended_is_told_in_words(corner: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(checking, "LARGE", 0)
    monkeypatch.setattr(checking, "_labels", ended)
    with pytest.raises(ProjectRefused, match="could not be checked: the look at its labels was ended"):
        check(corner)
