"""Kinds: the data says what each means, the symbol book has a symbol for each, and no rule names one."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

import orvik
from orvik.core.features.kind import BOUNDING, KINDS, NOTED, SHEET_BORDER, USUAL, kind_of, kind_words
from orvik.core.features.phrases import KindNames
from orvik.core.features.table import TABLES
from orvik.core.symbols.book_file import standard

SOURCE = Path(orvik.__file__).parent
# The demo draws features, and that is data. What a file of an earlier form held stays written as it was.
MAY_NAME = ("demo/", "store/forms/steps.py", "core/symbols/joined_kinds.py")


def test_every_kind_has_a_symbol_and_every_symbol_a_meaning() -> None:
    book = standard()
    for table in TABLES:
        assert book.kinds(table) == {kind.name for kind in KINDS.values() if kind.table == table}


def test_every_kind_is_called_what_the_symbol_book_calls_it() -> None:
    """In sentences, too: no name of a table's is shown where the book has another."""
    book = standard()
    for kind in KINDS.values():
        assert kind.table is not None
        title = book.kind_title(kind.table, kind.name)
        assert kind_words(kind.name) == title[:1].lower() + title[1:], kind.name


# What turns other names than those of kinds into words: papers, columns, settings; and keys as they once were.
MAY_TURN_UNDERSCORES = (
    "core/features/kind.py",
    "core/sheet/page/form_settings.py",
    "core/sheet/page/paper.py",
    "store/forms/renaming.py",
    "usecases/symbols/unit_table.py",
)


def test_only_one_place_turns_the_name_of_a_kind_into_words() -> None:
    """Python and templates ask ``kind_words``; what stands without it would show a name of a table's."""
    turns = re.compile(r"""replace\(["']_["'], *["'] ["']\)""")
    found = {
        path.relative_to(SOURCE).as_posix()
        for path in (*SOURCE.rglob("*.py"), *SOURCE.rglob("*.html"), *SOURCE.rglob("*.js"))
        if turns.search(path.read_text(encoding="utf-8"))
    }
    assert found == set(MAY_TURN_UNDERSCORES)


def test_readings_and_symbols_agree() -> None:
    """What is read turns, and what has a dip has a symbol for every dip there can be, and for none other."""
    book = standard()
    for kind in KINDS.values():
        symbols = book.by_kind[kind.table or "points", kind.name]
        assert any(symbol.turns for symbol in symbols) is bool(kind.reading), kind.name
        for dip in (0.0, 0.4, 12.0, 45.0, 89.4, 89.6, 90.0) if kind.inclined else ():
            assert book.symbol("points", kind.name, "certain", dip).kind == kind.name
            assert "without" not in book.symbol("points", kind.name, "certain", dip).title
        if kind.table == "lines":
            assert (len({symbol.certainty for symbol in symbols}) > 1) is kind.graded, kind.name


def test_an_unknown_kind_means_nothing() -> None:
    unknown = kind_of("left by another program")
    assert not unknown.bounds_units
    assert not unknown.may_end_open
    assert unknown.table is None
    assert unknown.graded


def test_what_a_map_needs_is_there() -> None:
    """Common practice: a contact must end on something and part two units; a fault may die out and cuts contacts."""
    contact, fault = kind_of("contact"), kind_of("fault")
    assert contact.parts_units
    assert not contact.may_end_open
    assert fault.may_end_open
    assert fault.runs_through
    assert {"contact", "fault", SHEET_BORDER} <= BOUNDING
    assert kind_of(kind_of("dyke").margin).table == "lines"
    assert set(USUAL) == set(TABLES)


@pytest.mark.parametrize(
    ("word", "kind"),
    [
        ("Bedding", "bedding"),
        ("S0", "bedding"),
        ("fault plane", "fault_plane"),
        ("Fault-Plane", "fault_plane"),
        ("?", None),
    ],
)
def test_words_of_notebooks(word: str, kind: str | None) -> None:
    assert KindNames.of(NOTED).read(word).kind == kind


def test_no_rule_names_a_kind() -> None:
    """What a kind means is asked of its data. (The word border also names a layer of ink and a place for refusals.)"""
    names = set(KINDS) - {"border"}
    named = []
    for path in sorted(SOURCE.rglob("*.py")):
        where = path.relative_to(SOURCE).as_posix()
        if where.startswith(MAY_NAME):
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Constant) and node.value in names:
                named.append(f"{where}:{node.lineno} {node.value}")
    allowed = {"unit_area", "unit_tag", "section_line"}
    # A role is spelled like the one kind that has it, in the one file that reads the data.
    assert [
        place for place in named if not (place.startswith("core/features/kind.py") and place.split()[1] in allowed)
    ] == []
