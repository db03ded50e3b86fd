"""Ornaments of dashed lines stand on marks; all kinds and certainties, on lines of every sort, walked by shapely."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.ops

from orvik.core.features.feature import CERTAINTIES, Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.ink.primitives import Item, Ornaments, Stroke
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.line_ink import line_ink
from orvik.core.symbols.portrayal.ornaments import reach_along
from orvik.core.symbols.symbol import Symbol

BOOK = standard()
DASHED = [
    symbol
    for symbol in BOOK.symbols
    if symbol.table == "lines"
    and any(o.place in ("repeat", "once") for o in symbol.ornaments)
    and max(symbol.strokes, key=lambda s: s.width).dash
]


class Page:
    """A frame whose units are millimetres at 1:1000."""

    metres_per_unit = 1.0

    def convergence(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        return np.zeros(len(x))


def lines_of_every_sort(seed: int) -> dict[str, shapely.LineString]:
    rng = np.random.default_rng(seed)
    bends = np.cumsum(rng.normal(0, 0.18, 60))
    wavy = np.cumsum(np.column_stack([np.cos(bends), np.sin(bends)]) * rng.uniform(0.6, 2.4, (60, 1)), axis=0)
    turn = np.linspace(0, 2 * np.pi, 80)
    ring = np.column_stack([np.cos(turn), np.sin(turn)]) * rng.uniform(14, 30)
    ring[-1] = ring[0]
    box = np.array([(0, 0), (31.3, 2), (29, 27.7), (-3, 22), (0, 0)], dtype=float)
    return {
        "straight": shapely.LineString([(0, 0), (rng.uniform(20, 120), 7)]),
        "wavy": shapely.LineString(wavy),
        "cornered": shapely.LineString([(0, 0), (33, 4), (30, 37), (61, 33), (58, 70)]),
        "ring": shapely.LineString(ring),
        "box": shapely.LineString(box),
        # Begins in the middle of a side.
        "turned box": shapely.LineString(np.vstack([[(15.6, 1.0)], box[1:], [(15.6, 1.0)]])),
    }


def drawn(feature: Feature) -> list[Item]:
    layers: dict[str, list[Item]] = {"linework": [], "tags": [], "border": []}
    line_ink(Features.of("lines", [feature]), BOOK, Page(), 1000, layers)
    return layers["linework"]


def marks(stroke: Stroke) -> list[shapely.Geometry]:
    """The marks of a stroke, walked off one by one; a dot is a mark without length."""
    out: list[shapely.Geometry] = []
    dash = stroke.style.dash * (1 + len(stroke.style.dash) % 2)
    for i in range(len(stroke.paths)):
        line, at = shapely.LineString(stroke.paths[i]), 0.0
        while at <= line.length:
            for mark, gap in zip(dash[::2], dash[1::2], strict=True):
                out.append(shapely.ops.substring(line, at, min(at + mark, line.length)))
                at += mark + gap
    return out


def off_marks(items: list[Item], feature: Feature) -> list[float]:
    """How far the ornaments of a feature, but for those at ends, stand from marks and from lines without gaps."""
    strokes = [item for item in items if isinstance(item, Stroke)]
    heavy = max(stroke.style.width for stroke in strokes)
    ink = shapely.union_all(
        [
            part
            for stroke in strokes
            if stroke.style.width >= 0.6 * heavy
            for part in (
                marks(stroke)
                if stroke.style.dash
                else [shapely.LineString(stroke.paths[i]) for i in range(len(stroke.paths))]
            )
        ]
    )
    placed = [o for s in BOOK.symbols if s.kind == feature.kind for o in s.ornaments if o.place in ("repeat", "once")]
    found = [i for i in items if isinstance(i, Ornaments) and any(o.stamp is i.stamp for o in placed)]
    return [float(ink.distance(shapely.Point(at))) for item in found for at in item.at]


@pytest.mark.parametrize("symbol", DASHED, ids=lambda symbol: symbol.id)
def test_each_ornament_stands_on_a_mark(symbol: Symbol) -> None:
    count, off = 0, 0
    for seed in range(3):
        for name, line in lines_of_every_sort(seed).items():
            feature = Feature("lines", line, symbol.kind, 1, symbol.certainty)
            away = off_marks(drawn(feature), feature)
            count += len(away)
            off += sum(d > 1e-3 for d in away)
            assert away or line.length < 60 or symbol.ornaments[0].spacing > 60, name
    # Where a mark lies across a corner, an ornament that has no other in reach stays where it has room.
    assert count >= 15
    assert off <= 0.03 * count


@pytest.mark.parametrize("kind", sorted({symbol.kind for symbol in DASHED}))
def test_where_certainty_changes_they_stand_on_the_marks_of_each(kind: str) -> None:
    made = [symbol.certainty for symbol in BOOK.by_kind["lines", kind] if symbol.certainty in CERTAINTIES]
    line = shapely.segmentize(shapely.LineString([(0, 0), (160, 30)]), 2.0)
    last = len(line.coords) - 1
    for other in made:
        feature = Feature("lines", line, kind, 1, made[-1], stretches=(Stretch(last // 3, 2 * last // 3, other),))
        away = off_marks(drawn(feature), feature)
        assert away
        assert max(away) < 1e-3


def test_they_stand_evenly_on_a_straight_line_and_do_not_touch() -> None:
    for symbol in DASHED:
        (ornament, *_) = symbol.ornaments
        if ornament.place != "repeat" or len(symbol.ornaments) > 1:
            continue
        feature = Feature("lines", shapely.LineString([(0, 0), (0, 97)]), symbol.kind, 1, symbol.certainty)
        (found,) = [item for item in drawn(feature) if isinstance(item, Ornaments)]
        steps = np.diff(np.sort(found.at[:, 1]))
        assert np.ptp(steps) < 1e-6, symbol.id
        assert steps.min() >= reach_along(ornament.stamp) - 1e-6
        assert abs(steps[0] - ornament.spacing) <= 0.5 * max(symbol.strokes, key=lambda s: s.width).dash[0] + 1.1
