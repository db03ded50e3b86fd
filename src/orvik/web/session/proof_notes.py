"""The margin notes of sheets: findings of map and sheet, found by workers and kept until what is printed changes."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.store.project import Project
from orvik.usecases.proof.accepting import judged_findings
from orvik.web.session import jobs, survey_process
from orvik.web.session.latest import Dated, Latest
from orvik.web.session.workers import Workers


@dataclass(frozen=True)
class MarginNotes:
    """What is to be said of a sheet.

    Attributes
    ----------
    revision
        That it was found at: what is printed has not changed since.
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


@dataclass(frozen=True)
class Taken:
    """A proof on paper that waits to be fetched."""

    token: str
    name: str
    data: bytes


@dataclass(frozen=True)
class _Found:
    """Findings as they were found at a revision, whatever hands say of them."""

    revision: int
    findings: tuple[Finding, ...]
    unlisted: int


class ProofNotes:
    """The findings of each sheet as of what is printed. All methods run on the event loop."""

    def __init__(self, project: Project, workers: Workers, printed: Callable[[], int]) -> None:
        self._project = project
        self._workers = workers
        self._printed = printed
        self._found: dict[int | None, Latest[_Found]] = {}
        self.taken: Taken | None = None

    def put_taken(self, name: str, data: bytes) -> Taken:
        """Have a proof wait to be fetched, in the place of the one before it."""
        self.taken = Taken(secrets.token_hex(6), name, data)
        return self.taken

    async def notes(self, sheet_id: int | None) -> MarginNotes:
        """Notes as of the present; those who ask at once wait for one and the same look."""
        if sheet_id not in self._found:
            self._found[sheet_id] = Latest(f"notes of sheet {sheet_id}", partial(self._find, sheet_id), self._printed)
        found = await self._found[sheet_id].get()
        return MarginNotes(found.revision, judged_findings(self._project, found.findings), found.unlisted)

    async def _find(self, sheet_id: int | None) -> Dated[_Found]:
        while True:
            report = await self._workers.survey(survey_process.survey, self._project.path)
            told = (*report.told, *report.unformed)
            found = await self._workers.run(jobs.found_on, self._project.path, sheet_id, report.revision, told)
            if found is not None:
                return Dated(report.revision, _Found(report.revision, tuple(found), report.untold))
