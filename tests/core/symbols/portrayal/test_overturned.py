"""Overturned folds: the bend lies round the limb that is overturned, reckoned from the fold itself."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.affinity

from orvik.core.ink.primitives import Fill, Stroke
from orvik.core.symbols.book_file import standard

BOOK = standard()


def overturned_limb(kind: str, lean: float) -> int:
    """Which limb of a fold with a dip to the right is overturned: -1 left, 1 right.

    Limbs of an upright fold dip 60° from the middle (anticline) or to it (syncline); the whole is turned by ``lean``
    degrees so that its axial surface dips to the right. A limb is overturned where its upper side faces down.
    """
    out = []
    for limb in (-1, 1):
        dip = 60.0 * (limb if kind == "anticline" else -limb)
        # The way up of the bed, as an angle from straight up, positive to the right; leaned to the left by the turn.
        up = dip - lean
        if abs(up) > 90:
            out.append(limb)
    (limb,) = out
    return limb


def drawing(kind: str) -> tuple[shapely.Geometry, list[np.ndarray], float]:
    """What is drawn, the heads of its arrows, and to which side the bend reaches."""
    symbol = BOOK.symbol("lines", f"overturned_{kind}")
    items = symbol.ornaments[0].stamp.items
    heads = [item.paths[i] for item in items if isinstance(item, Fill) for i in range(len(item.paths))]
    lines = [item.paths[i] for item in items if isinstance(item, Stroke) for i in range(len(item.paths))]
    bend = max(lines, key=len)
    drawn = shapely.union_all([*(shapely.LineString(x).buffer(0.1) for x in lines), *map(shapely.Polygon, heads)])
    middle = bend[len(bend) // 2]
    return drawn, heads, float(np.sign(middle[0] - bend[0][0]))


@pytest.mark.parametrize("kind", ["anticline", "syncline"])
def test_the_bend_lies_round_the_overturned_limb_and_arrows_point_down_the_dip(kind: str) -> None:
    _, heads, bend = drawing(kind)
    assert bend == overturned_limb(kind, 50.0)
    assert len(heads) == 2
    for head in heads:
        # Its corners are a tip and two that stand side by side; the symbol is drawn for a dip to the right.
        corners = np.unique(np.round(head, 3), axis=0)
        assert len(corners) == 3
        assert (corners[:, 0] == corners[:, 0].max()).sum() == 1
    words = BOOK.symbol("lines", f"overturned_{kind}").side
    assert words.startswith("the side that both limbs dip to")
    # Words of the side are of the right, which is the side of the dip.
    assert ("on this side is overturned" in words) == (bend > 0)


def test_the_two_are_told_apart_at_every_strike() -> None:
    one, other = drawing("anticline")[0], drawing("syncline")[0]
    for first in range(0, 360, 10):
        for second in range(0, 360, 10):
            a = shapely.affinity.rotate(one, first, origin=(0, 0))
            b = shapely.affinity.rotate(other, second, origin=(0, 0))
            assert a.symmetric_difference(b).area > 0.3 * one.area
