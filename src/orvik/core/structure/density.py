"""Density of axes on a net, after Kamb with exponential smoothing.

Kamb, W. B. (1959), Ice petrofabric observations from Blue Glacier, Journal of Geophysical Research 64; smoothed after
Vollmer, F. W. (1995), C program for automatic contouring of spherical orientation data using a modified Kamb method,
Computers & Geosciences 21 (from memory; the reference test compares with another library).
"""

from __future__ import annotations

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.structure.net import Projection, downwards, raised

# A kernel that is smaller than this counts for nothing.
_NOTHING = -14.0
# Nodes that are compared with all axes at a time.
_BLOCK = 32


def kamb(axes: Floats, at: Floats, sigma: float = 3.0, weights: Floats | None = None) -> Floats:
    """How dense axes are in directions, in standard deviations above what scattered ones would be.

    Parameters
    ----------
    axes, at
        (n, 3) axes, and (m, 3) directions where the density is wanted.
    sigma
        Kamb's number of standard deviations: how wide each axis counts.
    weights
        How often each axis is there; once without it.
    """
    often = np.ones(len(axes)) if weights is None else weights
    total = float(often.sum())
    f = 2 * (1 + total / sigma**2)
    unit = np.sqrt(total * (f / 2 - 1) / f**2)
    nearest = np.float32(1 + _NOTHING / f)
    # Who is near is told by half of the figures; how near, by all of them.
    coarse, coarse_at = axes.astype(np.float32).T.copy(), at.astype(np.float32)
    out: Floats = np.zeros(len(at))
    for first in range(0, len(at), _BLOCK):
        # Three products by hand: threads that are woken for so little cost more than they save.
        x, y, z = coarse_at[first : first + _BLOCK].T
        cosines = np.multiply.outer(x, coarse[0])
        cosines += np.multiply.outer(y, coarse[1])
        cosines += np.multiply.outer(z, coarse[2])
        np.abs(cosines, out=cosines)
        near = np.flatnonzero(cosines > nearest)
        node, axis = np.divmod(near, len(axes))
        exact = np.abs(np.einsum("ij,ij->i", at[first + node], axes[axis]))
        counted = np.exp(f * (exact - 1)) * often[axis]
        out[first : first + _BLOCK] = np.bincount(node, counted, len(cosines))
    return np.asarray((out - 0.5) / unit)


def density_grid(axes: Floats, projection: Projection, side: int = 42, sigma: float = 3.0) -> tuple[Floats, Floats]:
    """The density over a square of nodes around a net of radius 1.

    Returns
    -------
    The coordinates of columns and of rows, and the density (side, side). Beyond the rim it goes on as at the other end
    of an axis, and is NaN in the corners.
    """
    # Readings in whole degrees are there many times. Of axes that point down, east and north say all.
    down = downwards(axes)
    _, first, often = np.unique(np.round(down[:, :2], 9) @ (1, 1j), return_index=True, return_counts=True)
    single = down[first]
    across = np.linspace(-1.06, 1.06, side)
    x, y = np.meshgrid(across, across)
    places = np.column_stack([x.ravel(), y.ravel()])
    # Corners lie beyond what a rim could need.
    near = np.hypot(*places.T) < 1.1
    density = np.full(len(places), np.nan)
    density[near] = kamb(single, raised(places[near], projection), sigma, often.astype(float))
    return across, density.reshape(side, side)
