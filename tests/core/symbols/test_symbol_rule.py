"""Conditional symbols: what holds of a feature, what it takes then, and what is refused."""

from __future__ import annotations

import json
import operator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SymbolRefused
from orvik.core.features.band import Band
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Stroke, walk
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.conditional import checked_look, conditional_symbols, with_rules
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.drawn_symbol import new_symbol
from orvik.core.symbols.emphasis import Emphasis, RankLook
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol_rule import AttributeTest, SymbolRule
from tests.examples import examples

BOOK = standard()
STEEP = AttributeTest("inclination", "above", "70")


def bedding(inclination: float | None, **values: Any) -> Feature:
    place = shapely.Point(0, 0)
    return Feature("points", place, "bedding", 1, azimuth=40.0, inclination=inclination, **values)


def ruled(*rules: SymbolRule, drawn: dict[str, Any] | None = None, publication: int = 25_000) -> Any:
    return with_rules(BOOK, list(enumerate(rules, 1)), drawn or {}, publication)


@pytest.mark.parametrize(
    ("test", "values", "holds"),
    [
        (STEEP, {"inclination": 70.0}, False),
        (STEEP, {"inclination": 70.5}, True),
        (STEEP, {"inclination": None}, False),
        (AttributeTest("inclination", "is", "70"), {"inclination": 70.0}, True),
        (AttributeTest("inclination", "is not", "70"), {"inclination": None}, True),
        (AttributeTest("thickness", "below", "2,5"), {"thickness": 2.4}, True),
        (AttributeTest("thickness", "below", "2,5"), {}, False),
        (AttributeTest("thickness", "above", "2"), {"thickness": "thick"}, False),
        (AttributeTest("map_unit", "is", "kp"), {"map_unit": "Kp"}, True),
        (AttributeTest("note", "contains", "QUARRY"), {"note": "old quarry wall"}, True),
        (AttributeTest("note", "is empty"), {"note": "  "}, True),
        (AttributeTest("note", "is given"), {"note": ""}, False),
        (AttributeTest("questionable", "is", "yes"), {"questionable": True}, True),
        (AttributeTest("questionable", "is", "no"), {"questionable": 0}, True),
        # Letters that look like figures are compared as such: 08 is 8.
        (AttributeTest("station", "is", "8"), {"station": "08"}, True),
    ],
)
def test_a_question_and_its_answer(test: AttributeTest, values: dict[str, Any], holds: bool) -> None:
    assert test.holds(values) is holds


numbers = st.integers(-999, 999).map(lambda n: n / 10)


@examples(300)
@given(numbers, numbers, st.sampled_from(["is", "is not", "above", "below"]))
def test_numbers_are_compared_as_numbers(one: float, two: float, how: Any) -> None:
    wanted = {"is": operator.eq, "is not": operator.ne, "above": operator.gt, "below": operator.lt}[how]
    assert AttributeTest("width", how, f"{two:g}").holds({"width": one}) == wanted(one, two)
    assert AttributeTest("width", how, f"{two:g}").holds({"width": f"{one:g}"}) == wanted(one, two)


def test_a_steep_bed_looks_like_another_kind_and_keeps_its_own_meaning() -> None:
    book = ruled(SymbolRule("points", "bedding", (STEEP,), look="kind", worn="foliation"))
    steep, gentle = book.symbol_of(bedding(80.0)), book.symbol_of(bedding(30.0))
    assert steep.stamp == BOOK.symbol("points", "foliation", inclination=80.0).stamp
    assert gentle == BOOK.symbol("points", "bedding", inclination=30.0)
    assert (steep.kind, steep.turns) == ("bedding", True)
    assert "dip or plunge above 70" in steep.title
    # A standing bed has a custom symbol in the other kind, too.
    assert book.symbol_of(bedding(90.0)).stamp == BOOK.symbol("points", "foliation", inclination=90.0).stamp


def test_a_look_of_another_kind_keeps_the_certainty() -> None:
    book = ruled(
        SymbolRule("lines", "contact", (AttributeTest("note", "contains", "vein"),), look="kind", worn="fault")
    )
    for certainty in ("certain", "approximate", "inferred", "concealed"):
        line = shapely.LineString([(0, 0), (1000, 0)])
        taken = book.symbol_of(Feature("lines", line, "contact", 1, certainty, note="vein"))
        assert taken.strokes == BOOK.symbol("lines", "fault", certainty).strokes
        assert taken.certainty == certainty


def test_what_a_look_has_nothing_for_stays_as_it_is() -> None:
    """A lineation has no symbol for an approximate reading; a bed with one is not drawn as if it were measured."""
    book = ruled(SymbolRule("points", "bedding", (STEEP,), look="kind", worn="lineation"))
    doubtful = bedding(80.0, certainty="approximate")
    assert book.symbol_of(doubtful) == BOOK.symbol("points", "bedding", "approximate", 80.0)


def test_a_stretch_is_asked_by_itself_and_all_ways_of_asking_agree() -> None:
    rule = SymbolRule("lines", "contact", certainty="concealed", look="kind", worn="fault")
    book = ruled(rule)
    line = shapely.LineString([(0, 0), (400, 0), (1000, 0)])
    stretched = Feature("lines", line, "contact", 1, stretches=(Stretch(0, 1, "concealed"),))
    ink = portray({"lines": Features.of("lines", [stretched])}, book, {}, project_crs("EPSG:32628"))
    dashes = {item.style.dash for item in walk(ink["linework"].items) if isinstance(item, Stroke)}
    wanted = {
        style.dash
        for symbol in (BOOK.symbol("lines", "contact"), BOOK.symbol("lines", "fault", "concealed"))
        for style in symbol.strokes
    }
    assert dashes == wanted


KINDS = ("bedding", "foliation", "joint")
rules_of = st.builds(
    SymbolRule,
    st.just("points"),
    st.sampled_from(KINDS),
    st.lists(
        st.builds(
            AttributeTest,
            st.sampled_from(["inclination", "azimuth"]),
            st.sampled_from(["above", "below"]),
            st.integers(0, 360).map(str),
        ),
        min_size=1,
        max_size=2,
    ).map(tuple),
    finest=st.sampled_from([None, 10_000, 30_000]),
    look=st.just("kind"),
    worn=st.just("cleavage"),
)
readings = st.tuples(st.sampled_from(KINDS), st.floats(0, 359), st.floats(1, 89))


@examples(150)
@given(st.lists(rules_of, max_size=4), st.lists(readings, min_size=1, max_size=20), st.sampled_from([10_000, 50_000]))
def test_the_first_rule_that_holds_counts(rules: list[SymbolRule], rows: list[Any], scale: int) -> None:
    """Against the rules asked one by one with plain Python; for many features at once as for single ones."""
    book = ruled(*rules).at(scale)
    found = [Feature("points", shapely.Point(0, 0), k, i, azimuth=a, inclination=d) for i, (k, a, d) in enumerate(rows)]
    for feature, symbol in zip(found, book.symbols_of(Features.of("points", found)), strict=True):
        expected = None
        for number, rule in enumerate(rules, 1):
            if rule.kind != feature.kind or (rule.finest or 0) > scale:
                continue
            values = {"inclination": feature.inclination, "azimuth": feature.azimuth}
            if all(
                values[t.attribute] > float(t.value)
                if t.comparison == "above"
                else values[t.attribute] < float(t.value)
                for t in rule.tests
            ):
                expected = f"rule-{number}-"
                break
        assert symbol == book.symbol_of(feature)
        assert symbol.id.startswith(expected) if expected else not symbol.id.startswith("rule-")


def test_left_out_holds_in_print_only() -> None:
    rule = SymbolRule("points", "bedding", finest=50_000, look="none")
    book = ruled(rule, publication=50_000)
    many = Features.of("points", [bedding(30.0)])
    assert len(book.without_left_out(many)) == 1
    assert len(book.at(50_000).without_left_out(many)) == 0
    assert len(book.at(49_999).without_left_out(many)) == 1
    lines = Features.of("lines", [Feature("lines", shapely.LineString([(0, 0), (1, 0)]), "contact", 1)])
    assert book.at(50_000).without_left_out(lines) is lines


def test_a_line_of_which_a_part_is_drawn_stays() -> None:
    book = ruled(SymbolRule("lines", "contact", certainty="certain", look="none")).at(25_000)
    path = shapely.LineString([(0, 0), (400, 0), (1000, 0)])
    whole = Feature("lines", path, "contact", 1)
    partly = Feature("lines", path, "contact", 2, stretches=(Stretch(1, 2, "concealed"),))
    kept = book.without_left_out(Features.of("lines", [whole, partly]))
    assert kept.ids.tolist() == [2]
    ink = portray({"lines": kept}, book, {}, project_crs("EPSG:32628"))
    drawn = [item.paths.xy for item in walk(ink["linework"].items) if isinstance(item, Stroke)]
    assert np.concatenate(drawn)[:, 0].min() == 400


def test_what_is_left_out_leaves_no_trace() -> None:
    """Neither by a stretch that is left out, too, nor as a band, whose margins may have stretches of their own."""
    book = ruled(SymbolRule("lines", "dyke", (AttributeTest("note", "is given"),), look="none")).at(25_000)
    path = shapely.LineString([(0, 0), (400, 0), (1000, 0)])
    line = Feature("lines", path, "dyke", 1, note="thin", stretches=(Stretch(0, 1, "inferred"),))
    band = replace(line, id=2, band=Band(2.0, "sheet"), stretches=(Stretch(0, 1, "inferred", "left"),))
    kept = book.without_left_out(Features.of("lines", [line, band, replace(line, id=3, note="")]))
    assert kept.ids.tolist() == [3]


def test_a_band_keeps_a_colour_in_any_look() -> None:
    book = ruled(SymbolRule("lines", "dyke", (AttributeTest("note", "is given"),), look="kind", worn="contact"))
    taken = book.symbol_of(Feature("lines", shapely.LineString([(0, 0), (9, 0)]), "dyke", 1, note="pale"))
    assert taken.strokes == BOOK.symbol("lines", "contact").strokes
    assert taken.tint == BOOK.symbol("lines", "dyke").tint != ""


def test_a_title_says_the_condition_once() -> None:
    for rule, title in (
        (SymbolRule("lines", "contact", certainty="concealed", look="kind", worn="fault"), "Contact, concealed"),
        (
            SymbolRule("lines", "contact", finest=50_000, look="kind", worn="fault"),
            "Contact, certain (1:50\u2009000 and coarser)",
        ),
    ):
        made = [symbol for symbols in conditional_symbols(BOOK, rule, {}).values() for symbol in symbols]
        assert made[0].title == title


def test_an_custom_kind_is_asked_for_its_fields() -> None:
    spring = CustomKind(
        "spring_own",
        "Spring",
        "points",
        fields=(CustomField("flow", "number"), CustomField("use", "choice", (FieldChoice("well"),))),
    )
    book = with_custom(BOOK, [spring])
    rule = SymbolRule("points", "spring_own", (AttributeTest("flow", "above", "5"),), look="kind", worn="quarry")
    checked_look(book, rule, {})
    held = with_rules(book, [(1, rule)], {}, 25_000)
    place = shapely.Point(0, 0)
    strong = Feature("points", place, "spring_own", 1, fields={"flow": 7.5, "use": "well"})
    assert held.symbol_of(strong).stamp == BOOK.symbol("points", "quarry").stamp
    assert held.symbol_of(replace(strong, fields={"flow": 2.0})).stamp != BOOK.symbol("points", "quarry").stamp
    with pytest.raises(SymbolRefused, match="no attribute “depth”"):
        checked_look(book, replace(rule, tests=(AttributeTest("depth", "above", "5"),)), {})


def test_kinds_are_called_by_what_their_symbols_share() -> None:
    named = {
        kind: BOOK.kind_title("points", kind) for kind in ("bedding", "bedding_top_known", "quarry", "nothing_known")
    }
    assert named == {
        "bedding": "Bedding",
        "bedding_top_known": "Bedding, top known",
        "quarry": "Quarry",
        "nothing_known": "Nothing known",
    }
    titles = [BOOK.kind_title(table, kind) for table, kind in BOOK.by_kind]
    assert len(set(titles)) == len(titles)


def test_a_emphasis_tones_what_holds_on_condition() -> None:
    book = ruled(SymbolRule("points", "bedding", (STEEP,), look="kind", worn="foliation"))
    pale = Emphasis("Pale", (RankLook(), RankLook(), RankLook(30, 50, 50))).book(book)
    assert pale.symbol_of(bedding(80.0)).stamp != book.symbol_of(bedding(80.0)).stamp


@pytest.mark.parametrize(
    ("made", "why"),
    [
        (lambda: SymbolRule("points", "bedding", look="none"), "Say when"),
        (lambda: SymbolRule("areas", "unit_area", certainty="certain"), "as their units do"),
        (lambda: SymbolRule("points", "bedding", (STEEP,), look="kind", worn="bedding"), "anyway"),
        (lambda: SymbolRule("points", "bedding", (STEEP,), look="kind"), "Choose what"),
        (lambda: SymbolRule("points", "bedding", finest=50_000, coarsest=10_000), "change them round"),
        (lambda: SymbolRule("points", "bedding", finest=-5), "not a scale"),
        (lambda: SymbolRule("points", "bedding", certainty="maybe"), "not a certainty"),
        (lambda: SymbolRule("points", "bedding", (STEEP,) * 7), "at the most"),
        (lambda: AttributeTest("inclination", "above", "steep"), "not a dip or plunge"),
        (lambda: AttributeTest("inclination", "is", "1,250"), "two ways"),
        (lambda: AttributeTest("note", "is", " "), "compared with"),
        (lambda: AttributeTest("note", "likes", "x"), "compares nothing"),
    ],
)
def test_what_is_no_condition_is_refused(made: Any, why: str) -> None:
    with pytest.raises(SymbolRefused, match=why):
        made()


@pytest.mark.parametrize(
    ("rule", "why"),
    [
        (SymbolRule("points", "bedding", (STEEP,), look="kind", worn="quarry"), "lose their direction"),
        (SymbolRule("points", "bedding", (STEEP,), look="kind", worn="contact"), "no such look"),
        (SymbolRule("points", "bedding", (STEEP,), look="drawn", worn="gone"), "no such look"),
        (SymbolRule("lines", "dragon", certainty="certain", look="none"), "no such kind"),
        (SymbolRule("points", "unit_tag", certainty="certain", look="none"), "helps while compiling"),
        (
            SymbolRule("lines", "contact", (AttributeTest("note", "is given"),), look="drawn", worn="shore"),
            "as certain",
        ),
    ],
)
def test_a_look_that_loses_something_is_refused(rule: SymbolRule, why: str) -> None:
    with pytest.raises(SymbolRefused, match=why):
        checked_look(BOOK, rule, {"shore": new_symbol("shore", "lines", "Shore")})


def test_a_drawn_look_is_worn_with_what_the_symbol_writes() -> None:
    drawn = {"peak": new_symbol("peak", "points", "Peak")}
    with pytest.raises(SymbolRefused, match="as certain"):
        checked_look(BOOK, SymbolRule("points", "bedding", (STEEP,), look="drawn", worn="peak"), drawn)
    rule = SymbolRule("points", "bedding", (STEEP,), "certain", look="drawn", worn="peak", title="Steep beds")
    made = conditional_symbols(BOOK, checked_look(BOOK, rule, drawn), drawn)
    for usual, (symbol,) in made.items():
        assert symbol.title == "Steep beds"
        assert symbol.turns == ("horizontal" not in usual)
    taken = ruled(rule, drawn=drawn).symbol_of(bedding(80.0))
    assert taken.captions == BOOK.symbol("points", "bedding", inclination=80.0).captions


@examples(100)
@given(rules_of)
def test_a_rule_is_read_back_as_it_was_kept(rule: SymbolRule) -> None:
    assert SymbolRule.of(rule.table, rule.kind, rule.body) == rule


@pytest.mark.parametrize(
    "body", ["", "[]", "{", '{"tests": 3}', '{"colour": 1, "certainty": "certain"}', '{"finest": "x"}']
)
def test_a_body_that_is_none_is_refused(body: str) -> None:
    with pytest.raises(SymbolRefused):
        SymbolRule.of("points", "bedding", body)
    assert json.loads(SymbolRule("points", "bedding", (STEEP,), look="none").body)["tests"]
