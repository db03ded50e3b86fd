"""Which fields of a file of features tell of their map units: the same for all features of a unit, and called so."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence

from orvik.exchange.mappings.attributes import OF_UNITS, whole_letters
from orvik.exchange.mappings.mapping import joined, value_text
from orvik.exchange.untrusted.parent import Layer

# Names of the parts of a colour, in letters and figures, in their order (common practice).
PARTS_OF_COLOUR = (
    (
        ("red", "r", "rot", "rouge", "rojo"),
        ("green", "g", "gruen", "grun", "vert", "verde"),
        ("blue", "b", "blau", "bleu", "azul"),
    ),
    (
        ("cyan", "c"),
        ("magenta", "m"),
        ("yellow", "y", "gelb", "jaune", "amarillo"),
        ("black", "k", "schwarz", "noir", "negro"),
    ),
)
# So large a share of the rows must agree with their unit for a field to be one of the unit.
AGREEING = 0.95


Rows = Sequence[tuple[str, Mapping[str, object]]]


def unit_fields(
    layers: Sequence[Layer], columns: Sequence[str], fields: Mapping[str, tuple[str, ...]]
) -> dict[str, tuple[str, ...]]:
    """The fields that tell of map units, for each attribute of these.

    Parameters
    ----------
    columns
        The fields of the file.
    fields
        Those that mean something already, for each attribute; without one for the unit there is none of a unit.
    """
    code = fields.get("map_unit", ())
    if not code:
        return {}
    # A description that a note was taken for may be one of the unit.
    taken = {column for name, held in fields.items() if name != "note" for column in held}
    there = [column for column in columns if column not in taken]
    by_letters: dict[str, list[str]] = defaultdict(list)
    for column in there:
        by_letters[whole_letters(column)].append(column)
    rows = [(joined("map_unit", row, code), row) for layer in layers for row in layer.values]
    rows = [(unit.rstrip("? "), row) for unit, row in rows if unit]
    out: dict[str, tuple[str, ...]] = {}
    used: set[str] = set()
    for attribute in OF_UNITS:
        most = len(attribute.names) if attribute.name == "unit_ma" else 1
        found = [
            column
            for called in attribute.names
            for column in by_letters.get(called) or by_letters.get(called[:10], [])
            if column not in used and _agrees(rows, column)
        ][:most]
        if not found and attribute.name == "unit_colour":
            found = _parts(by_letters, rows, used)
        if found:
            out[attribute.name] = tuple(found)
            used |= set(found)
    return out


def _parts(by_letters: Mapping[str, list[str]], rows: Rows, used: set[str]) -> list[str]:
    for parts in PARTS_OF_COLOUR:
        found = [next((c for name in names for c in by_letters.get(name, ()) if c not in used), "") for names in parts]
        if all(found) and all(_agrees(rows, column) for column in found):
            return found
    return []


def _agrees(rows: Rows, column: str) -> bool:
    """Whether a field says something, and mostly the same for all features of a unit."""
    said: dict[str, Counter[str]] = defaultdict(Counter)
    for unit, row in rows:
        text = value_text(row.get(column))
        if text:
            said[unit][text] += 1
    total = sum(sum(counts.values()) for counts in said.values())
    agreeing = sum(counts.most_common(1)[0][1] for counts in said.values())
    return total > 0 and agreeing >= AGREEING * total
