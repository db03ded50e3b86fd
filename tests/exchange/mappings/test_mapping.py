"""Rows read by a mapping, against what a person reads in them."""

from __future__ import annotations

import itertools
from typing import Any

import pytest

from orvik.core.errors import OrvikError
from orvik.exchange.mappings.mapping import LEFT_OUT, FieldMapping
from tests.exchange.mappings.tables import STANDARD, read_row

# A plane that strikes 315 by the right-hand rule and dips 40 to the northeast; a line that plunges 40 towards 135.
# Each row says it in columns of its own; truth was written by hand.
STRIKES: list[dict[str, Any]] = [{"STRIKE": v} for v in (315, "315", 315.0, "N45W", "315°")]
BOTH_WAYS: list[dict[str, Any]] = [{"STRIKE": v} for v in ("N45W", "NW-SE", 135, 315)]
SIDES: list[dict[str, Any]] = [{"DIR": v} for v in (45, "045", "N45E", "NE")] + [{"QUAD": v} for v in ("NE", "N", "E")]
DIPS: list[dict[str, Any]] = [{"DIP": v} for v in (40, "40", 40.0)]
FIELDS = {"azimuth": "STRIKE", "dip_direction": "DIR", "dip_quadrant": "QUAD", "inclination": "DIP", "reading": "ALL"}
WHOLE: list[dict[str, Any]] = [{"ALL": v} for v in ("315/40", "N45W 40NE", "40→045", "315/40NE")]
COMBINED = (
    [one | dip for one, dip in itertools.product(STRIKES[:3], DIPS)]
    + [one | side | DIPS[0] for one, side in itertools.product(BOTH_WAYS, SIDES)]
    + [side | DIPS[1] for side in SIDES[:3]]
    + WHOLE
)


def test_there_are_forty() -> None:
    assert len(COMBINED) >= 40


@pytest.mark.parametrize("row", COMBINED, ids=str)
def test_readings_in_all_combinations_of_columns(row: dict[str, Any]) -> None:
    fields = {name: column for name, column in FIELDS.items() if column in row}
    found = read_row(row, fields)
    assert (found["azimuth"], found["inclination"]) == (315.0, 40.0)


@pytest.mark.parametrize(
    "row",
    [
        {"STRIKE": 315, "DIR": 135, "DIP": 40},
        {"STRIKE": 315, "QUAD": "SW", "DIR": 45, "DIP": 40},
        {"STRIKE": "N45W", "DIP": 40},
        {"ALL": "315/40", "DIR": 225},
        {"ALL": "315/40", "STRIKE": 10},
        {"ALL": "315/40", "DIP": 70},
        {"STRIKE": 400, "DIP": 40},
        {"STRIKE": 315, "DIP": 95},
    ],
    ids=str,
)
def test_what_contradicts_itself_is_refused(row: dict[str, Any]) -> None:
    fields = {name: column for name, column in FIELDS.items() if column in row}
    with pytest.raises(OrvikError):
        read_row(row, fields)


def test_overturned_beds() -> None:
    fields = {"azimuth": "S", "inclination": "D", "overturned": "O", "kind": "K"}
    row = {"S": 315, "D": 40, "K": "Bedding"}
    assert read_row(row | {"O": "Y"}, fields)["kind"] == "overturned_bedding"
    assert read_row(row | {"O": "N"}, fields)["kind"] == "bedding"
    assert read_row(row | {"O": None}, fields)["kind"] == "bedding"
    with pytest.raises(OrvikError, match="cannot be"):
        read_row(row | {"O": "yes", "K": "Joint"}, fields)
    with pytest.raises(OrvikError, match="overturned"):
        read_row(row | {"O": "maybe"}, fields)


def test_what_a_phrase_says_beside_the_kind_yields_to_a_field_of_its_own() -> None:
    fields = {"kind": "K", "certainty": "C"}
    row = {"K": "Fault, inferred", "C": None}
    assert read_row(row, fields, "contact", "lines") == {"kind": "fault", "certainty": "inferred"}
    assert read_row(row | {"C": "observed"}, fields, "contact", "lines") == {"kind": "fault", "certainty": "certain"}


def test_values_mean_what_is_said_of_them() -> None:
    fields = {"kind": "K"}
    kinds = {"Cren. lin.": "lineation", "Nothing": LEFT_OUT}
    assert read_row({"K": "Cren. lin."}, fields, kind=kinds)["kind"] == "lineation"
    with pytest.raises(OrvikError, match="left out, as chosen"):
        read_row({"K": "Nothing"}, fields, kind=kinds)
    with pytest.raises(OrvikError, match="not a kind of points"):
        read_row({"K": "Thing"}, fields, kind=kinds)


def test_a_questionable_unit() -> None:
    assert read_row({"U": "Jh?"}, {"map_unit": "U"}, "unit_area", "areas") == {"map_unit": "Jh", "questionable": True}
    assert read_row({"U": "Kp"}, {"map_unit": "U"}, "unit_area", "areas") == {"map_unit": "Kp"}


def test_fields_are_put_together() -> None:
    row = {"A": "K", "B": 2.0, "N": "wet", "M": None, "L": "mossy"}
    assert read_row(row, {"map_unit": ("A", "B")}, "unit_area", "areas") == {"map_unit": "K2"}
    assert read_row(row, {"note": ("N", "M", "L")}) == {"note": "wet; mossy"}


@pytest.mark.parametrize(
    ("metres", "certainty"), [(0, "certain"), (25, "certain"), (25.5, "approximate"), (1e4, "approximate")]
)
def test_certainty_by_metres(metres: float, certainty: str) -> None:
    limits = {"<=25": "certain", ">25": "approximate"}
    assert read_row({"M": metres}, {"certainty": "M"}, certainty=limits) == {"certainty": certainty}


def test_metres_that_nobody_knows_are_asked_for() -> None:
    with pytest.raises(OrvikError, match="not a certainty"):
        read_row({"M": -9}, {"certainty": "M"}, certainty={"<=25": "certain", ">25": "approximate"})


def test_a_settled_mapping_speaks_our_terms_and_says_no_more_than_it_must() -> None:
    values = {"kind": {"Cren. lin.": "Lineation", "fault": "fault", "x": LEFT_OUT}, "map_unit": {"Kp": "Kp"}}
    settled = STANDARD.settled(FieldMapping(values=values))
    assert settled.values == {"kind": {"Cren. lin.": "lineation", "x": LEFT_OUT}}
