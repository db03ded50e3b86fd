"""Signs on condition: what holds of a feature, what it takes then, and what is refused."""

from __future__ import annotations

import json
import operator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from orvik.core.errors import SignRefused
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.own_kind import Choice, FieldOfOwn, OwnKind
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Stroke, walk
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.conditional import checked_look, conditional_signs, with_rules
from orvik.core.symbols.custom_symbols import with_own
from orvik.core.symbols.drawn_symbol import new_sign
from orvik.core.symbols.emphasis import RankLook, Theme
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol_rule import AttributeTest, SignRule

BOOK = standard()
STEEP = AttributeTest("inclination", "above", "70")


def bedding(inclination: float | None, **values: Any) -> Feature:
    place = shapely.Point(0, 0)
    return Feature("points", place, "bedding", 1, azimuth=40.0, inclination=inclination, **values)


def ruled(*rules: SignRule, drawn: dict[str, Any] | None = None, publication: int = 25_000) -> Any:
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


@settings(max_examples=300)
@given(numbers, numbers, st.sampled_from(["is", "is not", "above", "below"]))
def test_numbers_are_compared_as_numbers(one: float, two: float, how: Any) -> None:
    wanted = {"is": operator.eq, "is not": operator.ne, "above": operator.gt, "below": operator.lt}[how]
    assert AttributeTest("width", how, f"{two:g}").holds({"width": one}) == wanted(one, two)
    assert AttributeTest("width", how, f"{two:g}").holds({"width": f"{one:g}"}) == wanted(one, two)


def test_a_steep_bed_looks_like_another_kind_and_keeps_its_own_meaning() -> None:
    book = ruled(SignRule("points", "bedding", (STEEP,), look="kind", worn="foliation"))
    steep, gentle = book.sign_of(bedding(80.0)), book.sign_of(bedding(30.0))
    assert steep.stamp == BOOK.sign("points", "foliation", inclination=80.0).stamp
    assert gentle == BOOK.sign("points", "bedding", inclination=30.0)
    assert (steep.kind, steep.turns) == ("bedding", True)
    assert "dip or plunge above 70" in steep.title
    # A standing bed has a sign of its own in the other kind, too.
    assert book.sign_of(bedding(90.0)).stamp == BOOK.sign("points", "foliation", inclination=90.0).stamp


def test_a_look_of_another_kind_keeps_the_certainty() -> None:
    book = ruled(SignRule("lines", "contact", (AttributeTest("note", "contains", "vein"),), look="kind", worn="fault"))
    for certainty in ("certain", "approximate", "inferred", "concealed"):
        line = shapely.LineString([(0, 0), (1000, 0)])
        taken = book.sign_of(Feature("lines", line, "contact", 1, certainty, note="vein"))
        assert taken.strokes == BOOK.sign("lines", "fault", certainty).strokes
        assert taken.certainty == certainty


def test_what_a_look_has_nothing_for_stays_as_it_is() -> None:
    """A lineation has no sign for an approximate reading; a bed with one is not drawn as if it were measured."""
    book = ruled(SignRule("points", "bedding", (STEEP,), look="kind", worn="lineation"))
    doubtful = bedding(80.0, certainty="approximate")
    assert book.sign_of(doubtful) == BOOK.sign("points", "bedding", "approximate", 80.0)


def test_a_stretch_is_asked_by_itself_and_all_ways_of_asking_agree() -> None:
    rule = SignRule("lines", "contact", certainty="concealed", look="kind", worn="fault")
    book = ruled(rule)
    line = shapely.LineString([(0, 0), (400, 0), (1000, 0)])
    stretched = Feature("lines", line, "contact", 1, stretches=(Stretch(0, 1, "concealed"),))
    ink = portray({"lines": Features.of("lines", [stretched])}, book, {}, project_crs("EPSG:32628"))
    dashes = {item.style.dash for item in walk(ink["linework"].items) if isinstance(item, Stroke)}
    wanted = {
        style.dash
        for sign in (BOOK.sign("lines", "contact"), BOOK.sign("lines", "fault", "concealed"))
        for style in sign.strokes
    }
    assert dashes == wanted


KINDS = ("bedding", "foliation", "joint")
rules_of = st.builds(
    SignRule,
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


@settings(max_examples=150)
@given(st.lists(rules_of, max_size=4), st.lists(readings, min_size=1, max_size=20), st.sampled_from([10_000, 50_000]))
def test_the_first_rule_that_holds_counts(rules: list[SignRule], rows: list[Any], scale: int) -> None:
    """Against the rules asked one by one with plain Python; for many features at once as for single ones."""
    book = ruled(*rules).at(scale)
    found = [Feature("points", shapely.Point(0, 0), k, i, azimuth=a, inclination=d) for i, (k, a, d) in enumerate(rows)]
    for feature, sign in zip(found, book.signs_of(Features.of("points", found)), strict=True):
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
        assert sign == book.sign_of(feature)
        assert sign.id.startswith(expected) if expected else not sign.id.startswith("rule-")


def test_left_out_holds_in_print_only() -> None:
    rule = SignRule("points", "bedding", finest=50_000, look="none")
    book = ruled(rule, publication=50_000)
    many = Features.of("points", [bedding(30.0)])
    assert len(book.without_left_out(many)) == 1
    assert len(book.at(50_000).without_left_out(many)) == 0
    assert len(book.at(49_999).without_left_out(many)) == 1
    lines = Features.of("lines", [Feature("lines", shapely.LineString([(0, 0), (1, 0)]), "contact", 1)])
    assert book.at(50_000).without_left_out(lines) is lines


def test_a_line_of_which_a_part_is_drawn_stays() -> None:
    book = ruled(SignRule("lines", "contact", certainty="certain", look="none")).at(25_000)
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
    book = ruled(SignRule("lines", "dyke", (AttributeTest("note", "is given"),), look="none")).at(25_000)
    path = shapely.LineString([(0, 0), (400, 0), (1000, 0)])
    line = Feature("lines", path, "dyke", 1, note="thin", stretches=(Stretch(0, 1, "inferred"),))
    band = replace(line, id=2, band=Band(2.0, "sheet"), stretches=(Stretch(0, 1, "inferred", "left"),))
    kept = book.without_left_out(Features.of("lines", [line, band, replace(line, id=3, note="")]))
    assert kept.ids.tolist() == [3]


def test_a_band_keeps_a_colour_in_any_look() -> None:
    book = ruled(SignRule("lines", "dyke", (AttributeTest("note", "is given"),), look="kind", worn="contact"))
    taken = book.sign_of(Feature("lines", shapely.LineString([(0, 0), (9, 0)]), "dyke", 1, note="pale"))
    assert taken.strokes == BOOK.sign("lines", "contact").strokes
    assert taken.tint == BOOK.sign("lines", "dyke").tint != ""


def test_a_title_says_the_condition_once() -> None:
    for rule, title in (
        (SignRule("lines", "contact", certainty="concealed", look="kind", worn="fault"), "Contact, concealed"),
        (
            SignRule("lines", "contact", finest=50_000, look="kind", worn="fault"),
            "Contact, certain (1:50\u2009000 and coarser)",
        ),
    ):
        made = [sign for signs in conditional_signs(BOOK, rule, {}).values() for sign in signs]
        assert made[0].title == title


def test_an_own_kind_is_asked_for_its_fields() -> None:
    spring = OwnKind(
        "spring_own",
        "Spring",
        "points",
        fields=(FieldOfOwn("flow", "number"), FieldOfOwn("use", "choice", (Choice("well"),))),
    )
    book = with_own(BOOK, [spring])
    rule = SignRule("points", "spring_own", (AttributeTest("flow", "above", "5"),), look="kind", worn="quarry")
    checked_look(book, rule, {})
    held = with_rules(book, [(1, rule)], {}, 25_000)
    place = shapely.Point(0, 0)
    strong = Feature("points", place, "spring_own", 1, fields={"flow": 7.5, "use": "well"})
    assert held.sign_of(strong).stamp == BOOK.sign("points", "quarry").stamp
    assert held.sign_of(replace(strong, fields={"flow": 2.0})).stamp != BOOK.sign("points", "quarry").stamp
    with pytest.raises(SignRefused, match="no attribute “depth”"):
        checked_look(book, replace(rule, tests=(AttributeTest("depth", "above", "5"),)), {})


def test_kinds_are_called_by_what_their_signs_share() -> None:
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


def test_a_theme_tones_what_holds_on_condition() -> None:
    book = ruled(SignRule("points", "bedding", (STEEP,), look="kind", worn="foliation"))
    pale = Theme("Pale", (RankLook(), RankLook(), RankLook(30, 50, 50))).book(book)
    assert pale.sign_of(bedding(80.0)).stamp != book.sign_of(bedding(80.0)).stamp


@pytest.mark.parametrize(
    ("made", "why"),
    [
        (lambda: SignRule("points", "bedding", look="none"), "Say when"),
        (lambda: SignRule("areas", "unit_area", certainty="certain"), "as their units do"),
        (lambda: SignRule("points", "bedding", (STEEP,), look="kind", worn="bedding"), "anyway"),
        (lambda: SignRule("points", "bedding", (STEEP,), look="kind"), "Choose what"),
        (lambda: SignRule("points", "bedding", finest=50_000, coarsest=10_000), "change them round"),
        (lambda: SignRule("points", "bedding", finest=-5), "no scale"),
        (lambda: SignRule("points", "bedding", certainty="maybe"), "no certainty"),
        (lambda: SignRule("points", "bedding", (STEEP,) * 7), "at the most"),
        (lambda: AttributeTest("inclination", "above", "steep"), "not a dip or plunge"),
        (lambda: AttributeTest("inclination", "is", "1,250"), "two ways"),
        (lambda: AttributeTest("note", "is", " "), "compared with"),
        (lambda: AttributeTest("note", "likes", "x"), "compares nothing"),
    ],
)
def test_what_is_no_condition_is_refused(made: Any, why: str) -> None:
    with pytest.raises(SignRefused, match=why):
        made()


@pytest.mark.parametrize(
    ("rule", "why"),
    [
        (SignRule("points", "bedding", (STEEP,), look="kind", worn="quarry"), "lose their direction"),
        (SignRule("points", "bedding", (STEEP,), look="kind", worn="contact"), "no such look"),
        (SignRule("points", "bedding", (STEEP,), look="drawn", worn="gone"), "no such look"),
        (SignRule("lines", "dragon", certainty="certain", look="none"), "no such kind"),
        (SignRule("points", "unit_tag", certainty="certain", look="none"), "helps while compiling"),
        (SignRule("lines", "contact", (AttributeTest("note", "is given"),), look="drawn", worn="shore"), "as certain"),
    ],
)
def test_a_look_that_loses_something_is_refused(rule: SignRule, why: str) -> None:
    with pytest.raises(SignRefused, match=why):
        checked_look(BOOK, rule, {"shore": new_sign("shore", "lines", "Shore")})


def test_a_drawn_look_is_worn_with_what_the_sign_writes() -> None:
    drawn = {"peak": new_sign("peak", "points", "Peak")}
    with pytest.raises(SignRefused, match="as certain"):
        checked_look(BOOK, SignRule("points", "bedding", (STEEP,), look="drawn", worn="peak"), drawn)
    rule = SignRule("points", "bedding", (STEEP,), "certain", look="drawn", worn="peak", title="Steep beds")
    made = conditional_signs(BOOK, checked_look(BOOK, rule, drawn), drawn)
    for usual, (sign,) in made.items():
        assert sign.title == "Steep beds"
        assert sign.turns == ("horizontal" not in usual)
    taken = ruled(rule, drawn=drawn).sign_of(bedding(80.0))
    assert taken.captions == BOOK.sign("points", "bedding", inclination=80.0).captions


@settings(max_examples=100)
@given(rules_of)
def test_a_rule_is_read_back_as_it_was_kept(rule: SignRule) -> None:
    assert SignRule.of(rule.table, rule.kind, rule.body) == rule


@pytest.mark.parametrize(
    "body", ["", "[]", "{", '{"tests": 3}', '{"colour": 1, "certainty": "certain"}', '{"finest": "x"}']
)
def test_a_body_that_is_none_is_refused(body: str) -> None:
    with pytest.raises(SignRefused):
        SignRule.of("points", "bedding", body)
    assert json.loads(SignRule("points", "bedding", (STEEP,), look="none").body)["tests"]
