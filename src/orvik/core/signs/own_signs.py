"""The signs and pens of the kinds that a project has made for itself."""

from __future__ import annotations

import numpy as np

from orvik.core.features.own_kind import DASHES, OwnKind
from orvik.core.ink import Fill, LineStyle, Stroke, Symbol
from orvik.core.paths import Paths
from orvik.core.signs.catalogue import INK, AreaSign, LineSign, Pen, PointSign, SignBook


def with_own(book: SignBook, kinds: list[OwnKind]) -> SignBook:
    """A sign book with the kinds of a project beside its own."""
    lines, points, areas, pens = list(book.lines), list(book.points), list(book.areas), list(book.pens)
    for kind in kinds:
        for variant, label, colour in kind.variants():
            if kind.table == "lines":
                style = LineStyle(kind.width, colour, DASHES[kind.dash])
                lines.append(LineSign(kind.name, variant or "certain", label, style, "A kind of this project.", True))
            elif kind.table == "points":
                symbol = Symbol(label, _shape(kind.shape, colour))
                points.append(
                    PointSign(
                        kind.name, label, symbol, None, None, False, False, "A kind of this project.", True, variant
                    )
                )
            else:
                areas.append(AreaSign(kind.name, label, "A kind of this project.", colour, variant))
        pens.append(Pen("", "Own kinds", kind.table, kind.name, "certain", kind.label, "A kind of this project."))
    by_name = {kind.name: kind for kind in kinds}
    return SignBook(book.name, tuple(lines), tuple(points), tuple(areas), tuple(pens), by_name)


def _shape(shape: str, colour: str) -> tuple[Stroke | Fill, ...]:
    """A point's sign, 2 mm across, with a dark edge so that it stands out on every tint."""
    if shape == "cross":
        path = Paths.of([(-0.9, -0.9), (0.9, 0.9)], [(-0.9, 0.9), (0.9, -0.9)])
        return (Stroke(LineStyle(0.4, colour), path),)
    if shape == "circle":
        turns = np.linspace(0, 2 * np.pi, 33)
        ring = [(float(np.cos(t)), float(np.sin(t))) for t in turns]
    else:
        corners = {
            "square": [(-0.9, -0.9), (0.9, -0.9), (0.9, 0.9), (-0.9, 0.9)],
            "triangle": [(0.0, -1.1), (1.05, 0.8), (-1.05, 0.8)],
            "diamond": [(0.0, -1.2), (1.0, 0.0), (0.0, 1.2), (-1.0, 0.0)],
        }[shape]
        ring = [*corners, corners[0]]
    path = Paths.of(ring)
    return (Fill(colour, path, np.array([0, 1])), Stroke(LineStyle(0.15, INK), path))
