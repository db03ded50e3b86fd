"""The ground of a sheet's panels as its PDF tells of it."""

from __future__ import annotations

import numpy as np
import pyproj
from pyproj.exceptions import CRSError

from orvik.core.ground.greenwich import projected_from_greenwich
from orvik.core.ink.affine import apply, chained
from orvik.core.sheet.output.compose import Composition
from orvik.core.sheet.panels.panel import Panel
from orvik.press.pdf_georeference import CORNERS, Viewport
from orvik.press.picture_file import Georeference


def viewports_of(made: Composition) -> list[Viewport]:
    """A viewport for each panel, that of the largest first; one whose corners are nowhere on the earth has none."""
    panels = sorted(made.panels.values(), key=lambda panel: -panel.part.width * panel.part.height)
    return [view for view in map(_viewport, panels) if view is not None]


def georeference_of(made: Composition, dpi: float) -> Georeference | None:
    """Where the dots of a picture of the sheet lie on the ground of its largest panel; None without a panel."""
    panel = max(made.panels.values(), key=lambda panel: panel.part.width * panel.part.height, default=None)
    if panel is None:
        return None
    dot = 25.4 / dpi
    way = chained(panel.to_ground, (dot, 0.0, 0.0, 0.0, dot, 0.0))
    return Georeference(way, pyproj.CRS.from_user_input(panel.crs.text).to_wkt())


def _viewport(panel: Panel) -> Viewport | None:
    part = panel.part
    stated = pyproj.CRS.from_user_input(panel.crs.text)
    crs = projected_from_greenwich(stated)
    page = np.array([(part.x + u * part.width, part.y + (1 - v) * part.height) for u, v in CORNERS])
    ground = apply(panel.to_ground, page)
    longitude, latitude = panel.crs.to_geographic(ground[:, 0], ground[:, 1])
    if not (np.isfinite(longitude).all() and np.isfinite(latitude).all()):
        return None
    try:
        wkt = crs.to_wkt("WKT1_GDAL")
    except CRSError:
        # A method that the first version has no words for.
        wkt = crs.to_wkt("WKT2_2019")
    # A reader that goes by the code of a system on another meridian would take the corners for its degrees or grads.
    code = panel.crs.text.removeprefix("EPSG:") if crs is stated else ""
    return Viewport(
        part.label,
        (part.x, part.y, part.width, part.height),
        list(zip(latitude.tolist(), longitude.tolist(), strict=True)),
        int(code) if code.isdecimal() else None,
        wkt,
    )
