"""A project in which nothing is drawn has no errors."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

import shapely

from orvik.core.features.feature import Feature
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.usecases.ground.border import Corners, set_border
from orvik.usecases.proof.proof import all_findings
from tests.proof import seeds


def rules(project: Project) -> list[str]:
    return [finding.rule for finding in all_findings(project)]


def test_a_border_alone_asks_for_no_tag(tmp_path: Path, crs: ProjectCrs) -> None:
    create(tmp_path / "new.gpkg", "New", crs, Scales(25_000, 6_250))
    with closing(Project.open(tmp_path / "new.gpkg")) as project:
        assert rules(project) == []
        set_border(project, Corners("510 000", "6 800 000", "515 000", "6 804 000"))
        assert rules(project) == []
        line = shapely.LineString([(510_000, 6_802_000), (515_000, 6_802_000)])
        seeds.keep(project, Feature("lines", line, "contact", capture_scale=25_000))
        assert rules(project).count("untagged") == 2
