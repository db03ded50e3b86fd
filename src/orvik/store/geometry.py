"""Geometry as GeoPackage stores it: a header with system and envelope, then WKB."""

from __future__ import annotations

import sqlite3
import struct
from collections.abc import Callable, Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats, Objects

# Bytes of the envelope by its indicator in the header's flags (OGC 12-128r18, 2.1.3).
_ENVELOPES = {0: 0, 1: 32, 2: 48, 3: 48, 4: 64}
# Where WKB begins, by the whole of the flags.
_STARTS = {flags: 8 + _ENVELOPES[flags >> 1 & 0b111] for flags in range(256) if flags >> 1 & 0b111 in _ENVELOPES}
# Bytes of a point as we write it.
_POINT = 8 + 32 + 21
_HEADER = struct.Struct("<2sBBi4d")
# The doubles of an envelope, by the lowest bit of the flags.
_DOUBLES = (struct.Struct(">d"), struct.Struct("<d"))


def encoded(geometry: BaseGeometry, srs_id: int) -> bytes:
    """A geometry as a GeoPackage blob with a two-dimensional envelope."""
    west, south, east, north = geometry.bounds
    header = _HEADER.pack(b"GP", 0, 0b0000_0011, srs_id, west, east, south, north)
    return header + shapely.to_wkb(geometry, byte_order=1)


def encoded_all(geometries: Objects, srs_id: int) -> list[bytes]:
    """``encoded`` for many geometries at once."""
    bounds = shapely.bounds(geometries)[:, [0, 2, 1, 3]]
    wkb = shapely.to_wkb(geometries, byte_order=1)
    return [_HEADER.pack(b"GP", 0, 3, srs_id, *b) + w for b, w in zip(bounds.tolist(), wkb, strict=True)]


def decoded(blob: bytes) -> BaseGeometry:
    """The geometry in a GeoPackage blob."""
    return shapely.from_wkb(blob[_wkb_start(blob) :])


def decoded_all(blobs: Sequence[bytes]) -> Objects:
    """``decoded`` for many blobs at once; None where a blob is not a geometry, as another program may leave one."""
    out = np.empty(len(blobs), dtype=object)
    if blobs and (xy := _points(blobs)) is not None:
        out[:] = shapely.points(xy)
    elif blobs:
        out[:] = shapely.from_wkb([_wkb(blob) for blob in blobs], on_invalid="ignore")
    return out


def _points(blobs: Sequence[bytes]) -> Floats | None:
    """The places of blobs that are all points as we write them; None where one may be anything else."""
    if set(map(type, blobs)) != {bytes} or set(map(len, blobs)) != {_POINT}:
        return None
    table = np.frombuffer(b"".join(blobs), dtype=np.uint8).reshape(-1, _POINT)
    # Header with its envelope, and WKB of a point with the least byte first; the number of the system may be any.
    fixed = np.concatenate([table[:, :4], table[:, _POINT - 21 : _POINT - 16]], axis=1)
    if (fixed != np.frombuffer(b"GP\0\3\1\1\0\0\0", dtype=np.uint8)).any():
        return None
    xy = table[:, _POINT - 16 :].copy().view("<f8")
    # A point without a place is empty.
    return xy if np.isfinite(xy).all() else None


def _wkb(blob: object) -> bytes | None:
    if not isinstance(blob, bytes) or len(blob) < 8 or blob[:2] != b"GP":
        return None
    start = _STARTS.get(blob[3])
    return None if start is None else blob[start:]


def _wkb_start(blob: bytes) -> int:
    return _STARTS[blob[3]]


def add_functions(connection: sqlite3.Connection) -> None:
    """The ST_ functions that the triggers of the R-tree call (OGC 12-128r18, annex F.3)."""
    for name, place in (("ST_MinX", 0), ("ST_MaxX", 1), ("ST_MinY", 2), ("ST_MaxY", 3)):
        connection.create_function(name, 1, _bound(place), deterministic=True)
    connection.create_function("ST_IsEmpty", 1, _is_empty, deterministic=True)


def _bound(place: int) -> Callable[[bytes | None], float | None]:
    order = (0, 2, 1, 3)[place]

    def bound(blob: bytes | None) -> float | None:
        if blob is None:
            return None
        if blob[3] >> 1 & 0b111:
            return float(_DOUBLES[blob[3] & 1].unpack_from(blob, 8 + 8 * place)[0])
        geometry = decoded(blob)
        return None if geometry.is_empty else float(geometry.bounds[order])

    return bound


def _is_empty(blob: bytes | None) -> int | None:
    if blob is None:
        return None
    return blob[3] >> 4 & 1
