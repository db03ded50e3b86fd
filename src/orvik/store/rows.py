"""Rows of the project file to values of the core, and back."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from types import NoneType
from typing import Any, TypeVar

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Objects, object_array
from orvik.core.errors import FeatureRefused, OrvikError
from orvik.core.features import stretch
from orvik.core.features.band import Band
from orvik.core.features.feature import GEOMETRY_TYPES, Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.station_table import Station
from orvik.core.features.table import Table
from orvik.core.ground.saved_view import SavedView
from orvik.core.pictures.source import Source
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts import settings_of
from orvik.store.geometry import encoded, encoded_all
from orvik.store.journal import Change, Made, MadeJson

SOURCE_COLUMNS = tuple(f.name for f in fields(Source) if f.name != "id")
UNIT_COLUMNS = tuple(f.name for f in fields(MapUnit))
STATION_COLUMNS = tuple(f.name for f in fields(Station) if f.name != "id")

T = TypeVar("T")


@dataclass(frozen=True)
class LayerState:
    """How a layer of the stack stands; ``opacity`` is 0 to 1."""

    shown: bool = True
    locked: bool = False
    opacity: float = 1.0


def feature(table: Table, row: sqlite3.Row, geometry: BaseGeometry) -> Feature:
    """A feature from its row; raises FeatureRefused where another program has left what is none."""
    why = fault_of(table, row, geometry)
    if why:
        raise FeatureRefused(f"Row {row['id']} of {table} {why}; delete it, or correct it where it was written.")
    return Feature(
        table,
        geometry,
        row["kind"],
        id=row["id"],
        certainty=row["certainty"],
        questionable=bool(row["questionable"]),
        map_unit=row["map_unit"],
        azimuth=row["azimuth"],
        inclination=row["inclination"],
        capture_scale=row["capture_scale"],
        source_id=row["source_id"],
        note=row["note"],
        fields=_READ["fields"](row["fields"]),
        **(_line_values(row) if table == "lines" else {}),
    )


def fault_of(table: Table, row: Mapping[str, Any] | sqlite3.Row, geometry: BaseGeometry | None) -> str:
    """What is wrong with a feature's row, in words; empty for a sound one."""
    if geometry is None or geometry.is_empty or geometry.geom_type.upper() != GEOMETRY_TYPES[table]:
        return f"holds no {GEOMETRY_TYPES[table].lower()}"
    if not np.isfinite(geometry.bounds).all():
        return "has a vertex that is nowhere"
    if not isinstance(row["kind"], str) or not row["kind"]:
        return "has no kind"
    for name in ("azimuth", "inclination"):
        value = row[name]
        if value is not None and not (
            isinstance(value, float | int) and 0 <= value < (360 if name == "azimuth" else 90.001)
        ):
            return f"has an {name} of {str(value)[:20]}"
    for name, read in _READ.items():
        if name in row.keys():  # noqa: SIM118 (a row of sqlite3 tells its values, not its names)
            try:
                read(row[name])
            except (ValueError, TypeError, KeyError, OrvikError):
                return f"has unreadable {name}"
    return ""


def _line_values(row: sqlite3.Row) -> dict[str, Any]:
    return {name: _READ[name](row[name]) for name in ("stretches", "knots", "band")}


# How a text of the file is read, by column.
_READ: dict[str, Callable[[Any], Any]] = {
    "stretches": stretch.loaded,
    "knots": lambda text: tuple(int(k) for k in json.loads(text)) if text and text != "[]" else (),
    "band": Band.of,
    "fields": lambda text: dict(json.loads(text)) if text and text != "{}" else {},
}


def column(name: str, values: Sequence[Any]) -> list[Any]:
    """A column of many rows as the core takes it."""
    read = _READ.get(name)
    return [read(value) for value in values] if read else list(values)


def columns_are_sound(table: Table, geometries: Objects, values: Mapping[str, list[Any]]) -> bool:
    """Whether all rows of a table hold features: the same as ``fault_of``, for all at once."""
    kind_of = {
        "lines": shapely.GeometryType.LINESTRING,
        "areas": shapely.GeometryType.POLYGON,
        "points": shapely.GeometryType.POINT,
    }
    if not (shapely.get_type_id(geometries) == kind_of[table]).all() or shapely.is_empty(geometries).any():
        return False
    if not np.isfinite(shapely.bounds(geometries)).all():
        return False
    if set(map(type, values["kind"])) != {str} or "" in set(values["kind"]):
        return False
    for name, top in (("azimuth", 360.0), ("inclination", 90.001)):
        if not set(map(type, values[name])) <= {float, int, NoneType}:
            return False
        # None becomes NaN; SQLite keeps no NaN.
        figures = np.array(values[name], dtype=float)
        if ((figures < 0) | (figures >= top)).any():
            return False
    return True


def refusals(make: Callable[[sqlite3.Row], Any], row: sqlite3.Row) -> list[str]:
    """Why something cannot be made from a row, as a list of one or of none."""
    try:
        make(row)
    except OrvikError as refusal:
        return [refusal.sentence]
    except (ValueError, TypeError, KeyError):
        return ["It holds what cannot be read."]
    return []


def sound(make: Callable[[sqlite3.Row], T], found: Iterable[sqlite3.Row]) -> list[T]:
    """What can be made from rows; of the others ``refusals`` says why."""
    out = []
    for row in found:
        try:
            out.append(make(row))
        except (OrvikError, ValueError, TypeError, KeyError):
            continue
    return out


def feature_change(kept: Feature, srs_id: int) -> Change:
    """The change that keeps a feature, new or changed."""
    return _feature_change(kept, encoded(kept.geometry, srs_id))


def feature_changes(kept: Sequence[Feature], srs_id: int) -> list[Change]:
    """``feature_change`` for many features at once."""
    blobs = encoded_all(object_array([feature.geometry for feature in kept]), srs_id)
    return [_feature_change(feature, blob) for feature, blob in zip(kept, blobs, strict=True)]


def _feature_change(kept: Feature, blob: bytes) -> Change:
    values: dict[str, Any] = {
        "geom": blob,
        "kind": kept.kind,
        "certainty": kept.certainty,
        "questionable": int(kept.questionable),
        "map_unit": kept.map_unit,
        "azimuth": kept.azimuth,
        "inclination": kept.inclination,
        "capture_scale": kept.capture_scale,
        "source_id": kept.source_id,
        "note": kept.note,
        "fields": json.dumps(dict(kept.fields), ensure_ascii=False, sort_keys=True) if kept.fields else "",
    }
    if kept.table == "lines":
        values |= {
            "stretches": stretch.dumped(kept.stretches),
            "knots": json.dumps(kept.knots, separators=(",", ":")) if kept.knots else "",
            "band": kept.band.text if kept.band else "",
        }
    return Change(kept.table, kept.id, values)


def unit(row: sqlite3.Row) -> MapUnit:
    return MapUnit(**{name: row[name] for name in UNIT_COLUMNS})


def unit_change(row_id: int | None, kept: MapUnit) -> Change:
    return Change("units", row_id, {name: getattr(kept, name) for name in UNIT_COLUMNS})


def sheet(row: sqlite3.Row) -> Sheet:
    layout = PageLayout.from_dict(json.loads(row["layout"]))
    return Sheet(row["name"], row["paper"], row["width"], row["height"], row["id"], layout)


def sheet_change(kept: Sheet) -> Change:
    """The change that keeps a sheet."""
    values = {
        "name": kept.name,
        "paper": kept.paper,
        "width": kept.width,
        "height": kept.height,
        "layout": json.dumps(kept.layout.to_dict(), ensure_ascii=False, sort_keys=True),
    }
    return Change("sheets", kept.id, values)


def sheet_changes(kept: Sheet, parts: Sequence[Part]) -> list[Change]:
    """The changes that keep a new sheet with its parts, in one entry; the sheet is the first.

    Parts may have numbers, by which others of them speak of them; they are kept under new ones.
    """
    return [replace(sheet_change(kept), id=None), *part_changes(parts, new_sheet=True)]


def part_changes(parts: Sequence[Part], new_sheet: bool = False) -> list[Change]:
    """The changes that keep new parts; where they speak of one another by number, they go on doing so.

    Parameters
    ----------
    new_sheet
        Whether they are of a sheet that the first change of the same entry makes.
    """
    first = 1 if new_sheet else 0
    numbers = {part.id: Made(i) for i, part in enumerate(parts, first) if part.id is not None}
    inserts = []
    updates = []
    for i, part in enumerate(parts, first):
        values = dict(part_change(part).values or {})
        inserts.append(Change("parts", None, values | ({"sheet_id": Made(0)} if new_sheet else {})))
        renumbered = part.settings.renumbered(numbers)
        if renumbered:
            updates.append(Change("parts", Made(i), {"settings": MadeJson(part.settings.to_dict() | dict(renumbered))}))
    return [*inserts, *updates]


def part(row: sqlite3.Row) -> Part:
    return Part(
        settings_of(row["kind"], json.loads(row["settings"])),
        row["x"],
        row["y"],
        row["width"],
        row["height"],
        id=row["id"],
        sheet_id=row["sheet_id"],
        position=row["position"],
        locked=bool(row["locked"]),
        made_as=row["made_as"],
    )


def part_change(kept: Part) -> Change:
    values = {
        "sheet_id": kept.sheet_id,
        "kind": kept.kind,
        "x": kept.x,
        "y": kept.y,
        "width": kept.width,
        "height": kept.height,
        "position": kept.position,
        "locked": int(kept.locked),
        "settings": json.dumps(kept.settings.to_dict(), ensure_ascii=False, sort_keys=True),
        "made_as": kept.made_as,
    }
    return Change("parts", kept.id, values)


def source(row: sqlite3.Row) -> Source:
    values = {name: row[name] for name in SOURCE_COLUMNS}
    return Source(**values | {"multiply": bool(row["multiply"]), "aside": bool(row["aside"])}, id=row["id"])


def source_change(kept: Source) -> Change:
    values = {name: getattr(kept, name) for name in SOURCE_COLUMNS}
    return Change("sources", kept.id, values | {"multiply": int(kept.multiply), "aside": int(kept.aside)})


def station(row: sqlite3.Row) -> Station:
    return Station(**{name: row[name] for name in ("id", *STATION_COLUMNS)})


def station_change(kept: Station) -> Change:
    return Change("stations", kept.id, {name: getattr(kept, name) for name in STATION_COLUMNS})


def saved_view(row: sqlite3.Row) -> SavedView:
    return SavedView(row["name"], row["x"], row["y"], row["denominator"], row["position"], row["id"], row["crs"])


def saved_view_change(kept: SavedView) -> Change:
    values = {name: getattr(kept, name) for name in ("name", "x", "y", "denominator", "position", "crs")}
    return Change("views", kept.id, values)


def layer_state(row: sqlite3.Row) -> LayerState:
    return LayerState(bool(row["shown"]), bool(row["locked"]), row["opacity"])
