"""Conditional symbols in a project: counted, in order, followed by sheets and their explanation, and undone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.ink.primitives import Marks, Text, walk
from orvik.core.symbols.symbol_rule import AttributeTest, SymbolRule
from orvik.store.project import Project
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.store.tables.symbol_rules import rule_rows
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.panels import panels_of
from orvik.usecases.symbols.drawn_symbols import begin_symbol, features_wearing, remove_symbol
from orvik.usecases.symbols.symbol_rules import add_rule, change_rule, move_rule, previewed, remove_rule, rule_lines

STEEP = AttributeTest("inclination", "above", "50")
FOLIATION = SymbolRule("points", "bedding", (STEEP,), look="kind", worn="foliation")


@pytest.fixture
def quennet(demo: Path) -> Iterator[Project]:
    project = Project.open(demo)
    yield project
    project.close()


def drawn_as(project: Project, kind: str) -> int:
    """How many marks of a kind's symbols the panels of the first sheet have."""
    book = symbol_book_of(project)
    symbols = {symbol.stamp.name for symbol in book.by_kind["points", kind] if symbol.stamp}
    groups = composed(project, project.sheets()[0].id or 0).groups
    marks = [item for group in groups for item in walk(group.items) if isinstance(item, Marks)]
    return sum(len(item.at) for item in marks if item.stamp.name in symbols)


def words(project: Project) -> str:
    groups = composed(project, project.sheets()[0].id or 0).groups
    return " ".join(item.run.chars for group in groups for item in walk(group.items) if isinstance(item, Text))


def test_what_is_counted_before_is_drawn_after(quennet: Project) -> None:
    beds = quennet.features("points")
    steep = sum(
        kind == "bedding" and (dip or 0) > 50
        for kind, dip in zip(beds.columns["kind"], beds.columns["inclination"], strict=True)
    )
    assert steep > 0
    line = previewed(quennet, FOLIATION)
    assert (line.count.holds, line.count.takes) == (steep, steep)
    assert line.count.of == dict(quennet.kind_counts("points"))["bedding"]
    assert not rule_rows(quennet)
    before, after_of = drawn_as(quennet, "foliation"), words(quennet)
    add_rule(quennet, FOLIATION)
    assert drawn_as(quennet, "foliation") > before
    assert "(dip or plunge above 50)" in words(quennet)
    assert "(dip or plunge above 50)" not in after_of
    quennet.undo()
    assert drawn_as(quennet, "foliation") == before


def test_the_first_takes_and_the_order_is_changed(project: Project) -> None:
    add_rule(project, FOLIATION)
    add_rule(project, SymbolRule("points", "bedding", (STEEP,), look="kind", worn="cleavage"))
    counts = [line.count.takes for line in rule_lines(project)]
    assert counts == [1, 0]
    first, second = (number for number, _ in rule_rows(project))
    assert move_rule(project, first, up=True) is None
    move_rule(project, second, up=True)
    assert [line.rule.worn for line in rule_lines(project)] == ["cleavage", "foliation"]
    assert [line.count.takes for line in rule_lines(project)] == [1, 0]
    change_rule(project, second, SymbolRule("points", "bedding", (STEEP,), look="none"))
    assert change_rule(project, second, SymbolRule("points", "bedding", (STEEP,), look="none")) is None
    assert "while compiling" not in rule_lines(project)[0].places
    remove_rule(project, second)
    with pytest.raises(NotFound):
        remove_rule(project, second)
    with pytest.raises(SymbolRefused, match="no unit “Zz”"):
        add_rule(project, SymbolRule("points", "bedding", (AttributeTest("map_unit", "is", "Zz"),), look="none"))


def test_a_drawn_symbol_that_is_worn_on_condition_is_not_taken_away(project: Project) -> None:
    begin_symbol(project, "points", "Peak")
    add_rule(project, SymbolRule("points", "bedding", (STEEP,), "certain", look="drawn", worn="peak"))
    assert features_wearing(project) == {"peak": 1}
    with pytest.raises(SymbolRefused, match="on condition"):
        remove_symbol(project, "peak")


def test_what_is_left_out_has_neither_ink_nor_label_nor_row(quennet: Project) -> None:
    assert "Bedding" in words(quennet)
    before = drawn_as(quennet, "bedding")
    assert before > 10
    scale = panels_of(quennet)[0].settings.scale
    add_rule(quennet, SymbolRule("points", "bedding", finest=scale, look="none"))
    after = drawn_as(quennet, "bedding")
    assert after < before / 2
