"""Sign books carried from one project to another: whole, with what differs shown first, and refused in words."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orvik.core.errors import SignRefused
from orvik.core.features.own_kind import Choice, FieldOfOwn, OwnKind
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.signs.given_book import VERSION, GivenBook, differences, read_given
from orvik.core.signs.piece import Piece
from orvik.core.signs.sign_rule import AttributeTest, SignRule
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.store.sign_book import drawn_signs, own_kinds, sign_book_of
from orvik.usecases.drawn_signs import begin_sign, change_sign, drawn_sign, put_on
from orvik.usecases.given_books import book_of, take_in
from orvik.usecases.kinds import add_kind
from orvik.usecases.sign_rules import add_rule, rule_lines
from orvik.usecases.themes import begin_theme


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
    symbol = sign_book_of(other).sign("points", "summit").symbol
    assert symbol is not None
    assert symbol.items[0].paths.xy[:, 1].min() == pytest.approx(-1.4)
    assert sign_book_of(other).pattern("own_spots") is not None
    assert take_in(other, book, ["signs peak"]) is None
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


def test_a_kind_that_is_another_sort_here_is_refused(made: Project, other: Project) -> None:
    add_kind(other, OwnKind("karst_spring", "Karst spring", "lines"))
    with pytest.raises(SignRefused, match="kind of lines here"):
        take_in(other, read_given(book_of(made).text), ["kinds karst_spring", "signs peak"])
    assert drawn_signs(other) == [], "nothing is half taken"


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
        (lambda w: w["signs"].append(w["signs"][0]), "called peak"),
        (lambda w: w["signs"][0]["body"].update(pieces=[]), "needs a piece"),
        (lambda w: w["signs"][0].pop("body"), "cannot be read"),
        (lambda w: w["signs"][0]["body"]["pieces"][0].update(outline="red"), "not a colour"),
        (lambda w: w.update(signs={}), "no list"),
        (lambda w: w["kinds"][0]["sign"].update(colour="#12"), "not a colour"),
        (lambda w: w["themes"][0]["body"].update(looks=[]), "3 ranks"),
        (lambda w: w["conditions"][0]["body"].pop("certainty") and w["conditions"][0]["body"].pop("tests"), "Say when"),
        (lambda w: w["conditions"].append(w["conditions"][0]), "called bedding"),
    ],
)
def test_a_book_that_cannot_be_is_refused(made: Project, change: Any, said: str) -> None:
    with pytest.raises(SignRefused, match=said):
        read_given(changed_text(made, change))


@settings(max_examples=100, deadline=None)
@given(
    st.text(max_size=80)
    | st.recursive(st.none() | st.integers() | st.text(), lambda v: st.lists(v), max_leaves=5).map(json.dumps)
)
def test_anything_else_is_refused_in_words(text: str) -> None:
    with pytest.raises(SignRefused):
        read_given(text)


def test_an_empty_book_is_one() -> None:
    assert read_given(GivenBook("Empty").text) == GivenBook("Empty")
