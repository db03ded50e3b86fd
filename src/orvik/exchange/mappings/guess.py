"""A guess at what the fields of a file mean: by exact names, then by names that files commonly have, then by values.

What two fields could be meant for is asked; nothing is taken for what its values cannot be.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

from orvik.core.features.map_unit import is_code
from orvik.core.features.table import TABLES, Table
from orvik.exchange.mappings.attributes import ATTRIBUTES, bare_letters, whole_letters
from orvik.exchange.mappings.columns import MOST_VALUES, Column
from orvik.exchange.mappings.mapping import FieldMapping, Known

# So large a share of the rows of a field must be understood for it to be taken for kinds, or for units, by its values.
UNDERSTOOD = 0.6
# Lines on the sheet are placed to so many millimetres where they are certain (GeMS: the zone of confidence).
CERTAIN_MM = 1.0
# So many of a field's values, the most frequent, tell whether they are understood.
LOOKED_AT = 60
# No dip is steeper; and with no more values than these, figures may be anything.
STEEPEST = 90.0
FEW = 3


@dataclass(frozen=True)
class Guess:
    """What the fields of a file seem to mean.

    Attributes
    ----------
    fields
        The file's field for each attribute of ours.
    asks
        The fields between which somebody has to choose, for each attribute that more than one could be meant for.
    by_values
        The attributes that were found by values alone.
    """

    fields: dict[str, str]
    asks: dict[str, tuple[str, ...]] = field(default_factory=dict)
    by_values: frozenset[str] = frozenset()


def guessed(
    columns: Sequence[Column],
    known: Known | None = None,
    codes: Iterable[str] = (),
    tables: Iterable[Table] = TABLES,
    drawing: bool = False,
) -> Guess:
    """The file's field for each attribute that one seems to be meant for; each field at most once.

    A field that is called as an attribute is, or as files commonly call it, wins over one that is only called alike,
    such as ``strike2``; of several that are called equally well none is taken. A bare ``azimuth`` beside a ``dip``
    could be the strike or the direction of the dip, and is none of both.

    Parameters
    ----------
    columns
        The fields of the file.
    known, codes
        The kinds that the project knows and the codes of its units: a field is one for kinds only if it names some.
    tables
        Those that the file has features for.
    drawing
        Whether it is a technical drawing, whose fields speak of pens and layers.
    """
    by_name = {column.name: column for column in columns}
    found, asks = _by_names(by_name, known, tuple(tables), drawing)
    bare = found.get("azimuth", "")
    sided = {"dip_direction", "dip_quadrant"} & set(found)
    # Beside an inclination it is ours, or that of GeMS: the strike by the right-hand rule.
    dips = not whole_letters(found.get("inclination", "inclination")).startswith("inclin")
    if whole_letters(bare) in ("azimuth", "azimut") and dips and not sided:
        del found["azimuth"]
        asks["azimuth"] = asks["dip_direction"] = (bare,)
    free = [c for c in columns if c.name not in found.values() and not any(c.name in a for a in asks.values())]
    by_values: set[str] = set()
    if known is not None and "kind" not in found and "kind" not in asks:
        _take(found, asks, by_values, "kind", [c.name for c in free if _share_of_kinds(c, known, tables) >= UNDERSTOOD])
    there = set(codes)
    if there and "map_unit" not in found and "map_unit" not in asks:
        held = [c.name for c in free if _share(c, lambda text: text.rstrip("? ") in there) >= UNDERSTOOD]
        _take(found, asks, by_values, "map_unit", [name for name in held if name not in found.values()])
    if "inclination" in found and not {"azimuth", "dip_direction", "reading"} & {*found, *asks} and "points" in tables:
        turning = [c.name for c in free if _is_azimuth(c) and c.name not in found.values()]
        if turning:
            # Figures from 0 to 360 beside a dip: which of the two directions they are, no figure tells.
            asks["azimuth"] = asks["dip_direction"] = tuple(turning)
    return Guess(found, asks, frozenset(by_values))


def _by_names(
    by_name: Mapping[str, Column], known: Known | None, tables: Sequence[Table], drawing: bool
) -> tuple[dict[str, str], dict[str, tuple[str, ...]]]:
    whole, bare = _called(by_name, whole_letters), _called(by_name, bare_letters)
    found: dict[str, str] = {}
    asks: dict[str, tuple[str, ...]] = {}
    for name, attribute in ATTRIBUTES.items():
        if attribute.unit:
            continue
        names = (*attribute.names, whole_letters(name), *(("layer",) if name == "kind" and drawing else ()))
        for called, wanted in product((whole, bare), dict.fromkeys(names)):
            # Shapefiles cut names off after ten characters.
            there = [c for c in called.get(wanted) or called.get(wanted[:10], []) if c not in found.values()]
            if whole_letters(name) != wanted:
                there = [c for c in there if _may_be(name, by_name[c], known, tables)]
            if len(there) > 1:
                asks[name] = tuple(there)
            elif there:
                found[name] = there[0]
            if there:
                break
    return found, asks


def _may_be(name: str, column: Column, known: Known | None, tables: Sequence[Table]) -> bool:
    """Whether a field that is called as an attribute commonly is holds anything of the sort."""
    if name == "kind" and known is not None:
        return _share_of_kinds(column, known, tables) > 0
    if name == "map_unit":
        # Names of formations are no codes; a mark of doubt may stand behind one.
        return _share(column, lambda text: is_code(text.rstrip("? "))) >= UNDERSTOOD
    return column.distinct > 0


def _called(columns: Iterable[str], letters_of: Callable[[str], str]) -> dict[str, list[str]]:
    out: dict[str, list[str]] = {}
    for column in columns:
        out.setdefault(letters_of(column), []).append(column)
    return out


def _take(
    found: dict[str, str], asks: dict[str, tuple[str, ...]], by_values: set[str], name: str, columns: Sequence[str]
) -> None:
    """A field for an attribute by its values; two ask."""
    if len(columns) > 1:
        asks[name] = tuple(columns)
    elif columns:
        found[name] = columns[0]
        by_values.add(name)


def _share(column: Column, understood: Callable[[str], bool]) -> float:
    """The share of a field's rows that are understood; none of a field that names things one by one."""
    if not 0 < column.distinct <= MOST_VALUES:
        return 0.0
    looked_at = column.counts[:LOOKED_AT]
    return sum(count for text, count in looked_at if understood(text)) / sum(count for _, count in looked_at)


def _share_of_kinds(column: Column, known: Known, tables: Iterable[Table]) -> float:
    return _share(column, lambda text: any(known.kind_named(text, table) for table in tables))


def _is_azimuth(column: Column) -> bool:
    """Whether all values are directions in degrees, and not all of them could be dips."""
    numbers = column.numbers
    return (
        bool(numbers)
        and len(numbers) == len(column.counts)
        and all(0 <= n <= 360 for n in numbers)
        and max(numbers) > STEEPEST
        and len(numbers) > FEW
    )


def with_limits(mapping: FieldMapping, columns: Sequence[Column], publication: int) -> FieldMapping:
    """A mapping with limits for a certainty that is given in metres: certain is what is so at the publication scale."""
    by_name = {column.name: column for column in columns}
    (name,) = mapping.fields.get("certainty", ("",))[:1]
    column = by_name.get(name)
    if column is None or column.type not in ("whole", "number") or mapping.values.get("certainty"):
        return mapping
    limit = f"{CERTAIN_MM * publication / 1000:g}"
    limits = {f"<={limit}": "certain", f">{limit}": "approximate"}
    return replace(mapping, values={**mapping.values, "certainty": limits})
