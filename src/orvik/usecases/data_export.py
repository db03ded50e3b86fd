"""Data out: the features of a project as one file, for any program that reads its format."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pyogrio

from orvik.core.errors import FileRefused
from orvik.core.features.feature import TABLES, Feature, Table
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.plain import plain
from orvik.core.features.stretch import dumped
from orvik.exchange.data_file import WRITERS, DataRow, DataSet
from orvik.store.project import Project
from orvik.store.reader import Reader

# What every feature says of itself, as the project file names it.
SHARED = ("kind", "certainty", "questionable", "map_unit", "azimuth", "inclination", "capture_scale", "note")
UNIT_COLUMNS = ("code", "name", "age", "colour", "description", "position")


@dataclass(frozen=True)
class Written:
    """How many features were written, in how many rows, and what is to be said of them."""

    features: int
    rows: int
    said: list[str] = field(default_factory=list)


def export_data(project: Project, target: Path) -> Written:
    """Write all features to a file, whose ending says the format; it appears only when it is whole.

    A GeoPackage keeps lines whole, with their stretches; in other formats they are cut where their certainty changes.

    Raises
    ------
    FileRefused
        An ending that is no format of data, or a place that cannot be written.
    """
    ending = target.suffix.lower()
    if ending not in WRITERS:
        raise FileRefused(f"{target.name} has no ending of data; use {', '.join(WRITERS)}.")
    faults = project.faults()
    if faults:
        raise FileRefused(
            f"{len(faults)} rows of the project hold nothing that can be written, "
            f"the first of them row {faults[0].id} of {faults[0].table}; see the findings."
        )
    features = [feature for table in TABLES for feature in _whole(project, table)]
    unsound = [feature for feature in features if not feature.geometry.is_valid]
    if unsound:
        many = "feature crosses itself or has" if len(unsound) == 1 else "features cross themselves or have"
        raise FileRefused(
            f"{len(unsound)} {many} no length, the first of them {unsound[0].name}; mend this in Proof first."
        )
    units = project.units_by_code()
    rows = [row for feature in features for row in _rows(units, feature, whole=ending == ".gpkg")]
    listed = [{name: getattr(unit, name) for name in UNIT_COLUMNS} for unit in units.values()]
    data = DataSet(project.name, project.crs.text, rows, project.middle(), listed)
    part = target.with_name(f".{target.stem}.part{ending}")
    try:
        part.unlink(missing_ok=True)
        said = WRITERS[ending](data, part)
        os.replace(part, target)
    except OSError as error:
        raise FileRefused(f"{target.name} cannot be written ({error.strerror}); choose another place.") from error
    except pyogrio.errors.DataSourceError as error:
        raise FileRefused(f"{target.name} cannot be written; choose another place.") from error
    finally:
        part.unlink(missing_ok=True)
    return Written(len(features), len(rows), said)


def _whole(project: Reader, table: Table) -> list[Feature]:
    return list(project.whole(table, project.features(table).ids.tolist()).values())


def _rows(units: Mapping[str, MapUnit], feature: Feature, whole: bool) -> Iterator[DataRow]:
    """A feature as it is, or in pieces of one certainty each."""
    pieces = [(1, feature)] if whole else plain(feature)
    for number, piece in pieces:
        values: dict[str, Any] = {"orvik_id": feature.id}
        if not whole:
            values["piece"] = number
        yield DataRow(feature.table, piece.geometry, values | _values(units, piece))


def _values(units: Mapping[str, MapUnit], feature: Feature) -> dict[str, Any]:
    """The attributes of a feature, with the name and the age of its unit and its fields beside them."""
    values: dict[str, Any] = {name: getattr(feature, name) for name in SHARED}
    unit = units.get(feature.map_unit or "")
    values |= {"unit_name": unit.name if unit else None, "unit_age": unit.printed_age if unit else None}
    values["fields"] = json.dumps(dict(feature.fields), ensure_ascii=False) if feature.fields else None
    if feature.table == "lines":
        band = feature.band
        values |= {
            "stretches": dumped(feature.stretches) or None,
            "band_width_m": band.width if band and band.on == "ground" else None,
            "band_width_mm": band.width if band and band.on == "sheet" else None,
        }
    return values
