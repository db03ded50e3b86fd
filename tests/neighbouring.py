"""A project beside the demo, with a line that comes to their common border."""

from __future__ import annotations

from pathlib import Path

import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.demo.rock import BORDER
from orvik.store.project import opened_for_writing
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.project.project import create_project


def sund(folder: Path, off: float = 0.0, kind: str = "contact") -> Path:
    """East of the demo; its line lies so many metres north of the middle of the border."""
    west, south, east, north = BORDER
    path = folder / "sund.gpkg"
    create_project(path, "Sund", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    ring = shapely.box(east, south, 2 * east - west, north).exterior
    y = (south + north) / 2 + off
    made = [
        Feature("lines", shapely.LineString(ring.coords), SHEET_BORDER),
        Feature("lines", shapely.LineString([(east, y), (east + 500, y)]), kind),
    ]
    with opened_for_writing(path) as project:
        project.apply("draw", feature_changes(project, project.srs_id, made, (), ()))
    return path
