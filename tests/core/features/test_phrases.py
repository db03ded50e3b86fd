"""Words of tables are read for what they say; what is not understood whole asks."""

from __future__ import annotations

import pytest

from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import KINDS
from orvik.core.features.phrases import KindNames, Phrase, certainty_by_words, letters, yes_or_no
from orvik.core.features.table import TABLES

NAMES = {table: KindNames.of(name for name, kind in KINDS.items() if kind.table == table) for table in TABLES}
OF_A_TABLE = [(kind.table, name) for name, kind in KINDS.items() if kind.table]


@pytest.mark.parametrize(("table", "name"), OF_A_TABLE)
def test_every_kind_is_read_by_its_name_its_title_and_its_words(table: str, name: str) -> None:
    kind = KINDS[name]
    for text in filter(None, (name, name.replace("_", " ").upper(), kind.title, *kind.words)):
        assert NAMES[table].read(text) == Phrase(name), text  # type: ignore[index]


@pytest.mark.parametrize(("table", "name"), OF_A_TABLE)
@pytest.mark.parametrize(
    ("around", "certainty", "questionable"),
    [
        ("{}, approximate", "approximate", False),
        ("{} (location inferred)", "inferred", False),
        ("{}?", "", True),
        ("{}—concealed, queried", "concealed", True),
        ("{}, showing how it lies and where", "", False),
    ],
)
def test_what_is_said_beside_a_kind(table: str, name: str, around: str, certainty: str, questionable: bool) -> None:
    called = KINDS[name].title or name.replace("_", " ")
    assert NAMES[table].read(around.format(called)) == Phrase(name, certainty, questionable)  # type: ignore[index]


@pytest.mark.parametrize(
    ("table", "text", "kind"),
    [
        ("points", "Bedding, showing strike and dip", "bedding"),
        ("points", "Overturned beds", "overturned_bedding"),
        ("points", "Joint set 2", "joint"),
        ("points", "Foliation (metamorphic)", "foliation"),
        ("points", "Kluft", "joint"),
        ("points", "Schieferung, saiger", "foliation"),
        ("points", "stratification", "bedding"),
        ("points", "Diaclasas", "joint"),
        ("lines", "Störung", "fault"),
        ("lines", "Überschiebung", "thrust"),
        ("lines", "Faille normale", "normal_fault"),
        ("lines", "Contacto", "contact"),
        ("lines", "Fault (thrust)", "thrust"),
        ("lines", "dikes", "dyke"),
        ("points", "Cren. lin.", None),
        ("points", "Bedding or foliation", None),
        ("lines", "contact fault", None),
        ("lines", "", None),
        ("lines", "?", None),
        ("lines", "12", None),
    ],
)
def test_words_of_four_languages_and_words_that_ask(table: str, text: str, kind: str | None) -> None:
    assert NAMES[table].read(text).kind == kind  # type: ignore[index]


def test_a_kind_of_ones_own_is_read_by_its_label() -> None:
    names = KindNames.of(["bedding", "kind_3"], {"kind_3": "Gauged spring"})
    assert names.read("Gauged springs").kind == "kind_3"
    assert names.read("spring").kind is None


@pytest.mark.parametrize(
    ("text", "certainty"),
    [(word, word) for word in CERTAINTIES]
    + [
        ("Observed ", "certain"),
        ("approx.", "approximate"),
        ("vermutet", "inferred"),
        ("supposée", "inferred"),
        ("Location accurate", "certain"),
        ("cubierto", "concealed"),
        ("good", None),
        ("certain to inferred", None),
        ("not certain", None),
        ("uncertain", None),
        ("", None),
    ],
)
def test_certainties(text: str, certainty: str | None) -> None:
    assert certainty_by_words(text) == certainty


@pytest.mark.parametrize(
    ("text", "answer"),
    [("Y", True), ("ja", True), ("Oui", True), ("Sí", True), ("?", True), ("questionable", True), ("1", True)]
    + [("N", False), ("0", False), ("certain", False), ("", False), ("perhaps", None), ("2", None)],
)
def test_answers(text: str, answer: bool | None) -> None:
    assert yes_or_no(text) is answer


def test_letters_lose_their_accents_alone() -> None:
    assert letters("Überkippt, Größe, Sørensen, dirección") == "uberkippt, grosse, sorensen, direccion"
