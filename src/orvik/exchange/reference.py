"""Reference layers: features of a file shown below the linework, but not compiled into it."""

from __future__ import annotations

import io
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from PIL import Image, ImageDraw

from orvik.core.colour import is_colour
from orvik.core.ground.crs import ProjectCrs
from orvik.exchange import vector
from orvik.exchange.opening import opened

Window = tuple[float, float, float, float]

# Drawn at twice the size and brought down, so that lines are smooth.
TWICE = 2
DOT = 5


def view(
    path: Path, stated: str, crs: ProjectCrs, window: Window, width: int, height: int, colour: str
) -> bytes | None:
    """The features of a file within a window as PNG with transparency, or None where there are none.

    Parameters
    ----------
    stated
        The system of a file that does not state one.
    colour
        Of lines and dots, as ``#RRGGBB``.

    Raises
    ------
    FileRefused
        The copy is missing or damaged.
    """
    west, south, east, north = window
    geometries = _geometries(path, path.stat().st_mtime_ns if path.is_file() else 0, stated, crs)
    kx, ky = width * TWICE / (east - west), height * TWICE / (north - south)
    margin = DOT / kx
    near = shapely.box(west - margin, south - margin, east + margin, north + margin)
    shown = geometries[shapely.intersects(geometries, near)]
    if not len(shown):
        return None
    colour = colour if is_colour(colour) else "#7A3E9D"
    ink = (*(int(colour[i : i + 2], 16) for i in (1, 3, 5)), 255)
    layer = Image.new("RGBA", (width * TWICE, height * TWICE), (*ink[:3], 0))
    pen = ImageDraw.Draw(layer)
    for part in shapely.get_parts(shapely.clip_by_rect(shown, *near.bounds)):
        for path_xy in _paths(part):
            places = [(float((x - west) * kx), float((north - y) * ky)) for x, y in path_xy]
            if len(places) == 1:
                x, y = places[0]
                pen.ellipse([x - DOT, y - DOT, x + DOT, y + DOT], fill=ink)
            else:
                pen.line(places, fill=ink, width=3, joint="curve")
    out = io.BytesIO()
    layer.resize((width, height), Image.Resampling.BOX).save(out, "PNG", compress_level=1)
    return out.getvalue()


@lru_cache(maxsize=4)
def _geometries(path: Path, modified: int, stated: str, crs: ProjectCrs) -> Any:
    """All geometries of a file in the project's system; kept while the file stays as it is."""
    parts = [vector.to_project(path.name, layer.geometries, layer.crs or stated, crs) for layer in opened(path)]
    return np.concatenate(parts)


def _paths(geometry: Any) -> list[list[list[float]]]:
    if geometry.is_empty:
        return []
    if geometry.geom_type == "Polygon":
        return [shapely.get_coordinates(ring).tolist() for ring in shapely.get_rings(geometry)]
    return [shapely.get_coordinates(part).tolist() for part in shapely.get_parts(geometry)]
