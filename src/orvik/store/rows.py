"""Rows of the project file to values of the core, and back."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from shapely.geometry.base import BaseGeometry

from ..core import stretch
from ..core.band import Band
from ..core.feature import Feature, Table
from ..core.sheet.page import Part, Sheet
from ..core.units import MapUnit
from .geometry import encoded
from .journal import Change, Made


@dataclass(frozen=True)
class LayerState:
    """How a layer of the stack stands; ``strength`` is 0 to 1."""

    shown: bool = True
    locked: bool = False
    strength: float = 1.0


def feature(table: Table, row: sqlite3.Row, geometry: BaseGeometry) -> Feature:
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
        fields=json.loads(row["fields"] or "{}"),
        **(_line_values(row) if table == "lines" else {}),
    )


def _line_values(row: sqlite3.Row) -> dict[str, Any]:
    return {
        "stretches": stretch.loaded(row["stretches"]),
        "knots": tuple(json.loads(row["knots"] or "[]")),
        "band": Band.of(row["band"]),
    }


def column(name: str, values: Sequence[Any]) -> list[Any]:
    """A column of many rows as the core takes it."""
    if name == "stretches":
        return [stretch.loaded(text) for text in values]
    if name == "band":
        return [Band.of(text) for text in values]
    if name == "fields":
        return [json.loads(text) if text else {} for text in values]
    return list(values)


def feature_change(kept: Feature, srs_id: int) -> Change:
    """The change that keeps a feature, new or changed."""
    values: dict[str, Any] = {
        "geom": encoded(kept.geometry, srs_id),
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
    return MapUnit(row["code"], row["name"], row["age"], row["colour"], row["description"], row["position"])


def unit_change(row_id: int | None, kept: MapUnit) -> Change:
    values = {
        "code": kept.code,
        "name": kept.name,
        "age": kept.age,
        "colour": kept.colour,
        "description": kept.description,
        "position": kept.position,
    }
    return Change("units", row_id, values)


def sheet(row: sqlite3.Row) -> Sheet:
    return Sheet(row["name"], row["paper"], row["width"], row["height"], row["id"])


def sheet_changes(kept: Sheet, parts: Sequence[Part]) -> list[Change]:
    """The changes that keep a new sheet with its parts, in one entry; the sheet is the first."""
    values = {"name": kept.name, "paper": kept.paper, "width": kept.width, "height": kept.height}
    made = Change("sheets", None, values)
    return [made, *(replace(c, values={**(c.values or {}), "sheet_id": Made(0)}) for c in map(part_change, parts))]


def part(row: sqlite3.Row) -> Part:
    return Part(
        row["kind"],
        row["x"],
        row["y"],
        row["width"],
        row["height"],
        id=row["id"],
        sheet_id=row["sheet_id"],
        position=row["position"],
        locked=bool(row["locked"]),
        settings=json.loads(row["settings"]),
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
        "settings": json.dumps(dict(kept.settings), ensure_ascii=False, sort_keys=True),
    }
    return Change("parts", kept.id, values)


def layer_state(row: sqlite3.Row) -> LayerState:
    return LayerState(bool(row["shown"]), bool(row["locked"]), row["strength"])
