"""Symbol books carried from one project to another: whole, with what differs shown first, and refused in words."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SymbolRefused
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.shared_book import VERSION, SharedBook, differences, read_shared_book
from orvik.core.symbols.symbol_rule import AttributeTest, SymbolRule
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.symbol_book import custom_kinds, drawn_symbols, symbol_book_of
from orvik.store.tables.symbol_rules import rule_change
from orvik.usecases.compile.kinds import add_kind
from orvik.usecases.symbols.drawn_symbols import begin_symbol, change_symbol, drawn_symbol, put_on
from orvik.usecases.symbols.emphasis import begin_emphasis
from orvik.usecases.symbols.shared_books import book_of, import_book
from orvik.usecases.symbols.symbol_rules import add_rule, rule_lines
from tests.examples import examples


@pytest.fixture
def made(project: Project) -> Project:
    """A project with a drawn symbol, a pattern, a kind, an emphasis, and two conditional symbols that need these."""
    begin_symbol(project, "points", "Peak")
    put_on(project, "peak", "summit")
    begin_symbol(project, "patterns", "Spots")
    field = CustomField("Flow", "choice", (FieldChoice("dry", "#111111"), FieldChoice("steady", "#222222")))
    add_kind(project, CustomKind("karst_spring", "Karst spring", "points", fields=(field,)))
    begin_emphasis(project, "Faults")
    steep = AttributeTest("inclination", "above", "70")
    add_rule(project, SymbolRule("points", "bedding", (steep,), "certain", look="drawn", worn="peak"))
    add_rule(project, SymbolRule("points", "karst_spring", (AttributeTest("Flow", "is", "dry"),), look="none"))
    return project


@pytest.fixture
def other(tmp_path: Path) -> Project:
    path = tmp_path / "other.gpkg"
    create(path, "Other", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    return Project.open(path)


def test_a_book_is_given_out_and_taken_in_whole(made: Project, other: Project) -> None:
    text = book_of(made).text
    book = read_shared_book(text)
    assert book == replace(book_of(made), kinds=tuple(replace(kind, position=1) for kind in book_of(made).kinds))
    found, same = differences(book, book_of(other))
    assert ([one.key for one in found], same) == (
        [
            *("symbols peak", "symbols spots", "kinds karst_spring", "emphases Faults"),
            "conditions bedding, certain, dip or plunge above 70",
            "conditions karst spring, Flow is dry",
        ],
        0,
    )
    import_book(other, book, [one.key for one in found])
    assert differences(book, book_of(other)) == ([], 6)
    assert [line.rule.look for line in rule_lines(other)] == ["drawn", "none"]
    stamp = symbol_book_of(other).symbol("points", "summit").stamp
    assert stamp is not None
    assert stamp.items[0].paths.xy[:, 1].min() == pytest.approx(-1.4)
    assert symbol_book_of(other).pattern("own_spots") is not None
    assert import_book(other, book, ["symbols peak"]).entry is None
    other.undo()
    assert drawn_symbols(other) == []
    assert custom_kinds(other) == []


def test_only_what_is_ticked_is_taken_and_what_differs_is_told(made: Project, other: Project) -> None:
    book = read_shared_book(book_of(made).text)
    import_book(other, book, ["symbols peak"])
    changed = replace(drawn_symbol(other, "peak"), pieces=(Piece("circle", width=0.2),))
    change_symbol(other, changed.name, lambda _: changed)
    (one, *_), same = differences(book, book_of(other))
    assert (one.key, one.there, same) == ("symbols peak", changed, 0)
    import_book(other, book, ["symbols peak", "symbols nothing"])
    assert drawn_symbol(other, "peak") == drawn_symbol(made, "peak")


def test_a_kind_that_is_another_sort_here_is_left_out(made: Project, other: Project) -> None:
    add_kind(other, CustomKind("karst_spring", "Karst spring", "lines"))
    taken = import_book(other, read_shared_book(book_of(made).text), ["kinds karst_spring", "symbols peak"])
    assert len(taken.left) == 1
    assert "kind of lines here" in taken.left[0]
    assert [symbol.name for _, symbol in drawn_symbols(other)] == ["peak"]
    assert [kind.table for _, kind in custom_kinds(other)] == ["lines"]


def test_a_symbol_never_becomes_one_of_another_family(made: Project, other: Project) -> None:
    """A unit of the other project is filled with its own pattern of that name."""
    begin_symbol(other, "patterns", "Peak")
    taken = import_book(other, read_shared_book(book_of(made).text), ["symbols peak", "symbols spots"])
    assert "drawn for points there and for patterns here" in taken.left[0]
    assert drawn_symbol(other, "peak").family == "patterns"


def test_a_symbol_of_the_book_wears_one_look(made: Project, other: Project) -> None:
    begin_symbol(other, "points", "Cairn")
    put_on(other, "cairn", "summit")
    import_book(other, read_shared_book(book_of(made).text), ["symbols peak"])
    assert drawn_symbol(other, "peak").worn_by == ("summit",)
    assert drawn_symbol(other, "cairn").worn_by == ()
    other.undo()
    assert drawn_symbol(other, "cairn").worn_by == ("summit",)


def test_a_symbol_on_condition_needs_what_it_speaks_of(made: Project, other: Project) -> None:
    book = read_shared_book(book_of(made).text)
    for key, said in (
        ("conditions bedding, certain, dip or plunge above 70", "no such look"),
        ("conditions karst spring, Flow is dry", "no such kind"),
    ):
        with pytest.raises(SymbolRefused, match=said):
            import_book(other, book, [key])
    assert rule_lines(other) == []
    import_book(other, book, ["symbols peak", "conditions bedding, certain, dip or plunge above 70"])
    assert [line.rule.worn for line in rule_lines(other)] == ["peak"]


def changed_text(made: Project, change: Any) -> str:
    whole = json.loads(book_of(made).text)
    change(whole)
    return json.dumps(whole)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda w: w.update(version=VERSION + 1), "of version 2"),
        (lambda w: w.pop("version"), "of version None"),
        (lambda w: w.update(form="something"), "not a symbol book"),
        (lambda w: w.update(symbols={}), "no list"),
    ],
)
def test_a_book_that_cannot_be_is_refused(made: Project, change: Any, said: str) -> None:
    with pytest.raises(SymbolRefused, match=said):
        read_shared_book(changed_text(made, change))


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda w: w["symbols"][0]["body"].update(pieces=[]), "needs a piece"),
        (lambda w: w["symbols"][0].pop("body"), "cannot be read"),
        (lambda w: w["symbols"][0]["body"]["pieces"][0].update(outline="red"), "not a colour"),
        (lambda w: w["symbols"].append(w["symbols"][0]), "two of this name"),
        (lambda w: w["symbols"][0].update(name="a/b"), "not a name of a symbol"),
        (lambda w: w["symbols"][0]["body"]["pieces"][0].update(reach=float("inf")), "cannot be read|not a number"),
        (lambda w: w["kinds"][0]["symbol"].update(colour="#12"), "not a colour"),
        (lambda w: w["emphases"][0]["body"].update(looks=[]), "3 ranks"),
        (lambda w: w["conditions"][0]["body"].pop("certainty") and w["conditions"][0]["body"].pop("tests"), "Say when"),
    ],
)
def test_an_entry_that_cannot_be_is_left_out_by_name(made: Project, other: Project, change: Any, said: str) -> None:
    text = changed_text(made, change)
    book = read_shared_book(text)
    assert len(book.left) == 1
    assert re.search(said, book.left[0]), book.left
    keys = [one.key for one in differences(book, book_of(other))[0]]
    assert import_book(other, book, keys).entry is not None


def random_made(project: Project, seed: int) -> None:
    """Symbols, kinds, conditions and emphases at random; then some of what they speak of goes."""
    rng = np.random.default_rng(seed)
    ids = [symbol.id for symbol in standard().symbols if symbol.table == "points" and not symbol.aid]
    for number in range(int(rng.integers(1, 4))):
        begin_symbol(project, str(rng.choice(["points", "lines", "patterns"])), f"Symbol {number}")  # type: ignore[arg-type]
    for number in range(int(rng.integers(1, 3))):
        choices = tuple(FieldChoice(f"v{n}") for n in range(int(rng.integers(1, 4))))
        add_kind(
            project,
            CustomKind(f"kind_{number}", f"Kind {number}", "points", fields=(CustomField("f", "choice", choices),)),
        )
    for _ in range(int(rng.integers(1, 6))):
        test = [
            AttributeTest("inclination", "above", str(int(rng.integers(0, 3)) * 30)),
            AttributeTest("map_unit", "is", str(rng.choice(["Qt", "Kp"]))),
            AttributeTest("f", "is", "v0"),
        ][int(rng.integers(3))]
        kind = "kind_0" if test.attribute == "f" else "bedding"
        rule = SymbolRule("points", kind, (test,), look="none")
        project.apply("rule", [rule_change(None, rule, 1)])
    begin_emphasis(project, "Faults")
    drawn = [symbol for _, symbol in drawn_symbols(project) if symbol.family == "points"]
    for symbol in drawn:
        worn = tuple(str(one) for one in rng.choice([*ids[:3], "gone"], int(rng.integers(0, 3)), replace=False))
        change_symbol(project, symbol.name, lambda old, worn=worn: replace(old, worn_by=worn))  # type: ignore[misc]
    for row_id, unit in project.units():
        if rng.random() < 0.5 and not project.unit_use(unit.code):
            project.apply("gone", [Change("units", row_id, None)])
    for row_id, _ in custom_kinds(project):
        if rng.random() < 0.3:
            project.apply("gone", [Change("kinds", row_id, None)])


@pytest.mark.parametrize("seed", range(30))
def test_what_is_given_out_is_taken_in_equal_or_left_out_by_name(project: Project, other: Project, seed: int) -> None:
    random_made(project, seed)
    out = book_of(project)
    book = read_shared_book(out.text)
    assert not book.left
    found, same = differences(book, book_of(other))
    assert same == 0
    try:
        left = import_book(other, book, [one.key for one in found]).left
    except SymbolRefused as refusal:
        left = (refusal.sentence,) * len(found)
    again, same = differences(book, book_of(other))
    assert len(again) == len(left)
    assert same == len(found) - len(left)
    for one in again:
        assert any(f"“{one.title}” is left out" in said for said in left)
    # Its own project takes its own book: nothing differs.
    assert differences(book, out)[0] == []


@examples(100)
@given(
    st.text(max_size=80)
    | st.recursive(st.none() | st.integers() | st.text(), lambda v: st.lists(v), max_leaves=5).map(json.dumps)
)
def test_anything_else_is_refused_in_words(text: str) -> None:
    with pytest.raises(SymbolRefused):
        read_shared_book(text)


def test_an_empty_book_is_one() -> None:
    assert read_shared_book(SharedBook("Empty").text) == SharedBook("Empty")
