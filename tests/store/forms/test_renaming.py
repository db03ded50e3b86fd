"""Signs, strength and themes of form 13 are symbols, opacity and emphases: nothing else of a project changes."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from orvik.core.findings.finding import Finding
from orvik.core.sheet.templates.kept import KeptTemplate
from orvik.core.symbols.renamed import NAMES, renamed
from orvik.core.symbols.shared_book import SharedBook, read_shared_book
from orvik.exchange.features import unit_table
from orvik.store.geometry import add_functions
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.store.rows import feature_change
from orvik.usecases.proof.accepting import accept, judged_findings
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.templates import keep_template
from orvik.usecases.symbols.shared_books import book_of
from tests.store.forms.backwards import back_to_13, old_words
from tests.store.forms.test_joining_kinds import dumped, full


def names_in(path: Path) -> set[str]:
    """Every key of every JSON object in a file, but those that somebody has given."""
    found: set[str] = set()

    def walk(value: object) -> None:
        if isinstance(value, str) and value[:2] in ('{"', "[{", "[["):
            walk(json.loads(value))
        elif isinstance(value, dict):
            found.update(value)
            for name, held in value.items():
                if name != "fields":
                    walk(held)
        elif isinstance(value, list):
            for one in value:
                walk(one)

    with closing(sqlite3.connect(path)) as file:
        for (table,) in file.execute("SELECT table_name FROM gpkg_contents").fetchall():
            found.update(row[1] for row in file.execute(f"PRAGMA table_info({table})"))
            for row in file.execute(f"SELECT * FROM {table}"):
                for value in row:
                    walk(value)
    return found


@pytest.fixture
def whole(demo: Path) -> Path:
    """The demo with something of each sort, and findings accepted of units and of parts."""
    full(demo)
    with opened_for_writing(demo) as project:
        keep_template(project, project.sheets()[0].id or 0, "House style", for_all=False)
        accept(project, findings_of_parts_and_units(project), "As it is.", "HQ")
    return demo


def findings_of_parts_and_units(project: Project) -> list[Finding]:
    """One of two units and one of a panel, whose acceptances rest on columns and settings that are called otherwise."""
    one, other = (unit.code for _, unit in project.units()[:2])
    panel = next(part for part in project.parts(project.sheets()[0].id or 0) if part.kind == "map_panel")
    return [
        Finding("alike", "warning", "They are alike.", None, units=(one, other), about="colours"),
        Finding("rough_picture", "warning", "It is too small.", None, parts=(panel.id or 0,)),
    ]


def accepted_in(path: Path) -> set[str]:
    """The keys of what is accepted still."""
    with opened_for_writing(path) as project:
        found = [*all_findings(project), *findings_of_parts_and_units(project)]
        return {finding.key for finding, _ in judged_findings(project, found).accepted}


def test_a_project_of_form_13_reads_as_if_written_today(whole: Path) -> None:
    before, spoken = dumped(whole), names_in(whole)
    assert not spoken & NAMES.keys()
    assert spoken >= {"symbol_scale", "opacity", "pattern_opacity", "symbol"}
    accepted = accepted_in(whole)
    assert {key.split(":")[0] for key in accepted} == {"alike", "rough_picture", "coarse"}
    with closing(sqlite3.connect(whole)) as file:
        add_functions(file)
        back_to_13(file)
        file.commit()
    assert names_in(whole) >= {"sign_scale", "strength", "pattern_strength", "sign"}
    assert accepted_in(whole) == accepted
    after = dumped(whole)
    assert after.keys() == before.keys()
    for table in before:
        assert after[table] == before[table], table
    with opened_for_writing(whole) as project:
        taken = [project.undo() for _ in range(4)]
        for _ in taken:
            project.redo()
    again = dumped(whole)
    assert {t: rows for t, rows in again.items() if t != "journal"} == {
        t: rows for t, rows in before.items() if t != "journal"
    }


def test_what_was_accepted_of_the_letters_of_a_note_stays_so(demo: Path) -> None:
    """Its finding was known by what the kind was called, and that changed: a fossil is a fossil locality."""
    with opened_for_writing(demo) as project:
        fossils = project.features("points")
        number = int(fossils.ids[list(fossils.columns["kind"]).index("fossil")])
        fossil = project.feature("points", number)
        project.apply("write", [feature_change(fossil.changed(note="F \u0e01"), project.srs_id)])
        accept(project, [f for f in all_findings(project) if f.rule == "letters"], "No face has it.", "HQ")
    accepted = accepted_in(demo)
    assert f"letters::note of points {number}" in accepted
    with closing(sqlite3.connect(demo)) as file:
        add_functions(file)
        back_to_13(file)
        was = (f"letters::note of points {number}", f"letters::The note of fossil {number}")
        for table, column in (("acceptances", "key"), ("journal", "changes")):
            file.execute(f"UPDATE {table} SET {column} = replace({column}, ?, ?)", was)
        assert file.execute("SELECT count(*) FROM acceptances WHERE key = ?", (was[1],)).fetchone() == (1,)
        file.commit()
    assert accepted_in(demo) == accepted
    with opened_for_writing(demo) as project:
        project.undo()
        project.redo()
    assert accepted_in(demo) == accepted


def test_symbol_books_templates_and_tables_of_before_are_read(whole: Path) -> None:
    with opened_for_reading(whole) as project:
        given = book_of(project)
        kept = project.templates()[0]
        units = [unit for _, unit in project.units()]
    assert given.symbols
    assert given.emphases
    assert given.conditions
    old = json.dumps(old_words(json.loads(given.text)))
    assert all(word in old for word in ('"signs"', '"themes"'))
    assert read_shared_book(old) == read_shared_book(given.text)
    assert isinstance(read_shared_book(old), SharedBook)
    text = kept["sheet"]
    before = json.dumps(old_words(json.loads(text)))
    assert '"sign_scale"' in before
    assert KeptTemplate.from_text("x", before) == KeptTemplate.from_text("x", text)
    table = unit_table.written(units)
    assert "pattern_opacity" in table
    read = unit_table.read(table.replace("pattern_opacity", "pattern_strength").encode(), ())
    assert [row.unit for row in read] == [row.unit for row in unit_table.read(table.encode(), ())]


def test_what_somebody_has_named_so_stays() -> None:
    held = {"fields": {"sign": "worn", "theme": "blue"}, "text": "sign 4", "strength": 0.5}
    assert renamed(held) == {"fields": {"sign": "worn", "theme": "blue"}, "text": "sign 4", "opacity": 0.5}
