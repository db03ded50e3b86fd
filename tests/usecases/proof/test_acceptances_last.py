"""What was accepted stays accepted for as long as what it rests on is there, over every change of the code and file."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.areas.unformed import unformed
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES
from orvik.core.findings.state import read
from orvik.store.geometry import add_functions
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.usecases.compile.survey import survey_of
from orvik.usecases.proof.accepting import accept, judged_findings
from orvik.usecases.proof.proof import all_findings
from tests.proof import seeds
from tests.store.forms.backwards import back_to_13

# The name of a rule, and whether its acceptance outlives the step from form 10, whose states were sums over texts.
TIED = {"coarse": True, "dangle": True, "untagged": False}


def of_rule(project: Project, rule: str) -> Finding:
    return next(f for f in all_findings(project) if f.rule == rule)


def accepted(project: Project) -> set[str]:
    return {finding.rule for finding, _ in judged_findings(project, all_findings(project)).accepted}


def test_every_rule_says_what_it_reads() -> None:
    for rule in RULES.values():
        assert all(hasattr(Feature("points", shapely.Point(), "bedding"), n.partition(".")[0]) for n in rule.features)
        assert set(rule.units) <= MapUnit.__dataclass_fields__.keys()


def as_of_form_10(path: Path) -> None:
    """Put the states back to what they were: sums that nobody can read."""
    connection = sqlite3.connect(path, isolation_level=None)
    add_functions(connection)
    back_to_13(connection)
    old = hashlib.sha256(b"of a text").hexdigest()
    connection.execute("UPDATE acceptances SET state = ?", (old,))
    for number, changes in connection.execute("SELECT id, changes FROM journal").fetchall():
        packed = json.loads(changes)
        for table, _, *states in packed:
            for row in states:
                if table == "acceptances" and row is not None:
                    row["state"] = old
        connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (json.dumps(packed), number))
    connection.execute("UPDATE forms SET id = 10")
    connection.close()


def test_every_migration_and_undo_and_redo_leave_it_accepted(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        seeds.a_face_without_a_tag(project)
        for rule in TIED:
            accept(project, [of_rule(project, rule)], "As it is.", "HQ")
        assert accepted(project) == set(TIED)
        project.undo()
        project.redo()
        assert accepted(project) == set(TIED)
    as_of_form_10(demo)
    with opened_for_writing(demo) as project:
        kept = {rule for rule, tied in TIED.items() if tied}
        judged = judged_findings(project, all_findings(project))
        assert {finding.rule for finding, _ in judged.accepted} == kept
        # What cannot be tied to anything is told again, and listed with what had been said of it.
        assert {key.partition(":")[0] for key in judged.returned} == set(TIED) - kept
        for _ in TIED:
            project.undo()
        assert not accepted(project)
        for _ in TIED:
            project.redo()
        assert accepted(project) == kept
        # And what it is tied to voids it as ever.
        (key,) = of_rule(project, "coarse").features
        seeds.keep(project, project.feature(*key).changed(capture_scale=90_000))
        assert "coarse" not in accepted(project)
    # Opened again nothing is taken over a second time.
    with opened_for_writing(demo) as project:
        assert accepted(project) == kept - {"coarse"}


def test_what_a_rule_does_not_read_voids_nothing(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        found = of_rule(project, "coarse")
        accept(project, [found], "As it is.", "HQ")
        (key,) = found.features
        seeds.keep(project, project.feature(*key).changed(note="looked at", certainty="approximate"))
        assert accepted(project) == {"coarse"}
        # Another sentence for the same thing is the same finding.
        others = [replace(f, message=f"{f.message} Or so.") for f in all_findings(project)]
        assert [f.rule for f, _ in judged_findings(project, others).accepted] == ["coarse"]
        # A column that the rule reads later is not missed.
        (row,) = project.acceptances()
        state = read(row["state"])
        assert state is not None
        (name,) = [name for name in state if name.startswith(key[0])]
        assert set(state[name] or ()) == {"geometry", "kind", "capture_scale"}


def test_unformed_is_accepted_for_these_areas_only(demo: Path) -> None:
    with opened_for_writing(demo) as project:

        def found() -> list[Finding]:
            return unformed(survey_of(project).plan())

        seeds.a_contact_whose_areas_are_not_formed(project)
        (one,) = found()
        assert one.at is not None
        (tag,) = (t for t in survey_of(project).plan().kept if t.geometry.contains(shapely.Point(one.at)))
        assert tag.map_unit == "Kw"
        accept(project, [one], "Its tag is to come.", "HQ")
        assert judged_findings(project, found()).accepted
        seeds.keep(project, deleted=(("areas", seeds.largest_area(project, "Jh").id or 0),))
        assert one.key in judged_findings(project, found()).returned
        project.undo()
        assert judged_findings(project, found()).accepted
    # It had no place, and was called so, until form 13.
    with closing(sqlite3.connect(demo)) as file:
        file.execute("UPDATE acceptances SET key = 'unformed::'")
        file.execute("UPDATE journal SET changes = replace(changes, ?, 'unformed::')", (one.key,))
        add_functions(file)
        back_to_13(file)
        file.execute("UPDATE forms SET id = 12")
        file.commit()
    with opened_for_writing(demo) as project:
        assert judged_findings(project, found()).accepted
        for act in (project.undo, project.redo):
            act()
        assert judged_findings(project, found()).accepted


def test_a_face_without_a_tag_is_another_one_when_its_edge_is_another(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        seeds.a_face_without_a_tag(project)
        found = of_rule(project, "untagged")
        accept(project, [found], "To be walked.", "HQ")
        assert "untagged" in accepted(project)
        others = [replace(f, facts=("0" * 32,)) if f.key == found.key else f for f in all_findings(project)]
        assert found.key in judged_findings(project, others).returned


def test_beds_against_the_order_rest_on_their_readings(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        seeds.beds_that_dip_to_the_older_unit(project)
        found = of_rule(project, "order")
        assert found.beside
        accept(project, [found], "Overturned, seen in the creek.", "HQ")
        assert "order" in accepted(project)
        table, number = found.beside[0]
        reading = project.feature(table, number)
        seeds.keep(project, reading.changed(inclination=(reading.inclination or 0.0) - 1.0))
        judged = judged_findings(project, all_findings(project))
        assert found.key in judged.returned or found.key not in [f.key for f in judged.open]
        assert found.key not in [f.key for f, _ in judged.accepted]


@pytest.mark.parametrize("text", ["", "void", "[1]", "{", "null", "7"])
def test_a_state_that_is_none_holds_for_nothing(demo: Path, text: str) -> None:
    with opened_for_writing(demo) as project:
        accept(project, [of_rule(project, "coarse")], "As it is.", "HQ")
        (row,) = project.acceptances()
        values = {name: row[name] for name in ("key", "message", "reason", "signed", "dated")}
        project.apply("seed", [Change("acceptances", row["id"], {**values, "state": text})])
        assert not accepted(project)
