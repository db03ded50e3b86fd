"""The axis of a minor fold was there as two kinds; a project that names either is whole under the one that stayed."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import pytest

from orvik.core.errors import FeatureRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import Feature
from orvik.core.features.kind import KINDS, NOTED
from orvik.core.features.phrases import KindNames
from orvik.core.labels.label_rule import LabelRule
from orvik.core.sheet.templates.kept import KeptTemplate
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.emphasis import Emphasis
from orvik.core.symbols.joined_kinds import JOINED, SYMBOLS
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.shared_book import SharedBook, read_shared_book
from orvik.core.symbols.symbol_rule import AttributeTest, SymbolRule
from orvik.store import rows
from orvik.store.geometry import add_functions
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.tables import emphasis, labels, symbol_book, symbol_rules
from orvik.usecases.compile.kinds import add_kind
from orvik.usecases.proof.accepting import accept, judged_findings
from orvik.usecases.proof.proof import all_findings
from tests.store.forms.backwards import back_to_13

NEW, OLD = "fold_axis", "minor_fold"
# As texts of the file had them, in the journal with quotes within quotes; the longest first.
AS_BEFORE = (
    *(
        (comma.join(f"{quote}{symbol}{quote}" for symbol in SYMBOLS[OLD]), f"{quote}{OLD}{quote}")
        for quote in ('"', '\\"')
        for comma in (",", ", ")
    ),
    (SYMBOLS[OLD][0], OLD),
    (NEW, OLD),
)
DRAWN = DrawnSymbol("axis_here", "points", "Axis here", (Piece("circle", width=0.2),), worn_by=SYMBOLS[OLD])
LOOK = SymbolRule("points", NEW, (AttributeTest("inclination", "above", "40"),), look="drawn", worn="axis_here")
WORN = SymbolRule("points", "mineral_lineation", (AttributeTest("note", "contains", "axis"),), look="kind", worn=NEW)
EMPHASIS = Emphasis("Folds", ranks={f"kind {NEW}": "subject"})
LABEL = LabelRule("points", NEW, "{inclination}", 6.0)


def test_what_is_gone_is_named_nowhere_in_the_book() -> None:
    book = standard()
    assert not JOINED.keys() & KINDS.keys()
    assert set(JOINED.values()) <= KINDS.keys()
    assert {symbol.id for symbol in book.symbols}.isdisjoint(SYMBOLS)
    for old, now in SYMBOLS.items():
        assert now == tuple(symbol.id for symbol in book.by_kind["points", JOINED[old]])
    names = KindNames.of(NOTED)
    assert names.read("minor fold").kind == names.read("Fold axes").kind == NEW


def full(path: Path) -> None:
    """Name the kind in all places where a project can."""
    with opened_for_writing(path) as project:
        point = Feature("points", project.feature("lines", 1).geometry.interpolate(50), NEW)
        point = point.changed(azimuth=59.0, inclination=61.0, capture_scale=90_000)
        project.apply("draw", [rows.feature_change(point, project.srs_id)])
        mine = ("points", max(project.features("points").ids.tolist()))
        axis = next(f for f in all_findings(project) if f.rule == "coarse" and mine in f.features)
        accept(project, [axis], "As it is.", "HQ")
        sheet = project.sheets()[0]
        part = next(p for p in project.parts(sheet.id) if p.kind == "explanation")
        keys = [f"symbol {SYMBOLS[OLD][0]}", f"symbol {SYMBOLS[OLD][0]}, questionable"]
        edits = {"order": keys, keys[0]: {"name": "Axis"}, keys[1]: {"hidden": True}}
        settings = json.dumps({**part.settings.to_dict(), "edits": edits}, ensure_ascii=False, sort_keys=True)
        project.apply(
            "all",
            [
                Change("pens", None, {"kind": NEW, "certainty": "certain", "key": "q", "position": 1}),
                labels.rule_change(None, LABEL),
                symbol_book.drawn_change(None, DRAWN, 1),
                symbol_rules.rule_change(None, LOOK, 1),
                symbol_rules.rule_change(None, WORN, 2),
                emphasis.emphasis_change(None, EMPHASIS, 9),
                Change("stations", None, {"name": "S1", "x": 0.0, "y": 0.0, "kind": NEW}),
                Change("parts", part.id, {"settings": settings}),
            ],
        )


def dumped(path: Path) -> dict[str, list[tuple[object, ...]]]:
    """All rows of a project's tables, JSON as what it says."""

    def read(value: object) -> object:
        if isinstance(value, str) and value[:2] in ('{"', "[{", "[["):
            return read(json.loads(value))
        if isinstance(value, dict):
            return {name: read(held) for name, held in value.items()}
        return [read(one) for one in value] if isinstance(value, list) else value

    with closing(sqlite3.connect(path)) as file:
        names = [row[0] for row in file.execute("SELECT table_name FROM gpkg_contents")]
        return {
            name: [tuple(map(read, row)) for row in file.execute(f"SELECT * FROM {name}")]
            for name in names
            # Nothing was drawn on sections before form 19.
            if name not in ("forms", "rests", "stack") and not name.startswith("section_")
        }


def as_before(path: Path) -> None:
    """Put the old name into every text of the file, and say that it is of form 12."""
    with closing(sqlite3.connect(path)) as file:
        add_functions(file)
        for (table,) in file.execute("SELECT table_name FROM gpkg_contents WHERE table_name != 'sections'").fetchall():
            for column in [r[1] for r in file.execute(f"PRAGMA table_info({table})") if r[2] == "TEXT"]:
                for new, old in AS_BEFORE:
                    file.execute(f"UPDATE {table} SET {column} = replace({column}, ?, ?)", (new, old))
        back_to_13(file)
        file.execute("UPDATE forms SET id = 12")
        file.commit()


def test_a_project_that_names_it_everywhere_reads_as_if_written_today(demo: Path) -> None:
    full(demo)
    before = dumped(demo)
    named = {table for table, held in before.items() if NEW in repr(held)}
    assert named >= {
        "points",
        "pens",
        "label_rules",
        "symbols",
        "symbol_rules",
        "emphases",
        "stations",
        "parts",
        "journal",
    }
    assert "acceptances" in named
    as_before(demo)
    with closing(sqlite3.connect(demo)) as file:
        assert file.execute("SELECT count(*) FROM points WHERE kind = ?", (OLD,)).fetchone()[0] > 1
    with opened_for_writing(demo) as project:
        assert "coarse" in {finding.rule for finding, _ in judged_findings(project, all_findings(project)).accepted}
    after = dumped(demo)
    assert after == before
    with opened_for_writing(demo) as project:
        for _ in range(3):
            project.undo()
        assert not project.label_rules()
        for _ in range(3):
            project.redo()
    assert {k: v for k, v in dumped(demo).items() if k != "journal"} == {
        k: v for k, v in before.items() if k not in ("journal",)
    }


def test_a_label_rule_of_either_kind_leaves_that_of_the_one_that_stayed(project: Project) -> None:
    project.apply("one", [labels.rule_change(None, LABEL)])
    project.apply("other", [labels.rule_change(None, LabelRule("points", "cleavage", "{azimuth}", 7.0))])
    path = project.path
    project.close()
    with closing(sqlite3.connect(path)) as file:
        file.execute("UPDATE label_rules SET kind = ? WHERE kind = 'cleavage'", (OLD,))
        file.execute("UPDATE journal SET changes = replace(changes, 'cleavage', ?)", (OLD,))
        back_to_13(file)
        file.execute("UPDATE forms SET id = 12")
        file.commit()
    with opened_for_writing(path) as opened:
        assert labels.label_rules(opened)["points", NEW] == LABEL
        for _ in range(2):
            opened.undo()
        assert not opened.label_rules()
        for _ in range(2):
            opened.redo()
        assert labels.label_rules(opened)["points", NEW] == LABEL


@pytest.mark.parametrize(("kind", "worn"), [(OLD, NEW), (NEW, OLD)])
def test_a_condition_that_gave_the_one_the_look_of_the_other_spoils_nothing(
    project: Project, kind: str, worn: str
) -> None:
    """It would now say that the kind looks like itself, which no condition may: it is left, and speaks of nothing."""
    project.apply("rule", [symbol_rules.rule_change(None, replace(WORN, kind="cleavage", worn="bedding"), 1)])
    path = project.path
    project.close()
    with closing(sqlite3.connect(path)) as file:
        add_functions(file)
        for table, column in (("symbol_rules", "kind"), ("symbol_rules", "body"), ("journal", "changes")):
            for word, put in (("cleavage", kind), ("bedding", worn)):
                file.execute(f"UPDATE {table} SET {column} = replace({column}, ?, ?)", (word, put))
        back_to_13(file)
        file.execute("UPDATE forms SET id = 12")
        file.commit()
    with opened_for_writing(path) as opened:
        assert opened.faults() == []
        ((_, rule),) = symbol_rules.rule_rows(opened)
        assert (rule.kind, rule.worn) == (kind, worn)
        assert not symbol_book.symbol_book_of(opened).conditional
        opened.undo()
        assert not symbol_rules.rule_rows(opened)
        opened.redo()
        assert symbol_rules.rule_rows(opened)


def test_symbol_books_and_templates_of_before_are_read(demo: Path) -> None:
    book = SharedBook("Book", symbols=(DRAWN,), emphases=(EMPHASIS,), conditions=(LOOK, WORN))
    text = json.dumps(json.loads(book.text))
    for new, old in AS_BEFORE:
        text = text.replace(new, old)
    assert OLD in text
    assert NEW not in text
    assert read_shared_book(text) == book
    # What another symbol of the book wears already, this one does not.
    wearing = DrawnSymbol("other", "points", "Other", DRAWN.pieces, worn_by=SYMBOLS[OLD][1:2])
    both = json.dumps(json.loads(SharedBook("Book", symbols=(wearing, DRAWN)).text))
    for new, old in AS_BEFORE[:4]:
        both = both.replace(new, old)
    first, second = read_shared_book(both).symbols
    assert (first.worn_by, second.worn_by) == (wearing.worn_by, (SYMBOLS[OLD][0], SYMBOLS[OLD][2]))
    full(demo)
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0]
        made = KeptTemplate.of("One", sheet, project.parts(sheet.id), project.name, project.crs.text)
    old_text = made.to_text()
    for new, old in AS_BEFORE:
        old_text = old_text.replace(new, old)
    assert old_text != made.to_text()
    assert KeptTemplate.from_text("One", old_text) == KeptTemplate.from_text("One", made.to_text())


def test_no_kind_of_ones_own_takes_the_name(project: Project) -> None:
    with pytest.raises(FeatureRefused, match="Minor fold is Fold axis in the symbol book"):
        add_kind(project, CustomKind(OLD, "Minor fold", "points", "#AA3377"))
