"""Many paths in one array, as ink and snapping hold them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.ink.affine import Affine, apply

# How much further than its offset a line beside another may stand off at a sharp bend.
MITRE = 2.0


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

    def lines(self) -> Objects:
        """The paths as linestrings; an empty one where there are fewer than two vertices."""
        counts = np.diff(self.starts)
        long = counts > 1
        out: Objects = np.full(len(self), shapely.LineString(), dtype=object)
        vertices = np.repeat(long, counts)
        xy = self.xy[self.starts[0] : self.starts[-1]][vertices]
        out[long] = shapely.linestrings(xy, indices=np.repeat(np.arange(int(long.sum())), counts[long]))
        return out

    def moved(self, m: Affine) -> Paths:
        """The same in another frame."""
        return Paths(apply(m, self.xy), self.starts)

    def enlarged(self, k: float) -> Paths:
        """The same drawn larger about the corner of its frame."""
        return Paths(self.xy * k, self.starts)

    @staticmethod
    def of(*paths: Sequence[tuple[float, float]] | Floats) -> Paths:
        """Paths from lists of points."""
        arrays = [np.asarray(p, dtype=float).reshape(-1, 2) for p in paths]
        counts = [len(a) for a in arrays]
        xy = np.vstack(arrays) if arrays else np.zeros((0, 2))
        return Paths(xy, np.concatenate([[0], np.cumsum(counts)]).astype(np.int64))


def repeated(starts: Ints, times: int) -> Ints:
    """Where things start that follow one another so many times.

    >>> repeated(np.array([0, 2, 5]), 2).tolist()
    [0, 2, 5, 7, 10]
    """
    first = starts[:-1][None, :] + (np.arange(times) * starts[-1])[:, None]
    return np.append(first.ravel(), starts[-1] * times).astype(np.int64)


def beside(paths: Paths, offset: float) -> Paths:
    """Paths to the right of others in a frame with y downwards, vertex for vertex.

    At a bend the vertex lies on the bisector, so that the line keeps its distance from both sides of it, but no
    further off than twice the offset.
    """
    return Paths(
        np.vstack([_beside(paths[i], offset) for i in range(len(paths))]) if len(paths) else paths.xy, paths.starts
    )


def _beside(xy: Floats, offset: float) -> Floats:
    steps = np.diff(xy, axis=0)
    normals = np.column_stack([-steps[:, 1], steps[:, 0]]) / np.maximum(np.hypot(*steps.T), 1e-12)[:, None]
    closed = len(xy) > 2 and bool((xy[0] == xy[-1]).all())
    before = np.vstack([normals[-1:] if closed else normals[:1], normals])
    after = np.vstack([normals, normals[:1] if closed else normals[-1:]])
    middle = before + after
    squared = (middle * middle).sum(axis=1)
    scale = np.minimum(2 / np.maximum(squared, 1e-12), MITRE / np.maximum(np.sqrt(squared), 1e-12))
    out: Floats = xy + offset * middle * scale[:, None]
    return out
