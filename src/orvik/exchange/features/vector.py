"""Feature files in: their features in the project's system, each checked by itself; what cannot be kept is listed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import pyproj
import shapely
from pyproj.exceptions import CRSError, ProjError

from orvik.core.coordinates import GroundXY
from orvik.core.drawing.validity import all_placed, checked
from orvik.core.errors import CrsRefused, FeatureRefused, FileRefused, OrvikError, ReadingRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.feature import Feature
from orvik.core.features.kind import USUAL
from orvik.core.features.map_unit import MapUnit, new_colour
from orvik.core.features.phrases import KindNames
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import way_in
from orvik.core.symbols.custom_symbols import with_custom
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.exchange.features.custom_columns import is_ours, tables_of, with_own_values
from orvik.exchange.features.formulas import unguarded
from orvik.exchange.features.short_names import FORMER_SHORT, SHORT
from orvik.exchange.features.units_of_rows import UnitsOfRows
from orvik.exchange.mappings.mapping import FieldMapping, Known, RowReader
from orvik.exchange.untrusted.parent import Layer

TABLE_OF: dict[str, Table] = {"LineString": "lines", "LinearRing": "lines", "Polygon": "areas", "Point": "points"}
# A single line or area of more vertices than this cannot be selected.
MOST_VERTICES = 200_000
DROPPED = {
    "Z": "Heights of vertices (Z) were left out: a map is flat; keep the file where they are wanted.",
    "M": "Measures along lines (M) were left out.",
    "sections": "What is drawn on sections was left out; the lines of the sections are there, to draw on them again.",
}


@dataclass(frozen=True)
class ImportResult:
    """What a file would import.

    Attributes
    ----------
    features, units
        What is kept, and the map units that are new.
    crs
        The system that the file was in.
    numbers
        The row that each feature comes from, counted from 1 over all layers.
    left
        Rows that are left out, counted from 1 over all layers, each with the reason.
    notes
        What else was left out, in sentences.
    sources
        What each feature comes from, where a file of ours says it; else empty.
    kinds
        Kinds that the file's project has made for itself, and that are new.
    moved
        Whether coordinates came from another system.
    already
        How many of the rows left out are features that the project has.
    odds
        How many readings say another thing than one at the same place.
    unread
        How many of the rows left out hold a reading that cannot be one.
    """

    features: tuple[Feature, ...]
    units: tuple[MapUnit, ...]
    crs: str = ""
    numbers: tuple[int, ...] = ()
    left: tuple[tuple[int, str], ...] = ()
    notes: tuple[str, ...] = ()
    sources: tuple[str, ...] = ()
    kinds: tuple[CustomKind, ...] = ()
    moved: bool = False
    already: int = 0
    odds: int = 0
    unread: int = 0


def read(
    path: Path,
    crs: ProjectCrs,
    book: SymbolBook,
    units: Sequence[MapUnit],
    mapping: FieldMapping,
    layers: Sequence[Layer],
    home: GroundXY | None = None,
) -> ImportResult:
    """The features of a file in the project's system.

    Parameters
    ----------
    path
        Where the file is, for its name.
    crs, book, units
        The project's system, symbols and map units. Codes that are new make new units.
    mapping
        What its fields mean, its kinds, and its system where it does not state one.
    layers
        What the file holds.
    home
        The middle of the project, about which the datum shift is the best.

    Raises
    ------
    FileRefused
        Unreadable, empty, or without coordinate system.
    """
    known = {unit.code for unit in units}
    new: dict[str, MapUnit] = {}
    start = max((u.position for u in units), default=0)
    own = tables_of(([_named(row) for row in layer.values], layer.beside) for layer in layers if is_ours(layer.columns))
    kinds = tuple(kind for kind in own.kinds if kind.name not in book.kinds(kind.table))
    book = with_custom(book, [*book.custom_kinds.values(), *kinds]) if kinds else book
    coming = {code: unit for code, unit in own.units.items() if code not in known}
    new |= {code: replace(unit, position=start + unit.position) for code, unit in coming.items() if own.whole}
    meant = known_of(book, {*known, *own.units})
    codes = known | set(new)
    features: list[Feature] = []
    sources: list[str] = []
    numbers: list[int] = []
    left: list[tuple[int, str]] = []
    number = unread = 0
    shifts: dict[str, None] = {}
    moved = False
    told = UnitsOfRows()
    for layer in layers:
        stated = layer.crs or mapping.stated
        placed, shift = to_project(path.name, layer.geometries, stated, crs, home)
        shifts |= {shift: None} if shift else {}
        moved = moved or placed is not layer.geometries
        held = {name: [_column_in(layer, c) for c in columns] for name, columns in mapping.fields.items()}
        reader = RowReader(mapping, held, meant)
        sound = all_placed(placed, crs)
        ours = is_ours(layer.columns)
        if ours and not layer.driver:
            layer = replace(layer, values=[_unguarded(values) for values in layer.values])
        for row, (geometry, values) in enumerate(zip(placed, layer.values, strict=True)):
            number += 1
            try:
                parts = list(_parts(geometry, row in layer.unsound))
                made = []
                stated_source = ""
                for table, part in parts:
                    default = mapping.kinds.get(table) or USUAL[table]
                    attributes = reader.attributes(values, table, default)
                    code = attributes.get("map_unit")
                    if code is not None and code not in codes:
                        new[code] = _new_unit(code, coming.get(code), [*units, *new.values()], start)
                        codes.add(code)
                    if code is not None:
                        told.add(code, attributes)
                    feature = _feature(table, part, attributes, default)
                    feature = with_own_values(feature, _named(values)) if ours else feature
                    made.append(checked(feature, crs, book, codes, placed=sound))
                    stated_source = str(attributes.get("source") or (values.get("source") if ours else "") or "")
                features += made
                sources += [stated_source] * len(made)
                numbers += [number] * len(made)
            except OrvikError as refusal:
                left.append((number, refusal.sentence))
                unread += isinstance(refusal, ReadingRefused)
    used = {f.map_unit for f in features}
    by_rows = told.told([unit for code, unit in new.items() if own.whole or code in used], units)
    kept = tuple(
        unit if not unit.parent or unit.parent in codes else replace(unit, parent="") for unit in by_rows.units
    )
    dropped = sorted({note for layer in layers for note in layer.notes})
    labels = ", ".join(kind.label for kind in kinds)
    own_notes = [f"Kinds that the file holds: {labels}."] if kinds else []
    notes = (*shifts, *own_notes, *by_rows.notes, *(DROPPED[note] for note in dropped))
    system = layers[0].crs or mapping.stated
    result = ImportResult(
        tuple(features), kept, system, tuple(numbers), tuple(left), notes, tuple(sources), kinds, moved
    )
    return replace(result, unread=unread)


def known_of(book: SymbolBook, codes: Iterable[str]) -> Known:
    """What values can mean: the kinds of a symbol book, by name and by what they are called, and codes of units."""
    kinds = {table: frozenset(book.kinds(table)) for table in TABLES}
    labels = {kind.name: kind.label for kind in book.custom_kinds.values()}
    return Known(kinds, {table: KindNames.of(kinds[table], labels) for table in TABLES}, frozenset(codes))


def _new_unit(code: str, stated: MapUnit | None, others: Sequence[MapUnit], start: int) -> MapUnit:
    """A unit that is new: as the file says it, else with a colour that no other has."""
    if stated is not None:
        return replace(stated, position=start + stated.position)
    position = max((unit.position for unit in others), default=start) + 1
    return MapUnit(code, code, "", new_colour(others), position=position)


def _unguarded(values: Mapping[str, Any]) -> dict[str, Any]:
    return {name: unguarded(value) if isinstance(value, str) else value for name, value in values.items()}


def _named(values: Mapping[str, Any]) -> Mapping[str, Any]:
    """Values of a row by our names, where it has the short ones of a shapefile."""
    known = [*((short, name) for name, short in SHORT.items()), *FORMER_SHORT.items()]
    return {**values, **{name: values[short] for short, name in known if short in values}}


def _column_in(layer: Layer, column: str) -> str:
    """A column as a layer calls it: the tables of shapefiles have short names."""
    short = SHORT.get(column, column)
    return short if column not in layer.columns and short in layer.columns else column


def _parts(geometry: Any, unsound: bool) -> Iterator[tuple[Table, Any]]:
    """The single lines, areas and points of a geometry; raises FeatureRefused where there is none."""
    if unsound:
        raise FeatureRefused("Its geometry cannot be read, as of a line of one vertex or a ring that does not close.")
    if geometry is None or geometry.is_empty:
        raise FeatureRefused("It has no geometry.")
    table = TABLE_OF.get(geometry.geom_type)
    for part in (geometry,) if table is not None else shapely.get_parts(geometry):
        if part.geom_type.startswith("Multi") or part.geom_type == "GeometryCollection":
            yield from _parts(part, False)
            continue
        if part.is_empty:
            continue
        table = TABLE_OF.get(part.geom_type)
        if table is None:
            raise FeatureRefused(f"It is a {part.geom_type}; only lines, areas and points can be imported.")
        if shapely.get_num_coordinates(part) > MOST_VERTICES:
            raise FeatureRefused(
                f"It has {shapely.get_num_coordinates(part):,} vertices; "
                f"more than {MOST_VERTICES:,} cannot be worked on. "
                "Simplify it or cut it first."
            )
        yield table, part


def to_project(name: str, geometries: Any, stated: str, crs: ProjectCrs, home: GroundXY | None) -> tuple[Any, str]:
    """Geometries of a file in the project's system, and the datum shift that was made, in words.

    Raises
    ------
    FileRefused
        The file does not state its system, or there is no way from it.
    """
    if not stated:
        raise FileRefused(f"{name} does not state its coordinate system; add it to the file, or say which it is.")
    try:
        way = way_in(stated, crs, home, shapely.get_coordinates(geometries))
        if pyproj.CRS(stated).equals(pyproj.CRS(crs.text), ignore_axis_order=True):
            return geometries, ""
        return shapely.transform(geometries, way.places), way.shift.said
    except (CRSError, ProjError) as error:
        raise FileRefused(f"{name} cannot be put into {crs.label} ({str(error)[:120]}).") from error
    except CrsRefused as refusal:
        raise FileRefused(f"{name} cannot be imported: {refusal.sentence}") from refusal


def _feature(table: Table, geometry: Any, attributes: dict[str, Any], kind: str) -> Feature:
    return Feature(
        table,
        geometry,
        str(attributes.get("kind", kind)),
        certainty=str(attributes.get("certainty", "certain")),
        questionable=bool(attributes.get("questionable", False)),
        map_unit=attributes.get("map_unit"),
        azimuth=attributes.get("azimuth"),
        inclination=attributes.get("inclination"),
        capture_scale=attributes.get("capture_scale"),
        note=str(attributes.get("note", "")),
    )
