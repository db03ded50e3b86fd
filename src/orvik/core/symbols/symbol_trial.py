"""A drawn symbol tried out: at true size on paper, on a dark unit and on relief, at angles, on curves and corners."""

from __future__ import annotations

import io
from functools import lru_cache

import numpy as np
from PIL import Image

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Fill, Item, LineStyle, Picture, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.portrayal.point_ink import turned_place
from orvik.core.symbols.specimen import line_specimen, pattern_specimen, point_specimen
from orvik.core.symbols.symbol import Symbol

# Of each trial, in millimetres.
WIDTH, HEIGHT = 44.0, 25.0
_SPREAD = ((6.0, 9.0), (13.0, 5.0), (19.5, 14.5), (33.0, 7.0), (28.5, 19.0), (9.0, 19.0))
_TURNS = (0.0, 60.0, 135.0)


def trials(drawn: DrawnSymbol, dark: str) -> list[tuple[str, list[Item]]]:
    """A title and the ink of each trial, in a box of ``WIDTH`` by ``HEIGHT`` millimetres.

    ``dark`` is the darkest tint of the project.
    """
    if drawn.family == "patterns":
        return _of_pattern(drawn, dark)
    symbol = drawn.as_symbol()
    if drawn.family == "lines":
        return _of_line(symbol, dark)
    spread: list[Item] = [item for x, y in _SPREAD for item in point_specimen(symbol, x, y, 30.0)]
    return [
        ("True size", spread),
        ("On a dark unit", [_ground(dark), *spread]),
        ("On relief", [_relief(), *spread]),
        (
            "At three angles" if symbol.turns else "Beside others",
            _at_angles(symbol) if symbol.turns else _beside(symbol),
        ),
    ]


def _of_line(symbol: Symbol, dark: str) -> list[tuple[str, list[Item]]]:
    t = np.linspace(0, 1, 60)
    curve = [(float(x), float(y)) for x, y in np.column_stack([3 + 38 * t, 8 + 3.5 * np.sin(2 * np.pi * t)])]
    corners = [(3.0, 20.0), (14.0, 14.5), (22.0, 21.5), (30.0, 15.0), (41.0, 20.5)]
    both = [*line_specimen(symbol, curve), *line_specimen(symbol, corners)]
    ring = [(float(12 + 8 * np.cos(a)), float(12.5 - 8 * np.sin(a))) for a in np.linspace(0, 2 * np.pi, 60)]
    short = [[(26.0, y), (26.0 + length, y)] for y, length in ((5.0, 3.0), (10.0, 6.0), (15.0, 10.0), (20.0, 15.0))]
    ends = [*line_specimen(symbol, [*ring[:-1], ring[0]]), *(i for path in short for i in line_specimen(symbol, path))]
    return [
        ("Curves and corners", both),
        ("On a dark unit", [_ground(dark), *both]),
        ("On relief", [_relief(), *both]),
        ("Closed, and short", ends),
    ]


def _of_pattern(drawn: DrawnSymbol, dark: str) -> list[tuple[str, list[Item]]]:
    pattern = drawn.as_pattern()
    box = (2.0, 2.0, WIDTH - 4, HEIGHT - 4)
    letters = run("Kp", ROMAN, 2.6, "centre")
    code = Text(letters, (WIDTH / 2, HEIGHT / 2 + cap_height(2.6) / 2), INK, halo=PAPER)
    return [
        ("True size", pattern_specimen(pattern, INK, "", *box)),
        ("On a dark unit", pattern_specimen(pattern, INK, dark, *box)),
        ("In a soft colour", pattern_specimen(pattern, "#8A94A0", "#F4E6A8", *box)),
        ("Below a code", [*pattern_specimen(pattern, INK, PAPER, *box), code]),
    ]


def _at_angles(symbol: Symbol) -> list[Item]:
    return [i for n, turn in enumerate(_TURNS) for i in point_specimen(symbol, 8.0 + 14 * n, HEIGHT / 2, turn)]


def _beside(symbol: Symbol) -> list[Item]:
    line = Stroke(LineStyle(0.2, INK), Paths.of([(16.0, 22.0), (24.0, 20.0), (33.0, 21.5), (42.0, 18.0)]))
    strike = Stroke(LineStyle(0.25, INK), Paths.of([(25.0, 13.5), (29.5, 11.0)], [(27.2, 12.2), (28.0, 13.6)]))
    figure = Text(run("35", ROMAN, 2.0, "centre"), (29.6, 16.2), INK)
    x, y = symbol.captions[0].at if symbol.captions else (2.0, 0.0)
    dx, dy = turned_place((x, y), 0.0)
    begins = not symbol.captions or symbol.captions[0].begins
    name = run("Carn Hoe 412", ITALIC, 2.0, "left" if begins else "centre")
    named = Text(name, (8.0 + dx, 8.0 + dy + cap_height(2.0) / 2), INK)
    return [line, strike, figure, *point_specimen(symbol, 8.0, 8.0, 0.0), named]


def _ground(tint: str) -> Item:
    box = Paths.of([(0.0, 0.0), (WIDTH, 0.0), (WIDTH, HEIGHT), (0.0, HEIGHT), (0.0, 0.0)])
    return Fill(tint, box, np.array([0, 1]))


@lru_cache(maxsize=1)
def _relief() -> Item:
    """Made-up hills, lit from the north-west."""
    y, x = np.mgrid[0:125, 0:220] / 50.0
    heights = np.sin(2.1 * x + 0.7 * y) + 0.6 * np.cos(1.3 * x - 2.4 * y) + 0.3 * np.sin(5 * x) * np.cos(4 * y)
    north, east = np.gradient(heights, 1 / 50.0)
    light = (0.82 - 0.06 * (east + north)).clip(0.45, 1.0)
    made = io.BytesIO()
    Image.fromarray((light * 255).astype(np.uint8)).save(made, "PNG")
    return Picture(made.getvalue(), (WIDTH, 0.0, 0.0, 0.0, HEIGHT, 0.0), "relief")


def marked_line(symbol: Symbol, reach: float) -> list[Item]:
    """A line that runs upwards through the grid, without its ornaments."""
    return [Stroke(style, Paths.of([(0.0, reach), (0.0, -reach)])) for style in symbol.strokes]
