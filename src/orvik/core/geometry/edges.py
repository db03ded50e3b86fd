"""Edges between two vertices as single numbers, so that the same one is found again among millions."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from orvik.core.arrays import Floats, Ints

Codes = NDArray[np.uint64]
# Odd numbers with ones and zeroes well mixed: those of the finalizer of MurmurHash3, which is in the public domain,
# and the golden ratio of 64 bits.
_MIX, _MORE, _GOLDEN = (np.uint64(v) for v in (0xFF51AFD7ED558CCD, 0xC4CEB9FE1A85EC53, 0x9E3779B97F4A7C15))
_SHIFT = np.uint64(33)
# By so many first bits numbers are sifted before they are searched for.
FIRST_BITS = 24


def vertex_codes(xy: Floats) -> Codes:
    """A number for each place, (n, 2): the same for the same place to the last bit.

    Two places have the same number once in some ten billion billions; where that matters, compare the places.
    """
    # Adding nothing makes minus zero zero.
    bits = np.ascontiguousarray(xy + 0.0).view(np.uint64).reshape(-1, 2)
    return _mixed(_mixed(bits[:, 0]) * _GOLDEN + bits[:, 1])


def edge_codes(first: Codes, last: Codes, either_way: bool = False) -> Codes:
    """A number for each edge from one vertex to another; with ``either_way`` the same for its reverse."""
    return _mixed(first + last) if either_way else _mixed(first * _GOLDEN + last)


def among(codes: Codes, wanted: Codes) -> Ints:
    """Rows of many codes that are among a few, which are sorted and each there once."""
    if not len(wanted):
        return np.zeros(0, dtype=np.int64)
    # Most are none of those asked for, which their first bits tell.
    may = np.zeros(1 << FIRST_BITS, dtype=bool)
    shift = np.uint64(64 - FIRST_BITS)
    may[wanted >> shift] = True
    rest = np.flatnonzero(may[codes >> shift])
    at = np.minimum(np.searchsorted(wanted, codes[rest]), len(wanted) - 1)
    return np.asarray(rest[wanted[at] == codes[rest]], dtype=np.int64)


def found_in(asked: Codes, there: Codes) -> tuple[Ints, Ints]:
    """Pairs of rows with the same number: every row asked for that is there at all, and one of those there."""
    wanted, which = np.unique(asked, return_inverse=True)
    rest = among(there, wanted)
    rows = np.full(len(wanted), -1, dtype=np.int64)
    rows[np.searchsorted(wanted, there[rest])] = rest
    held = rows[which]
    hit = np.flatnonzero(held >= 0)
    return hit, held[hit]


def _mixed(values: Codes) -> Codes:
    values = (values ^ (values >> _SHIFT)) * _MIX
    values = (values ^ (values >> _SHIFT)) * _MORE
    return values ^ (values >> _SHIFT)
