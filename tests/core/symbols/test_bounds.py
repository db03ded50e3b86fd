"""Every number of a symbol has its bounds: by reflection, so that a new one without them fails here."""

from __future__ import annotations

import json
import math
from dataclasses import fields, replace
from typing import Any

import pytest

from orvik.core.errors import SymbolRefused
from orvik.core.ink.primitives import LineStyle
from orvik.core.symbols.drawn_symbol import DrawnOrnament, DrawnSymbol
from orvik.core.symbols.piece import SHAPES, Piece
from orvik.core.symbols.style_row import style_of, style_row
from orvik.core.symbols.symbol import Caption

ODD = (1e7, -1e7, 1e308, math.inf, -math.inf, math.nan, 0.0, -1.0, 1e-9)
# What a figure of a symbol may come to at the most: points of a path.
MOST = 4000
DOT = Piece("circle", reach=0.5, fill="#22303C")
LINE = DrawnSymbol(
    "a", "lines", "A", strokes=(LineStyle(0.3, "#22303C", (2.4, 1.0)),), ornaments=(DrawnOrnament((DOT,)),)
)
POINT = DrawnSymbol("b", "points", "B", (DOT,), caption=Caption("note", (2.0, 0.0)))
PATTERN = DrawnSymbol("c", "patterns", "C", (DOT,))


def numeric(cls: type) -> list[str]:
    """Names of the fields that hold numbers, or pairs and rows of numbers."""
    return [f.name for f in fields(cls) if any(word in str(f.type) for word in ("float", "int"))]


def odd(value: Any, number: float) -> list[Any]:
    if isinstance(value, tuple):
        return [(number,) * max(len(value), 2), (number, *value[1:])]
    return [number]


@pytest.mark.parametrize("name", numeric(Piece))
@pytest.mark.parametrize("shape", SHAPES)
def test_a_piece_is_refused_or_is_small(shape: str, name: str) -> None:
    points = ((0.0, 0.0), (1.0, 1.0))
    piece = Piece.of({"shape": shape, "points": points if shape == "line" else (), "width": 0.2, "dash": [1.0, 1.0]})
    for number in ODD:
        values = [((number, number), (1.0, 1.0))] if name == "points" else odd(getattr(piece, name), number)
        for value in values:
            try:
                made = replace(piece, **{name: int(value) if name == "sides" and math.isfinite(number) else value})
            except (SymbolRefused, ValueError):
                continue
            ink = made.ink()
            assert sum(len(item.paths.xy) for item in ink) <= MOST, (name, number)
            assert all(math.isfinite(v) for item in ink for v in item.paths.xy.ravel().tolist()), (name, number)


@pytest.mark.parametrize("name", [n for n in numeric(LineStyle) if n != "phase"])
def test_a_stroke_is_refused_or_within_bounds(name: str) -> None:
    row = style_row(LineStyle(0.3, "#22303C", (2.4, 1.0)))
    for number in ODD:
        for value in odd((2.4, 1.0) if name == "dash" else 0.3, number):
            try:
                style = style_of({**row, name: list(value) if isinstance(value, tuple) else value})
            except SymbolRefused:
                continue
            assert abs(style.width) <= 10
            assert abs(style.offset) <= 60
            assert all(0 <= length <= 100 for length in style.dash)
            assert not style.dash or sum(style.dash) >= 0.1


@pytest.mark.parametrize("number", ODD)
def test_a_symbol_of_a_file_is_refused_or_within_bounds(number: float) -> None:
    """Ornaments, captions and tiles, as a file of another program may have them."""
    for symbol in (LINE, POINT, PATTERN):
        body = json.loads(symbol.body)
        for path in paths_of(body):
            spoiled = json.loads(symbol.body)
            at = spoiled
            for step in path[:-1]:
                at = at[step]
            at[path[-1]] = number
            try:
                made = DrawnSymbol.of(symbol.name, symbol.family, symbol.title, json.dumps(spoiled))
            except SymbolRefused:
                continue
            again = DrawnSymbol.of(made.name, made.family, made.title, made.body)
            assert again == made
            assert "Infinity" not in made.body
            assert "NaN" not in made.body
            for ornament in made.ornaments:
                assert 0.5 <= ornament.spacing <= 10_000
                assert 0 <= ornament.phase <= 1


def paths_of(value: Any, before: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The ways to all numbers of a JSON value."""
    if isinstance(value, dict):
        return [path for key, one in value.items() for path in paths_of(one, (*before, key))]
    if isinstance(value, list):
        return [path for key, one in enumerate(value) for path in paths_of(one, (*before, key))]
    return [before] if isinstance(value, int | float) and not isinstance(value, bool) else []


def test_a_line_symbol_that_nobody_sees_is_refused() -> None:
    with pytest.raises(SymbolRefused, match="not seen"):
        DrawnSymbol("a", "lines", "A", strokes=(LineStyle(0.0, "#22303C"),))
