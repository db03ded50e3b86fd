"""The project's ground: heights over a window and at a place, from the uppermost grid that knows them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import pyproj

from orvik.core.arrays import Heights
from orvik.core.coordinates import GroundBox
from orvik.core.errors import CoordinateRefused, StructureRefused
from orvik.core.pictures.georeferencing import Mapping
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.pictures.source import Source
from orvik.core.structure.height_grid import HeightGrid
from orvik.exchange.rasters import elevation, tiling
from orvik.store.read_project import ReadProject
from orvik.usecases.ground.underlay_views import sound_copy, trouble_with

# Cells on a side at the most: a window that is larger is asked for at a coarser step.
MOST_CELLS = 1400
NO_HEIGHTS = "This project has no heights; add a grid of them in Ground."


@dataclass(frozen=True)
class GroundHeights:
    """Heights over a window, with what they rest on.

    Attributes
    ----------
    grid
        In metres, in the project's frame.
    datums
        The vertical datums of the grids that answered; an empty one is not stated.
    error
        The greatest standard error that is stated of these grids, in metres.
    names
        Of the grids, the uppermost first.
    """

    grid: HeightGrid
    datums: tuple[str, ...]
    error: float
    names: tuple[str, ...]

    @property
    def doubts(self) -> tuple[str, ...]:
        """What has to be said of heights that are mixed."""
        if len(self.datums) < 2:
            return ()
        said = " and ".join(datum or "a datum that is not stated" for datum in self.datums)
        return (f"Heights of {len(self.names)} grids meet here that stand above {said}; they are not converted.",)


def ground_sources(project: ReadProject) -> list[Source]:
    """The grids that the project asks for heights, the uppermost first."""
    return [
        source
        for source in reversed(project.sources())
        if source.relief and source.transform and not source.aside and HeightFacts.of_json(source.heights).asked
    ]


def ground_heights(project: ReadProject, window: GroundBox, coarsest: float | None = None) -> GroundHeights:
    """Heights over a window of the project; NaN where no grid knows any.

    Parameters
    ----------
    window
        West, south, east and north in units of the project's system.
    coarsest
        As fine as this is enough, in those units; the cells of the uppermost grid without it.

    Raises
    ------
    StructureRefused
        No grid is asked for heights.
    FileRefused
        A grid is missing, altered or damaged.
    """
    sources = ground_sources(project)
    if not sources:
        raise StructureRefused(NO_HEIGHTS)
    files = [elevation.height_file(tiling.best(sound_copy(project.path, s)), s) for s in sources]
    view = _view(project, window, files[0], coarsest)
    heights = np.full((view.height, view.width), np.nan, dtype=np.float32)
    facts: list[HeightFacts] = []
    names: list[str] = []
    for source, file in zip(sources, files, strict=True):
        missing = ~np.isfinite(heights)
        if not missing.any():
            break
        found = elevation.heights(file, view)
        new = missing & np.isfinite(found)
        if new.any():
            heights[new] = found[new]
            facts.append(HeightFacts.of_json(source.heights))
            names.append(source.name)
    metres = project.crs.metres_per_unit
    grid = _grid(heights, view, metres)
    datums = tuple(dict.fromkeys(fact.datum for fact in facts))
    return GroundHeights(grid, datums, max((fact.error for fact in facts), default=0.0), tuple(names))


@dataclass(frozen=True)
class GroundAt:
    """The ground at a place: its height in metres, how steeply it falls in degrees, and where to on the grid.

    Slope and direction are None where heights are missing beside it, the direction on level ground, too.
    """

    height: float
    slope: float | None
    towards: float | None


def ground_at(project: ReadProject, x: float, y: float) -> GroundAt | None:
    """The ground at a place, by the uppermost grid that knows its height; None where none does."""
    try:
        project.crs.check_place(x, y)
    except CoordinateRefused:
        return None
    metres = project.crs.metres_per_unit
    for source in ground_sources(project):
        if trouble_with(project.path, source):
            continue
        file = elevation.height_file(tiling.best(sound_copy(project.path, source)), source)
        cell = elevation.cell_of(file, project.crs, (x - 1, y - 1, x + 1, y + 1))
        view = _view(project, _about(x, y, cell), file, None)
        grid = _grid(elevation.heights(file, view), view, metres)
        place = np.array([[x, y]]) * metres
        height = float(grid.at(place)[0])
        if np.isfinite(height):
            slope, towards = (float(v[0]) if np.isfinite(v[0]) else None for v in grid.slope_at(place))
            return GroundAt(height, slope, towards)
    return None


def _about(x: float, y: float, by: float) -> GroundBox:
    return x - by, y - by, x + by, y + by


def _grid(heights: Heights, view: GroundView, metres: float) -> HeightGrid:
    west, _, _, north = view.window
    return HeightGrid(heights, west * metres, north * metres, (view.cell[0] * metres, view.cell[1] * metres))


def _view(project: ReadProject, window: GroundBox, file: elevation.HeightFile, coarsest: float | None) -> GroundView:
    """The cells to ask for: those of the grid itself where it lies straight in the project's system."""
    west, south, east, north = window
    own = elevation.cell_of(file, project.crs, (west - 1, south - 1, east + 1, north + 1))
    affine = Mapping.of_json(file.transform).affine
    straight = affine is not None and affine[1] == affine[3] == 0 and abs(affine[0]) == abs(affine[4])
    straight = straight and pyproj.CRS(file.system).equals(pyproj.CRS(project.crs.text), ignore_axis_order=True)
    cell = max(own, coarsest or 0.0, (east - west) / MOST_CELLS, (north - south) / MOST_CELLS)
    # In another system heights fall between cells: half of them lose nothing that can be seen.
    step = (own * max(math.floor(cell / own + 1e-6), 1) if straight else cell if cell > own else cell / 2) or 1.0
    start = (affine[2], affine[5]) if straight and affine is not None else (0.0, 0.0)
    left = math.floor((west - start[0]) / step) - 1
    top = math.ceil((north - start[1]) / step) + 1
    columns = math.ceil((east - start[0]) / step) + 1 - left
    rows = top - (math.floor((south - start[1]) / step) - 1)
    x, y = start[0] + left * step, start[1] + top * step
    return GroundView(project.crs, (step, 0.0, x, 0.0, -step, y), columns, rows)
