"""Places around a symbol: where its figure stands by the book, else on the side that is free."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from orvik.core.arrays import Floats, Ints
from orvik.core.ink.primitives import Stamp
from orvik.core.labels.candidates import CLEAR, Candidates
from orvik.core.labels.label_request import LabelRequest

DIRECTIONS = 16
# Further out than just clear of the symbol, in millimetres.
FURTHER = (0.0, 0.9)
# A name that stands over its place may move so far, in its own widths and heights.
NUDGES = ((0.0, 0.0), (0.0, -1.5), (0.0, 1.5), (0.3, 0.0), (-0.3, 0.0), (0.3, -1.5), (-0.3, -1.5), (0.3, 1.5))
FURTHER_NUDGES = ((-0.3, 1.5), (0.6, 0.0), (-0.6, 0.0), (0.0, -3.0), (0.0, 3.0))


def around(places: Floats, requests: Sequence[LabelRequest], owners: Ints, halves: Floats) -> Candidates:
    """Places for what is written beside symbols.

    Parameters
    ----------
    places
        (n, 2), where each symbol stands.
    """
    beside = np.array([request.placing == "around" for request in requests], dtype=bool)
    made = []
    for rows, proposed in ((np.flatnonzero(beside), _around), (np.flatnonzero(~beside), _over)):
        if len(rows):
            off, costs = proposed([requests[i] for i in rows.tolist()], halves[rows])
            middles = places[rows][:, None, :] + off
            each = np.repeat(owners[rows], off.shape[1])
            made.append(Candidates.of(each, middles.reshape(-1, 2), costs.ravel()))
    return Candidates.together(made)


_ANGLES = np.radians(np.arange(DIRECTIONS) * 360 / DIRECTIONS)
_WAYS = np.column_stack([np.sin(_ANGLES), -np.cos(_ANGLES)])


def _around(requests: Sequence[LabelRequest], halves: Floats) -> tuple[Floats, Floats]:
    """How far from their symbols, (n, k, 2), and what each of these places costs, (n, k)."""
    at = np.array([request.at for request in requests])
    far = np.hypot(*at.T)[:, None]
    best = np.where(far > 0, at / np.maximum(far, 1e-12), (1.0, 0.0))
    clear = _reaches(requests) + halves @ np.abs(_WAYS).T + CLEAR + 0.1
    turn = 1 - best @ _WAYS.T
    off, costs = [at[:, None, :]], [np.zeros((len(requests), 1))]
    for further in FURTHER:
        off.append(_WAYS * (clear + further)[:, :, None])
        costs.append(0.2 + 0.6 * turn + 0.5 * further)
    return np.concatenate(off, axis=1), np.concatenate(costs, axis=1)


def _over(requests: Sequence[LabelRequest], halves: Floats) -> tuple[Floats, Floats]:
    nudges = np.array(NUDGES + FURTHER_NUDGES)
    at = np.array([request.at for request in requests])
    off = at[:, None, :] + nudges * halves[:, None, :] * 2
    return off, np.tile(np.hypot(*nudges.T), (len(requests), 1))


def _reaches(requests: Sequence[LabelRequest]) -> Floats:
    """How far the symbol of each reaches in all directions, (n, ``DIRECTIONS``)."""
    out = np.zeros((len(requests), DIRECTIONS))
    by_stamp: dict[int, list[int]] = defaultdict(list)
    for i, request in enumerate(requests):
        by_stamp[id(request.stamp)].append(i)
    for rows in by_stamp.values():
        out[rows] = reach(requests[rows[0]].stamp, np.array([requests[i].turned for i in rows]), _WAYS)
    return out


def reach(stamp: Stamp | None, turned: Floats, ways: Floats) -> Floats:
    """How far a stamp that is turned by some angles reaches in some directions, (n, 2), in millimetres.

    What lies further in a direction than this is clear of it, and so is a box that lies beyond.

    Returns
    -------
    A row for each angle, a column for each direction.
    """
    out = np.zeros((len(turned), len(ways)))
    if stamp is None or not stamp.items:
        return out
    xy = np.vstack([item.paths.xy for item in stamp.items])
    for i, angle in enumerate(np.radians(turned).tolist()):
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        out[i] = (xy @ turn @ ways.T).max(axis=0)
    return np.maximum(out, 0.0)
