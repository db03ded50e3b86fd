"""A reader that holds a project as it was keeps the log from moving; it is ended after a while, and says so."""

from __future__ import annotations

import time

import pytest
import shapely

from orvik.core.errors import ProjectRefused
from orvik.core.features.feature import Feature
from orvik.store import identity, rows
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading


def draw(project: Project) -> None:
    line = Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_801_500)]), "contact")
    project.apply("draw", [rows.feature_change(line, project.srs_id)])


def _read_late(project: Project) -> None:
    with opened_for_reading(project.path) as reader, reader.snapshot(0.2):
        reader.features("lines")
        draw(project)
        time.sleep(0.6)
        # It holds nothing up any more.
        assert project.checkpoint()
        reader.features("lines")


def test_what_was_read_in_time_belongs_together_and_nothing_is_read_later(project: Project) -> None:
    with opened_for_reading(project.path) as reader, reader.snapshot(30):
        before = len(reader.features("lines"))
        draw(project)
        assert not project.checkpoint()
        assert len(reader.features("lines")) == before
    assert project.checkpoint()
    with pytest.raises(ProjectRefused, match=r"more than 0\.2 seconds"):
        _read_late(project)


def test_one_that_has_read_all_it_needs_is_not_disturbed(project: Project) -> None:
    with opened_for_reading(project.path) as reader, reader.snapshot(0.2):
        held = reader.features("lines")
        time.sleep(0.6)
        draw(project)
        assert project.checkpoint()
    assert len(held) == len(project.features("lines")) - 1
    assert identity.log_of(project.path).stat().st_size == 0
