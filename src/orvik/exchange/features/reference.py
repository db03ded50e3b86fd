"""Reference layers: features of a file shown below the linework, but not compiled into it."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np

from orvik.core.arrays import Geometries
from orvik.core.coordinates import GroundXY
from orvik.core.ground.crs import ProjectCrs
from orvik.exchange.features import vector
from orvik.exchange.untrusted.parent import opened


def geometries(path: Path, stated: str, crs: ProjectCrs, home: GroundXY | None) -> Geometries:
    """All geometries of a file in a system.

    Parameters
    ----------
    stated
        The system of a file that does not state one.
    home
        The middle of the project in ``crs``; see ``way_in``.

    Raises
    ------
    FileRefused
        The copy is missing or damaged.
    """
    return _geometries(path, path.stat().st_mtime_ns if path.is_file() else 0, stated, crs, home)


@lru_cache(maxsize=4)
def _geometries(path: Path, modified: int, stated: str, crs: ProjectCrs, home: GroundXY | None) -> Geometries:
    """Kept while the file stays as it is."""
    parts = [
        vector.to_project(path.name, layer.geometries, layer.crs or stated, crs, home)[0] for layer in opened(path)
    ]
    return np.concatenate(parts)
