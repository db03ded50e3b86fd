"""The mapping of a file for a project: as somebody says, else as its fields and values seem to mean."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import shapely

from orvik.core.errors import FileRefused
from orvik.core.features.kind import USUAL, USUAL_READING, kind_words
from orvik.core.features.table import TABLES, Table
from orvik.exchange.features import vector
from orvik.exchange.features.short_names import SHORT
from orvik.exchange.mappings.attributes import ATTRIBUTES
from orvik.exchange.mappings.columns import Column
from orvik.exchange.mappings.guess import guessed, with_limits
from orvik.exchange.mappings.mapping import FieldMapping, Known, joined, value_text
from orvik.exchange.mappings.meanings import ValuesOf, values_of, why
from orvik.exchange.mappings.unit_fields import unit_fields
from orvik.exchange.untrusted.parent import Layer
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.linework import LineworkChoices

TABLE_NAMES: Mapping[Table, str] = {"lines": "Lines", "areas": "Areas", "points": "Points"}
# So many rows are looked at for whether two fields say the same.
COMPARED = 500


@dataclass(frozen=True)
class ImportChoices:
    """What is said of a file beside what it says itself.

    Attributes
    ----------
    kind
        The kind of features that state none.
    fields
        Fields of the file for attributes of ours, where they are not to be guessed; an empty one is left out.
    mapping
        What its fields mean, all of them; then nothing is guessed.
    linework
        How areas become linework and tags; without it they come in as areas.
    """

    kind: str | None = None
    unit_field: str | None = None
    stated: str = ""
    fields: Mapping[str, str] = field(default_factory=dict)
    constants: Mapping[str, str] = field(default_factory=dict)
    source: str = ""
    mapping: FieldMapping | None = None
    linework: LineworkChoices | None = None


@dataclass(frozen=True)
class MappingGuess:
    """What a file is taken to mean, what it could mean as well, and what of that was guessed, in words."""

    mapping: FieldMapping
    asks: Mapping[str, tuple[str, ...]]
    words: tuple[str, ...]
    by_values: frozenset[str] = frozenset()


def tables_in(layers: Sequence[Layer]) -> tuple[Table, ...]:
    """The tables that a file has features for."""
    types = {part.geom_type for layer in layers for part in shapely.get_parts(layer.geometries).tolist() if part}
    return tuple(table for table in TABLES if table in {vector.TABLE_OF.get(t) for t in types})


def known_in(project: Reader) -> Known:
    """What values can mean in a project."""
    return vector.known_of(symbol_book_of(project), (unit.code for _, unit in project.units()))


def mapping_for(
    project: Reader, layers: Sequence[Layer], columns: Sequence[Column], said: ImportChoices
) -> MappingGuess:
    """The mapping of a file, guessed where it is not said."""
    if said.mapping is not None:
        mapping = known_in(project).settled(said.mapping)
        mapping = mapping if not said.stated else replace(said.mapping, stated=said.stated)
        return MappingGuess(replace(mapping, source=said.source or mapping.source), {}, ())
    names = [column.name for column in columns]
    for wanted in (*said.fields.values(), said.unit_field or ""):
        if wanted and not {wanted, SHORT.get(wanted, wanted)} & set(names):
            raise FileRefused(f"The file has no field “{wanted[:60]}”; it has {', '.join(names[:12]) or 'none'}.")
    known, tables = known_in(project), tables_in(layers)
    guess = guessed(columns, known, known.codes, tables, any(layer.driver == ".dxf" for layer in layers))
    found = {**guess.fields, **said.fields}
    if said.unit_field:
        found["map_unit"] = said.unit_field
    fields: dict[str, tuple[str, ...]] = {name: (column,) for name, column in found.items() if column}
    of_units = unit_fields(layers, [column.name for column in columns], fields) if "areas" in tables else {}
    told = {column for held in of_units.values() for column in held}
    fields = {name: held for name, held in fields.items() if not told & set(held)} | of_units
    default = dict(USUAL)
    if {"inclination", "reading"} & set(fields):
        # Points with a dip are attitudes.
        default["points"] = USUAL_READING
    if said.kind:
        default = dict.fromkeys(TABLES, said.kind)
    words = [f"{ATTRIBUTES[name].label} is {' and '.join(c)}." for name, c in fields.items() if (name,) != c]
    if "kind" not in fields and not said.kind:
        words += [
            f"{TABLE_NAMES[table]} are taken for {kind_words(default[table])}s, since no field says their kind."
            for table in tables
        ]
    mapping = FieldMapping(fields, default, said.stated, dict(said.constants), {}, said.source)
    mapping = with_limits(mapping, columns, project.scales.publication)
    asks = {name: held for name, held in guess.asks.items() if name not in said.fields}
    return MappingGuess(mapping, asks, tuple(words), guess.by_values)


def still_asked(asks: Mapping[str, tuple[str, ...]], mapping: FieldMapping) -> dict[str, tuple[str, ...]]:
    """A question stands until one of its fields has been given a meaning, whatever else is changed meanwhile."""
    return {name: columns for name, columns in asks.items() if not mapping.used & set(columns)}


@dataclass(frozen=True)
class ColumnMeaning:
    """A field of a file as the page lists it: what it holds, what it is taken for and why."""

    column: Column
    means: tuple[str, ...]
    why: str
    sound: bool


def listed_columns(
    project: Reader, layers: Sequence[Layer], columns: Sequence[Column], guess: MappingGuess
) -> tuple[tuple[ColumnMeaning, ...], tuple[ValuesOf, ...]]:
    """The fields of a file with their meanings, and the values of those whose values mean something."""
    mapping = guess.mapping
    counts: dict[str, list[tuple[str, int]]] = {}
    for name, attribute in ATTRIBUTES.items():
        said = mapping.fields.get(name, ())
        if attribute.values and said:
            texts = Counter(joined(name, row, said) for layer in layers for row in layer.values)
            texts.pop("", None)
            counts[name] = texts.most_common()
    known = known_in(project)
    values = values_of(mapping, counts, known, tables_in(layers), known.codes)
    rows = [
        {name: value_text(value) for name, value in row.items()} for layer in layers for row in layer.values[:COMPARED]
    ]
    listed = []
    for column in columns:
        means = tuple(name for name, said in mapping.fields.items() if column.name in said)
        reason, sound = why(column, mapping, guess.by_values, rows, values)
        listed.append(ColumnMeaning(replace(column, counts=()), means, reason, sound))
    return tuple(listed), tuple(values)
