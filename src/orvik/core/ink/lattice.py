"""Where the tiles of a pattern stand."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.coordinates import PageBox
from orvik.core.ink.paths import Paths, repeated
from orvik.core.ink.primitives import Fill, Pattern, Stroke, Tile

EVERYWHERE: PageBox = (-np.inf, -np.inf, np.inf, np.inf)


def within(window: PageBox, clip: Paths) -> PageBox:
    """What a window still shows of what is cut to a path."""
    (left, top), (right, bottom) = clip.xy.min(axis=0).tolist(), clip.xy.max(axis=0).tolist()
    return (max(window[0], left), max(window[1], top), min(window[2], right), min(window[3], bottom))


def lattice(pattern: Pattern, window: PageBox) -> Floats:
    """Where the tiles of a pattern stand that touch its areas, in a frame of millimetres with y downwards.

    Parameters
    ----------
    window
        Left, top, right and bottom of what is shown; tiles beyond it are left out.

    Returns
    -------
    (n, 2) upper left corners, row by row. Tiles stand by their widths and heights from the anchor.
    """
    tile = pattern.tile
    areas = _boxes(pattern)
    areas = np.column_stack([np.maximum(areas[:, :2], window[:2]), np.minimum(areas[:, 2:], window[2:])])
    areas = areas[(areas[:, 0] < areas[:, 2]) & (areas[:, 1] < areas[:, 3])]
    if not len(areas):
        return np.zeros((0, 2))
    # A piece that reaches past its tile's edge is seen from the next one: one more all round.
    first_row = np.floor((areas[:, 1] - pattern.anchor[1]) / tile.height).astype(int) - 1
    last_row = np.floor((areas[:, 3] - pattern.anchor[1]) / tile.height).astype(int) + 1
    first = np.floor((areas[:, 0] - pattern.anchor[0]) / tile.width).astype(int) - 2
    last = np.floor((areas[:, 2] - pattern.anchor[0]) / tile.width).astype(int) + 1
    row0, column0 = int(first_row.min()), int(first.min())
    wanted = np.zeros((int(last_row.max()) - row0 + 1, int(last.max()) - column0 + 1), dtype=bool)
    for top, bottom, left, right in zip(
        first_row - row0, last_row - row0, first - column0, last - column0, strict=True
    ):
        wanted[top : bottom + 1, left : right + 1] = True
    rows, columns = np.nonzero(wanted)
    return np.column_stack(
        [
            pattern.anchor[0] + (columns + column0) * tile.width,
            pattern.anchor[1] + (rows + row0) * tile.height,
        ]
    )


def block(tile: Tile, across: int) -> Tile:
    """So many tiles in a row, and as many rows of them, as one: what is repeated then are fewer, larger things."""
    steps = np.arange(across)
    shifts = np.array([(column * tile.width, row * tile.height) for row in steps for column in steps])
    items: list[Stroke | Fill] = []
    for item in tile.items:
        xy = (item.paths.xy[None, :, :] + shifts[:, None, :]).reshape(-1, 2)
        paths = Paths(xy, repeated(item.paths.starts, len(shifts)))
        if isinstance(item, Stroke):
            items.append(replace(item, paths=paths))
        else:
            items.append(replace(item, paths=paths, parts=repeated(item.parts, len(shifts))))
    return Tile(f"{tile.name} x{across}", tile.width * across, tile.height * across, tuple(items))


def _boxes(pattern: Pattern) -> Floats:
    """Left, top, right and bottom of each area."""
    begins = pattern.paths.starts[pattern.parts[:-1]]
    if not len(begins):
        return np.zeros((0, 4))
    least, most = (reduce_.reduceat(pattern.paths.xy, begins, axis=0) for reduce_ in (np.minimum, np.maximum))
    return np.hstack([least, most])
