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
from .fields import OWN, translated

TABLE_OF: dict[str, Table] = {
    "LineString": "lines", "MultiLineString": "lines", "Polygon": "areas", "MultiPolygon": "areas",
    "Point": "points", "MultiPoint": "points",
}  # fmt: skip
DEFAULT_KIND: dict[Table, str] = {"lines": "contact", "areas": "unit_area", "points": "unit_tag"}
CSV_OPTIONS = {
    "X_POSSIBLE_NAMES": "x,lon*,east*,utm_e,e", "Y_POSSIBLE_NAMES": "y,lat*,north*,utm_n,n", "AUTODETECT_TYPE": "YES",
}  # fmt: skip
# Tints for units that a file names and the project does not know yet, told apart but quiet.
NEW_COLOURS = ("#F4E6A8", "#D8C9B0", "#BFD8B8", "#A9CFC9", "#F2C3A4", "#E3B07A", "#D9A08F", "#C9BBD8")


@dataclass(frozen=True)
class Layer:
    """One layer of a file as it is: its own system may not be stated."""

    name: str
    geometries: Any
    columns: list[str]
    values: list[dict[str, Any]]
    crs: str


@dataclass(frozen=True)
class Plan:
    """How a file is to be understood.

    Attributes
    ----------
    fields
        The file's field for each attribute of ours; see ``fields.OWN``.
    kinds
        The kind of features that do not say it, for each table.
    stated
        The coordinate system of a file that does not state one.
    """

    fields: dict[str, str]
    kinds: dict[Table, str]
    stated: str = ""


@dataclass(frozen=True)
class Reading:
    """What a file would bring in, and the system it was in."""

    features: tuple[Feature, ...]
    units: tuple[MapUnit, ...]
    crs: str = ""


def read(
    path: Path,
    crs: ProjectCrs,
    book: SignBook,
    units: Sequence[MapUnit],
    kind: str | None = None,
    unit_field: str | None = None,
    plan: Plan | None = None,
) -> Reading:
    """The features of a file in the project's system.

    Parameters
    ----------
    path
        Any vector file that GDAL reads.
    crs, book, units
        The project's system, signs and map units.
    kind
        The kind for features that have no field ``kind``.
    unit_field
        The field with the unit code, if it is not ``map_unit``. Codes that are new make new units.
    plan
        What its fields mean, its kinds, and its system where it does not state one; without a plan, fields
        named like the columns of a project are taken over as they are.

    Raises
    ------
    FileRefused
        Unreadable, empty, without coordinate system, or a feature cannot be kept; nothing is brought in.
    """
    layers = opened(path)
    fields = plan.fields if plan else {name: name for name in OWN}
    if unit_field:
        fields = fields | {"map_unit": unit_field}
    known = {unit.code for unit in units}
    features: list[Feature] = []
    codes: list[str] = []
    number = 0
    for layer in layers:
        stated = layer.crs or (plan.stated if plan else "")
        for geometry, values in zip(
            to_project(path.name, layer.geometries, stated, crs), layer.values, strict=True
        ):
            number += 1
            if geometry is None or geometry.is_empty:
                raise FileRefused(f"{path.name}: feature {number} has no geometry; nothing was brought in.")
            table = TABLE_OF.get(geometry.geom_type)
            if table is None:
                raise FileRefused(f"{path.name}: feature {number} is a {geometry.geom_type}; split it first.")
            own = translated(values, fields)
            code = own.get("map_unit")
            if code is not None and str(code) not in known:
                known.add(str(code))
                codes.append(str(code))
            default = (plan.kinds.get(table) if plan else kind) or DEFAULT_KIND[table]
            for part in shapely.get_parts(geometry):
                features.append(_feature(path.name, number, table, part, own, default, crs, book, known))
    start = max((u.position for u in units), default=0)
    new = tuple(
        MapUnit(code, code, "", NEW_COLOURS[i % len(NEW_COLOURS)], position=start + 1 + i)
        for i, code in enumerate(codes)
    )
    return Reading(tuple(features), new, layers[0].crs or (plan.stated if plan else ""))


def opened(path: Path) -> list[Layer]:
    """The layers of a file that hold features.

    Raises
    ------
    FileRefused
        Unreadable or empty.
    """
    if not path.exists():
        raise FileRefused(f"There is no file {path}.")
    options = CSV_OPTIONS if path.suffix.lower() == ".csv" else {}
    try:
        names = [str(name) for name, _ in pyogrio.list_layers(path)]
        tables = [pyogrio.raw.read(path, layer=name, force_2d=True, **options) for name in names]
    except (DataSourceError, DataLayerError, UnicodeDecodeError) as error:
        raise FileRefused(f"{path.name} cannot be read as features ({str(error)[:120]}).") from error
    layers = []
    for name, (meta, _, wkb, fields) in zip(names, tables, strict=True):
        if wkb is None or not len(wkb) or meta["geometry_type"] is None:
            continue
        columns = [str(n) for n in meta["fields"]]
        rows = [
            {column: _plain(field[i]) for column, field in zip(columns, fields, strict=True)}
            for i in range(len(wkb))
        ]
        layers.append(Layer(name, shapely.from_wkb(wkb), columns, rows, meta["crs"] or ""))
    if not layers:
        hint = (
            "; its columns for x and y must be named so, or easting and northing, or longitude and latitude"
        )
        raise FileRefused(f"{path.name} holds no features{hint if options else ''}.")
    return layers


def to_project(name: str, geometries: Any, stated: str, crs: ProjectCrs) -> Any:
    """Geometries of a file in the project's system; raises FileRefused where it does not state its own."""
    if not stated:
        raise FileRefused(
            f"{name} does not state its coordinate system; add it to the file, or say which it is."
        )
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
    own: dict[str, Any],
    kind: str,
    crs: ProjectCrs,
    book: SignBook,
    codes: set[str],
) -> Feature:
    try:
        return checked(
            Feature(
                table,
                geometry,
                str(own.get("kind", kind)),
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
