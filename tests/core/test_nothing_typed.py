"""What is asked for and was not typed is named with an example, whoever reads it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from orvik.core.colour.text import hex_text
from orvik.core.drawing.drawing import parse_step
from orvik.core.errors import OrvikError
from orvik.core.features.reading import parse_bearing, parse_dip, parse_reading
from orvik.core.ground.coordinates import parse_angle, parse_number, parse_quantity
from orvik.core.ground.scale import parse_scale
from orvik.core.sheet.page.paper import paper_size


@pytest.mark.parametrize("typed", ["", "  ", "\u00a0"])
@pytest.mark.parametrize(
    ("read", "begins"),
    [
        (parse_scale, "Type a scale, such as 1:25 000"),
        (lambda typed: parse_number(typed, "easting"), "Type an easting: plain digits such as 513 482.6"),
        (lambda typed: parse_quantity(typed, "width"), "Type a width: plain digits such as 0.35"),
        (lambda typed: parse_angle(typed, "longitude"), "Type a longitude, such as 14°45'30\" W"),
        (parse_reading, "Type a reading: strike and dip as 350/60"),
        (parse_bearing, "Type a direction: degrees as 315"),
        (parse_dip, "Type a dip: degrees from 0"),
        (lambda typed: parse_step(typed, 25_000), "Type a bearing and distance: 045/120"),
        (hex_text, "Type a colour: six digits"),
        (lambda typed: paper_size(typed, False), "Type a paper: A5, A4"),
    ],
)
def test_nothing_typed(read: Callable[[str], Any], begins: str, typed: str) -> None:
    with pytest.raises(OrvikError) as refused:
        read(typed)
    assert str(refused.value).startswith(begins)
