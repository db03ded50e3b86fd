"""A project file checked as a whole; of a large one the labels are looked at meanwhile, in another process."""

from __future__ import annotations

import multiprocessing
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

from orvik.core.errors import ProjectRefused
from orvik.core.features.table import TABLES
from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.store.read_project import LONG_SNAPSHOT_SECONDS, ReadProject, opened_for_reading
from orvik.usecases.proof.accepting import judged_findings
from orvik.usecases.proof.proof import all_findings, without_room
from orvik.usecases.sheet.composing import sheet_named

# With fewer features another process takes longer to begin than the labels do.
LARGE = 15_000
ENDED = "could not be checked: the look at its labels was ended, most likely for want of memory; close other programs."


def check(path: Path, sheet: str | None = None) -> Judged:
    """The findings of a project, or of a sheet by its name, as acceptances and turned_off rules have them.

    Raises
    ------
    ProjectRefused, NotFound
        It is not a project, or has no such sheet.
    """
    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        if sheet:
            return judged_findings(project, all_findings(project, sheet_named(project, sheet).id))
        if sum(project.count(table) for table in TABLES) < LARGE:
            return judged_findings(project, all_findings(project))
        with ProcessPoolExecutor(1, multiprocessing.get_context("spawn")) as pool:
            looked_at = pool.submit(_labels, path)

            def labels(project: ReadProject) -> list[Finding]:
                try:
                    revision, found = looked_at.result()
                except BrokenProcessPool as error:
                    raise ProjectRefused(f"{path.name} {ENDED}") from error
                # Somebody may have edited it in between.
                return found if revision == project.revision else without_room(project)

            return judged_findings(project, all_findings(project, labels=labels))


def _labels(path: Path) -> tuple[int, list[Finding]]:
    """The labels without room, and the revision that this is of."""
    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        return project.revision, without_room(project)
