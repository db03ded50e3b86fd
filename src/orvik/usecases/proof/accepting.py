"""Findings let stand with a reason, and rules set to rest."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from orvik.core.errors import FindingRefused, NotFound
from orvik.core.features.feature import Feature
from orvik.core.features.table import FeatureKey
from orvik.core.findings.acceptance import Acceptance, Judged, judged
from orvik.core.findings.causes import causes
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES
from orvik.core.findings.state import State, holds, state_of, written
from orvik.core.sheet.page.part import Part
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.acceptances import acceptance_change, acceptances, turned_off_rules


def judged_findings(project: ReadProject, findings: Sequence[Finding]) -> Judged:
    """Findings by what is to be done about them, as this project has it."""
    held, turned_off = acceptances(project), turned_off_rules(project)
    told = causes(findings, turned_off)
    return judged(told, held, turned_off.keys(), lambda finding, one: holds(one.state, state_now(project, finding)))


def state_now(project: Reader, finding: Finding) -> State:
    """What a finding rests on, as the project has it now."""

    def feature(key: FeatureKey) -> Feature | None:
        return project.whole(key[0], [key[1]]).get(key[1])

    def part(number: int) -> Part | None:
        try:
            return project.part(number)
        except NotFound:
            return None

    units = project.units_by_code() if finding.units else {}
    return state_of(finding, feature, units.get, part)


def accept(project: Project, findings: Sequence[Finding], reason: str, signed: str) -> Entry:
    """Let findings stand, with one reason for all.

    Raises
    ------
    FindingRefused
        There is no reason, or nobody has signed.
    """
    before = acceptances(project)
    made = [
        Acceptance(
            finding.key,
            written(state_now(project, finding)),
            finding.message,
            " ".join(reason.split()),
            " ".join(signed.split()),
            date.today().isoformat(),
            before[finding.key].id if finding.key in before else None,
        )
        for finding in findings
    ]
    what = "a finding" if len(made) == 1 else f"{len(made)} findings"
    return project.apply(f"accept {what}", [acceptance_change(one) for one in made])


def take_back(project: Project, acceptance_id: int) -> Entry:
    """Let an accepted finding be told again; raises NotFound where it is not accepted."""
    if not any(held.id == acceptance_id for held in acceptances(project).values()):
        raise NotFound("That is not accepted any more; look at the list as it is now.")
    return project.apply("withdraw an acceptance", [Change("acceptances", acceptance_id, None)])


def turned_off(project: Reader) -> frozenset[str]:
    """The names of the rules that rest."""
    return frozenset(turned_off_rules(project))


def set_turned_off(project: Project, rule: str, rests: bool) -> Entry | None:
    """Set a rule to rest for this project, or let it speak again; None where it is so already.

    Raises
    ------
    FindingRefused
        There is no such rule.
    """
    if rule not in RULES:
        raise FindingRefused(f"There is no rule “{rule[:40]}”.")
    held = turned_off_rules(project).get(rule)
    if rests == (held is not None):
        return None
    change = Change("turned_off_rules", held, None if held is not None else {"rule": rule})
    words = f"let the rule “{RULES[rule].title}” {'rest' if rests else 'speak again'}"
    return project.apply(words[:200], [change])
