"""Kinds of one's own: what their fields take, and the symbol that each choice has."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.drawing.validity import checked
from orvik.core.errors import FeatureRefused
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice, parse_choices
from orvik.core.features.feature import Feature, Features
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Fill, Marks, Stroke
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.parts.explanation.found_rows import rows_of
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.portrayal.portray import portray
from tests.core.labels.ground import written_ink

FLOW = CustomField("Flow", "choice", (FieldChoice("dry", "#111111", "D"), FieldChoice("steady", "#222222", "S")), True)
SPRING = CustomKind(
    "gauged_spring",
    "Gauged spring",
    "points",
    "#333333",
    "diamond",
    fields=(FLOW, CustomField("Yield", "number"), CustomField("Seen", "date")),
)
TRACK = CustomKind("cart_track", "Cart track", "lines", "#444444", dash="dotted")
PEAT = CustomKind(
    "peat_cover",
    "Peat",
    "areas",
    "#555555",
    fields=(CustomField("Depth", "choice", (FieldChoice("thin", "#666666"),)),),
)
BOOK = with_custom(standard(), [SPRING, TRACK, PEAT])
X, Y = 513_000.0, 6_802_000.0


def spring(**values: object) -> Feature:
    return Feature("points", shapely.Point(X, Y), "gauged_spring", id=1, fields=values)


def test_fields_are_kept_as_what_they_are(crs: ProjectCrs) -> None:
    kept = checked(spring(Flow="dry", Yield="2,5", Seen="2026-05-12"), crs, BOOK, set())
    assert dict(kept.fields) == {"Flow": "dry", "Yield": 2.5, "Seen": "2026-05-12"}
    assert dict(checked(spring(Flow="dry", Yield=" "), crs, BOOK, set()).fields) == {"Flow": "dry"}


@pytest.mark.parametrize(
    ("values", "why"),
    [
        ({}, "must be filled in"),
        ({"Flow": "wet"}, "not in the list"),
        ({"Flow": "dry", "Yield": "much"}, "is not a number for"),
        ({"Flow": "dry", "Seen": "12.5.2026"}, "takes a date"),
        ({"Flow": "dry", "Depth": "1"}, "has no field Depth"),
    ],
)
def test_what_a_field_does_not_take(crs: ProjectCrs, values: dict[str, str], why: str) -> None:
    with pytest.raises(FeatureRefused, match=why):
        checked(spring(**values), crs, BOOK, set())


def test_standard_kinds_have_no_fields(crs: ProjectCrs) -> None:
    contact = Feature("lines", shapely.LineString([(X, Y), (X + 50, Y)]), "contact", fields={"Flow": "dry"})
    with pytest.raises(FeatureRefused, match="no fields of its own"):
        checked(contact, crs, BOOK, set())


def test_each_choice_has_its_symbol(crs: ProjectCrs) -> None:
    box = shapely.box(X, Y, X + 50, Y + 50)
    features = {
        "points": Features.of(
            "points", [spring(Flow="dry"), spring(Flow="steady").changed(id=2), spring().changed(id=3)]
        ),
        "lines": Features.of("lines", [Feature("lines", shapely.LineString([(X, Y), (X + 9, Y)]), "cart_track", id=1)]),
        "areas": Features.of(
            "areas",
            [Feature("areas", box, "peat_cover", id=i, fields=f) for i, f in enumerate(({}, {"Depth": "thin"}), 1)],
        ),
    }
    layers = portray(features, BOOK, {}, crs)  # type: ignore[arg-type]
    marks = [i for i in layers["attitudes"].items if isinstance(i, Marks)]
    colours = [next(p.colour for p in m.stamp.items if isinstance(p, Fill)) for m in marks]
    assert colours == ["#111111", "#222222", "#333333"]
    assert [i.style.colour for i in layers["linework"].items if isinstance(i, Stroke)] == ["#444444"]
    assert [i.colour for i in layers["units"].items if isinstance(i, Fill)] == ["#555555", "#666666"]
    # Own areas carry no unit code.
    assert written_ink(features, BOOK, {}, crs)["labels"] == []  # type: ignore[arg-type]


def test_the_explanation_lists_what_is_shown(crs: ProjectCrs) -> None:
    box = shapely.box(X, Y, X + 50, Y + 50)
    shown = {
        "points": Features.of("points", [spring(Flow="dry")]),
        "lines": Features.of("lines", []),
        "areas": Features.of("areas", [Feature("areas", box, "peat_cover", id=1, fields={"Depth": "thin"})]),
    }
    there = MapContext("Own", crs, Scales(25_000, 6_250), BOOK, {}, shown, None)  # type: ignore[arg-type]
    assert [row.name for row in rows_of(there, [], {}, "none", "symbol")] == ["Peat, thin", "Gauged spring, dry"]


def test_kept_and_read_again() -> None:
    for kind in (SPRING, TRACK, PEAT):
        assert (
            CustomKind.of(kind.name, kind.label, kind.table, kind.symbol_text, kind.fields_text, kind.position) == kind
        )


def test_lists_as_they_are_typed() -> None:
    told = parse_choices("dry, damp #2C5F8A, , wet")
    assert [(c.value, c.colour, c.key) for c in told] == [("dry", "", "D"), ("damp", "#2C5F8A", "A"), ("wet", "", "W")]


@pytest.mark.parametrize(
    "make",
    [
        lambda: CustomKind("", "", "points"),
        lambda: CustomKind("x", "X", "points", "red"),
        lambda: CustomKind("x", "X", "lines", width=9),
        lambda: CustomKind("x", "X", "points", fields=(FLOW, FLOW)),
        lambda: CustomKind("x", "X", "points", fields=(CustomField("A", "choice"),)),
        lambda: CustomKind("x", "X", "points", shape="star"),
    ],
)
def test_kinds_that_cannot_be(make: object) -> None:
    with pytest.raises(FeatureRefused):
        make()  # type: ignore[operator]
