"""The invented ground as a surveyor maps it: shore, beds, faults, drift, a burn and dykes, and readings of the beds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.map_unit import MapUnit
from orvik.demo.coast import Coast, coast
from orvik.demo.landscape import Landscape, landscape
from orvik.demo.outcrop import Face, Line, bedrock_map, longest_trace
from orvik.demo.rock import BORDER, SEED, Rock, Sheet, along_strike, rock, shaken

CRS = "EPSG:32628"
BEDDED = ("Kp", "Kw", "Jh", "Jc")
# Readings of bedding, and how far they lie apart in metres.
READINGS, APART = 64, 235.0

SURFACE, BEDS_HEADING, OLD = "Surficial deposits", "Sedimentary rocks", "Metamorphic rocks"
UNITS = (
    MapUnit(
        "Qal", "Alluvium", "Holocene", "#F1E3A4",
        "Gravel, sand and silt along the burns and on their fans; clasts of gneiss and sandstone, rounded; "
        "0 to 6 m thick.", 1,
        rock="gravel, sand", age_from="Holocene", heading=SURFACE, pattern="gravel", pattern_opacity=0.3,
    ),
    MapUnit(
        "Qt", "Till", "Pleistocene", "#D3C7B4",
        "Grey, stony diamicton with boulders of gneiss to 2 m, drumlinized in the north; 2 to 15 m thick.", 2,
        rock="till", age_from="Pleistocene", heading=SURFACE, pattern="till", pattern_opacity=0.3,
    ),
    MapUnit(
        "Kp", "Pellan Mudstone", "Early Cretaceous", "#BBD5A6",
        "Dark grey mudstone, laminated, with thin beds of limestone; ammonites at locality F 7. Top not exposed.", 3,
        rock="mudstone", age_from="Aptian", age_to="Albian", heading=BEDS_HEADING, pattern="mudstone",
        pattern_opacity=0.28,
    ),
    MapUnit(
        "Kw", "Wray Siltstone", "Early Cretaceous", "#A4CEC6",
        "Laminated siltstone and fine sandstone, rippled; base sharp, locally channelled; 260 m thick.", 4,
        rock="siltstone", age_from="Berriasian", age_to="Barremian", heading=BEDS_HEADING, pattern="siltstone",
        pattern_opacity=0.3,
    ),
    MapUnit(
        "Jh", "Harrack Sandstone", "Late Jurassic", "#F2C1A3",
        "Red, medium-grained sandstone, cross-bedded in sets to 2 m; quarried at Carn Hoe; 380 m thick.", 5,
        rock="sandstone", age_from="Upper Jurassic", heading=BEDS_HEADING, pattern="sandstone", pattern_opacity=0.3,
    ),
    MapUnit(
        "Jc", "Carn Conglomerate", "Middle Jurassic", "#E0AE75",
        "Pebble to cobble conglomerate of gneiss and vein quartz; rests on Quennet Gneiss with angular unconformity; "
        "140 m thick.", 6,
        rock="conglomerate", age_from="Bajocian", age_to="Callovian", heading=BEDS_HEADING, pattern="conglomerate",
        pattern_opacity=0.35,
    ),
    MapUnit(
        "pCg", "Quennet Gneiss", "Precambrian", "#D59E90",
        "Banded biotite gneiss, grey, folded and migmatitic, cut by dykes of dolerite.", 7,
        rock="gneiss", age_from="Precambrian", heading=OLD, pattern="gneiss", pattern_opacity=0.22,
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Station:
    """A bedding reading; the azimuth is on the grid."""

    x: float
    y: float
    azimuth: float
    inclination: float
    questionable: bool = False


@dataclass(frozen=True)
class Island:
    """The whole invented ground: what it is made of, and what is mapped of it."""

    shore: shapely.Polygon | shapely.MultiPolygon
    rock: Rock
    land: Landscape
    lines: tuple[Line, ...]
    faces: tuple[Face, ...]
    stations: tuple[Station, ...]

    def height(self, x: float, y: float) -> float:
        """The ground's height in metres."""
        return float(self.land.grid.at(np.array([[x, y]]))[0])

    def beds(self, x: float, y: float) -> tuple[float, float]:
        """Strike on the grid and dip of the beds where they come to the ground."""
        return self.rock.bedding(x, y, self.height(x, y))

    def outcrop(self, sheet: Sheet) -> shapely.LineString:
        """Where a sheet of rock comes to the ground, over all its reach; rounded to centimetres."""
        x, y, z = self.land.places
        xy = np.stack([x, y], axis=-1)
        along = sheet.along(xy)
        line = longest_trace(
            self.land, np.where((along > sheet.reach[0]) & (along < sheet.reach[1]), sheet.above(xy, z), np.nan)
        )
        runs_back = np.diff(sheet.along(shapely.get_coordinates(line)[[0, -1]]))[0] < 0
        return shapely.reverse(line) if runs_back else line


def island(seed: int = SEED) -> Island:
    """Make the island, or another one from another seed; always the same from the same one."""
    rng = np.random.default_rng(seed)
    water, below = coast(rng, np.random.default_rng(seed + 9)), rock(seed)
    land = landscape(water, below, seed)
    lines, faces = bedrock_map(water, below, land, rng)
    for islet in water.rocks:
        lines.append(Line("shoreline", "certain", shapely.LineString(islet.exterior.coords)))
        middle = shapely.get_coordinates(islet.centroid)
        faces.append(Face(str(below.unit(middle, np.array([5.0]))[0]), islet))
    whole = shapely.union_all([water.land, *water.rocks])
    assert isinstance(whole, shapely.Polygon | shapely.MultiPolygon)
    bare = Island(whole, below, land, (), tuple(faces), ())
    dyke = longest_on(bare.outcrop(below.dykes[0]), water)
    lines.append(Line("dyke", "certain", dyke))
    return Island(whole, below, land, tuple(lines), tuple(faces), tuple(_stations(rng, bare)))


def longest_on(line: shapely.LineString, water: Coast) -> shapely.LineString:
    """The longest part of a line that is on land."""
    parts = shapely.get_parts(shapely.intersection(line, water.land))
    return shapely.LineString(np.round(shapely.get_coordinates(max(parts, key=shapely.length)), 2))


def _stations(rng: np.random.Generator, ground: Island) -> list[Station]:
    """Some sixty readings on bedded rock, well apart: the model's own, read to a few degrees."""
    bare = shapely.union_all([f.geometry for f in ground.faces if f.unit in BEDDED])
    inner = shapely.buffer(bare, -55)
    shapely.prepare(inner)
    west, south, east, north = BORDER
    stations = _level(ground, inner)
    for _ in range(20_000):
        x, y = round(float(rng.uniform(west, east)), 1), round(float(rng.uniform(south, north)), 1)
        if not shapely.contains_xy(inner, x, y) or any(np.hypot(s.x - x, s.y - y) < APART for s in stations):
            continue
        stations.append(Station(x, y, *shaken(*ground.beds(x, y), rng), len(stations) == 30))
        if len(stations) == READINGS:
            break
    return stations


def _level(ground: Island, inner: shapely.Geometry) -> list[Station]:
    """Level beds in the trough of the north-west, if it lies on land."""
    fold = ground.rock.fold
    u: Floats = np.arange(-2500.0, 2500.0, 20.0)
    along = u - np.array(
        [ground.rock.slid(b)[0] for b in ground.rock.block(along_strike(u, u * 0 + fold.trough), u * 0)]
    )
    places = along_strike(u, fold.trough + fold.meander(along))
    inside = places[shapely.contains_xy(inner, *places.T)]
    if not len(inside):
        return []
    x, y = (round(float(value), 1) for value in inside[len(inside) // 2])
    return [Station(x, y, float(round(ground.beds(x, y)[0]) % 360), 0.0)]
