"""Places around a sign: where its figure stands by the book, else on the side that is free."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orvik.core.arrays import Floats, Ints
from orvik.core.ink import Symbol
from orvik.core.labels.candidates import CLEAR, Candidates
from orvik.core.labels.wish import Wish

DIRECTIONS = 16
# Further out than just clear of the sign, in millimetres.
FURTHER = (0.0, 0.9)
# A name that stands over its place may move so far, in its own widths and heights.
NUDGES = ((0.0, 0.0), (0.0, -1.5), (0.0, 1.5), (0.3, 0.0), (-0.3, 0.0), (0.3, -1.5), (-0.3, -1.5), (0.3, 1.5))
FURTHER_NUDGES = ((-0.3, 1.5), (0.6, 0.0), (-0.6, 0.0), (0.0, -3.0), (0.0, 3.0))


def around(places: Floats, wishes: Sequence[Wish], owners: Ints, halves: Floats) -> Candidates:
    """Places for what is written beside signs.

    Parameters
    ----------
    places
        (n, 2), where each sign stands.
    """
    made = [
        _around(places[i], wish, int(owners[i]), halves[i])
        if wish.placing == "around"
        else _over(places[i], wish, int(owners[i]), halves[i])
        for i, wish in enumerate(wishes)
    ]
    return Candidates.together(made)


_ANGLES = np.radians(np.arange(DIRECTIONS) * 360 / DIRECTIONS)
_WAYS = np.column_stack([np.sin(_ANGLES), -np.cos(_ANGLES)])


def _around(place: Floats, wish: Wish, owner: int, half: Floats) -> Candidates:
    at = np.array(wish.at)
    far = float(np.hypot(*at))
    best = at / far if far > 0 else np.array([1.0, 0.0])
    clear = reach(wish.symbol, wish.turned, _WAYS) + np.abs(_WAYS) @ half + CLEAR + 0.1
    turn = 1 - _WAYS @ best
    middles = [place + at]
    costs = [np.zeros(1)]
    for further in FURTHER:
        middles.append(place + _WAYS * (clear + further)[:, None])
        costs.append(0.2 + 0.6 * turn + 0.5 * further)
    rows = np.vstack(middles)
    return Candidates.of(np.full(len(rows), owner), rows, np.concatenate(costs))


def _over(place: Floats, wish: Wish, owner: int, half: Floats) -> Candidates:
    nudges = np.array(NUDGES + FURTHER_NUDGES)
    middles = place + np.array(wish.at) + nudges * half * 2
    return Candidates.of(np.full(len(nudges), owner), middles, np.hypot(*nudges.T))


def reach(symbol: Symbol | None, turned: float, ways: Floats) -> Floats:
    """How far a symbol that is turned reaches in some directions, (n, 2), in millimetres.

    What lies further in a direction than this is clear of it, and so is a box that lies beyond.
    """
    if symbol is None or not symbol.items:
        return np.zeros(len(ways))
    angle = np.radians(turned)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    xy = np.vstack([item.paths.xy for item in symbol.items]) @ turn
    out: Floats = np.maximum((xy @ ways.T).max(axis=0), 0.0)
    return out
