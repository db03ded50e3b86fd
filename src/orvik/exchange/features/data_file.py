"""Features written as files for other programs: plain rows of one certainty each, in the formats that these read."""

from __future__ import annotations

import io
import json
import re
import tempfile
import warnings
import zipfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats, Objects
from orvik.core.coordinates import GroundXY
from orvik.core.features.kind import kind_words
from orvik.core.features.table import SECTION_TABLES, TABLES, Table
from orvik.core.ground.crs import project_crs
from orvik.core.ground.crs_change import way_in
from orvik.exchange.features.custom_columns import KINDS_LAYER, NUMBER, UNITS_LAYER
from orvik.exchange.features.date_line import cut_at_180
from orvik.exchange.features.formulas import guarded
from orvik.exchange.features.short_names import SHORT

# Decimals of a degree that are a millimetre or better anywhere (RFC 7946 asks for no more than are needed).
DEGREE_DECIMALS = 8
GEOMETRY = {"lines": "LineString", "areas": "Polygon", "points": "Point"}
# What is drawn on sections is metres along and up, which GeoPackage calls undefined Cartesian.
SECTION_SYSTEM = 'LOCAL_CS["Undefined Cartesian SRS",UNIT["metre",1]]'
# The longest text that such a table holds.
LONGEST_TEXT = 254
# What a unit of length is called in a DXF, by its metres: metre, foot, US survey foot, kilometre.
DXF_UNITS: Mapping[float, int] = {1.0: 6, 0.3048: 2, round(1200 / 3937, 9): 21, 1000.0: 7}
# What the name of a layer of a DXF cannot hold.
_NO_LAYER = re.compile(r"[<>/\\\":;?*|=`,\x00-\x1f]")
README = """{name}: its features as shapefiles, a layer for each kind of geometry, in {crs}.
Lines are cut where their certainty changes: "piece" counts the pieces of one line, whose number is "orvik_id".
Names of fields are shortened to ten letters: {short}.
"""


@dataclass(frozen=True)
class DataRow:
    """A row to be written: its table, its geometry in the project's system, and its attributes by name."""

    table: Table
    geometry: BaseGeometry
    values: Mapping[str, Any]


@dataclass(frozen=True)
class DataSet:
    """What is written: rows, their system, the middle of the project, map units and custom kinds as rows.

    ``drawn`` is what is drawn on sections, in metres along and up.
    """

    name: str
    crs: str
    rows: Sequence[DataRow]
    home: GroundXY | None = None
    units: Sequence[Mapping[str, Any]] = field(default_factory=tuple)
    kinds: Sequence[Mapping[str, Any]] = field(default_factory=tuple)
    drawn: Sequence[DataRow] = field(default_factory=tuple)


Writer = Callable[[DataSet, Path], list[str]]


@dataclass(frozen=True)
class DataFormat:
    """A format that features are written in; help, forms and docs/formats.md tell what stands here.

    Attributes
    ----------
    extension, title
        Of the file, with its dot; and what the format is called in lists.
    words
        What it is, and what lies in it.
    within
        How near its places are to those of the project, in metres.
    attributes, system
        Which attributes it holds, and whose coordinates.
    write
        Writes a file of it; says what could not be written.
    """

    extension: str
    title: str
    words: str
    within: float
    attributes: str
    system: str
    write: Writer


FORMATS: dict[str, DataFormat] = {}


def data_format(
    extension: str, title: str, words: str, *, within: float, attributes: str, system: str
) -> Callable[[Writer], Writer]:
    """Have a function write a format, as ``DataFormat`` says."""

    def registered(write: Writer) -> Writer:
        FORMATS[extension] = DataFormat(extension, title, words, within, attributes, system, write)
        return write

    return registered


@data_format(
    ".gpkg",
    "GeoPackage",
    "GeoPackage (OGC 12-128r18), a layer for each table, one for the units, one for custom kinds, and three for "
    "what is drawn on sections",
    within=0,
    attributes="all, lines whole with their stretches and knots",
    system="the project's",
)
def write_geopackage(data: DataSet, target: Path) -> list[str]:
    """A layer for each table, with the units and the custom kinds beside them; and what is drawn on sections."""
    import pyogrio

    for table in TABLES:
        rows = [row for row in data.rows if row.table == table]
        _write(rows, target, "GPKG", GEOMETRY[table], data.crs, layer=table, append=target.exists())
    for table, layer in SECTION_TABLES.items():
        drawn = [row for row in data.drawn if row.table == table]
        if drawn:
            _write(drawn, target, "GPKG", GEOMETRY[table], SECTION_SYSTEM, layer=layer, append=True)
    for layer, listed in ((UNITS_LAYER, data.units), (KINDS_LAYER, data.kinds)):
        names = list(listed[0]) if listed else [{UNITS_LAYER: "code", KINDS_LAYER: "name"}[layer]]
        columns = [_column([row.get(name) for row in listed]) for name in names]
        pyogrio.raw.write(
            target, None, columns, names, layer=layer, driver="GPKG", geometry_type=None, crs=None, append=True
        )
    return []


# By the ending of the file; an archive holds shapefiles.
def _write(
    rows: Sequence[DataRow],
    target: Path,
    driver: str,
    geometry: str,
    crs: str | None,
    with_table: bool = False,
    layer: str | None = None,
    append: bool = False,
    **options: Any,
) -> None:
    columns = _columns(rows, with_table)
    with warnings.catch_warnings():
        # A drawing states no system.
        warnings.filterwarnings("ignore", message="'crs' was not provided")
        _write_columns(rows, columns, target, layer, driver, geometry, crs, append, options)


@data_format(
    ".geojson",
    "GeoJSON",
    "GeoJSON (RFC 7946)",
    within=0.002,
    attributes="all",
    system="longitude and latitude, WGS 84",
)
def write_geojson(data: DataSet, target: Path) -> list[str]:
    """Longitude and latitude, WGS 84 (RFC 7946)."""
    with target.open("w", encoding="utf-8") as out:
        out.write('{"type": "FeatureCollection", "features": [')
        for i, (row, geometry) in enumerate(_in_degrees(data)):
            out.write(",\n" if i else "\n")
            shape = json.loads(shapely.to_geojson(geometry))
            json.dump(
                {"type": "Feature", "geometry": shape, "properties": {"table": row.table, **row.values}},
                out,
                ensure_ascii=False,
            )
        out.write("\n]}\n")
    return []


@data_format(
    ".zip",
    "shapefiles",
    "shapefiles, one for each table, names of ten letters",
    within=0,
    attributes="all, texts up to 254 bytes",
    system="the project's",
)
def write_shapefiles(data: DataSet, target: Path) -> list[str]:
    """A shapefile for each table with rows, in one archive; says how many texts were cut."""
    cut = 0
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=".out-") as temporary:
        folder = Path(temporary)
        for table in TABLES:
            mine = [row for row in data.rows if row.table == table]
            cut += sum(_too_long(value) for row in mine for value in row.values.values())
            rows = [_shortened(row) for row in mine]
            if rows:
                _write(rows, folder / f"{table}.shp", "ESRI Shapefile", GEOMETRY[table], data.crs, ENCODING="UTF-8")
        short = ", ".join(f"{name} is {given}" for name, given in SHORT.items())
        (folder / "README.md").write_text(README.format(name=data.name, crs=data.crs, short=short), encoding="utf-8")
        with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted(folder.iterdir()):
                archive.write(file, file.name)
    return [f"{cut} texts were cut to {LONGEST_TEXT} bytes, which is all that a shapefile holds."] if cut else []


@data_format(
    ".fgb",
    "FlatGeobuf",
    "FlatGeobuf 3, one layer, `table` says which",
    within=0,
    attributes="all",
    system="the project's",
)
def write_flatgeobuf(data: DataSet, target: Path) -> list[str]:
    """All rows in one file, whatever their geometry; ``table`` says of which table each is."""
    _write(data.rows, target, "FlatGeobuf", "Unknown", data.crs, with_table=True, layer=data.name)
    return []


@data_format(
    ".kml",
    "KML",
    "KML (OGC 12-007r2), a folder for each table",
    within=0.002,
    attributes="all",
    system="longitude and latitude, WGS 84",
)
def write_kml(data: DataSet, target: Path) -> list[str]:
    """Longitude and latitude on WGS 84 (OGC 12-007r2), attributes as extended data, a folder for each table."""
    placed = [DataRow(row.table, geometry, row.values) for row, geometry in _in_degrees(data)]
    written = False
    for table in TABLES:
        rows = [row for row in placed if row.table == table]
        if rows:
            _write(rows, target, "LIBKML", "Unknown", "EPSG:4326", layer=table, append=written)
            written = True
    if not written:
        _write([], target, "LIBKML", "Point", "EPSG:4326", layer="points")
    return []


@data_format(
    ".dxf",
    "DXF",
    "DXF, areas as their outlines",
    within=0.001,
    attributes="none: a layer for each kind and certainty, or unit",
    system="none; coordinates of the project",
)
def write_dxf(data: DataSet, target: Path) -> list[str]:
    """Geometry alone, in the project's coordinates, on a layer for each kind and certainty, or for each unit."""
    from ezdxf.filemanagement import new as new_drawing

    document = new_drawing("R2010", units=DXF_UNITS.get(round(project_crs(data.crs).metres_per_unit, 9), 0))
    space = document.modelspace()
    for row in data.rows:
        unit = row.values.get("map_unit")
        own = f"unit {unit}" if row.table == "areas" and unit else f"{row.values['kind']} {row.values['certainty']}"
        layer = {"layer": _NO_LAYER.sub("_", own)}
        shape = row.geometry
        if isinstance(shape, shapely.Point):
            space.add_point((shape.x, shape.y), layer)
        # Drawing programs keep outlines; hatches of thousands of vertices they do not.
        for line in _rings(shape) if isinstance(shape, shapely.Polygon) else ():
            space.add_lwpolyline(shapely.get_coordinates(line)[:-1], dxfattribs=layer, close=True)
        if isinstance(shape, shapely.LineString):
            space.add_lwpolyline(shapely.get_coordinates(shape), dxfattribs=layer)
    text = io.StringIO()
    document.write(text)
    # From 2007 on a DXF is UTF-8 whatever code page it names; some programs believe the code page all the same.
    told = text.getvalue().replace("$DWGCODEPAGE\n  3\nANSI_1252\n", "$DWGCODEPAGE\n  3\nUTF-8\n", 1)
    target.write_text(told, encoding="utf-8", errors="replace")
    return ["A drawing keeps places and layers; attributes, units and readings are not in it."]


@data_format(
    ".csv",
    "CSV",
    "comma-separated (RFC 4180), places as well-known text",
    within=0,
    attributes="all",
    system="the project's, which the file cannot say",
)
def write_csv(data: DataSet, target: Path) -> list[str]:
    """A line for each row, its geometry as well-known text in the project's system (OGC 06-103r4)."""
    import pyogrio

    rows = [
        DataRow(row.table, row.geometry, {"wkt": shapely.to_wkt(row.geometry, rounding_precision=-1), **_quoted(row)})
        for row in data.rows
    ]
    columns = _columns(rows, with_table=True)
    pyogrio.raw.write(
        target,
        None,
        list(columns.values()),
        list(columns),
        driver="CSV",
        geometry_type=None,
        crs=None,
        dataset_options={},
        layer_options={"STRING_QUOTING": "IF_NEEDED"},
    )
    return [f"Places are in {data.crs}; the file itself cannot say so."]


def _write_columns(
    rows: Sequence[DataRow],
    columns: Mapping[str, Any],
    target: Path,
    layer: str | None,
    driver: str,
    geometry: str,
    crs: str | None,
    append: bool,
    options: Mapping[str, Any],
) -> None:
    import pyogrio

    wkb = np.array([shapely.to_wkb(row.geometry) for row in rows], dtype=object)
    pyogrio.raw.write(
        target,
        wkb,
        list(columns.values()),
        list(columns),
        layer=layer,
        driver=driver,
        geometry_type=geometry,
        crs=crs,
        append=append,
        **options,
    )


def _columns(rows: Sequence[DataRow], with_table: bool) -> dict[str, Any]:
    """The attributes of rows, column by column; those that none of them has are left out."""
    names = list(dict.fromkeys(name for row in rows for name in row.values))
    columns = {name: _column([row.values.get(name) for row in rows]) for name in names}
    return {"table": _column([row.table for row in rows]), **columns} if with_table else columns


def _column(values: list[Any]) -> Any:
    """A column of one type: whole numbers where all are, else figures, else texts."""
    held = [value for value in values if value is not None]
    if held and all(isinstance(value, bool) for value in held):
        return np.array([bool(value) for value in values])
    if held and all(isinstance(value, int) for value in held) and len(held) == len(values):
        return np.array(values, dtype=np.int64)
    if held and all(isinstance(value, int | float) for value in held):
        return np.array([np.nan if value is None else float(value) for value in values])
    out = np.empty(len(values), dtype=object)
    out[:] = values
    return out


def _in_degrees(data: DataSet) -> Iterator[tuple[DataRow, BaseGeometry]]:
    way = way_in("EPSG:4326", project_crs(data.crs), data.home)

    def turned(xy: Floats) -> Floats:
        return np.round(way.back(xy), DEGREE_DECIMALS)

    for row in data.rows:
        name = f"{kind_words(str(row.values.get('kind', 'feature')))} {row.values.get(NUMBER, '')}".strip()
        yield row, cut_at_180(shapely.transform(row.geometry, turned), name)


def _quoted(row: DataRow) -> dict[str, Any]:
    return {name: guarded(value) if isinstance(value, str) else value for name, value in row.values.items()}


def _rings(area: shapely.Polygon) -> Objects:
    return np.array([area.exterior, *area.interiors], dtype=object)


def _shortened(row: DataRow) -> DataRow:
    values = {SHORT.get(name, name): _fitting(value) for name, value in row.values.items()}
    return DataRow(row.table, row.geometry, values)


def _fitting(value: Any) -> Any:
    """A text that is not cut within a letter; other values as they are."""
    return value.encode()[:LONGEST_TEXT].decode(errors="ignore") if isinstance(value, str) else value


def _too_long(value: Any) -> bool:
    return isinstance(value, str) and len(value.encode()) > LONGEST_TEXT
