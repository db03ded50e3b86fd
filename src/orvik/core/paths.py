"""Many paths in one array, as ink and snapping hold them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects


@dataclass(frozen=True)
class Paths:
    """Many paths in one array: path ``i`` is ``xy[starts[i]:starts[i + 1]]``."""

    xy: Floats
    starts: Ints

    def __len__(self) -> int:
        return len(self.starts) - 1

    def __getitem__(self, i: int) -> Floats:
        return self.xy[self.starts[i] : self.starts[i + 1]]

    @staticmethod
    def of_lines(lines: Objects) -> Paths:
        """The vertices of an array of linestrings or rings."""
        xy = shapely.get_coordinates(lines)
        counts = shapely.get_num_coordinates(lines) if len(lines) else np.zeros(0, dtype=np.int64)
        return Paths(xy, np.concatenate([[0], np.cumsum(counts)]).astype(np.int64))

    @staticmethod
    def of(*paths: Sequence[tuple[float, float]]) -> Paths:
        """Paths from lists of points."""
        arrays = [np.asarray(p, dtype=float).reshape(-1, 2) for p in paths]
        counts = [len(a) for a in arrays]
        xy = np.vstack(arrays) if arrays else np.zeros((0, 2))
        return Paths(xy, np.concatenate([[0], np.cumsum(counts)]).astype(np.int64))
