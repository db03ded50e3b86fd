"""What fields are taken for: by names, by values, and never by chance."""

from __future__ import annotations

import itertools

import pytest

from orvik.exchange.mappings.attributes import ATTRIBUTES, whole_letters
from orvik.exchange.mappings.guess import guessed, with_limits
from orvik.exchange.mappings.mapping import FieldMapping
from tests.exchange.mappings.tables import STANDARD, fields_called, fields_of

OF_FEATURES = [attribute for attribute in ATTRIBUTES.values() if not attribute.unit]
NAMES = [(one.name, called) for one in OF_FEATURES for called in (one.name, *one.names)]
# What each attribute's values may look like.
VALUES = {"kind": "Bedding", "azimuth": "315", "inclination": "40", "dip_direction": "45"}


@pytest.mark.parametrize(("name", "called"), NAMES)
def test_every_name_of_every_attribute_is_found_alone(name: str, called: str) -> None:
    found = guessed(fields_of({called.upper(): VALUES.get(name, "1"), "OBJECTID": 7}), STANDARD)
    assert found.fields == {name: called.upper()}
    assert not found.asks


def test_no_name_stands_for_two_attributes() -> None:
    letters = [(whole_letters(called), name) for name, called in NAMES]
    for called in {one for one, _ in letters}:
        assert len({name for one, name in letters if one == called}) == 1, called


@pytest.mark.parametrize(
    ("strike", "dip", "other"),
    [
        *itertools.product(
            ["Streichen", "rumbo", "STRIKE_DEG"], ["Einfallen", "buzamiento", "pendage"], ["Fallrichtung"]
        )
    ],
)
def test_readings_in_other_languages(strike: str, dip: str, other: str) -> None:
    found = guessed(fields_called(strike, dip, other))
    assert found.fields == {"azimuth": strike, "inclination": dip, "dip_direction": other}


def test_a_field_without_values_is_not_taken_for_what_it_is_called() -> None:
    found = guessed(fields_of({"DIP": 40, "DIP_2": None, "STRIKE": 10, "Comments": ""}), STANDARD)
    assert found.fields == {"azimuth": "STRIKE", "inclination": "DIP"}


def test_kinds_and_units_are_found_by_their_values() -> None:
    rows = [{"FTR_CLS": "Contact, approximate", "G_ID": "Kp", "N": i} for i in range(6)]
    rows += [{"FTR_CLS": "Fault", "G_ID": "Xx", "N": 9}]
    found = guessed(fields_of(*rows), STANDARD, STANDARD.codes, ["lines"])
    assert found.fields == {"kind": "FTR_CLS", "map_unit": "G_ID"}
    assert found.by_values == {"kind", "map_unit"}


def test_names_of_formations_are_no_codes() -> None:
    """The fields of a state survey's map, which has both (1:500 000 geology of Western Australia, CC BY 4.0)."""
    row = {"code": "A-HAm-cib", "unitname": "Marra Mamba Iron Formation", "formation": "Marra Mamba Iron Formation"}
    assert guessed(fields_of(row, row), STANDARD).fields == {"map_unit": "code"}
    assert guessed(fields_of({"formation": "Marra Mamba Iron Formation"}), STANDARD).fields == {}
    assert guessed(fields_of({"formation": "Jh?"}), STANDARD).fields == {"map_unit": "formation"}


def test_two_that_could_be_the_unit_ask() -> None:
    rows = [{"A": "Kp", "B": "Qt"}, {"A": "Qt", "B": "Kp"}]
    found = guessed(fields_of(*rows), STANDARD, STANDARD.codes, ["areas"])
    assert found.asks == {"map_unit": ("A", "B")}
    assert not found.fields


def test_directions_without_a_name_ask_which_they_are() -> None:
    rows = [{"VALUE1": 30 * i % 360, "DIP": 10 + i} for i in range(12)]
    found = guessed(fields_of(*rows), STANDARD, (), ["points"])
    assert found.asks == {"azimuth": ("VALUE1",), "dip_direction": ("VALUE1",)}


def test_names_one_by_one_are_no_kinds() -> None:
    """A field of 5 000 different values names things; it is one of notes or of numbers, whatever it is called."""
    rows = [{"feature": f"Bedding {i} at the burn" if i % 2 else f"Place {i}"} for i in range(5000)]
    assert guessed(fields_of(*rows), STANDARD).fields == {}


def test_metres_become_a_certainty_at_the_publication_scale() -> None:
    columns = fields_of({"LocationConfidenceMeters": 10}, {"LocationConfidenceMeters": 100.5})
    mapping = FieldMapping({"certainty": ("LocationConfidenceMeters",)})
    assert with_limits(mapping, columns, 50_000).values == {"certainty": {"<=50": "certain", ">50": "approximate"}}
    words = fields_of({"LocationConfidenceMeters": "certain"})
    assert with_limits(mapping, words, 50_000) == mapping
