"""The invented ground: shoreline, beds, faults, drift, a burn and a dyke, noded so that lines share vertices."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats, Objects
from orvik.core.features.map_unit import MapUnit

SEED = 20_260_401
CENTRE = (513_400.0, 6_802_300.0)
BORDER = (509_750.0, 6_799_750.0, 516_750.0, 6_805_250.0)
# Direction in which the beds strike on the grid, in degrees from north.
STRIKE = 52.0
GRID = 0.01

SURFACE, BEDS_HEADING, OLD = "Surficial deposits", "Sedimentary rocks", "Metamorphic rocks"
UNITS = (
    MapUnit(
        "Qal", "Alluvium", "Holocene", "#F1E3A4", "Gravel and sand along the burns.", 1,
        rock="gravel, sand", age_from="Holocene", heading=SURFACE, pattern="gravel", pattern_opacity=0.3,
    ),
    MapUnit(
        "Qt", "Till", "Pleistocene", "#D3C7B4", "Bouldery, 2 m and more.", 2,
        rock="till", age_from="Pleistocene", heading=SURFACE, pattern="till", pattern_opacity=0.3,
    ),
    MapUnit(
        "Kp", "Pellan Mudstone", "Early Cretaceous", "#BBD5A6", "Grey mudstone, thin limestones.", 3,
        rock="mudstone", age_from="Aptian", age_to="Albian", heading=BEDS_HEADING, pattern="mudstone",
        pattern_opacity=0.28,
    ),
    MapUnit(
        "Kw", "Wray Siltstone", "Early Cretaceous", "#A4CEC6", "Laminated siltstone.", 4,
        rock="siltstone", age_from="Berriasian", age_to="Barremian", heading=BEDS_HEADING, pattern="siltstone",
        pattern_opacity=0.3,
    ),
    MapUnit(
        "Jh", "Harrack Sandstone", "Late Jurassic", "#F2C1A3", "Red, cross-bedded sandstone.", 5,
        rock="sandstone", age_from="Upper Jurassic", heading=BEDS_HEADING, pattern="sandstone", pattern_opacity=0.3,
    ),
    MapUnit(
        "Jc", "Carn Conglomerate", "Middle Jurassic", "#E0AE75", "Cobbles of gneiss.", 6,
        rock="conglomerate", age_from="Bajocian", age_to="Callovian", heading=BEDS_HEADING, pattern="conglomerate",
        pattern_opacity=0.35,
    ),
    MapUnit(
        "pCg", "Quennet Gneiss", "Precambrian", "#D59E90", "Banded grey gneiss.", 7,
        rock="gneiss", age_from="Precambrian", heading=OLD, pattern="gneiss", pattern_opacity=0.22,
    ),
)  # fmt: skip
# Bedrock from the south-east to the north-west across the strike, with where each begins in metres.
BEDS = (
    ("Kp", -9e9),
    ("Kw", -2500.0),
    ("Jh", -1850.0),
    ("Jc", -1050.0),
    ("pCg", -760.0),
    ("Jc", 900.0),
    ("Jh", 1180.0),
    ("Kw", 2000.0),
    ("Kp", 2480.0),
)


@dataclass(frozen=True)
class Line:
    """A line of the invented map."""

    kind: str
    certainty: str
    geometry: shapely.LineString
    questionable: bool = False


@dataclass(frozen=True)
class Face:
    """An area of the invented map."""

    unit: str
    geometry: shapely.Polygon


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
    """The whole invented ground."""

    shore: shapely.Polygon | shapely.MultiPolygon
    lines: tuple[Line, ...]
    faces: tuple[Face, ...]
    stations: tuple[Station, ...]


def _waves(rng: np.random.Generator, count: int, longest: float, fall: float) -> Callable[[Floats], Floats]:
    """A smooth random curve: ``count`` waves from ``longest`` downwards, each weaker by ``fall``."""
    phases = rng.uniform(0, 2 * np.pi, count)

    def curve(t: Floats) -> Floats:
        return np.asarray(sum(fall**k * np.sin(2 * np.pi * t * (k + 1) / longest + phases[k]) for k in range(count)))

    return curve


def _shore(rng: np.random.Generator) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 1500, endpoint=False)
    waves, ripples = _waves(rng, 26, 2 * np.pi, 0.86), _waves(rng, 90, 2 * np.pi, 0.985)
    radius = 1.0 + 0.055 * waves(angle) + 0.0035 * ripples(angle)
    # A headland to the north-east and a bay to the north-west.
    radius += 0.36 * np.exp(-(((angle - 1.02) / 0.3) ** 2)) - 0.24 * np.exp(-(((angle - 2.25) / 0.24) ** 2))
    radius -= 0.1 * np.exp(-(((angle - 5.6) / 0.16) ** 2))
    x = CENTRE[0] + 3150 * radius * np.cos(angle)
    y = CENTRE[1] + 2500 * radius * np.sin(angle)
    return shapely.Polygon(np.column_stack([x, y]))


def _across(xy: Floats) -> tuple[Floats, Floats]:
    """Along and across the strike, from the middle of the island; across grows to the north-west."""
    angle = np.radians(STRIKE)
    dx, dy = xy[..., 0] - CENTRE[0], xy[..., 1] - CENTRE[1]
    return dx * np.sin(angle) + dy * np.cos(angle), -dx * np.cos(angle) + dy * np.sin(angle)


def along_strike(u: Floats, v: Floats) -> Floats:
    """Places so far along and across the strike, from the middle of the island."""
    angle = np.radians(STRIKE)
    x = CENTRE[0] + u * np.sin(angle) - v * np.cos(angle)
    y = CENTRE[1] + u * np.cos(angle) + v * np.sin(angle)
    return np.column_stack([x, y])


def island(seed: int = SEED) -> Island:
    """Make the island, or another one from another seed; always the same from the same one."""
    rng = np.random.default_rng(seed)
    shore = _shore(rng)
    fold = _waves(rng, 4, 7000.0, 0.55)
    wiggles = [_waves(rng, 9, 2600.0, 0.8) for _ in BEDS]
    u = np.arange(-6000.0, 6001.0, 45.0)

    def bed_line(i: int, throw: float) -> shapely.LineString:
        return shapely.LineString(along_strike(u, BEDS[i][1] + throw + 210 * fold(u) + 26 * wiggles[i](u)))

    faults = [_fault(rng, -900.0, 12.0), _fault(rng, 1450.0, -8.0)]
    throws = (-260.0, 0.0, 330.0)
    blocks = _blocks(shore, faults)
    drift = [
        p
        for c in ((-1500, 500), (300, 1150), (-300, -1250), (1750, -150), (2650, 350), (-2050, -900))
        if not (p := _blob(rng, c)).is_empty
    ]
    till = shapely.intersection(shapely.union_all(drift), shore)
    burn = shapely.LineString(
        along_strike(np.linspace(1850, 2050, 60) + 120 * np.sin(np.linspace(0, 9, 60)), np.linspace(-300, -3600, 60))
    )
    alluvium = shapely.intersection(shapely.buffer(burn, 75.0, quad_segs=4), shore)
    till = shapely.difference(till, shapely.buffer(alluvium, 0))

    sources: list[tuple[str, BaseGeometry]] = [("shoreline", shore.exterior)]
    for block, throw in zip(blocks, throws, strict=True):
        for i in range(1, len(BEDS)):
            sources.append(("contact", shapely.intersection(bed_line(i, throw), block)))
    sources += [("fault", shapely.intersection(f, shore)) for f in faults]
    cover = shapely.union_all([till, alluvium])
    sources.append(("drift", shapely.boundary(till)))
    sources.append(("alluvium", shapely.boundary(alluvium)))
    lines, faces = _noded(rng, sources, shore, till, alluvium, blocks, throws, bed_line, cover)
    for islet in _islets(np.random.default_rng(seed + 9)):
        lines.append(Line("shoreline", "certain", shapely.LineString(islet.exterior.coords)))
        faces.append(Face("Jc", islet))
    dyke = shapely.intersection(_dyke(rng), shore)
    lines.append(Line("dyke", "certain", shapely.LineString(np.round(shapely.get_coordinates(dyke), 2))))
    whole = shapely.union_all([shore, *(face.geometry for face in faces if not face.geometry.intersects(shore))])
    assert isinstance(whole, shapely.Polygon | shapely.MultiPolygon)
    return Island(whole, tuple(lines), tuple(faces), tuple(_stations(rng, faces, fold, u)))


def _fault(rng: np.random.Generator, u: float, lean: float) -> shapely.LineString:
    v = np.linspace(-6000, 6000, 90)
    wave = _waves(rng, 4, 5200.0, 0.5)
    return shapely.LineString(along_strike(u + np.tan(np.radians(lean)) * v + 70 * wave(v), v))


def _dyke(rng: np.random.Generator) -> shapely.LineString:
    """A nearly straight course across the beds, with the gentle bends that dykes have."""
    t = np.linspace(0, 1, 50)
    bend = _waves(rng, 5, 1.0, 0.6)(t)
    return shapely.LineString(along_strike(-1900 + 3400 * t + 30 * bend, 1500 - 2850 * t + 26 * bend))


def _islets(rng: np.random.Generator) -> list[shapely.Polygon]:
    """Small rocks off the coast."""
    made = []
    for x, y, size in ((515_950.0, 6_800_600.0, 120.0), (516_280.0, 6_800_880.0, 75.0), (510_330.0, 6_804_480.0, 95.0)):
        angle = np.linspace(0, 2 * np.pi, 60, endpoint=False)
        radius = size * (1 + 0.16 * _waves(rng, 7, 2 * np.pi, 0.8)(angle))
        made.append(
            shapely.Polygon(
                np.round(np.column_stack([x + 1.3 * radius * np.cos(angle), y + 0.9 * radius * np.sin(angle)]), 2)
            )
        )
    return made


def _blob(rng: np.random.Generator, place: tuple[float, float]) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    size = rng.uniform(300, 460)
    radius = size * (1 + 0.13 * _waves(rng, 6, 2 * np.pi, 0.75)(angle))
    middle = along_strike(np.array([float(place[0])]), np.array([float(place[1])]))[0]
    return shapely.Polygon(
        np.column_stack([middle[0] + 1.35 * radius * np.cos(angle), middle[1] + radius * np.sin(angle)])
    )


def _blocks(shore: shapely.Polygon, faults: list[shapely.LineString]) -> list[shapely.Polygon]:
    """The ground between the faults, from the south-west to the north-east."""
    wide = shapely.box(*shapely.bounds(shapely.buffer(shore, 500)))
    cuts = shapely.union_all([wide.exterior, *faults])
    pieces = shapely.get_parts(shapely.polygonize([*shapely.get_parts(cuts)]))
    middles = [float(_across(shapely.get_coordinates(shapely.point_on_surface(p)))[0][0]) for p in pieces]
    order = [p for _, p in sorted(zip(middles, pieces, strict=True), key=lambda pair: pair[0])]
    return [shapely.intersection(p, shore) for p in order]


def _noded(
    rng: np.random.Generator,
    sources: list[tuple[str, BaseGeometry]],
    shore: shapely.Polygon,
    till: BaseGeometry,
    alluvium: BaseGeometry,
    blocks: list[shapely.Polygon],
    throws: tuple[float, ...],
    bed_line: Callable[[int, float], shapely.LineString],
    cover: BaseGeometry,
) -> tuple[list[Line], list[Face]]:
    """Cut all lines where they meet, name the pieces again, and build the faces between them."""
    sources = [(name, geometry) for name, geometry in sources if not geometry.is_empty]
    noded = shapely.union_all([g for _, g in sources], grid_size=GRID)
    edges = shapely.get_parts(noded)
    middles = shapely.line_interpolate_point(edges, 0.5, normalized=True)
    distances = np.array([shapely.distance(middles, g) for _, g in sources])
    nearest = distances.argmin(axis=0)
    shapely.prepare(cover)
    inner = shapely.buffer(cover, -0.5)
    hidden = shapely.intersects(inner, middles)
    lines: list[Line] = []
    kept = []
    for number, (name, _) in enumerate(sources):
        buries = name in ("contact", "fault")
        for covered in (False, True) if buries else (False,):
            part = edges[(nearest == number) & ((hidden == covered) if buries else True)]
            if len(part):
                lines += _lines(rng, name, part, covered)
                if not covered:
                    kept.append(part)
    faces = []
    polygons = shapely.get_parts(shapely.polygonize(np.concatenate(kept)))
    for polygon in polygons:
        place = shapely.point_on_surface(polygon)
        if not shapely.contains(shore, place):
            continue
        if shapely.contains(alluvium, place):
            faces.append(Face("Qal", polygon))
        elif shapely.contains(till, place):
            faces.append(Face("Qt", polygon))
        else:
            faces.append(Face(_bedrock(place, blocks, throws, bed_line), polygon))
    return lines, faces


def _lines(rng: np.random.Generator, name: str, edges: Objects, covered: bool) -> list[Line]:
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(edges)))
    out = []
    for line in merged:
        if name == "shoreline":
            out.append(Line("shoreline", "certain", line))
        elif name == "fault":
            out.append(Line("fault", "concealed" if covered else "certain", line))
        elif covered:
            out.append(Line("contact", "concealed", line))
        elif name in ("drift", "alluvium"):
            out.append(Line("contact", "approximate" if name == "drift" else "certain", line))
        else:
            certainty = str(rng.choice(["certain", "approximate", "inferred"], p=[0.6, 0.24, 0.16]))
            out.append(Line("contact", certainty, line, questionable=bool(rng.random() < 0.05)))
    return out


def _bedrock(
    place: shapely.Point,
    blocks: list[shapely.Polygon],
    throws: tuple[float, ...],
    bed_line: Callable[[int, float], shapely.LineString],
) -> str:
    number = int(np.argmin([shapely.distance(b, place) for b in blocks]))
    u, v = _across(np.array([place.x, place.y]))
    unit = BEDS[0][0]
    for i in range(1, len(BEDS)):
        line_u, line_v = _across(shapely.get_coordinates(bed_line(i, throws[number])))
        if v > np.interp(u, line_u, line_v):
            unit = BEDS[i][0]
    return unit


def _stations(
    rng: np.random.Generator,
    faces: list[Face],
    fold: Callable[[Floats], Floats],
    u: Floats,
) -> list[Station]:
    """Some sixty readings on bedded rock, well apart, striking with the beds that pass them."""
    rock = shapely.union_all([f.geometry for f in faces if f.unit in ("Kp", "Kw", "Jh", "Jc")])
    inner = shapely.buffer(rock, -55)
    shapely.prepare(inner)
    west, south, east, north = BORDER
    stations: list[Station] = []
    for _ in range(20_000):
        x, y = rng.uniform(west, east), rng.uniform(south, north)
        if not shapely.contains_xy(inner, x, y) or any(np.hypot(s.x - x, s.y - y) < 235 for s in stations):
            continue
        along, across = _across(np.array([x, y]))
        slope = np.gradient(210 * fold(u), u)
        turn = -np.degrees(np.arctan(np.interp(along, u, slope)))
        # The beds dip away from the gneiss in the middle: the right hand points down the dip.
        side = 0.0 if across < 0 else 180.0
        azimuth = float(STRIKE + turn + side + rng.normal(0, 7)) % 360
        dip = float(np.clip(rng.normal(38, 17), 8, 85))
        if len(stations) in (7, 23):
            dip = 90.0
        if len(stations) == 41:
            dip = 0.0
        stations.append(
            Station(
                round(x, 1),
                round(y, 1),
                float(round(float(azimuth)) % 360),
                float(round(dip)),
                len(stations) == 30,
            )
        )
        if len(stations) == 64:
            break
    return stations
