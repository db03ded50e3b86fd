"""Jobs: what worker processes carry out on a project file, each opened for reading and closed again."""

from __future__ import annotations

from pathlib import Path

from orvik.core.ink import Group
from orvik.core.signs.portray import portray
from orvik.exchange import raster, raster_files, tiling
from orvik.store.project import opened_for_reading
from orvik.store.sign_book import sign_book_of
from orvik.usecases import underlay_views
from orvik.usecases.stations import Notebook, notebook_of
from orvik.web.session.ink_wire import packed


def map_ink(path: Path) -> bytes:
    """All of a project's ground ink, as of the revision it states."""
    with opened_for_reading(path) as project, project.snapshot():
        layers = portray(
            project.all_features(),
            sign_book_of(project),
            project.units_by_code(),
            project.crs,
            project.scales.publication,
        )
        extent = project.extent() or (0.0, 0.0, 0.0, 0.0)
        origin = (round((extent[0] + extent[2]) / 2), round((extent[1] + extent[3]) / 2))
        return packed(layers, origin, project.revision)


def underlay_view(
    path: Path, source_id: int, window: tuple[float, float, float, float], width: int, height: int
) -> bytes | None:
    """A window of an underlay as PNG."""
    with opened_for_reading(path) as project:
        return underlay_views.view(project, project.source(source_id), window, width, height)


def underlay_ink(
    path: Path, source_id: int, window: tuple[float, float, float, float], width: int, height: int
) -> bytes:
    """The lines of an underlay in a window, as the page reads ink."""
    with opened_for_reading(path) as project:
        items = underlay_views.ink(project, project.source(source_id), window, width, height)
        origin = (round((window[0] + window[2]) / 2), round((window[1] + window[3]) / 2))
        return packed({"lines": Group("lines", tuple(items))}, origin, project.revision)


def scan_picture(path: Path, source_id: int, box: tuple[float, float, float, float], width: int, height: int) -> bytes:
    """A part of a scan as it lies on the scanner, as PNG."""
    with opened_for_reading(path) as project:
        file = tiling.best(raster_files.kept_file(path, project.source(source_id).file))
        return raster.scan_view(file, box, width, height)


def height_of(path: Path, x: float, y: float) -> float | None:
    """The height at a place of a project in metres."""
    with opened_for_reading(path) as project:
        return underlay_views.height_at(project, x, y)


def listed_notebook(path: Path, most: int) -> Notebook:
    """The field notebook of a project as it is listed."""
    with opened_for_reading(path) as project, project.snapshot():
        return notebook_of(project, most)


def tile(file: Path) -> bool:
    """Make the tiled copy of a large picture."""
    return tiling.make(file)
