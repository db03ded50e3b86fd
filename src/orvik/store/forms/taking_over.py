"""Acceptances from before their states could be read, tied to what they speak of once and for all."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Mapping
from typing import Any

from orvik.core.findings.acceptance import VOID
from orvik.core.findings.state import coordinates, read, written
from orvik.store.geometry import decoded_all

# The columns that rules read of features and of units, as form 10 had them.
_UNIT = ("kind", "map_unit")
_READING = ("kind", "azimuth", "inclination")
_OF_FEATURES: Mapping[str, tuple[str, ...]] = {
    "coarse": ("kind", "capture_scale"),
    "doubled": _READING,
    "odd_attitude": _READING,
    "order": _READING,
    "overlap": _UNIT,
    "two_tags": _UNIT,
    "other_unit": _UNIT,
    "older_cuts": ("kind", "map_unit", "certainty"),
    "unknown": ("kind", "certainty", "map_unit", "azimuth", "inclination"),
    "label": ("kind", "map_unit", "azimuth", "inclination"),
}
_OF_UNITS: Mapping[str, tuple[str, ...]] = {
    "column": ("position", "age", "age_from", "age_to", "heading"),
    "alike": ("colour", "pattern", "pattern_colour", "pattern_strength"),
}
_FEATURE = re.compile(r"(lines|areas|points)(\d+)(?:-|$)")
_PART = re.compile(r"part(\d+)(?:-|$)")
# Of what is missing nothing else could have changed.
_OF_NOTHING = "no_essential"


def take_over(connection: sqlite3.Connection) -> None:
    """Give each acceptance a state by the rule and the features, units and parts that its key names.

    Such a state has no facts, because none were written down. One whose key names nothing is void. What the journal
    holds of acceptances is rewritten, too, so that they come back as they are now.
    """
    known: dict[str, str] = {}

    def state(key: str, held: str) -> str:
        if held == VOID or read(held) is not None:
            return held
        if key not in known:
            known[key] = _state(connection, key)
        return known[key]

    for number, key, held in connection.execute("SELECT id, key, state FROM acceptances").fetchall():
        connection.execute("UPDATE acceptances SET state = ? WHERE id = ?", (state(key, held), number))
    listed = connection.execute("SELECT id, changes FROM journal WHERE changes LIKE '%\"acceptances\"%'").fetchall()
    for number, changes in listed:
        packed = [
            [table, row_id, *(_taken(one, state) for one in states)]
            if table == "acceptances"
            else [table, row_id, *states]
            for table, row_id, *states in json.loads(changes)
        ]
        connection.execute("UPDATE journal SET changes = ? WHERE id = ?", (json.dumps(packed), number))


def _taken(row: Mapping[str, Any] | None, state: Any) -> Mapping[str, Any] | None:
    return row if row is None or "state" not in row else {**row, "state": state(row["key"], row["state"])}


def _state(connection: sqlite3.Connection, key: str) -> str:
    rule, _, rest = key.partition(":")
    names, _, _ = rest.partition(":")
    if not names and rule != _OF_NOTHING:
        return VOID
    state: dict[str, Mapping[str, Any] | None] = {}
    codes = sorted((row["code"] for row in _select(connection, "SELECT code FROM units")), key=len, reverse=True)
    while names:
        if found := _FEATURE.match(names):
            table, number = found[1], int(found[2])
            state[f"{table} {number}"] = _feature(connection, table, number, _OF_FEATURES.get(rule, ("kind",)))
        elif found := _PART.match(names):
            state[f"part {found[1]}"] = _part(connection, int(found[1]))
        elif names.startswith("unit "):
            code = next((c for c in codes if re.match(rf"unit {re.escape(c)}(-|$)", names)), None)
            if code is None:
                return VOID
            (row,) = _select(connection, "SELECT * FROM units WHERE code = ?", (code,))
            state[f"unit {code}"] = {name: row[name] for name in _OF_UNITS.get(rule, ())}
            names = names[len(f"unit {code}-") :]
            continue
        else:
            return VOID
        names = names[found.end() :]
    return written(state)


def _feature(
    connection: sqlite3.Connection, table: str, number: int, names: tuple[str, ...]
) -> Mapping[str, Any] | None:
    listed = _select(connection, f"SELECT * FROM {table} WHERE id = ?", (number,))  # The table is one of three names.
    if not listed:
        return None
    geometry = decoded_all([listed[0]["geom"]])[0]
    if geometry is None:
        return None
    return {"geometry": coordinates(geometry), **{name: listed[0][name] for name in names}}


def _part(connection: sqlite3.Connection, number: int) -> Mapping[str, Any] | None:
    listed = _select(connection, "SELECT * FROM parts WHERE id = ?", (number,))
    if not listed:
        return None
    settings = {name: v for name, v in json.loads(listed[0]["settings"]).items() if name not in ("name", "group")}
    return {**{name: listed[0][name] for name in ("x", "y", "width", "height")}, "settings": settings}


def _select(connection: sqlite3.Connection, sql: str, values: tuple[Any, ...] = ()) -> list[sqlite3.Row]:
    cursor = connection.cursor()
    cursor.row_factory = sqlite3.Row
    return cursor.execute(sql, values).fetchall()
