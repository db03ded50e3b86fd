"""The margin notes of sheets: all findings of map and sheet, found by workers and kept for a revision."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.store.project import opened_for_reading
from orvik.usecases.accepting import judged_findings
from orvik.usecases.proof import alike, in_order, unformed
from orvik.usecases.sheet_findings import findings_of_sheet
from orvik.web.session import survey_process
from orvik.web.session.workers import Workers


@dataclass(frozen=True)
class MarginNotes:
    """What is to be said of a sheet.

    Attributes
    ----------
    revision
        That it is true at.
    judged
        All findings; those that are open have their numbers in this order, from 1.
    unlisted
        How many findings of the map are not among them, because there are so many.
    """

    revision: int
    judged: Judged
    unlisted: int

    def finding(self, key: str) -> Finding | None:
        """An open finding by its key."""
        return next((found for found in self.judged.open if found.key == key), None)


def margin_notes(path: Path, sheet_id: int | None, revision: int, told: tuple[Finding, ...]) -> MarginNotes | None:
    """The notes of a sheet, runs in a worker; None where the project is no longer at the revision.

    Parameters
    ----------
    told
        The findings of the map at that revision.
    """
    with opened_for_reading(path) as project, project.snapshot():
        if project.revision != revision:
            return None
        found = [*told, *alike(project)]
        if sheet_id is not None:
            found = findings_of_sheet(project, sheet_id, found)
        return MarginNotes(revision, judged_findings(project, in_order(found)), 0)


class ProofKeeper:
    """The notes of each sheet at the latest revision they were asked for. All methods run on the event loop."""

    def __init__(self, path: Path, workers: Workers, revision: Callable[[], int]) -> None:
        self._path = path
        self._workers = workers
        self._revision = revision
        self._finding: dict[int | None, tuple[int, asyncio.Task[MarginNotes]]] = {}

    async def notes(self, sheet_id: int | None) -> MarginNotes:
        """Notes as of the present revision; those who ask at once wait for one and the same look."""
        held = self._finding.get(sheet_id)
        if held is None or held[0] != self._revision() or (held[1].done() and held[1].exception() is not None):
            held = (self._revision(), asyncio.ensure_future(self._find(sheet_id)))
            self._finding[sheet_id] = held
        return await asyncio.shield(held[1])

    async def _find(self, sheet_id: int | None) -> MarginNotes:
        while True:
            report = await self._workers.survey(survey_process.survey, self._path)
            told = (*report.findings, *(finding for finding, _ in report.accepted), *unformed(report.to_form))
            found = await self._workers.run(margin_notes, self._path, sheet_id, report.revision, told)
            if found is not None:
                unlisted = report.errors + report.warnings - len(report.findings)
                return MarginNotes(found.revision, found.judged, unlisted)
