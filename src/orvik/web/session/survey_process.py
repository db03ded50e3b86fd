"""One process that keeps the survey of open projects, so that checking never holds up a hand."""

from __future__ import annotations

import pickle
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from orvik.core.findings.areas.unformed import unformed
from orvik.core.wording import unbroken
from orvik.store.read_project import opened_for_reading

if TYPE_CHECKING:
    from orvik.core.findings.finding import Finding
    from orvik.usecases.compile.survey import SurveyFollower

# Projects whose survey is kept; the one used longest ago is given up first.
MOST_FOLLOWERS = 4
# So many findings are listed; nobody reads more before fixing some.
LISTED = 300
_followers: dict[Path, SurveyFollower] = {}


@dataclass(frozen=True)
class SurveyReport:
    """The findings at a revision, the first of them one by one, and how far the units are formed."""

    revision: int
    errors: int
    warnings: int
    findings: tuple[Finding, ...]
    to_form: int
    # What a sheet is told of these.
    unformed: tuple[Finding, ...] = ()
    # Faces in all, and those that wait for a tag.
    faces: int = 0
    untagged: int = 0
    # All that was found, whatever hands have said of it: the first of them, and how many more there are.
    told: tuple[Finding, ...] = ()
    untold: int = 0

    def with_more(self, findings: Sequence[Finding]) -> SurveyReport:
        """The report with warnings that were found elsewhere."""
        if not findings:
            return self
        room = max(0, LISTED - len(self.findings))
        more = tuple(findings)[:room]
        return replace(self, warnings=self.warnings + len(findings), findings=(*self.findings, *more))

    @property
    def message(self) -> dict[str, Any]:
        """What pages are told."""
        return {
            "do": "findings",
            "revision": self.revision,
            "errors": self.errors,
            "warnings": self.warnings,
            "open": self.to_form,
            "formed": formed_words(self.to_form, self.faces, self.untagged),
            "findings": [{**f.json, "key": f.key, "message": unbroken(f.message)} for f in self.findings],
        }


def survey(path: Path) -> SurveyReport:
    """Look at a project as it is now; runs in the process of the survey."""
    from orvik.usecases.proof.accepting import judged_findings
    from orvik.usecases.proof.proof import in_order, map_findings

    with opened_for_reading(path) as project, project.snapshot():
        with _follower(path) as follower:
            found = follower.follow(project)
            plan = found.plan()
            if not plan.count:
                found.formed(plan.takings)
            told = in_order(map_findings(project, found, plan))
            judged = judged_findings(project, told)
        return SurveyReport(
            project.revision,
            judged.errors,
            len(judged.open) - judged.errors,
            judged.open[:LISTED],
            plan.count,
            tuple(unformed(plan)),
            len(found.faces),
            _untagged(found.findings),
            tuple(told[:LISTED]),
            max(0, len(told) - LISTED),
        )


def formed_words(to_form: int, faces: int, untagged: int) -> str:
    """How far the units are formed, in a few words."""
    if to_form:
        return f"{to_form} to form"
    if not faces:
        return "no face is closed"
    return f"{untagged} without a tag" if untagged else "formed"


def _untagged(findings: Iterable[Finding]) -> int:
    return sum(finding.rule == "untagged" for finding in findings)


def plan(path: Path) -> bytes:
    """What forming units would do now, the revision that it is true at, and what is not formed; pickled once."""
    from orvik.usecases.compile.forming import FormingReport

    with opened_for_reading(path) as project, project.snapshot(), _follower(path) as follower:
        found = follower.follow(project)
        first = found.plan()
        whole = project.whole("areas", [f.id for f in first.kept if f.id is not None])
        made = found.plan(whole)
        if made.takings:
            first = found.plan(take=True)
            whole = project.whole("areas", [f.id for f in first.kept if f.id is not None])
        taking = found.plan(whole, take=True) if made.takings else None
        report = FormingReport(made, project.revision, len(found.faces), _untagged(found.findings), taking)
        return pickle.dumps(report)


@contextmanager
def _follower(path: Path) -> Iterator[SurveyFollower]:
    """The survey of a project; after an error it may stand half way, and is given up."""
    from orvik.usecases.compile.survey import SurveyFollower
    from orvik.usecases.structure.map_heights import HeightsFollower

    found = _followers.pop(path, None) or SurveyFollower(HeightsFollower())
    yield found
    _followers[path] = found
    while len(_followers) > MOST_FOLLOWERS:
        del _followers[next(iter(_followers))]
