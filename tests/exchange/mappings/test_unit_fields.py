"""Fields of polygons that tell of their units: every name of every attribute, and only where the rows agree."""

from __future__ import annotations

import itertools
import random
from typing import Any

import numpy as np
import pytest

from orvik.exchange.mappings.attributes import OF_UNITS, whole_letters
from orvik.exchange.mappings.unit_fields import PARTS_OF_COLOUR, unit_fields
from orvik.exchange.untrusted.parent import Layer

CODE = {"map_unit": ("LEG",)}


def layer(rows: list[dict[str, Any]]) -> Layer:
    return Layer("areas", np.array([None] * len(rows)), list(rows[0]), rows, "")


@pytest.mark.parametrize(("name", "called"), [(a.name, called) for a in OF_UNITS for called in a.names])
def test_every_name_of_every_attribute_is_found(name: str, called: str) -> None:
    rows = [{"LEG": unit, called.upper(): f"says {unit}", "OBJECTID": i} for i, unit in enumerate("ABABAC")]
    assert unit_fields([layer(rows)], list(rows[0]), CODE) == {name: (called.upper(),)}


def test_no_name_stands_for_two_attributes() -> None:
    held = [(whole_letters(called), a.name) for a in OF_UNITS for called in a.names]
    for letters in {one for one, _ in held}:
        assert len({name for one, name in held if one == letters}) == 1, letters


def test_parts_of_a_colour_are_put_together_in_their_order() -> None:
    for parts in PARTS_OF_COLOUR:
        for names in itertools.islice(itertools.product(*parts), 40):
            head = ["LEG", *names]
            random.Random(len(names)).shuffle(head)
            rows = [{"LEG": unit, **dict.fromkeys(names, "7")} for unit in "AB"]
            assert unit_fields([layer(rows)], head, CODE) == {"unit_colour": names}


def test_what_differs_within_a_unit_is_not_of_the_unit() -> None:
    """Names of lakes in polygons of one unit are names of lakes; one slip of the pen in twenty is none."""
    rows = [{"LEG": "W", "NAME": f"Lake {i}"} for i in range(20)]
    assert unit_fields([layer(rows)], ["LEG", "NAME"], CODE) == {}
    rows = [{"LEG": "W", "NAME": "Water"} for _ in range(20)] + [{"LEG": "W", "NAME": "Watre"}]
    assert unit_fields([layer(rows)], ["LEG", "NAME"], CODE) == {"unit_name": ("NAME",)}
    assert unit_fields([layer(rows)], ["LEG", "NAME"], {}) == {}
    empty = [{"LEG": "W", "NAME": ""} for _ in range(20)]
    assert unit_fields([layer(empty)], ["LEG", "NAME"], CODE) == {}


def test_a_field_that_means_something_else_is_left_to_it() -> None:
    rows = [{"LEG": unit, "NAME": unit, "DESCRIPTION": f"of {unit}"} for unit in "AABB"]
    fields = {"map_unit": ("LEG",), "source": ("NAME",), "note": ("DESCRIPTION",)}
    # A note that is the same for all features of a unit describes the unit.
    assert unit_fields([layer(rows)], list(rows[0]), fields) == {"unit_description": ("DESCRIPTION",)}
