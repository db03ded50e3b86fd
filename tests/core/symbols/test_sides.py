"""The side of a one-sided ornament in words."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.ground.crs import project_crs
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.sides import side_in_words

CRS = project_crs("EPSG:32628")
BOOK = standard()
X, Y = 513_000.0, 6_802_000.0
THRUST = BOOK.symbol("lines", "thrust")


def at(*places: tuple[float, float]) -> np.ndarray:
    return np.array(places, dtype=float) + (X, Y)


@pytest.mark.parametrize(
    ("end", "words"),
    [
        ((0, 900), "To the east: the upper plate"),
        ((900, 0), "To the south: the upper plate"),
        ((0, -900), "To the west: the upper plate"),
        ((-900, 900), "To the northeast: the upper plate"),
    ],
)
def test_ornaments_stand_to_the_right(end: tuple[float, float], words: str) -> None:
    assert side_in_words(at((0, 0), end), THRUST, CRS) == words
    reverse = side_in_words(at(end, (0, 0)), THRUST, CRS)
    assert reverse != words
    assert reverse.endswith(": the upper plate")


def test_a_closed_line_has_an_inside() -> None:
    ring = at((0, 0), (0, 100), (100, 100), (100, 0), (0, 0))
    crater = BOOK.symbol("lines", "crater_rim")
    assert side_in_words(ring, crater, CRS) == "Inside: the crater"
    assert side_in_words(ring[::-1], crater, CRS) == "Outside: the crater"


def test_nothing_is_said_of_what_has_no_side() -> None:
    assert side_in_words(at((0, 0), (9, 9)), BOOK.symbol("lines", "contact"), CRS) == ""
    assert side_in_words(at((0, 0)), THRUST, CRS) == ""
    assert side_in_words(at((0, 0), (0, 0)), THRUST, CRS) == ""


def test_what_is_concealed_keeps_its_side() -> None:
    concealed = BOOK.symbol("lines", "thrust", "concealed")
    assert side_in_words(at((0, 0), (0, 900)), concealed, CRS) == "To the east: the upper plate"
