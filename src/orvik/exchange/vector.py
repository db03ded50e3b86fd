"""Feature files in: read through GDAL, transformed to the project's system, checked one by one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pyproj
import shapely
from pyogrio.errors import DataLayerError, DataSourceError
from pyproj.exceptions import CRSError, ProjError

from ..core.crs import ProjectCrs
from ..core.edit import checked
from ..core.errors import FileRefused, OrvikError
from ..core.feature import Feature, Table
from ..core.signs.catalogue import SignBook
from ..core.units import MapUnit

_TABLE_OF = {"LineString": "lines", "MultiLineString": "lines", "Polygon": "areas", "MultiPolygon": "areas",
             "Point": "points", "MultiPoint": "points"}  # fmt: skip
_DEFAULT_KIND: dict[Table, str] = {"lines": "contact", "areas": "unit_area", "points": "unit_tag"}
TAKEN_OVER = (
    "kind",
    "certainty",
    "questionable",
    "map_unit",
    "azimuth",
    "inclination",
    "capture_scale",
    "note",
)
# Tints for units that a file names and the project does not know yet, told apart but quiet.
NEW_COLOURS = ("#F4E6A8", "#D8C9B0", "#BFD8B8", "#A9CFC9", "#F2C3A4", "#E3B07A", "#D9A08F", "#C9BBD8")


@dataclass(frozen=True)
class Reading:
    """What a file would bring in."""

    features: tuple[Feature, ...]
    units: tuple[MapUnit, ...]


def read(
    path: Path,
    crs: ProjectCrs,
    book: SignBook,
    units: Sequence[MapUnit],
    kind: str | None = None,
    unit_field: str | None = None,
) -> Reading:
    """The features of a file in the project's system.

    Parameters
    ----------
    path
        Any vector file that GDAL reads and that states its coordinate system.
    crs, book, units
        The project's system, signs and map units.
    kind
        The kind for features that have no field ``kind``.
    unit_field
        The field with the unit code, if it is not ``map_unit``. Codes that are new make new units.

    Raises
    ------
    FileRefused
        Unreadable, empty, without coordinate system, or a feature cannot be kept; nothing is brought in.
    """
    if not path.exists():
        raise FileRefused(f"There is no file {path}.")
    try:
        layers = [str(name) for name, _ in pyogrio.list_layers(path)]
        tables = [pyogrio.raw.read(path, layer=layer, force_2d=True) for layer in layers]
    except (DataSourceError, DataLayerError) as error:
        raise FileRefused(f"{path.name} cannot be read as features ({str(error)[:120]}).") from error
    known = {unit.code for unit in units}
    rows: list[tuple[Table, Any, dict[str, Any]]] = []
    for meta, _, wkb, fields in tables:
        if wkb is None or not len(wkb):
            continue
        geometries = _to_project(path.name, shapely.from_wkb(wkb), meta["crs"], crs)
        names = [str(n) for n in meta["fields"]]
        for i, geometry in enumerate(geometries):
            values = {name: _plain(column[i]) for name, column in zip(names, fields, strict=True)}
            if geometry is None or geometry.is_empty:
                raise FileRefused(f"{path.name}: feature {i + 1} has no geometry; nothing was brought in.")
            table = _TABLE_OF.get(geometry.geom_type)
            if table is None:
                raise FileRefused(f"{path.name}: feature {i + 1} is a {geometry.geom_type}; split it first.")
            rows += [(table, part, values) for part in shapely.get_parts(geometry)]  # type: ignore[misc]
    if not rows:
        raise FileRefused(f"{path.name} holds no features.")
    features, codes = [], []
    for number, (table, geometry, values) in enumerate(rows, 1):
        if unit_field:
            values["map_unit"] = values.get(unit_field)
        code = values.get("map_unit")
        if code is not None and str(code) not in known:
            known.add(str(code))
            codes.append(str(code))
        features.append(_feature(path.name, number, table, geometry, values, kind, crs, book, known))
    start = max((u.position for u in units), default=0)
    new = tuple(
        MapUnit(code, code, "", NEW_COLOURS[i % len(NEW_COLOURS)], position=start + 1 + i)
        for i, code in enumerate(codes)
    )
    return Reading(tuple(features), new)


def _to_project(name: str, geometries: Any, stated: str | None, crs: ProjectCrs) -> Any:
    if not stated:
        raise FileRefused(f"{name} does not state its coordinate system; add it to the file first.")
    try:
        transformer = pyproj.Transformer.from_crs(stated, crs.text, always_xy=True)
        if pyproj.CRS(stated).equals(pyproj.CRS(crs.text), ignore_axis_order=True):
            return geometries
        return shapely.transform(geometries, lambda xy: np.column_stack(transformer.transform(*xy.T)))
    except (CRSError, ProjError) as error:
        raise FileRefused(f"{name} cannot be brought into {crs.label} ({error}).") from error


def _feature(
    name: str,
    number: int,
    table: Table,
    geometry: Any,
    values: dict[str, Any],
    kind: str | None,
    crs: ProjectCrs,
    book: SignBook,
    codes: set[str],
) -> Feature:
    own = {key: values[key] for key in TAKEN_OVER if values.get(key) is not None}
    try:
        return checked(
            Feature(
                table,
                geometry,
                str(own.get("kind", kind or _DEFAULT_KIND[table])),
                certainty=str(own.get("certainty", "certain")),
                questionable=bool(int(own.get("questionable", 0))),
                map_unit=str(own["map_unit"]) if "map_unit" in own else None,
                azimuth=float(own["azimuth"]) if "azimuth" in own else None,
                inclination=float(own["inclination"]) if "inclination" in own else None,
                capture_scale=int(own["capture_scale"]) if "capture_scale" in own else None,
                note=str(own.get("note", "")),
            ),
            crs,
            book,
            codes,
        )
    except (OrvikError, ValueError) as error:
        raise FileRefused(f"{name}: feature {number}: {error} Nothing was brought in.") from error


def _plain(value: Any) -> Any:
    if value is None or (isinstance(value, float) and np.isnan(value)):
        return None
    return value.item() if isinstance(value, np.generic) else value
