"""What an underlay of a project shows in a window: a picture, a scan by its fit, relief, a tile service, or lines."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np
import shapely

from orvik.core.errors import FileRefused, OrvikError
from orvik.core.ground.crs_change import way_in
from orvik.core.ink.primitives import Item
from orvik.core.pictures.georeferencing import Mapping
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.reference_look import ReferenceLook, mostly
from orvik.core.pictures.relief import ReliefStyle
from orvik.core.pictures.source import Source
from orvik.core.pictures.underlay_ink import contour_ink, reference_ink
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.symbols.symbol import Symbol
from orvik.exchange.features import reference
from orvik.exchange.rasters import elevation, raster, raster_files, service, tiling
from orvik.store import allowed_services
from orvik.store.read_project import ReadProject

VIEW_KINDS = ("underlay", "service", "reference")
# Dots around a view that lines are drawn into, so that none ends within it; and how far one may pass its vertices.
EDGE = 8
UNSEEN = 0.2


def can_be_shown(source: Source) -> bool:
    """Whether an underlay can be seen: not one set aside, nor a scan that waits to be georeferenced."""
    if source.aside or source.kind not in VIEW_KINDS:
        return False
    return source.kind != "underlay" or bool(source.transform)


def copy_of(project: Path, source: Source) -> Path | None:
    """The copy of an underlay beside its project; None for a service, and where its name leads elsewhere."""
    if source.kind == "service":
        return None
    try:
        return raster_files.kept_file(project, source.file)
    except FileRefused:
        return None


def trouble_with(project: Path, source: Source) -> str:
    """What is wrong with the copy of an underlay: empty, ``missing`` or ``altered``."""
    if source.kind not in VIEW_KINDS or not source.checksum:
        return ""
    copy = copy_of(project, source)
    return "missing" if copy is None else raster.trouble_with(copy, source.checksum)


def sound_copy(project: Path, source: Source) -> Path:
    """The copy of an underlay as it was imported.

    Raises
    ------
    FileRefused
        It is missing, or has been altered since.
    """
    trouble = trouble_with(project, source)
    if trouble:
        what = "is missing" if trouble == "missing" else "has been altered since it was imported"
        raise FileRefused(f"The file of {source.name} beside the project {what}; choose it again in Ground.")
    return raster_files.kept_file(project, source.file)


def extent_of(project: ReadProject, source: Source) -> shapely.Polygon | None:
    """What ground a picture shows, in the project's system; None for what is no picture, is gone or lies nowhere."""
    if source.kind != "underlay" or not source.transform:
        return None
    try:
        copy = copy_of(project.path, source)
        if copy is None:
            return None
        width, height = raster.size(copy)
        pixels = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
        ground = Mapping.of_json(source.transform).ground(pixels)
        there = way_in(source.crs, project.crs, project.middle(), ground).places(ground)
    except OrvikError:
        return None
    return shapely.Polygon(there) if np.isfinite(there).all() else None


def view(project: ReadProject, source: Source, asked: GroundView) -> bytes | None:
    """An underlay as PNG with transparency over the ground that is asked for; None where it shows no picture."""
    if "picture" not in shows(source):
        return None
    if source.kind == "service":
        cache = raster.files_folder(project.path) / "tiles"
        address = service.checked_address(source.file)
        return service.view(address, cache, asked, allowed_services.is_allowed(project.path, address))
    path = tiling.best(sound_copy(project.path, source))
    if source.relief:
        style = ReliefStyle.of_json(source.relief)
        return elevation.view(elevation.height_file(path, source), asked, style)
    return raster.view(path, source.crs, source.transform, asked)


def shows(source: Source) -> frozenset[str]:
    """What an underlay shows: a ``picture``, ``lines``, or both."""
    if source.kind == "reference":
        return frozenset({"lines"})
    style = ReliefStyle.of_json(source.relief) if source.relief else ReliefStyle()
    if not style.contours:
        return frozenset({"picture"})
    return frozenset({"picture", "lines"} if style.ramp or style.shade else {"lines"})


def ink(project: ReadProject, source: Source, asked: GroundView) -> list[Item]:
    """The lines that an underlay shows, as ink on the ground that is asked for: a reference layer, or contour lines.

    Nothing finer than the pixels that are asked for is given.
    """
    if "lines" not in shows(source):
        return []
    path = sound_copy(project.path, source)
    dot = max(asked.cell)
    around = shapely.box(*asked.window).buffer(EDGE * dot, join_style="mitre")
    if source.kind == "reference":
        look = ReferenceLook.of(source.colour, source.look)
        home = project.middle()
        if home is not None and asked.crs.text != project.crs.text:
            home = carried_place(project.crs, asked.crs, home)
        return reference_ink(reference.geometries(path, source.crs, asked.crs, home), look, around, dot * UNSEEN)
    style = ReliefStyle.of_json(source.relief)
    lines = elevation.contours(elevation.height_file(tiling.best(path), source), asked, style.contours)
    return contour_ink(lines, style.contours, around, dot * UNSEEN)


def reference_symbol(project: ReadProject, source: Source) -> Symbol | None:
    """The row of a reference layer in the explanation; None where it is to have none, or its file is not there."""
    look = ReferenceLook.of(source.colour, source.look)
    if source.kind != "reference" or not look.explained:
        return None
    try:
        path = sound_copy(project.path, source)
        parts = shapely.get_parts(reference.geometries(path, source.crs, project.crs, project.middle()))
    except FileRefused:
        return None
    kinds = shapely.get_dimensions(parts)
    return look.symbol(source.name, mostly(*(int((kinds == dimension).sum()) for dimension in (2, 1, 0))))


def height_span(project: ReadProject, source: Source) -> tuple[float, float]:
    """The lowest and the highest of a grid of heights, in metres; raises FileRefused where it cannot be read."""
    return _span_in(tiling.best(sound_copy(project.path, source)), source)


@lru_cache(maxsize=32)
def _span_in(file: Path, source: Source) -> tuple[float, float]:
    """Of a copy that has been looked over; its source tells it from any other, also one of the same name."""
    return elevation.span(elevation.height_file(file, source))
