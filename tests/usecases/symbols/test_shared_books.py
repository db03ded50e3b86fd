"""Sign books carried from one project to another: whole, with what differs shown first, and refused in words."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orvik.core.errors import SignRefused
from orvik.core.features.own_kind import Choice, FieldOfOwn, OwnKind
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.shared_book import VERSION, GivenBook, differences, read_given
from orvik.core.symbols.symbol_rule import AttributeTest, SignRule
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.symbol_book import drawn_signs, own_kinds, sign_book_of
from orvik.store.symbol_rules import rule_change
from orvik.usecases.compile.kinds import add_kind
from orvik.usecases.symbols.drawn_symbols import begin_sign, change_sign, drawn_sign, put_on
from orvik.usecases.symbols.emphasis import begin_theme
from orvik.usecases.symbols.shared_books import book_of, take_in
from orvik.usecases.symbols.symbol_rules import add_rule, rule_lines


@pytest.fixture
def made(project: Project) -> Project:
    """A project with a drawn sign, a pattern, a kind, a theme, and two signs on condition that need these."""
    begin_sign(project, "points", "Peak")
    put_on(project, "peak", "summit")
    begin_sign(project, "patterns", "Spots")
    field = FieldOfOwn("Flow", "choice", (Choice("dry", "#111111"), Choice("steady", "#222222")))
    add_kind(project, OwnKind("karst_spring", "Karst spring", "points", fields=(field,)))
    begin_theme(project, "Faults")
    steep = AttributeTest("inclination", "above", "70")
    add_rule(project, SignRule("points", "bedding", (steep,), "certain", look="drawn", worn="peak"))
    add_rule(project, SignRule("points", "karst_spring", (AttributeTest("Flow", "is", "dry"),), look="none"))
    return project


@pytest.fixture
def other(tmp_path: Path) -> Project:
    path = tmp_path / "other.gpkg"
    create(path, "Other", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    return Project.open(path)


def test_a_book_is_given_out_and_taken_in_whole(made: Project, other: Project) -> None:
    text = book_of(made).text
    book = read_given(text)
    assert book == replace(book_of(made), kinds=tuple(replace(kind, position=1) for kind in book_of(made).kinds))
    found, same = differences(book, book_of(other))
    assert ([one.key for one in found], same) == (
        [
            *("signs peak", "signs spots", "kinds karst_spring", "themes Faults"),
            "conditions bedding, certain, dip or plunge above 70",
            "conditions karst spring, Flow is dry",
        ],
        0,
    )
    take_in(other, book, [one.key for one in found])
    assert differences(book, book_of(other)) == ([], 6)
    assert [line.rule.look for line in rule_lines(other)] == ["drawn", "none"]
    stamp = sign_book_of(other).sign("points", "summit").stamp
    assert stamp is not None
    assert stamp.items[0].paths.xy[:, 1].min() == pytest.approx(-1.4)
    assert sign_book_of(other).pattern("own_spots") is not None
    assert take_in(other, book, ["signs peak"]).entry is None
    other.undo()
    assert drawn_signs(other) == []
    assert own_kinds(other) == []


def test_only_what_is_ticked_is_taken_and_what_differs_is_told(made: Project, other: Project) -> None:
    book = read_given(book_of(made).text)
    take_in(other, book, ["signs peak"])
    changed = replace(drawn_sign(other, "peak"), pieces=(Piece("circle", width=0.2),))
    change_sign(other, changed.name, lambda _: changed)
    (one, *_), same = differences(book, book_of(other))
    assert (one.key, one.there, same) == ("signs peak", changed, 0)
    take_in(other, book, ["signs peak", "signs nothing"])
    assert drawn_sign(other, "peak") == drawn_sign(made, "peak")


def test_a_kind_that_is_another_sort_here_is_left_out(made: Project, other: Project) -> None:
    add_kind(other, OwnKind("karst_spring", "Karst spring", "lines"))
    taken = take_in(other, read_given(book_of(made).text), ["kinds karst_spring", "signs peak"])
    assert len(taken.left) == 1
    assert "kind of lines here" in taken.left[0]
    assert [sign.name for _, sign in drawn_signs(other)] == ["peak"]
    assert [kind.table for _, kind in own_kinds(other)] == ["lines"]


def test_a_sign_never_becomes_one_of_another_family(made: Project, other: Project) -> None:
    """A unit of the other project is filled with its own pattern of that name."""
    begin_sign(other, "patterns", "Peak")
    taken = take_in(other, read_given(book_of(made).text), ["signs peak", "signs spots"])
    assert "drawn for points there and for patterns here" in taken.left[0]
    assert drawn_sign(other, "peak").family == "patterns"


def test_a_sign_of_the_book_wears_one_look(made: Project, other: Project) -> None:
    begin_sign(other, "points", "Cairn")
    put_on(other, "cairn", "summit")
    take_in(other, read_given(book_of(made).text), ["signs peak"])
    assert drawn_sign(other, "peak").worn_by == ("summit",)
    assert drawn_sign(other, "cairn").worn_by == ()
    other.undo()
    assert drawn_sign(other, "cairn").worn_by == ("summit",)


def test_a_sign_on_condition_needs_what_it_speaks_of(made: Project, other: Project) -> None:
    book = read_given(book_of(made).text)
    for key, said in (
        ("conditions bedding, certain, dip or plunge above 70", "no such look"),
        ("conditions karst spring, Flow is dry", "no such kind"),
    ):
        with pytest.raises(SignRefused, match=said):
            take_in(other, book, [key])
    assert rule_lines(other) == []
    take_in(other, book, ["signs peak", "conditions bedding, certain, dip or plunge above 70"])
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
        (lambda w: w.update(form="something"), "no sign book"),
        (lambda w: w.update(signs={}), "no list"),
    ],
)
def test_a_book_that_cannot_be_is_refused(made: Project, change: Any, said: str) -> None:
    with pytest.raises(SignRefused, match=said):
        read_given(changed_text(made, change))


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda w: w["signs"][0]["body"].update(pieces=[]), "needs a piece"),
        (lambda w: w["signs"][0].pop("body"), "cannot be read"),
        (lambda w: w["signs"][0]["body"]["pieces"][0].update(outline="red"), "not a colour"),
        (lambda w: w["signs"].append(w["signs"][0]), "two of this name"),
        (lambda w: w["signs"][0].update(name="a/b"), "no name of a sign"),
        (lambda w: w["signs"][0]["body"]["pieces"][0].update(reach=float("inf")), "cannot be read|no number"),
        (lambda w: w["kinds"][0]["sign"].update(colour="#12"), "not a colour"),
        (lambda w: w["themes"][0]["body"].update(looks=[]), "3 ranks"),
        (lambda w: w["conditions"][0]["body"].pop("certainty") and w["conditions"][0]["body"].pop("tests"), "Say when"),
    ],
)
def test_an_entry_that_cannot_be_is_left_out_by_name(made: Project, other: Project, change: Any, said: str) -> None:
    text = changed_text(made, change)
    book = read_given(text)
    assert len(book.left) == 1
    assert re.search(said, book.left[0]), book.left
    keys = [one.key for one in differences(book, book_of(other))[0]]
    assert take_in(other, book, keys).entry is not None


def random_made(project: Project, seed: int) -> None:
    """Signs, kinds, conditions and themes at random; then some of what they speak of goes, as by another program."""
    rng = np.random.default_rng(seed)
    ids = [sign.id for sign in standard().signs if sign.table == "points" and not sign.aid]
    for number in range(int(rng.integers(1, 4))):
        begin_sign(project, str(rng.choice(["points", "lines", "patterns"])), f"Sign {number}")  # type: ignore[arg-type]
    for number in range(int(rng.integers(1, 3))):
        choices = tuple(Choice(f"v{n}") for n in range(int(rng.integers(1, 4))))
        add_kind(
            project, OwnKind(f"kind_{number}", f"Kind {number}", "points", fields=(FieldOfOwn("f", "choice", choices),))
        )
    for _ in range(int(rng.integers(1, 6))):
        test = [
            AttributeTest("inclination", "above", str(int(rng.integers(0, 3)) * 30)),
            AttributeTest("map_unit", "is", str(rng.choice(["Qt", "Kp"]))),
            AttributeTest("f", "is", "v0"),
        ][int(rng.integers(3))]
        kind = "kind_0" if test.attribute == "f" else "bedding"
        rule = SignRule("points", kind, (test,), look="none")
        project.apply("rule", [rule_change(None, rule, 1)])
    begin_theme(project, "Faults")
    drawn = [sign for _, sign in drawn_signs(project) if sign.family == "points"]
    for sign in drawn:
        worn = tuple(str(one) for one in rng.choice([*ids[:3], "gone"], int(rng.integers(0, 3)), replace=False))
        change_sign(project, sign.name, lambda old, worn=worn: replace(old, worn_by=worn))  # type: ignore[misc]
    for row_id, unit in project.units():
        if rng.random() < 0.5 and not project.unit_use(unit.code):
            project.apply("gone", [Change("units", row_id, None)])
    for row_id, _ in own_kinds(project):
        if rng.random() < 0.3:
            project.apply("gone", [Change("kinds", row_id, None)])


@pytest.mark.parametrize("seed", range(30))
def test_what_is_given_out_is_taken_in_equal_or_left_out_by_name(project: Project, other: Project, seed: int) -> None:
    random_made(project, seed)
    out = book_of(project)
    book = read_given(out.text)
    assert not book.left
    found, same = differences(book, book_of(other))
    assert same == 0
    try:
        left = take_in(other, book, [one.key for one in found]).left
    except SignRefused as refusal:
        left = (refusal.sentence,) * len(found)
    again, same = differences(book, book_of(other))
    assert len(again) == len(left)
    assert same == len(found) - len(left)
    for one in again:
        assert any(f"“{one.title}” is left out" in said for said in left)
    # Its own project takes its own book: nothing differs.
    assert differences(book, out)[0] == []


@settings(max_examples=100)
@given(
    st.text(max_size=80)
    | st.recursive(st.none() | st.integers() | st.text(), lambda v: st.lists(v), max_leaves=5).map(json.dumps)
)
def test_anything_else_is_refused_in_words(text: str) -> None:
    with pytest.raises(SignRefused):
        read_given(text)


def test_an_empty_book_is_one() -> None:
    assert read_given(GivenBook("Empty").text) == GivenBook("Empty")
