"""The columns by which features, map units and custom kinds go out whole and come in again.

Files of ours are known by the number that each row has of its feature. Beside what files of others have as well (kind,
certainty, readings), each row says its stretches, its band, its fields and its map unit, a column each.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any, cast

from orvik.core.errors import FeatureRefused, OrvikError
from orvik.core.features import stretch
from orvik.core.features.band import Band
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.symbols.renamed import NAMES
from orvik.exchange.untrusted.parent import BESIDE

NUMBER = "orvik_id"
# What every feature says of itself, as the project file names it.
SHARED = ("kind", "certainty", "questionable", "map_unit", "azimuth", "inclination", "capture_scale", "note")
UNIT_FIELDS = tuple(f.name for f in fields(MapUnit))
# A description is too long to stand in the row of every area.
IN_ROWS = tuple(name for name in UNIT_FIELDS if name not in ("code", "description"))
KIND_COLUMNS = ("name", "label", "family", "symbol", "fields", "position")
UNITS_LAYER, KINDS_LAYER = BESIDE
# Columns that files of ours have had under other names.
_COLUMNS_NOW: Mapping[str, str] = {**NAMES, **{f"unit_{old}": f"unit_{now}" for old, now in NAMES.items()}}


@dataclass(frozen=True)
class CustomTables:
    """What a file of ours says of map units, by code, and of the kinds that its project has made for itself."""

    units: Mapping[str, MapUnit] = field(default_factory=dict)
    kinds: Sequence[CustomKind] = ()
    # Whether the units are all that the project has, or those that its features name.
    whole: bool = False


def feature_values(feature: Feature, unit: MapUnit | None, source: str, whole: bool) -> dict[str, Any]:
    """The attributes of a feature as columns.

    Parameters
    ----------
    unit
        Its map unit.
    source
        What it comes from, in words.
    whole
        Whether units stand in a table of their own, and lines keep the vertices that they were drawn through.
    """
    values: dict[str, Any] = {name: getattr(feature, name) for name in SHARED}
    values |= {"source": source or None, "fields": _json(feature.fields) if feature.fields else None}
    if feature.table == "lines":
        band = feature.band
        values |= {
            "stretches": stretch.dumped(feature.stretches) or None,
            "band_width_m": band.width if band and band.on == "ground" else None,
            "band_width_mm": band.width if band and band.on == "sheet" else None,
            "band_left": band.left or None if band else None,
            "band_right": band.right or None if band else None,
            "band_dips": band.dips or None if band else None,
            "band_cut_by": ", ".join(band.cut_by) or None if band else None,
        }
        if whole:
            values["knots"] = _json(feature.knots) if feature.knots else None
    named = ("name", "age") if whole else IN_ROWS
    values |= {f"unit_{name}": unit_value(unit, name) if unit is not None else None for name in named}
    return values


def unit_value(unit: MapUnit, name: str) -> Any:
    """A value of a unit as it goes out: its age as it is printed, also where it is given as a range alone."""
    return unit.printed_age if name == "age" else getattr(unit, name)


def kind_values(kind: CustomKind) -> dict[str, Any]:
    """A kind as a row of its own."""
    texts = (kind.name, kind.label, kind.table, kind.symbol_text, kind.fields_text, kind.position)
    return dict(zip(KIND_COLUMNS, texts, strict=True))


def is_ours(columns: Iterable[str]) -> bool:
    """Whether a layer with these columns is one of ours: written by an export, or of a project file."""
    there = set(columns)
    return NUMBER in there or {"certainty", "questionable", "capture_scale", "source_id", "fields"} <= there


def with_own_values(feature: Feature, values: Mapping[str, Any]) -> Feature:
    """A feature that was read with what only files of ours say of it.

    Raises
    ------
    FeatureRefused
        One of the columns cannot be read.
    """
    changed: dict[str, Any] = {}
    if values.get("fields"):
        changed["fields"] = dict(_read("fields", json.loads, values["fields"]))
    if feature.table == "lines":
        changed["band"] = _read("band", _band, values)
        if values.get("stretches"):
            changed["stretches"] = _read("stretches", stretch.loaded, values["stretches"])
        if values.get("knots"):
            changed["knots"] = _read("knots", lambda text: tuple(map(int, json.loads(text))), values["knots"])
    return replace(feature, **changed)


def _read(name: str, read: Callable[[Any], Any], held: Any) -> Any:
    try:
        return read(held)
    except (ValueError, TypeError, KeyError) as error:
        raise FeatureRefused(f"Its {name} cannot be read; export it again, or empty that field.") from error


def _band(values: Mapping[str, Any]) -> Band | None:
    if values.get("band"):
        return Band.of(str(values["band"]))
    on = next((on for on, name in (("ground", "band_width_m"), ("sheet", "band_width_mm")) if values.get(name)), None)
    if on is None:
        return None
    width = float(values["band_width_m" if on == "ground" else "band_width_mm"])
    left, right, dips = (str(values.get(f"band_{name}") or "") for name in ("left", "right", "dips"))
    cut_by = tuple(code for code in str(values.get("band_cut_by") or "").split(", ") if code)
    return Band(width, on, left, right, dips, cut_by)


def tables_of(
    layers: Iterable[tuple[Sequence[Mapping[str, Any]], Mapping[str, Sequence[Mapping[str, Any]]]]],
) -> CustomTables:
    """Units and kinds of the layers of a file: from its tables, else from the rows of its features.

    Parameters
    ----------
    layers
        The rows of each, and the tables without geometry beside it, by name.
    """
    units: dict[str, MapUnit] = {}
    kinds: dict[str, CustomKind] = {}
    whole = False
    for rows, beside in layers:
        for row in beside.get(KINDS_LAYER, ()):
            kind = _kind(_present(row))
            if kind is not None:
                kinds[kind.name] = kind
        for row in beside.get(UNITS_LAYER, ()):
            unit = unit_of(_present(row))
            if unit is not None:
                whole = True
                units.setdefault(unit.code, unit)
        for row in rows:
            code = row.get("map_unit")
            if code and str(code) not in units and row.get("unit_colour"):
                unit = unit_of({"code": code} | {name: _present(row).get(f"unit_{name}") for name in IN_ROWS})
                if unit is not None:
                    units[unit.code] = unit
    return CustomTables(units, tuple(kinds.values()), whole)


def _present(row: Mapping[str, Any]) -> dict[str, Any]:
    """A row of a file under the names that its columns have now."""
    return {_COLUMNS_NOW.get(name, name): value for name, value in row.items()}


def unit_of(values: Mapping[str, Any]) -> MapUnit | None:
    """A unit from its columns; None where they make none."""
    try:
        made: dict[str, Any] = {}
        for f in fields(MapUnit):
            value = values.get(f.name)
            if value is not None and value != "":
                made[f.name] = {"int": int, "float": float}.get(str(f.type), str)(value)
        unit = MapUnit(**({"age": ""} | made))
        # What is printed for a range is not an age that somebody typed.
        bare = replace(unit, age="")
        return bare if unit.age_from and bare.printed_age == unit.age else unit
    except (OrvikError, ValueError, TypeError):
        return None


def _kind(row: Mapping[str, Any]) -> CustomKind | None:
    try:
        name, label, table, symbol, listed, position = (row[column] for column in KIND_COLUMNS)
        return CustomKind.of(str(name), str(label), cast(Table, table), str(symbol), str(listed), int(position))
    except (OrvikError, ValueError, TypeError, KeyError):
        return None


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, default=dict, separators=(",", ":"))
