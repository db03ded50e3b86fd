"""Findings let stand until what they speak of changes; rules that rest."""

from __future__ import annotations

from pathlib import Path

import pytest

from orvik.core.errors import FindingRefused, NotFound
from orvik.core.findings.finding import Finding
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.usecases.proof.accepting import accept, judged_findings, set_turned_off, take_back
from orvik.usecases.proof.proof import all_findings
from tests.proof import seeds


def coarse_of(project: Project) -> Finding:
    return next(f for f in all_findings(project) if f.rule == "coarse")


def test_it_stands_until_what_it_speaks_of_changes(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        found = coarse_of(project)
        accept(project, [found], "  Taken from the old sheet as it is. ", "HQ")
        judged = judged_findings(project, all_findings(project))
        assert found.key not in [f.key for f in judged.open]
        ((_, held),) = judged.accepted
        assert (held.reason, held.signed) == ("Taken from the old sheet as it is.", "HQ")
        # Something else changes, and it stands.
        seeds.a_reading_logged_twice(project)
        assert judged_findings(project, all_findings(project)).accepted
        # What it speaks of changes, and it comes back, with what was said before.
        (key,) = found.features
        seeds.keep(project, project.feature(*key).changed(capture_scale=90_000))
        judged = judged_findings(project, all_findings(project))
        assert not judged.accepted
        assert judged.returned[found.key].reason.startswith("Taken")
        # Undone, it is as it was when it was accepted.
        project.undo()
        assert judged_findings(project, all_findings(project)).accepted
        project.redo()
        # Signed again, there is still one of it.
        accept(project, [coarse_of(project)], "Looked at again.", "HQ")
        assert len(project.acceptances()) == 1


def test_accepting_is_one_entry_that_can_be_undone_and_taken_back(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        before = project.revision
        entry = accept(project, [coarse_of(project)], "As it is.", "HQ")
        assert project.revision == before + 1
        project.undo()
        assert not judged_findings(project, all_findings(project)).accepted
        project.redo()
        ((_, held),) = judged_findings(project, all_findings(project)).accepted
        assert held.id is not None
        take_back(project, held.id)
        assert not judged_findings(project, all_findings(project)).accepted
        with pytest.raises(NotFound):
            take_back(project, held.id)
        assert entry.label == "accept a finding"


@pytest.mark.parametrize(("reason", "signed"), [("", "HQ"), ("  ", "HQ"), ("why", " "), ("x" * 601, "HQ")])
def test_nobody_accepts_without_a_reason_and_a_name(demo: Path, reason: str, signed: str) -> None:
    with opened_for_writing(demo) as project:
        revision = project.revision
        with pytest.raises(FindingRefused):
            accept(project, [coarse_of(project)], reason, signed)
        assert project.revision == revision


def test_a_part_that_moves_brings_its_finding_back(corner: Path) -> None:
    with opened_for_writing(corner) as project:
        sheet = project.sheets()[0].id or 0
        seeds.letters_that_do_not_stand_out(project)
        faint = next(f for f in all_findings(project, sheet) if f.rule == "faint_letters")
        accept(project, [faint], "Meant to be quiet.", "HQ")
        assert faint.key in [f.key for f, _ in judged_findings(project, all_findings(project, sheet)).accepted]
        part = project.part(faint.parts[0])
        seeds.put(project, part, text="Hardly seen, too")
        judged = judged_findings(project, all_findings(project, sheet))
        assert faint.key in judged.returned


def test_a_rule_that_rests_is_counted_and_not_told(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        assert set_turned_off(project, "coarse", True) is not None
        assert set_turned_off(project, "coarse", True) is None
        judged = judged_findings(project, all_findings(project))
        assert "coarse" not in [f.rule for f in judged.open]
        assert judged.turned_off == {"coarse": 1}
        set_turned_off(project, "coarse", False)
        assert not judged_findings(project, all_findings(project)).turned_off
        with pytest.raises(FindingRefused):
            set_turned_off(project, "no such rule", True)


def test_what_is_accepted_on_one_sheet_is_not_on_another(corner: Path) -> None:
    with opened_for_writing(corner) as project:
        first, second, _ = (sheet.id or 0 for sheet in project.sheets())
        for sheet in (first, second):
            title = next(part for part in project.parts(sheet) if part.kind == "title")
            project.apply("seed", [Change("parts", title.id, None)])
        missing = {s: next(f for f in all_findings(project, s) if f.about.startswith("Title")) for s in (first, second)}
        accept(project, [missing[first]], "The book has it.", "HQ")
        for sheet, there in ((first, False), (second, True)):
            judged = judged_findings(project, all_findings(project, sheet))
            assert (missing[sheet].key in [f.key for f in judged.open]) is there
