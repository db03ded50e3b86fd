"""Checksums over geometries, by which a face or a plan is known again."""

from __future__ import annotations

import hashlib

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Objects


def checksum(geometry: BaseGeometry) -> str:
    """A checksum over the coordinates of a geometry, to the last bit; it is the same wherever a ring begins."""
    return hashlib.sha256(shapely.normalize(geometry).wkb).hexdigest()[:32]


def checksum_of_all(geometries: Objects, names: list[str]) -> str:
    """A checksum over geometries with their names, in whatever order they come."""
    listed = shapely.to_wkb(shapely.normalize(np.asarray(geometries, dtype=object)))
    digests = sorted(hashlib.sha256(w + n.encode()).digest() for w, n in zip(listed, names, strict=True))
    return hashlib.sha256(b"".join(digests)).hexdigest()[:32]
