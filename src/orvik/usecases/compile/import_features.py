"""Keeping what a file imports: one journal entry a file."""

from __future__ import annotations

import pickle
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.errors import CrsRefused, FeatureRefused, FileRefused, OrvikError
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER, USUAL, USUAL_READING, kind_of, kind_words
from orvik.core.features.table import TABLES, Table
from orvik.core.geometry.nodes_on_edges import ROUNDING_MM, with_nodes_on_edges
from orvik.core.ground.border import check_reach
from orvik.core.ground.crs_change import way_in
from orvik.core.ground.scale import on_ground
from orvik.exchange.features import vector
from orvik.exchange.features.fields import LABELS, guessed
from orvik.exchange.untrusted.parent import Layer, opened
from orvik.store import rows
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import kind_change, symbol_book_of
from orvik.usecases.compile.features import feature_changes

# A file whose middle lies so near to the sheet belongs to it.
NEAR_METRES = 50_000.0
# So many shapes stand for all of a file, and so many of the rows that are left out are listed.
DRAWN = 1500
LISTED = 100
# So many changes are pickled at a time.
CHUNK = 200
# So many readings are said in words.
SHOWN_READINGS = 3
# With more rows left out than this share, what fields are taken for is in doubt.
DOUBTFUL = 0.2
TABLE_NAMES: Mapping[Table, str] = {"lines": "Lines", "areas": "Areas", "points": "Points"}


@dataclass(frozen=True)
class ImportChoices:
    """What is said of a file beside what it says itself.

    Attributes
    ----------
    kind, unit_field, stated
        The kind of features that state none, the field with unit codes, the system of a file that states none.
    fields
        Fields of the file for attributes of ours, where they are not to be guessed; an empty one is left out.
    constants, source
        As in ``vector.Plan``.
    """

    kind: str | None = None
    unit_field: str | None = None
    stated: str = ""
    fields: Mapping[str, str] = field(default_factory=dict)
    constants: Mapping[str, str] = field(default_factory=dict)
    source: str = ""


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
    guess = _guessed(project, layers, said)
    asks = {name: columns for name, columns in guess.asks.items() if name not in said.fields}
    if asks:
        raise FileRefused(f"{path.name}: {ambiguous_words(asks)} Say it with --field, such as {_example(asks)}.")
    reading = checked_reading(project, path, guess.plan, layers)
    if not reading.features:
        raise FileRefused(f"{path.name}: {_nothing(reading)}")
    changes = import_changes(project, reading, guess.plan.source or path.name)
    entry = project.apply(f"import {path.name}", changes)
    return entry, replace(reading, notes=(*guess.words, *reading_words(reading), *reading.notes))


def ambiguous_words(asks: Mapping[str, Sequence[str]]) -> str:
    """Which attributes more than one field could be meant for, in a sentence."""
    alone = {columns[0] for columns in asks.values() if len(columns) == 1}
    said = [f"{column} could be the strike or the direction of the dip." for column in sorted(alone)]
    several = [(LABELS[name], columns) for name, columns in asks.items() if len(columns) > 1]
    said += [f"{label} could be {' or '.join(columns)}." for label, columns in several]
    return " ".join(said)


def _example(asks: Mapping[str, Sequence[str]]) -> str:
    name, columns = next(iter(asks.items()))
    return f"{name}={columns[0]}"


def reading_words(reading: vector.ImportResult) -> list[str]:
    """The first readings in words, so that somebody sees at once whether they are what they should be."""
    said = []
    for number, feature in zip(reading.numbers, reading.features, strict=True):
        if feature.table == "points" and feature.azimuth is not None:
            attitude = Attitude(feature.azimuth, feature.inclination, kind_of(feature.kind).linear)
            said.append(f"Row {number}, {kind_words(feature.kind)}: {attitude.words}.")
        if len(said) == SHOWN_READINGS:
            break
    return said


def _nothing(reading: vector.ImportResult) -> str:
    number, why = reading.left[0]
    return f"none of its {len(reading.left)} features can be saved. The first, row {number}: {why}"


def checked_reading(project: Reader, path: Path, plan: vector.Plan, layers: Sequence[Layer]) -> vector.ImportResult:
    """What a file would import, within reach of the sheet; nothing is kept. Raises FileRefused."""
    units = [unit for _, unit in project.units()]
    reading = vector.read(path, project.crs, symbol_book_of(project), units, plan, layers, project.middle())
    border = project.border()
    features: list[Feature] = []
    numbers: list[int] = []
    sources: list[str] = []
    left = list(reading.left)
    far = 0
    for number, feature, source in zip(reading.numbers, reading.features, reading.sources, strict=True):
        try:
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
    kept = replace(reading, features=tuple(features), numbers=tuple(numbers), sources=tuple(sources))
    return replace(kept, left=tuple(sorted(left)))


@dataclass(frozen=True)
class Look:
    """A first look at a file: what it holds, what it seems to mean, and what it would import by that.

    Attributes
    ----------
    plan
        What it is taken to mean.
    asks
        The fields between which somebody has to choose, by the attribute that each could be.
    stated
        The system that it states, or empty; ``middle`` is the middle of the coordinates that have none.
    reading
        What it would import, or None, and ``why`` not.
    """

    plan: vector.Plan
    asks: Mapping[str, tuple[str, ...]]
    columns: tuple[str, ...]
    tables: tuple[Table, ...]
    stated: str
    middle: tuple[float, float] | None
    reading: vector.ImportResult | None = None
    why: str = ""


def look(project_path: Path, file: Path, plan: vector.Plan | None, near: Sequence[str] = ()) -> Look:
    """Look at a file for a project; runs in a worker. Raises FileRefused where it cannot be opened.

    Parameters
    ----------
    plan
        What its fields mean; guessed without it.
    near
        Systems to try where a file states none; if just one of them puts it near the sheet, that is taken.
    """
    layers = opened(file)
    with opened_for_reading(project_path) as project:
        columns = tuple(dict.fromkeys(column for layer in layers for column in layer.columns))
        guess = _guessed(project, layers, ImportChoices())
        plan = guess.plan if plan is None else plan
        # A question stands until one of its fields has been given a meaning, whatever else is changed meanwhile.
        meant = set(plan.fields.values())
        asks = {name: fields for name, fields in guess.asks.items() if not meant & set(fields)}
        unstated = [layer.geometries for layer in layers if not layer.crs]
        middle = _middle(unstated)
        if middle is not None and not plan.stated:
            fitting = [text for text in near if far_from_sheet(project, text, middle) == 0.0]
            plan = replace(plan, stated=fitting[0] if len(fitting) == 1 else "")
        types = {part.geom_type for layer in layers for part in shapely.get_parts(layer.geometries).tolist() if part}
        tables = tuple(table for table in TABLES if table in {vector.TABLE_OF.get(t) for t in types})
        found = Look(plan, asks, columns, tables, layers[0].crs if middle is None else "", middle)
        try:
            reading = checked_reading(project, file, plan, layers)
        except OrvikError as refusal:
            return replace(found, why=refusal.sentence)
        if not reading.features:
            return replace(found, why=f"{file.name}: {_nothing(reading)}")
        return replace(found, reading=reading)


@dataclass(frozen=True)
class _Guess:
    """What a file is taken to mean, what it could mean as well, and what of that was guessed, in words."""

    plan: vector.Plan
    asks: Mapping[str, tuple[str, ...]]
    words: tuple[str, ...]


def _guessed(project: Reader, layers: Sequence[Layer], said: ImportChoices) -> _Guess:
    book = symbol_book_of(project)
    columns = tuple(dict.fromkeys(column for layer in layers for column in layer.columns))
    kinds = {kind for table in TABLES for kind in book.kinds(table)}
    values = [row for layer in layers for row in layer.values[:2000]]
    guess = guessed(columns, values, kinds, any(layer.driver == ".dxf" for layer in layers))
    fields = {**guess.fields, **said.fields}
    if said.unit_field:
        fields["map_unit"] = said.unit_field
    fields = {name: column for name, column in fields.items() if column}
    default = dict(USUAL)
    if "inclination" in fields:
        # Points with a dip are attitudes.
        default["points"] = USUAL_READING
    types = {part.geom_type for layer in layers for part in shapely.get_parts(layer.geometries).tolist() if part}
    tables = {vector.TABLE_OF.get(t) for t in types}
    if said.kind:
        default = dict.fromkeys(TABLES, said.kind)
    words = [f"{LABELS[name]} is {column}." for name, column in fields.items() if name != column]
    if "kind" not in fields and not said.kind:
        words += [
            f"{TABLE_NAMES[table]} are taken for {kind_words(default[table])}s, since no field says their kind."
            for table in TABLES
            if table in tables
        ]
    plan = vector.Plan(fields, default, said.stated, dict(said.constants), said.source)
    return _Guess(plan, guess.asks, tuple(words))


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

    A place on the sheet or less than 50 km beside it counts as on it.
    """
    border, crs = project.border(), project.crs
    try:
        x, y = way_in(text, crs, project.middle()).places(np.array([middle]))[0]
    except CrsRefused:
        return None
    if border is None or not np.isfinite([x, y]).all():
        return None
    away = float(shapely.distance(shapely.box(*border.bounds), shapely.Point(x, y))) * crs.metres_per_unit
    return 0.0 if away < NEAR_METRES else away


def import_changes(project: ReadProject, reading: vector.ImportResult, name: str) -> list[Change]:
    """The changes that keep what was read: where it came from, new map units and kinds, and the features."""
    names = list(dict.fromkeys([name, *(source for source in reading.sources if source)]))
    # The border that is there is replaced by one that comes in; that change is of no feature that was read.
    kept = feature_changes(project, project.srs_id, reading.features)
    origins = iter(reading.sources)
    placed = [
        replace(c, values={**c.values, "source_id": Made(names.index(next(origins) or name))}) if c.values else c
        for c in kept
    ]
    return [
        *(Change("sources", None, {"kind": "file", "name": one, "crs": reading.crs}) for one in names),
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
    left
        The first rows that would be left out, and why; ``left_count`` counts all of them.
    """

    look: Look
    counts: Mapping[Table, int] = field(default_factory=dict)
    units: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    left: tuple[tuple[int, str], ...] = ()
    left_count: int = 0
    shapes: tuple[BaseGeometry, ...] = ()


def preview(project_path: Path, file: Path, plan: vector.Plan | None, near: Sequence[str] = ()) -> Preview:
    """``look`` in short, for a worker: what it read may be large, and is not sent back."""
    found = look(project_path, file, plan, near)
    reading = found.reading
    if reading is None:
        return Preview(found)
    features = reading.features
    return Preview(
        replace(found, reading=None),
        Counter(feature.table for feature in features),
        tuple(unit.code for unit in reading.units),
        (*_doubts(found.plan, reading), *reading_words(reading), *reading.notes),
        tuple(reading.left[:LISTED]),
        len(reading.left),
        tuple(feature.geometry for feature in features[:: max(1, len(features) // DRAWN)]),
    )


def _doubts(plan: vector.Plan, reading: vector.ImportResult) -> list[str]:
    """What speaks against the meaning of fields: rows that cannot be by it."""
    read = [plan.fields[name] for name in ("azimuth", "dip_direction", "inclination") if name in plan.fields]
    if not read or len(reading.left) <= DOUBTFUL * (len(reading.left) + len(reading.features)):
        return []
    return [f"{len(reading.left)} rows cannot be read so; look at what {' and '.join(read)} are taken for."]


@dataclass(frozen=True)
class Prepared:
    """What a worker has made of a file, ready to be kept: changes, pickled a few at a time.

    Pickled in one piece they would hold up whoever points at the map while they are read.
    """

    name: str
    count: int
    left: int
    chunks: tuple[bytes, ...]


def prepare(project_path: Path, file: Path, plan: vector.Plan) -> Prepared:
    """All that a file imports, as changes; runs in a worker. Raises FileRefused where it imports nothing."""
    found = look(project_path, file, plan)
    if found.reading is None:
        raise FileRefused(found.why)
    with opened_for_reading(project_path) as project:
        changes = import_changes(project, found.reading, plan.source or file.name)
    chunks = tuple(pickle.dumps(changes[i : i + CHUNK]) for i in range(0, len(changes), CHUNK))
    return Prepared(file.name, len(found.reading.features), len(found.reading.left), chunks)


def keep_prepared(project: Project, prepared: Prepared) -> Entry:
    """Keep what a worker has prepared of a file, as one entry."""
    changes = [change for chunk in prepared.chunks for change in pickle.loads(chunk)]
    return project.apply(f"import {prepared.name[:80]}", changes)
