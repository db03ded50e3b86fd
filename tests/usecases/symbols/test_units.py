"""The column of units: order, parts, colours, and its table."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orvik.core.colour.hex import lab_of
from orvik.core.errors import FeatureRefused, FileRefused
from orvik.core.features.age import Age
from orvik.core.features.map_unit import MapUnit
from orvik.core.symbols.symbol_rule import AttributeTest, SymbolRule
from orvik.store.project import Project
from orvik.usecases.symbols.emphasis import begin_emphasis, emphasis_named, set_rank
from orvik.usecases.symbols.symbol_rules import add_rule, rule_lines
from orvik.usecases.symbols.unit_table import preview_table, table_of_units, take_table
from orvik.usecases.symbols.units import (
    add_unit,
    change_unit,
    colour_by_age,
    colour_in_steps,
    move_unit_to,
    remove_unit,
)


def codes(project: Project) -> list[str]:
    return [unit.code for _, unit in project.units()]


def ids(project: Project) -> dict[str, int]:
    return {unit.code: row_id for row_id, unit in project.units()}


@pytest.fixture
def column(project: Project) -> Project:
    """Qt, Kp, and three more below."""
    for code, age in (("Kw", "Early Cretaceous"), ("Jh", "Late Jurassic"), ("pCg", "Precambrian")):
        add_unit(project, MapUnit(code, f"Unit {code}", age, "#CCCCCC"))
    return project


def test_to_any_place_and_back(column: Project) -> None:
    before = codes(column)
    move_unit_to(column, ids(column)["pCg"], 0)
    assert codes(column) == ["pCg", *before[:-1]]
    move_unit_to(column, ids(column)["pCg"], 3)
    assert codes(column) == ["Qt", "Kp", "Kw", "pCg", "Jh"]
    assert move_unit_to(column, ids(column)["Qt"], 0) is None
    assert move_unit_to(column, ids(column)["Qt"], 9) is None
    column.undo()
    column.undo()
    assert codes(column) == before


def test_parts_follow_their_unit_and_make_no_ring(column: Project) -> None:
    at = ids(column)
    kw = next(unit for row, unit in column.units() if row == at["Kw"])
    kp = next(unit for row, unit in column.units() if row == at["Kp"])
    change_unit(column, at["Kw"], MapUnit(**{**vars(kw), "parent": "Kp", "rank": "member"}))
    with pytest.raises(FeatureRefused, match="part of each other"):
        change_unit(column, at["Kp"], MapUnit(**{**vars(kp), "parent": "Kw"}))
    with pytest.raises(FeatureRefused, match="There is no unit Zz"):
        change_unit(column, at["Kp"], MapUnit(**{**vars(kp), "parent": "Zz"}))
    change_unit(column, at["Kp"], MapUnit(**{**vars(kp), "code": "Kpe"}))
    assert next(unit for _, unit in column.units() if unit.code == "Kw").parent == "Kpe"
    column.undo()
    with pytest.raises(FeatureRefused, match=r"Kw are part of Kp|features belong"):
        remove_unit(column, at["Kp"])


def test_colour_by_age(column: Project) -> None:
    at = ids(column)
    colour_by_age(column, list(at.values()))
    found = {unit.code: unit.colour for _, unit in column.units()}
    assert found["Qt"] == Age.of("Pleistocene").colour
    assert found["Jh"] == Age.of("Upper Jurassic").colour
    assert colour_by_age(column, list(at.values())) is None
    add_unit(column, MapUnit("x", "X", "of no age", "#CCCCCC"))
    with pytest.raises(FeatureRefused, match="give them one first"):
        colour_by_age(column, [ids(column)["x"]])


def test_colour_in_steps(column: Project) -> None:
    colour_in_steps(column, "", "#F8F0D0", "#804020")
    lights = [lab_of(unit.colour)[0] for _, unit in column.units()]
    assert lights == sorted(lights, reverse=True)
    with pytest.raises(FeatureRefused, match="two units or more"):
        colour_in_steps(column, "Intrusive rocks", "#F8F0D0", "#804020")
    with pytest.raises(FeatureRefused, match="six digits"):
        colour_in_steps(column, "", "pale", "#804020")


def test_out_and_in_again_changes_nothing(column: Project) -> None:
    kw = next(unit for _, unit in column.units() if unit.code == "Kw")
    odd = MapUnit(
        **{**vars(kw), "description": '=1+1, "quoted"; and\nmore', "label": "Kẇ", "pattern": "shale"}
        | {"pattern_colour": "#332211", "pattern_opacity": 0.35, "heading": "-dash", "rank": "member", "parent": "Kp"}
    )
    change_unit(column, ids(column)["Kw"], odd)
    text = table_of_units(column)
    # Nothing that a program for tables would carry out.
    assert "\r\n=" not in text.replace(",=", "\r\n=").replace(',"=', "\r\n=")
    found = preview_table(column, text.encode("utf-8-sig"))
    assert (found.new, found.changed, found.refused, found.same) == ((), (), (), 5)
    assert take_table(column, text.encode()) is None


def test_line_ends_of_a_form_change_nothing(column: Project) -> None:
    """What is shown as the same is the same when a browser sends it back."""
    kw = next(unit for _, unit in column.units() if unit.code == "Kw")
    change_unit(column, ids(column)["Kw"], MapUnit(**{**vars(kw), "description": "one\ntwo", "pattern_opacity": 0.335}))
    text = table_of_units(column)
    assert "33.5" in text
    for sent in (text, text.replace("\r\n", "\n"), text.replace("\r\n", "\n").replace("\n", "\r\n")):
        assert preview_table(column, sent.encode()).changed == ()
        assert take_table(column, sent.encode()) is None


def test_a_pattern_that_the_book_lacks_is_refused(column: Project) -> None:
    """It would be printed without one, and nothing would say so."""
    kw = next(unit for _, unit in column.units() if unit.code == "Kw")
    with pytest.raises(FeatureRefused, match="Is it conglomerate"):
        change_unit(column, ids(column)["Kw"], MapUnit(**{**vars(kw), "pattern": "conglomarate"}))
    with pytest.raises(FeatureRefused, match="Choose one of the list"):
        add_unit(column, MapUnit("Zz", "Z", "", "#FFFFFF", pattern="???"))


def test_what_a_table_would_change_is_shown_and_then_taken(column: Project) -> None:
    text = "code;name;colour;age_from\nKp;Pellan Shale;#aabbcc;Aptian\nTt;Tuff;;\n"
    found = preview_table(column, text.encode())
    assert [unit.code for unit in found.new] == ["Tt"]
    assert {(what, new) for _, what, _, new in found.changed} == {
        ("name", "Pellan Shale"),
        ("colour", "#AABBCC"),
        ("age from", "Aptian"),
    }
    take_table(column, text.encode())
    assert codes(column) == ["Qt", "Kp", "Kw", "Jh", "pCg", "Tt"]
    assert next(unit for _, unit in column.units() if unit.code == "Kp").colour == "#AABBCC"
    column.undo()
    assert codes(column) == ["Qt", "Kp", "Kw", "Jh", "pCg"]
    whole = "code\n" + "\n".join(reversed(codes(column)))
    take_table(column, whole.encode())
    assert codes(column) == ["pCg", "Jh", "Kw", "Kp", "Qt"]


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "is empty"),
        ("name,age\nA,B\n", "no column “code”"),
        ("code,name,name\nA,B,C\n", "two columns “name”"),
        ("code\n" + "\n".join(f"u{i}" for i in range(2100)), "2000 units are the most"),
    ],
)
def test_what_is_no_table(column: Project, text: str, why: str) -> None:
    with pytest.raises(FileRefused, match=why):
        take_table(column, text.encode())


def test_a_table_without_codes_asks_for_their_column(column: Project) -> None:
    found = preview_table(column, b"name,age\nA,B\n")
    assert found.why == "Say which column holds the codes of units."
    assert (found.head, found.meant) == (("name", "age"), {"name": "name", "age": "age"})


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ("Kp,Name,red,,", "not a colour"),
        ("Kp,Name,,Jurassik,", "Is it Jurassic"),
        ("a code,Name,,,", "cannot be the code"),
        ("Kp,Name,,,Zz", "There is no unit Zz"),
        ("Kp,Name,,,,shele,", "Is it shale"),
        ("Kp,Name,,,,shale,135", "0 to 100"),
        ("Kp,Name,,,\nKp,Other,,,", "twice"),
    ],
)
def test_a_row_that_cannot_be_is_named_and_nothing_is_taken(column: Project, row: str, why: str) -> None:
    head = "code,name,colour,age_from,parent,pattern,pattern_opacity"
    text = f"{head}\nQt,Till of a new name,,,\n{row}\n"
    found = preview_table(column, text.encode())
    assert len(found.refused) == 1
    assert why in found.refused[0].refusal
    before = column.revision
    with pytest.raises(FeatureRefused, match="Nothing was imported"):
        take_table(column, text.encode())
    assert column.revision == before


def test_a_table_makes_no_ring_of_parts(column: Project) -> None:
    text = "code,parent\nKw,Jh\nJh,Kw\n"
    assert len(preview_table(column, text.encode()).refused) == 2
    with pytest.raises(FeatureRefused, match="part of each other"):
        take_table(column, text.encode())


def test_emphases_and_conditions_follow_a_new_code(column: Project) -> None:
    begin_emphasis(column, "Muds")
    set_rank(column, "Muds", "unit Kp", "subject")
    of_unit = AttributeTest("map_unit", "is", "Kp")
    add_rule(column, SymbolRule("points", "bedding", (of_unit,), look="kind", worn="foliation"))
    kp = next(unit for _, unit in column.units() if unit.code == "Kp")
    change_unit(column, ids(column)["Kp"], replace(kp, code="Kpm"))
    assert emphasis_named(column, "Muds").ranks == {"unit Kpm": "subject"}
    assert [line.rule.words for line in rule_lines(column)] == ["code of its unit is Kpm"]
    column.undo()
    assert emphasis_named(column, "Muds").ranks == {"unit Kp": "subject"}
    assert [line.rule.words for line in rule_lines(column)] == ["code of its unit is Kp"]
