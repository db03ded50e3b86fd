"""Ground in a PDF: a viewport with a geographic measure for each panel, after ISO 32000-2, 12.9 and 12.10."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import pikepdf
from pikepdf import Array, Dictionary, Name, String

# Corners of the unit square of a viewport: lower left, upper left, upper right, lower right.
CORNERS = ((0, 0), (0, 1), (1, 1), (1, 0))


@dataclass(frozen=True)
class Viewport:
    """Ground on a page.

    Attributes
    ----------
    title
        What it is called.
    box
        Left, top, width and height on the page in millimetres.
    corners
        Latitude and longitude in degrees from Greenwich of its lower left, upper left, upper right and lower right
        corner, on the datum of its own system.
    code
        The EPSG code of its projected system; None where it has none.
    wkt
        The system as well-known text of its first version, which readers know (OGC 01-009).
    """

    title: str
    box: tuple[float, float, float, float]
    corners: Sequence[tuple[float, float]]
    code: int | None
    wkt: str


def viewports(views: Sequence[Viewport], height: float, points: float) -> Array:
    """The entry VP of a page so high in millimetres; ``points`` is how many a millimetre has."""
    return Array([_viewport(view, height, points) for view in views])


def _viewport(view: Viewport, height: float, points: float) -> pikepdf.Object:
    left, top, width, high = view.box
    box = (left, height - top - high, left + width, height - top)
    system = Dictionary(Type=Name.PROJCS, WKT=String(view.wkt))
    if view.code is not None:
        system.EPSG = view.code
    square = Array([v for corner in CORNERS for v in corner])
    return Dictionary(
        Type=Name.Viewport,
        Name=String(view.title),
        BBox=Array([round(v * points, 6) for v in box]),
        Measure=Dictionary(
            Type=Name.Measure,
            Subtype=Name.GEO,
            Bounds=square,
            LPTS=square,
            GPTS=Array([round(v, 10) for corner in view.corners for v in corner]),
            GCS=system,
            PDU=Array([Name.M, Name.SQM, Name.DEG]),
        ),
    )
