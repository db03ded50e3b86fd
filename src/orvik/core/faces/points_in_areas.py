"""Which areas hold which points, kept up with edits: only what has changed is looked at again."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Ints, Objects
from orvik.core.geometry.holding import holders

# Where more than this share of points or areas has changed all are looked at again.
ANEW = 0.2
_NONE = np.empty((0, 2), dtype=np.int64)


class PointsInAreas:
    """Pairs of a point and an area that holds it, its edge included.

    A geometry that has not changed is the same object as when it was last asked for.
    """

    def __init__(self) -> None:
        self._points: dict[int, object] = {}
        self._areas: dict[int, object] = {}
        # Numbers of a point and of an area, (n, 2).
        self._pairs = _NONE

    def of(self, point_ids: Ints, points: Objects, area_ids: Ints, areas: Objects) -> tuple[Ints, Ints]:
        """The pairs by their rows, in the order of the points and then of the areas.

        Parameters
        ----------
        point_ids, area_ids
            Their numbers, in ascending order.
        """
        now = dict(zip(point_ids.tolist(), points, strict=True)), dict(zip(area_ids.tolist(), areas, strict=True))
        moved, redrawn = _changed(self._points, now[0]), _changed(self._areas, now[1])
        if len(moved) > ANEW * len(now[0]) or len(redrawn) > ANEW * len(now[1]):
            self._pairs = _held(point_ids, points, area_ids, areas)
        elif moved or redrawn:
            kept = ~(np.isin(self._pairs[:, 0], sorted(moved)) | np.isin(self._pairs[:, 1], sorted(redrawn)))
            some_points, some_areas = np.isin(point_ids, sorted(moved)), np.isin(area_ids, sorted(redrawn))
            self._pairs = np.concatenate(
                [
                    self._pairs[kept],
                    _held(point_ids[some_points], points[some_points], area_ids, areas),
                    _held(point_ids[~some_points], points[~some_points], area_ids[some_areas], areas[some_areas]),
                ]
            )
        self._points, self._areas = now
        rows = np.searchsorted(point_ids, self._pairs[:, 0]), np.searchsorted(area_ids, self._pairs[:, 1])
        order = np.lexsort((rows[1], rows[0]))
        return rows[0][order], rows[1][order]


def _changed(before: dict[int, object], now: dict[int, object]) -> set[int]:
    return {number for number, one in now.items() if before.get(number) is not one} | (before.keys() - now.keys())


def _held(point_ids: Ints, points: Objects, area_ids: Ints, areas: Objects) -> Ints:
    if not len(points) or not len(areas):
        return _NONE
    held, holding = holders(points, shapely.STRtree(areas))
    return np.column_stack([point_ids[held], area_ids[holding]])
