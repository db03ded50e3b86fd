"""Data out: the features of a project as one GeoPackage or one GeoJSON file, for any program that reads them."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import numpy as np
import pyogrio
import pyproj
import shapely

from orvik.core.errors import FileRefused
from orvik.core.features.feature import TABLES, Feature, Table
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import dumped
from orvik.store.project import Project
from orvik.store.reader import Reader

# What every feature says of itself, as the project file names it.
SHARED = ("kind", "certainty", "questionable", "map_unit", "azimuth", "inclination", "capture_scale", "note")
ENDINGS = (".gpkg", ".geojson")
# Decimals of a degree that are a millimetre or better anywhere (RFC 7946 asks for no more than are needed).
DEGREE_DECIMALS = 8


def export_data(project: Project, target: Path) -> int:
    """Write all features to a file, whose ending says the format; it appears only when it is whole.

    A GeoPackage keeps the project's system and a layer for each table; GeoJSON is in longitude and latitude, WGS 84,
    as its standard asks (RFC 7946, section 4).

    Returns
    -------
    How many features were written.

    Raises
    ------
    FileRefused
        An ending that is no format of data, or a place that cannot be written.
    """
    ending = target.suffix.lower()
    if ending not in ENDINGS:
        raise FileRefused(f"{target.name} has no ending of data; use {' or '.join(ENDINGS)}.")
    faults = project.faults()
    if faults:
        raise FileRefused(
            f"{len(faults)} rows of the project hold nothing that can be written, "
            f"the first of them row {faults[0].id} of {faults[0].table}; see the findings."
        )
    part = target.with_name(f".{target.stem}.part{ending}")
    try:
        part.unlink(missing_ok=True)
        count = _geopackage(project, part) if ending == ".gpkg" else _geojson(project, part)
        os.replace(part, target)
    except OSError as error:
        raise FileRefused(f"{target.name} cannot be written ({error.strerror}); choose another place.") from error
    except pyogrio.errors.DataSourceError as error:
        raise FileRefused(f"{target.name} cannot be written; choose another place.") from error
    finally:
        part.unlink(missing_ok=True)
    return count


def _whole(project: Reader, table: Table) -> list[Feature]:
    return list(project.whole(table, project.features(table).ids.tolist()).values())


def _values(units: Mapping[str, MapUnit], feature: Feature) -> dict[str, Any]:
    """The attributes of a feature, with the name and the age of its unit and its fields beside them."""
    values = {name: getattr(feature, name) for name in SHARED}
    unit = units.get(feature.map_unit or "")
    values |= {"unit_name": unit.name if unit else None, "unit_age": unit.printed_age if unit else None}
    values["fields"] = json.dumps(dict(feature.fields), ensure_ascii=False) if feature.fields else None
    if feature.table == "lines":
        values |= {
            "stretches": dumped(feature.stretches) or None,
            "band_width_m": feature.band.width if feature.band and feature.band.on == "ground" else None,
            "band_width_mm": feature.band.width if feature.band and feature.band.on == "sheet" else None,
        }
    return values


def _geopackage(project: Project, target: Path) -> int:
    count = 0
    codes = project.units_by_code()
    for table in TABLES:
        features = _whole(project, table)
        rows = [{"orvik_id": f.id, **_values(codes, f)} for f in features]
        names = list(rows[0]) if rows else ["orvik_id", *SHARED]
        columns = [_column(name, [row[name] for row in rows]) for name in names]
        geometries = np.array([shapely.to_wkb(f.geometry) for f in features], dtype=object)
        kind = {"lines": "LineString", "areas": "Polygon", "points": "Point"}[table]
        pyogrio.raw.write(
            target,
            geometries,
            columns,
            names,
            layer=table,
            driver="GPKG",
            geometry_type=kind,
            crs=project.crs.text,
            append=target.exists(),
        )
        count += len(features)
    units = [unit for _, unit in project.units()]
    names = ["code", "name", "age", "colour", "description", "position"]
    columns = [_column(name, [getattr(unit, name) for unit in units]) for name in names]
    pyogrio.raw.write(
        target, None, columns, names, layer="units", driver="GPKG", geometry_type=None, crs=None, append=True
    )
    return count


def _column(name: str, values: list[Any]) -> Any:
    if name in ("questionable",):
        return np.array([bool(v) for v in values])
    if name in ("azimuth", "inclination", "band_width_m", "band_width_mm"):
        return np.array([np.nan if v is None else float(v) for v in values])
    if name in ("orvik_id", "position"):
        return np.array([int(v) for v in values], dtype=np.int64)
    if name == "capture_scale":
        return np.array([np.nan if v is None else float(v) for v in values])
    out = np.empty(len(values), dtype=object)
    out[:] = values
    return out


def _geojson(project: Project, target: Path) -> int:
    count = 0
    with target.open("w", encoding="utf-8") as out:
        out.write('{"type": "FeatureCollection", "features": [')
        for count, feature in enumerate(_degrees(project), 1):
            out.write(",\n" if count > 1 else "\n")
            json.dump(feature, out, ensure_ascii=False)
        out.write("\n]}\n")
    return count


def _degrees(project: Project) -> Iterator[dict[str, Any]]:
    """Features in longitude and latitude, WGS 84."""
    to_degrees = pyproj.Transformer.from_crs(project.crs.text, "EPSG:4326", always_xy=True)
    codes = project.units_by_code()
    for table in TABLES:
        for feature in _whole(project, table):
            placed = shapely.transform(
                feature.geometry, lambda xy: np.round(np.column_stack(to_degrees.transform(*xy.T)), DEGREE_DECIMALS)
            )
            geometry = json.loads(shapely.to_geojson(placed))
            properties = {"table": table, "id": feature.id, **_values(codes, feature)}
            yield {"type": "Feature", "geometry": geometry, "properties": properties}
