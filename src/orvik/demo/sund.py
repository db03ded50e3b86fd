"""The files of a made-up survey's delivery, "Sund": polygons with odd fields, faults, readings, a lexicon, heights.

They are what a compiler gets on the first day: codes of thirteen letters, small gaps between polygons, a table of
readings in another language, heights in another datum, a neighbour's linework in the next zone.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyproj
import rasterio
import shapely
from rasterio.transform import from_origin
from shapely.ops import split

CRS, NEIGHBOUR_CRS, HEIGHTS_CRS = "EPSG:25832", "EPSG:25833", "EPSG:23032"
WEST, SOUTH, EAST, NORTH = 600_000.0, 6_330_000.0, 612_000.0, 6_339_000.0
SEED = 1931
SCRIPT = "make-map.sh"
# Units from the youngest: code, name, rock, ages in Ma, rank, what it is part of, ink in percentages, description.
LEXICON = (
    ("QUA-HOL-ALL-1", "Brook alluvium", "gravel, sand", "0.01", "0", "", "", "0/2/30/3", "Gravel along brooks."),
    ("QUA-PLE-TIL-1", "Skerry Till", "till", "0.12", "0.02", "formation", "", "10/14/16/22", "Stony clay, grey."),
    ("CRE-UPP-SND-2", "Sund Chalk", "chalk", "83", "72", "formation", "", "30/4/16/0", "White chalk with flint."),
    ("CRE-UPP-SND-1", "Sund Marl", "marl", "94", "84", "formation", "", "34/4/30/6", "Grey marl, soft."),
    ("CRE-LOW-HOL-1", "Holm Sandstone", "sandstone", "125", "101", "formation", "", "8/10/60/4", "Green sandstone."),
    ("JUR-UPP-VIK-3", "Vik Mudstone", "mudstone", "152", "146", "formation", "", "30/12/22/12", "Black mudstone."),
    ("JUR-UPP-VIK-2", "Vik Beds", "siltstone", "154.5", "152.4", "member", "JUR-UPP-VIK-1", "36/8/26/4", "Siltstone."),
    ("JUR-UPP-VIK-1", "Vik Formation", "limestone", "157", "154.6", "formation", "", "44/6/10/2", "Bedded limestone."),
    ("JUR-MID-NES-1", "Nes Conglomerate", "conglomerate", "168", "164", "formation", "", "4/28/44/6", "Pebble beds."),
    ("PRE-MES-GRA-1", "Aas Granite", "granite", "1010", "990", "suite", "", "4/40/24/4", "Red granite, coarse."),
)
STRATA = [row[0] for row in LEXICON[2:]]
# So far apart in metres are two polygons that were digitized one after the other.
SLIP = 0.8
# How far strata are thrown from block to block, in metres.
THROW = 420.0
READINGS = 72
NOTE = "Aufnahme 1931, neu digitalisiert"


@dataclass(frozen=True)
class Sund:
    """The geology behind the delivery: what lies where before any file was made of it."""

    areas: tuple[tuple[str, shapely.Polygon], ...]
    faults: tuple[tuple[str, shapely.LineString], ...]
    readings: tuple[tuple[float, float, str, int, int], ...]


def sund() -> Sund:
    """The geology of the Sund: strata in waves, thrown at two faults, under till and alluvium."""
    rng = np.random.default_rng(SEED)
    frame = shapely.box(WEST, SOUTH, EAST, NORTH)
    one = shapely.LineString([(603_700, SOUTH - 500), (604_500, 6_334_000), (605_000, NORTH + 500)])
    other = shapely.LineString([(609_300, SOUTH - 500), (608_700, 6_335_200), (608_900, NORTH + 500)])
    faults = [("Störung, sicher", one), ("Störung, vermutet", other)]
    blocks: list[shapely.Polygon] = [frame]
    for _, fault in faults:
        blocks = [piece for block in blocks for piece in _parts(split(block, fault))]
    blocks.sort(key=lambda block: block.centroid.x)
    cover = shapely.union_all(
        [_blob(rng, x, y, r) for x, y, r in ((602_000, 6_336_500, 700), (610_200, 6_332_500, 900))]
    )
    x = np.arange(WEST - 500, EAST + 500, 50.0)
    y = 6_331_700 + 0.2 * (x - WEST) + 420 * np.sin((x - WEST) / 1_900) + 90 * np.sin((x - WEST) / 530)
    brook = shapely.LineString(np.column_stack([x, y]))
    alluvium = brook.buffer(130, quad_segs=4).intersection(frame).difference(cover)
    areas: list[tuple[str, shapely.Polygon]] = []
    for i, block in enumerate(blocks):
        rest = block.difference(cover).difference(alluvium)
        for k, code in enumerate(STRATA):
            above = _below(k + 1, THROW * i) if k + 1 < len(STRATA) else shapely.Polygon()
            band = (_below(k, THROW * i) if k else block).difference(above)
            areas += [(code, part) for part in _parts(rest.intersection(band))]
    areas += [("QUA-PLE-TIL-1", part) for part in _parts(cover.intersection(frame))]
    areas += [("QUA-HOL-ALL-1", part) for part in _parts(alluvium)]
    clipped = [(grade, part) for grade, fault in faults for part in _lines(fault.intersection(frame))]
    return Sund(tuple(areas), tuple(clipped), tuple(_readings(rng, areas)))


def write(folder: Path) -> list[Path]:
    """Write the delivery into a folder, with the script that makes a map of it; gives what was written."""
    folder.mkdir(parents=True, exist_ok=True)
    made = sund()
    return [
        _features(folder / "geologie_flaechen.geojson", CRS, _area_rows(made)),
        _features(folder / "stoerungen.geojson", CRS, _fault_rows(made)),
        _text(folder / "messungen.csv", _reading_table(made)),
        _text(folder / "lexikon.csv", _lexicon_table()),
        _heights(folder / "hoehen.tif"),
        _features(folder / "nachbar_ost.geojson", NEIGHBOUR_CRS, _neighbour_rows(made)),
        _text(folder / "messungen.mapping.json", json.dumps(MAPPING, indent=1, ensure_ascii=False)),
        _text(folder / SCRIPT, MAKE_MAP),
    ]


# What the survey's word for striae means here; all else is guessed.
MAPPING = {
    "orvik_mapping": 1,
    "name": "Sund readings",
    "attributes": {
        "kind": {"fields": ["ART"], "values": {"Streifung": "lineation"}},
        "dip_direction": {"fields": ["FALLRICHTUNG"]},
        "inclination": {"fields": ["FALLEN"]},
        "note": {"fields": ["BEM"]},
    },
    "kinds": {"points": "bedding"},
    "crs": CRS,
}
MAKE_MAP = f"""#!/bin/sh
# From the files of the delivery to a formed, coloured and explained map.
set -e
here=$(dirname "$0")
map=${{1:-sund.gpkg}}
orvik new "$map" --name Sund --crs {CRS} --scale 25000 --border {WEST:.0f},{SOUTH:.0f},{EAST:.0f},{NORTH:.0f}
orvik units "$map" "$here/lexikon.csv"
orvik import "$map" "$here/stoerungen.geojson" --capture-scale 1:6250
orvik import "$map" "$here/geologie_flaechen.geojson" --as-linework --outer border --capture-scale 1:6250
orvik import "$map" "$here/messungen.csv" --mapping "$here/messungen.mapping.json" --capture-scale 1:6250
orvik underlay "$map" "$here/hoehen.tif" --heights
orvik form-units "$map"
orvik sheet "$map" --name "Sund" --paper A1 --landscape
orvik info "$map"
orvik export "$map" --sheet "Sund" --to sund.pdf
"""


def _below(k: int, throw: float) -> shapely.Polygon:
    """All ground north of the base of a stratum, as waves across the frame."""
    x = np.arange(WEST - 1_000, EAST + 1_000, 50.0)
    base = SOUTH - 700 + 1_150 * k + throw + 260 * np.sin((x - WEST) / 1_700 + 0.5 * k) + 0.06 * (x - WEST)
    edge = [(float(a), float(b)) for a, b in zip(x, base, strict=True)]
    return shapely.Polygon([(WEST - 1_000, NORTH + 9_000), *edge, (EAST + 1_000, NORTH + 9_000)])


def _blob(rng: np.random.Generator, x: float, y: float, radius: float) -> shapely.Polygon:
    turns = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    reach = radius * (1 + 0.18 * np.sin(3 * turns + rng.uniform(0, 6)) + 0.08 * np.sin(7 * turns))
    return shapely.Polygon(np.column_stack([x + reach * np.cos(turns), y + 0.7 * reach * np.sin(turns)]))


def _parts(geometry: shapely.Geometry) -> list[shapely.Polygon]:
    return [
        part for part in shapely.get_parts(geometry).tolist() if isinstance(part, shapely.Polygon) and part.area > 2e3
    ]


def _lines(geometry: shapely.Geometry) -> list[shapely.LineString]:
    return [part for part in shapely.get_parts(geometry).tolist() if isinstance(part, shapely.LineString)]


def _readings(
    rng: np.random.Generator, areas: Sequence[tuple[str, shapely.Polygon]]
) -> Iterable[tuple[float, float, str, int, int]]:
    """Places in the strata with what was measured: kind, direction of dip and dip in degrees."""
    bedded = [area for code, area in areas if not code.startswith(("QUA", "PRE"))]
    whole = shapely.union_all(bedded).buffer(-60)
    count = 0
    while count < READINGS:
        x, y = float(rng.uniform(WEST, EAST)), float(rng.uniform(SOUTH, NORTH))
        if not whole.contains(shapely.Point(x, y)):
            continue
        slope = math.degrees(math.atan(260 / 1_700 * math.cos((x - WEST) / 1_700) + 0.06))
        direction = round(-slope + rng.normal(0, 4)) % 360
        kind = ("Schichtung", "Schichtung", "Schichtung", "Kluft", "Schieferung", "Streifung")[count % 6]
        if kind == "Kluft":
            direction = (direction + 90) % 360
        dip = int(rng.integers(60, 88)) if kind == "Kluft" else int(rng.integers(8, 42))
        yield round(x, 1), round(y, 1), kind, direction, dip
        count += 1


Rows = Iterable[tuple[shapely.Geometry, Mapping[str, Any]]]


def _area_rows(made: Sund) -> Rows:
    for i, (code, area) in enumerate(made.areas, 1):
        # Two sheets were digitized apart, and one area is not sure.
        moved = shapely.transform(area, lambda xy: xy + (SLIP, 0.0)) if i in (5, 14) else area
        written = f"{code}?" if i == 9 else code
        yield moved, {"OBJECTID": i, "LEG_KURZ": written, "BEM": NOTE, "STAND": "1998-04-12"}


def _fault_rows(made: Sund) -> Rows:
    for i, (grade, line) in enumerate(made.faults, 1):
        yield line, {"OBJECTID": i, "ART": grade, "BEM": NOTE}


def _neighbour_rows(made: Sund) -> Rows:
    """Where strata go on beyond the eastern edge, as the neighbour has them in the next zone."""
    way = pyproj.Transformer.from_crs(CRS, NEIGHBOUR_CRS, always_xy=True)
    for k in range(1, len(STRATA)):
        base = _below(k, 2 * THROW).exterior.intersection(shapely.box(EAST, SOUTH, EAST + 900, NORTH))
        for line in _lines(shapely.line_merge(base) if base.geom_type != "LineString" else base):
            beyond = shapely.transform(line, lambda xy: np.column_stack(way.transform(xy[:, 0], xy[:, 1])))
            yield beyond, {"ID": k, "TYP": "Grenze, sicher"}


def _features(path: Path, crs: str, rows: Rows) -> Path:
    """A file of features that names its system (GeoJSON of 2008, which allowed others than degrees)."""
    features = [
        {"type": "Feature", "geometry": json.loads(shapely.to_geojson(geometry)), "properties": dict(row)}
        for geometry, row in rows
    ]
    system = {"type": "name", "properties": {"name": f"urn:ogc:def:crs:{crs.replace(':', '::')}"}}
    held = {"type": "FeatureCollection", "crs": system, "features": features}
    return _text(path, json.dumps(held, ensure_ascii=False))


def _reading_table(made: Sund) -> str:
    rows = ["PUNKT;RW;HW;ART;FALLRICHTUNG;FALLEN;BEM"]
    for i, (x, y, kind, direction, dip) in enumerate(made.readings, 1):
        place = f"{x:.1f};{y:.1f}".replace(".", ",")
        rows.append(f"S{i};{place};{kind};{direction};{dip};{'überprüft' if i % 9 == 0 else ''}")
    return "\n".join(rows) + "\n"


def _lexicon_table() -> str:
    head = "LEG_KURZ;BEZEICHNUNG;GESTEIN;MAX_MA;MIN_MA;RANG;PART_OF;FARBE;BESCHREIBUNG"
    return "\n".join([head, *(";".join(row) for row in LEXICON)]) + "\n"


def _heights(path: Path) -> Path:
    """Heights on a grid of 50 m in a datum of 1950."""
    way = pyproj.Transformer.from_crs(CRS, HEIGHTS_CRS, always_xy=True)
    west, north = way.transform(WEST - 200, NORTH + 200)
    columns, rows = round((EAST - WEST + 400) / 50), round((NORTH - SOUTH + 400) / 50)
    x, y = np.meshgrid(np.arange(columns) * 50.0, np.arange(rows) * 50.0)
    ridge = 180 * np.exp(-(((x - 9_000) / 2_500) ** 2)) + 90 * np.sin(x / 1_400) * np.cos(y / 1_900)
    grid = (120 + ridge + 25 * np.sin((x + 2 * y) / 620)).clip(0).astype(np.float32)
    profile = {"driver": "GTiff", "width": columns, "height": rows, "count": 1, "dtype": "float32", "crs": HEIGHTS_CRS}
    transform = from_origin(west, north, 50, 50)
    with rasterio.open(path, "w", **profile, transform=transform, compress="deflate") as out:
        out.write(grid, 1)
    return path


def _text(path: Path, text: str) -> Path:
    path.write_text(text, encoding="utf-8")
    return path
