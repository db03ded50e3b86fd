"""Data out: the features of a project as one file, for any program that reads its format."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from orvik.core.errors import FileRefused
from orvik.core.features.by_certainty import pieces_by_certainty
from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import TABLES, Table
from orvik.exchange.features.custom_columns import NUMBER, UNIT_FIELDS, feature_values, kind_values
from orvik.exchange.features.data_file import FORMATS, DataRow, DataSet
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import custom_kinds
from orvik.usecases.structure.sections import letter_of, section_lines
from orvik.whole_file import file_asked_for

# What stands for the whole project in the place of a format.
ARCHIVE = "archive"


def data_choices() -> dict[str, str]:
    """What the features can be exported as, and the whole project, by the ``data`` of an export."""
    return {name.removeprefix("."): found.title for name, found in FORMATS.items()} | {ARCHIVE: "project archive"}


@dataclass(frozen=True)
class DataExport:
    """How many features were written, in how many rows, and what is to be said of them."""

    features: int
    rows: int
    said: list[str] = field(default_factory=list)


def export_data(project: ReadProject, target: Path) -> DataExport:
    """Write all features to a file, whose ending says the format; it appears only when it is whole.

    A GeoPackage keeps lines whole, with their stretches, and holds what is drawn on sections; in other formats lines
    are cut where their certainty changes.

    Raises
    ------
    FileRefused
        An ending that is not a format of data, or a place that cannot be written.
    """
    import pyogrio

    ending = target.suffix.lower()
    if ending not in FORMATS:
        raise FileRefused(f"{target.name} has no file extension of data; use {', '.join(FORMATS)}.")
    faults = project.faults()
    if faults:
        raise FileRefused(
            f"{len(faults)} rows of the project hold nothing that can be written, "
            f"the first of them row {faults[0].id} of {faults[0].table}; see the findings."
        )
    features = [feature for table in TABLES for feature in _whole(project, table)]
    unsound = [feature for feature in features if not feature.geometry.is_valid]
    if unsound:
        many = "feature crosses itself or has" if len(unsound) == 1 else "features cross themselves or have"
        raise FileRefused(
            f"{len(unsound)} {many} no length, the first of them {unsound[0].name}; fix this in Proof first."
        )
    whole = ending == ".gpkg"
    units = project.units_by_code()
    sources = {source.id: source.name for source in project.sources()}
    rows = [
        row
        for feature in features
        for row in _rows(feature, units.get(feature.map_unit or ""), sources.get(feature.source_id, ""), whole)
    ]
    listed = [{name: getattr(unit, name) for name in UNIT_FIELDS} for unit in units.values()]
    kinds = [kind_values(kind) for _, kind in custom_kinds(project)]
    drawn = list(_drawn(project, units, sources))
    data = DataSet(project.name, project.crs.text, rows, project.middle(), listed, kinds, drawn if whole else ())
    try:
        with file_asked_for(target, ending) as part:
            said = FORMATS[ending].write(data, part)
    except pyogrio.errors.DataSourceError as error:
        raise FileRefused(f"{target.name} cannot be written; choose another place.") from error
    if drawn and not whole:
        said = [*said, f"What is drawn on sections, {len(drawn)} features, is left out: only a GeoPackage holds it."]
    return DataExport(len(features) + (len(drawn) if whole else 0), len(rows) + (len(drawn) if whole else 0), said)


def _drawn(project: ReadProject, units: Mapping[str, MapUnit], sources: Mapping[int | None, str]) -> Iterator[DataRow]:
    """What is drawn on the sections of the map, each with the letter of its section."""
    for line in section_lines(project):
        for table in TABLES:
            for feature in project.drawn_whole(table, line.number):
                unit = units.get(feature.map_unit or "")
                values = feature_values(feature, unit, sources.get(feature.source_id, ""), whole=True)
                where = {NUMBER: feature.id, "section": letter_of(line)}
                yield DataRow(feature.table, feature.geometry, where | values)


def _whole(project: Reader, table: Table) -> list[Feature]:
    return list(project.whole(table, project.features(table).ids.tolist()).values())


def _rows(feature: Feature, unit: MapUnit | None, source: str, whole: bool) -> Iterator[DataRow]:
    """A feature as it is, or in pieces of one certainty each."""
    pieces = [(1, feature)] if whole else pieces_by_certainty(feature)
    for number, piece in pieces:
        numbers = {NUMBER: feature.id} if whole else {NUMBER: feature.id, "piece": number}
        yield DataRow(feature.table, piece.geometry, numbers | feature_values(piece, unit, source, whole))
