"""Keeping what a file imports: one journal entry a file."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.drawing.validity import all_placed, checked
from orvik.core.errors import CrsRefused, FeatureRefused, FileRefused, OrvikError
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER, UNIT_AREA
from orvik.core.features.table import Table
from orvik.core.geometry.nodes_on_edges import ROUNDING_MM, with_nodes_on_edges
from orvik.core.ground.border import check_reach
from orvik.core.ground.crs_change import way_in
from orvik.core.ground.scale import on_ground
from orvik.core.pictures.source import IMPORTED
from orvik.exchange.features import vector
from orvik.exchange.mappings.columns import columns_of
from orvik.exchange.mappings.mapping import FieldMapping
from orvik.exchange.mappings.mapping_file import NamedMapping
from orvik.exchange.mappings.meanings import ValuesOf
from orvik.exchange.untrusted.parent import Layer, opened
from orvik.store import rows
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import kind_change, symbol_book_of
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.compile.linework import LineworkChoices, linework_report, noded_changes
from orvik.usecases.compile.prepared import Prepared
from orvik.usecases.intake.already_there import already_there, at_odds
from orvik.usecases.intake.import_mapping import (
    ColumnMeaning,
    ImportChoices,
    known_in,
    listed_columns,
    mapping_for,
    still_asked,
    tables_in,
)
from orvik.usecases.intake.import_words import ambiguous_words, nothing_words, rows_in_words
from orvik.usecases.intake.saved_mappings import proposed

# A file whose middle lies so near to the sheet belongs to it.
NEAR_METRES = 50_000.0
# So many shapes stand for all of a file, and so many of the rows that are left out are listed.
DRAWN = 1500
LISTED = 100
# With more rows left out than this share, what fields are taken for is in doubt.
DOUBTFUL = 0.2


def import_file(project: Project, path: Path, said: ImportChoices | None = None) -> tuple[Entry, vector.ImportResult]:
    """Bring the features of a file into a project; gives the entry, and what was imported and left out.

    Fields mean what they seem to mean, as on the page; where that cannot be told they are asked for.

    Raises
    ------
    FileRefused
        The file cannot be read, nothing in it can be kept, or more than one field could be meant.
    """
    said = said or ImportChoices()
    layers = opened(path)
    columns = columns_of(layers)
    guess = mapping_for(project, layers, columns, said)
    if guess.asks:
        example = next(f"{name}={columns[0]}" for name, columns in guess.asks.items())
        raise FileRefused(f"{path.name}: {ambiguous_words(guess.asks)} Say it with --field, such as {example}.")
    missing = sorted(guess.mapping.used - {column.name for column in columns}) if said.mapping else []
    reading = checked_reading(project, path, guess.mapping, layers)
    if not reading.features:
        raise FileRefused(f"{path.name}: {nothing_words(reading.left)}")
    words = rows_in_words(reading.features, reading.numbers, project.crs)
    if said.linework is not None:
        reading = as_linework(project, reading, said.linework)
    changes = import_changes(project, reading, guess.mapping.source or path.name)
    if said.linework is not None:
        changes += noded_changes(project, reading.features)
    entry = project.apply(f"import {path.name}", changes)
    lacks = [f"The file has no field {name}, of which the mapping speaks." for name in missing]
    return entry, replace(reading, notes=(*lacks, *guess.words, *words, *reading.notes))


def check_readable(path: Path) -> int:
    """How many rows a file has; raises FileRefused where it cannot be opened."""
    return sum(len(layer.values) for layer in opened(path))


def checked_reading(project: Reader, path: Path, mapping: FieldMapping, layers: Sequence[Layer]) -> vector.ImportResult:
    """What a file would import, within reach of the sheet; nothing is kept. Raises FileRefused."""
    units = [unit for _, unit in project.units()]
    reading = vector.read(path, project.crs, symbol_book_of(project), units, mapping, layers, project.middle())
    border = project.border()
    features: list[Feature] = []
    numbers: list[int] = []
    sources: list[str] = []
    left = list(reading.left)
    far = 0
    near = _near(reading.features, border)
    for i, (number, feature, source) in enumerate(zip(reading.numbers, reading.features, reading.sources, strict=True)):
        try:
            if not near[i]:
                check_reach(f"This {feature.name}", feature.geometry.bounds, border)
            if feature.kind == SHEET_BORDER and any(f.kind == SHEET_BORDER for f in features):
                raise FeatureRefused("A project has one sheet border; this is another one.")
        except OrvikError as refusal:
            left.append((number, refusal.sentence))
            far += 1
            continue
        features.append(feature)
        numbers.append(number)
        sources.append(source)
    if far and far == len(reading.features):
        # All of it lies elsewhere: most often the system is another one.
        raise FileRefused(f"{path.name}: {left[-1][1]}")
    if reading.moved:
        # What touched in its own system touches here, too: straight edges have bent by less than can be printed.
        rounding = on_ground(ROUNDING_MM, project.scales.publication) / project.crs.metres_per_unit
        features = with_nodes_on_edges(features, rounding)
    twins = already_there(project, features)
    left += [(numbers[i], f"It is here already, as {name}.") for i, name in twins.items()]
    fresh = [i for i in range(len(features)) if i not in twins]
    features, numbers = [features[i] for i in fresh], [numbers[i] for i in fresh]
    sources = [sources[i] for i in fresh]
    odds = at_odds(features)
    notes = list(reading.notes)
    if odds:
        one, two = odds[0]
        notes.append(
            f"Readings at one place at odds: {len(odds)}; the first are rows {numbers[one]} and {numbers[two]}."
        )
    kept = replace(reading, features=tuple(features), numbers=tuple(numbers), sources=tuple(sources))
    return replace(kept, left=tuple(sorted(left)), notes=tuple(notes), already=len(twins), odds=len(odds))


def _near(features: Sequence[Feature], border: shapely.LineString | None) -> list[bool]:
    """Which features lie within the box around the sheet border: their reach needs no look of its own."""
    if border is None or not features:
        return [True] * len(features)
    frame = shapely.box(*border.bounds)
    shapely.prepare(frame)
    inside: list[bool] = np.asarray(shapely.covers(frame, [feature.geometry for feature in features])).tolist()
    return inside


def as_linework(project: Reader, reading: vector.ImportResult, choices: LineworkChoices) -> vector.ImportResult:
    """What a file would import with its unit areas as linework and tags. Raises FeatureRefused where it has none."""
    units = [f.kind == UNIT_AREA and bool(f.map_unit) for f in reading.features]
    areas = [f for f, unit in zip(reading.features, units, strict=True) if unit]
    kept = [i for i, unit in enumerate(units) if not unit]
    others = [reading.features[i] for i in kept]
    report = linework_report(project, areas, others, choices)
    if not report.features and not others:
        raise FeatureRefused("The map has all lines and tags of these areas already.")
    book = symbol_book_of(project)
    codes = {*project.units_by_code(), *(unit.code for unit in reading.units)}
    placed = all_placed([feature.geometry for feature in report.features], project.crs)
    lines_and_tags = [checked(feature, project.crs, book, codes, placed=placed) for feature in report.features]
    made = len(lines_and_tags)
    count = f"{report.areas} areas become {report.lines} lines and {report.tags} tags."
    return replace(
        reading,
        features=(*others, *lines_and_tags),
        numbers=(*(reading.numbers[i] for i in kept), *([0] * made)),
        sources=(*(reading.sources[i] for i in kept), *([""] * made)),
        notes=(*reading.notes, count, *report.words),
    )


@dataclass(frozen=True)
class Look:
    """A first look at a file: what it holds, what it seems to mean, and what it would import by that.

    Attributes
    ----------
    mapping
        What it is taken to mean.
    asks
        The fields between which somebody has to choose, by the attribute that each could be.
    columns, values
        Its fields with their meanings, and how the values of those are read whose values mean something.
    stated
        The system that it states, or empty; ``middle`` is the middle of the coordinates that have none.
    reading
        What it would import, or None, and ``why`` not.
    proposed
        The name of the saved mapping that was taken; empty where none was.
    """

    mapping: FieldMapping
    asks: Mapping[str, tuple[str, ...]]
    columns: tuple[ColumnMeaning, ...]
    values: tuple[ValuesOf, ...]
    tables: tuple[Table, ...]
    stated: str
    middle: tuple[float, float] | None
    rows: int = 0
    reading: vector.ImportResult | None = None
    why: str = ""
    proposed: str = ""


def look(
    project_path: Path,
    file: Path,
    mapping: FieldMapping | None,
    near: Sequence[str] = (),
    saved: Sequence[NamedMapping] = (),
) -> Look:
    """Look at a file for a project; runs in a worker. Raises FileRefused where it cannot be opened.

    Parameters
    ----------
    mapping
        What its fields mean; guessed without it.
    near
        Systems to try where a file states none; if just one of them puts it near the sheet, that is taken.
    saved
        Mappings of which the one that fits best is taken where none is given.
    """
    layers = opened(file)
    with opened_for_reading(project_path) as project:
        columns = columns_of(layers)
        guess = mapping_for(project, layers, columns, ImportChoices())
        fitting = proposed(saved, [column.name for column in columns]) if mapping is None else []
        mapping = fitting[0].mapping if fitting else mapping
        mapping = guess.mapping if mapping is None else known_in(project).settled(mapping)
        asks = still_asked(guess.asks, mapping)
        unstated = [layer.geometries for layer in layers if not layer.crs]
        middle = _middle(unstated)
        if middle is not None and not mapping.stated:
            on_sheet = [text for text in near if far_from_sheet(project, text, middle) == 0.0]
            mapping = replace(mapping, stated=on_sheet[0] if len(on_sheet) == 1 else "")
        listed, values = listed_columns(project, layers, columns, replace(guess, mapping=mapping))
        stated = layers[0].crs if middle is None else ""
        rows_there = sum(len(layer.values) for layer in layers)
        found = Look(mapping, asks, listed, values, tables_in(layers), stated, middle, rows_there)
        found = replace(found, proposed=fitting[0].name if fitting else "")
        try:
            reading = checked_reading(project, file, mapping, layers)
        except OrvikError as refusal:
            return replace(found, why=refusal.sentence)
        if not reading.features:
            return replace(found, why=f"{file.name}: {nothing_words(reading.left)}", reading=reading)
        return replace(found, reading=reading)


def _middle(geometries: Sequence[Any]) -> tuple[float, float] | None:
    xy = [shapely.get_coordinates(g) for g in geometries]
    both = np.concatenate(xy) if xy else np.empty((0, 2))
    both = both[np.isfinite(both).all(axis=1)]
    if not len(both):
        return None
    x, y = (both.min(axis=0) + both.max(axis=0)) / 2
    return float(x), float(y)


def far_from_sheet(project: Reader, text: str, middle: tuple[float, float]) -> float | None:
    """Metres from the sheet to a place given in a system, beyond 50 km the true distance; None where it cannot be.

    A place on the sheet or less than 50 km beside it counts as on it; without a sheet border it is not a number.
    """
    border, crs = project.border(), project.crs
    try:
        x, y = way_in(text, crs, project.middle()).places(np.array([middle]))[0]
    except CrsRefused:
        return None
    if not np.isfinite([x, y]).all():
        return None
    if border is None:
        return math.nan
    away = float(shapely.distance(shapely.box(*border.bounds), shapely.Point(x, y))) * crs.metres_per_unit
    return 0.0 if away < NEAR_METRES else away


def import_changes(project: ReadProject, reading: vector.ImportResult, name: str) -> list[Change]:
    """The changes that keep what was read: where it came from, new map units and kinds, and the features."""
    names = list(dict.fromkeys([name, *(source for source in reading.sources if source)]))
    # The border that is there is replaced by one that comes in; that change is of no feature that was read.
    kept = feature_changes(project, project.srs_id, reading.features)
    origins = iter(reading.sources)
    placed = [
        Change(c.table, c.id, {**c.values, "source_id": Made(names.index(next(origins) or name))}) if c.values else c
        for c in kept
    ]
    return [
        *(Change("sources", None, {"kind": IMPORTED, "name": one, "crs": reading.crs}) for one in names),
        *(rows.unit_change(None, unit) for unit in reading.units),
        *(kind_change(None, kind) for kind in reading.kinds),
        *placed,
    ]


@dataclass(frozen=True)
class Preview:
    """A look at a file in short, as a page shows it: a few of the shapes stand for all.

    Attributes
    ----------
    look
        What it holds and seems to mean, without what was read.
    counts
        How many features it would bring into each table; empty where it would import none.
    units
        Codes of the map units that are new.
    words
        The first features in words.
    left
        The first rows that would be left out, and why; ``left_count`` counts all of them.
    already, odds
        How many of these are here already, and how many readings are at odds with another at the same place.
    """

    look: Look
    counts: Mapping[Table, int] = field(default_factory=dict)
    units: tuple[str, ...] = ()
    words: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    left: tuple[tuple[int, str], ...] = ()
    left_count: int = 0
    already: int = 0
    odds: int = 0
    shapes: tuple[BaseGeometry, ...] = ()

    @property
    def asking(self) -> int:
        """How many rows hold a value that is not understood."""
        return sum(values.asking for values in self.look.values)


def preview(
    project_path: Path,
    file: Path,
    mapping: FieldMapping | None,
    near: Sequence[str] = (),
    linework: LineworkChoices | None = None,
    saved: Sequence[NamedMapping] = (),
) -> Preview:
    """``look`` in short, for a worker: what it read may be large, and is not sent back."""
    found = look(project_path, file, mapping, near, saved)
    reading = found.reading
    if reading is None:
        return Preview(found)
    with opened_for_reading(project_path) as project:
        words = tuple(rows_in_words(reading.features, reading.numbers, project.crs))
        if linework is not None and reading.features:
            try:
                reading = as_linework(project, reading, linework)
            except OrvikError as refusal:
                return Preview(replace(found, reading=None, why=refusal.sentence), words=words)
    features = reading.features
    return Preview(
        replace(found, reading=None),
        Counter(feature.table for feature in features),
        tuple(unit.code for unit in reading.units),
        words,
        (*_doubts(found.mapping, reading), *reading.notes),
        tuple(reading.left[:LISTED]),
        len(reading.left),
        reading.already,
        reading.odds,
        tuple(feature.geometry for feature in features[:: max(1, len(features) // DRAWN)]),
    )


def _doubts(mapping: FieldMapping, reading: vector.ImportResult) -> list[str]:
    """What speaks against the meaning of fields: rows that cannot be by it."""
    read = [c for name in ("azimuth", "dip_direction", "inclination") for c in mapping.fields.get(name, ())]
    wrong = reading.unread
    if not read or wrong <= DOUBTFUL * (wrong + len(reading.features)):
        return []
    rows_there = "1 row" if wrong == 1 else f"{wrong} rows"
    return [f"{rows_there} cannot be read so; look at what {' and '.join(read)} are taken for."]


def prepare(project_path: Path, file: Path, mapping: FieldMapping, linework: LineworkChoices | None = None) -> Prepared:
    """All that a file imports, as changes; runs in a worker. Raises FileRefused where it imports nothing.

    Parameters
    ----------
    linework
        How areas become linework and tags; without it they come in as areas.
    """
    layers = opened(file)
    with opened_for_reading(project_path) as project:
        mapping = known_in(project).settled(mapping)
        reading = checked_reading(project, file, mapping, layers)
        if not reading.features:
            raise FileRefused(f"{file.name}: {nothing_words(reading.left)}")
        if linework is not None:
            reading = as_linework(project, reading, linework)
        changes = import_changes(project, reading, mapping.source or file.name)
        if linework is not None:
            changes += noded_changes(project, reading.features)
        label = f"import {file.name[:80]}"
        return Prepared.of(label, len(reading.features), len(reading.left), changes, project.revision)
