"""Map units as a table: CSV with a head, a row each, youngest first."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from orvik.core.colour.text import hex_text
from orvik.core.errors import FeatureRefused, FileRefused, OrvikError
from orvik.core.features.label_text import label_text
from orvik.core.features.map_unit import MapUnit, new_colour
from orvik.core.features.station_table import decoded
from orvik.core.ground.coordinates import parse_quantity
from orvik.exchange.features.formulas import guarded, unguarded
from orvik.exchange.features.unit_headers import columns_by_name, put_together

COLUMNS = (
    "code",
    "label",
    "name",
    "age",
    "age_from",
    "age_to",
    "rock",
    "heading",
    "rank",
    "parent",
    "colour",
    "colour_typed",
    "pattern",
    "pattern_colour",
    "pattern_colour_typed",
    "pattern_opacity",
    "description",
)
MOST_ROWS = 2000


@dataclass(frozen=True)
class ReadRow:
    """A row of a table: the unit that it makes out of the one there was, or why it makes none."""

    line: int
    code: str
    unit: MapUnit | None
    refusal: str = ""


def written(units: Iterable[MapUnit]) -> str:
    """The table of units; a program that reads figures into cells finds nothing to carry out in it."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for unit in units:
        table.writerow([_cell(unit, name) for name in COLUMNS])
    return out.getvalue()


def read(data: bytes, there: Iterable[MapUnit], headers: Mapping[str, str] | None = None) -> list[ReadRow]:
    """The units of a table. A column that the table lacks, and a cell that is empty in a new unit, say nothing.

    Parameters
    ----------
    there
        The units that the project has: a row of the same code changes what its columns say.
    headers
        The columns of the table for ours, where they are not called as ours or as tables commonly call them.

    Raises
    ------
    FileRefused
        It is not a table of units.
    """
    rows = _rows(data)
    where = columns_by_name(rows[0], COLUMNS, headers or {})
    if "code" not in where:
        raise FileRefused("This table has no column “code”; its first row names the columns.")
    if len(rows) - 1 > MOST_ROWS:
        raise FileRefused(f"This table has {len(rows) - 1} rows; {MOST_ROWS} units are the most.")
    known = {unit.code: unit for unit in there}
    out: list[ReadRow] = []
    for number, cells in enumerate(rows[1:], 2):
        values = {name: cells[at].strip() for name, at in where.items() if at < len(cells)}
        code = values.get("code", "")
        try:
            values = {name: "" for name in where if name in COLUMNS and name in values} | put_together(values)
            if any(row.code == code and row.unit for row in out):
                raise FeatureRefused(f"{code} stands in the table twice; leave one out.")
            made = [*known.values(), *(row.unit for row in out if row.unit is not None)]
            out.append(ReadRow(number, code, _unit(values, known.get(code), made)))
        except OrvikError as refusal:
            out.append(ReadRow(number, code, None, refusal.sentence))
    return out


def columns_meant(data: bytes, headers: Mapping[str, str] | None = None) -> tuple[list[str], dict[str, str]]:
    """The columns of a table by name, and which of them stands for each of ours; raises FileRefused as ``read``."""
    rows = _rows(data)
    if len(rows) == 1:
        raise FileRefused("This table needs a row for each unit below the names of its columns.")
    head = [cell.strip().lstrip("\ufeff") for cell in rows[0]]
    return head, {name: head[at] for name, at in columns_by_name(head, COLUMNS, headers or {}).items()}


def _rows(data: bytes) -> list[list[str]]:
    # A form sends other line ends than the file had; a description is the same with either.
    text = decoded(data).replace("\r\n", "\n").replace("\r", "\n")
    # The head says what parts the columns; names of ours hold none of these.
    delimiter = max(",;\t", key=text.split("\n", 1)[0].count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter))
    except csv.Error as error:
        raise FileRefused(f"This is not a table that can be read ({error}); save it as CSV.") from error
    rows = [row for row in rows if any(cell.strip() for cell in row)]
    if not rows:
        raise FileRefused("This table is empty; it needs a head with the columns code and name.")
    return rows


def with_cells(unit: MapUnit, values: Mapping[str, str]) -> MapUnit:
    """A unit with what cells of a table say of it, by our columns; raises FeatureRefused where one cannot be."""
    return _unit({name: value for name, value in values.items() if name in COLUMNS and value}, unit, ())


def _unit(values: Mapping[str, str], old: MapUnit | None, others: Sequence[MapUnit]) -> MapUnit:
    kept: dict[str, str | float] = {name: unguarded(value) for name, value in values.items()}
    if kept.get("label"):
        kept["label"] = label_text(str(kept["label"]))
    for name in ("colour", "pattern_colour"):
        if kept.get(name):
            kept[name] = hex_text(str(kept[name]))
        elif name == "colour":
            kept.pop(name, None)
    if str(kept.get("pattern_opacity", "")):
        per_cent = str(kept["pattern_opacity"]).rstrip("% ")
        kept["pattern_opacity"] = parse_quantity(per_cent, "opacity of the pattern", FeatureRefused) / 100
    else:
        kept.pop("pattern_opacity", None)
    if old is not None:
        return replace(old, **kept)  # type: ignore[arg-type]
    if "colour" not in kept:
        kept["colour"] = new_colour(others)
    kept["name"] = kept.get("name") or kept.get("code", "")
    return MapUnit(**({"age": ""} | kept))  # type: ignore[arg-type]


def shown(unit: MapUnit, name: str) -> str:
    """A value of a column as it is written; opacities in per cent."""
    value = getattr(unit, name)
    return f"{round(100 * value, 6):g}" if isinstance(value, float) else str(value)


def _cell(unit: MapUnit, name: str) -> str:
    return guarded(shown(unit, name))
