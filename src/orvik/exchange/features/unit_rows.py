"""A table of map units out of whatever file tells of them: a table as it is, else a row a unit of its features."""

from __future__ import annotations

import csv
import io
from collections import Counter, defaultdict
from collections.abc import Mapping
from pathlib import Path

from orvik.core.errors import FileRefused
from orvik.exchange.features.unit_headers import columns_by_name
from orvik.exchange.features.unit_table import COLUMNS
from orvik.exchange.mappings.mapping import value_text
from orvik.exchange.untrusted.parent import TABLES, rows_in


def unit_rows(path: Path, headers: Mapping[str, str] | None = None) -> bytes:
    """The units of a file as CSV: of a table as it is, of layers with a row for each code that their rows name.

    What most rows of a unit say is the unit's.

    Parameters
    ----------
    headers
        The fields of the file for our columns, where they are called otherwise.

    Raises
    ------
    FileRefused
        It cannot be read, or no field of it holds codes of units.
    """
    if path.suffix.lower() in TABLES:
        return path.read_bytes()
    rows = rows_in(path)
    names = list(dict.fromkeys(name for row in rows for name in row))
    found = columns_by_name(names, COLUMNS, headers or {})
    if "code" not in found:
        raise FileRefused(f"{path.name} has no field “code”; say which one holds the codes of units.")
    code = names[found["code"]]
    said: dict[str, dict[str, Counter[str]]] = defaultdict(lambda: defaultdict(Counter))
    for row in rows:
        unit = value_text(row.get(code)).rstrip("? ")
        if not unit:
            continue
        said[unit][code][unit] += 1
        for name in names:
            text = value_text(row.get(name))
            if text and name != code:
                said[unit][name][text] += 1
    # The other fields tell of the features.
    kept = [names[at] for at in sorted(set(found.values()))]
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(kept)
    for counts in said.values():
        table.writerow([counts[name].most_common(1)[0][0] if counts[name] else "" for name in kept])
    return out.getvalue().encode()
