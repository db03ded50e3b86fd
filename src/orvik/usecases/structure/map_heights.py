"""The heights that the map of a project stands on, kept for as long as nothing is said of others."""

from __future__ import annotations

import math

from orvik.core.coordinates import GroundBox
from orvik.core.errors import CoordinateRefused, FileRefused, StructureRefused
from orvik.core.pictures.source import Source
from orvik.core.structure.map_heights import MapHeights
from orvik.store.read_project import ReadProject
from orvik.usecases.ground.heights import ground_heights, ground_sources

# So much ground around the border is asked for, as a share of its width.
AROUND = 0.02


class HeightsFollower:
    """Gives the heights that a map stands on, and reads them again only where others are asked for."""

    def __init__(self) -> None:
        self._asked: tuple[tuple[Source, ...], GroundBox, str] | None = None
        self._heights: MapHeights | None = None

    def __call__(self, project: ReadProject) -> MapHeights | None:
        """The heights under the map; None where there are none, or none that can be read (which is told elsewhere)."""
        sources = tuple(ground_sources(project))
        window = _window(project) if sources else None
        if window is None:
            return None
        asked = (sources, window, project.crs.text)
        if asked != self._asked:
            try:
                found = ground_heights(project, window)
            except (StructureRefused, FileRefused, CoordinateRefused):
                # A file that was away may be back at the next edit.
                return None
            self._heights = MapHeights(found.grid, found.error, project.crs)
            self._asked = asked
        return self._heights


def _window(project: ReadProject) -> GroundBox | None:
    """The border, or all that was drawn in steps of its size, so that the window stays for most edits."""
    border = project.border()
    if border is not None:
        west, south, east, north = border.bounds
        wide = AROUND * max(east - west, north - south)
        return west - wide, south - wide, east + wide, north + wide
    drawn = project.extent()
    if drawn is None:
        return None
    west, south, east, north = drawn
    step = 2.0 ** (math.ceil(math.log2(max(east - west, north - south, 1.0))) - 3)
    return (
        (math.floor(west / step) - 0.5) * step,
        (math.floor(south / step) - 0.5) * step,
        (math.ceil(east / step) + 0.5) * step,
        (math.ceil(north / step) + 0.5) * step,
    )
