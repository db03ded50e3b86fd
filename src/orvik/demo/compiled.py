"""What the demo holds beside the island's own map: every kind of thing that Compile makes, and what is left to do."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.faces.concealment import covered
from orvik.core.features.band import Band
from orvik.core.features.custom_kind import CustomField, CustomKind, FieldChoice
from orvik.core.features.feature import Feature
from orvik.core.features.station_table import Station
from orvik.core.features.stretch import Stretch
from orvik.core.geometry.curve import smoothed
from orvik.core.ground.crs import ProjectCrs
from orvik.demo.island import Face, Island
from orvik.demo.landscape import Landscape

# Metres that a chord may leave a curve: 0.05 mm on the sheet at 1:25 000.
FLAT = 1.25

DRAWN_KINDS = (
    CustomKind(
        "gauged_spring",
        "Gauged spring",
        "points",
        "#2C5F8A",
        "diamond",
        fields=(
            CustomField(
                "Flow",
                "choice",
                (
                    FieldChoice("dry", "#B9B2A3", "D"),
                    FieldChoice("seep", "#7FA6C9", "S"),
                    FieldChoice("steady", "#2C5F8A", "T"),
                ),
                True,
            ),
            CustomField("Litres a minute", "number"),
            CustomField("Seen on", "date"),
            CustomField("Remark", "text"),
        ),
        position=1,
    ),
    CustomKind(
        "cart_track",
        "Cart track",
        "lines",
        "#8A2F4B",
        width=0.3,
        dash="dashed",
        fields=(
            CustomField(
                "Surface", "choice", (FieldChoice("gravel", "#8A2F4B", "G"), FieldChoice("grass", "#A86A12", "A"))
            ),
        ),
        position=2,
    ),
    CustomKind(
        "peat",
        "Peat cover",
        "areas",
        "#8C7B6B",
        fields=(
            CustomField(
                "Depth",
                "choice",
                (FieldChoice("below 1 m", "#C9BBA8", "B"), FieldChoice("1 m and more", "#8C7B6B", "M")),
            ),
        ),
        position=3,
    ),
)


@dataclass(frozen=True)
class Compiled:
    """Features beside those of the island's own map, and the field notebook."""

    features: tuple[Feature, ...]
    stations: tuple[Station, ...]


def compiled(ground: Island, land: Landscape, areas: list[Feature], crs: ProjectCrs, capture: int) -> Compiled:
    """Make it; always the same."""
    rng = np.random.default_rng(7)
    points = _readings(ground, rng, crs, capture)
    features = [
        *_bands(ground, areas, capture),
        *_lines(ground, capture),
        *points,
        *_own(ground, capture),
        *_burns(land, ground.shore, capture),
    ]
    return Compiled(tuple(features), tuple(_notebook(ground, points, crs)))


def _bands(ground: Island, areas: list[Feature], capture: int) -> list[Feature]:
    """The dyke, cut by drift and alluvium and by faults, with one margin inferred; and an inclined sheet."""
    dyke = next(line for line in ground.lines if line.kind == "dyke")
    band = Band(32.0, "ground", right="inferred", cut_by=("Qal", "Qt", "faults"))
    last = len(dyke.geometry.coords) - 1
    inferred = (Stretch(round(0.55 * last), round(0.75 * last), "inferred", "left"),)
    made = Feature("lines", dyke.geometry, "dyke", capture_scale=capture, band=band, stretches=inferred)
    middle = np.array([513_150.0, 6_801_150.0])
    t = np.linspace(0, 1, 14)
    course = np.column_stack([middle[0] + 950 * t, middle[1] - 250 * t + 60 * np.sin(3 * t)])
    sheet = Feature(
        "lines",
        shapely.LineString(np.round(course, 2)),
        "dyke",
        capture_scale=capture,
        inclination=34.0,
        certainty="approximate",
        band=Band(0.7, "sheet", dips="right", cut_by=("Qt",)),
        note="Inclined sheet, chilled at its foot",
    )
    swarm = []
    for shift, width in (((-820.0, -330.0), 14.0), ((760.0, 420.0), 9.0)):
        # Others of the swarm, thinner, each with a course of its own.
        xy = shapely.get_coordinates(dyke.geometry) + shift
        xy += np.column_stack([np.zeros(len(xy)), 22 * np.sin(np.linspace(0, 5 + shift[0] / 400, len(xy)))])
        on_land = shapely.intersection(shapely.LineString(np.round(xy, 2)), shapely.buffer(ground.shore, -5))
        longest = max(shapely.get_parts(on_land), key=lambda part: float(part.length))
        other = Feature(
            "lines", longest, "dyke", capture_scale=capture, band=Band(width, "ground", cut_by=("Qal", "Qt", "faults"))
        )
        swarm.append(covered(other, areas))
    return [covered(made, areas), covered(sheet, areas), *swarm]


def _lines(ground: Island, capture: int) -> list[Feature]:
    """A smooth fault that ends in the gneiss, drawn at too coarse a scale, and a contact that stops short."""
    through = np.array([(512_700, 6_802_480), (512_980, 6_802_330), (513_300, 6_802_310), (513_560, 6_802_170.0)])
    xy, knots = smoothed(through, FLAT)
    smooth = Feature(
        "lines",
        shapely.LineString(xy),
        "fault",
        certainty="inferred",
        capture_scale=2 * capture,
        knots=tuple(knots),
        note="From the lineament on the relief",
    )
    fault = max(
        (line for line in ground.lines if line.kind == "fault" and line.certainty == "certain"),
        key=lambda f: float(f.geometry.length),
    )
    short = _stops_short(ground, fault.geometry, capture)
    return [smooth, short]


def _stops_short(ground: Island, fault: shapely.LineString, capture: int) -> Feature:
    """A contact from one vertex of a contact towards the fault, that ends 14 m before it."""
    face = max(
        (f for f in ground.faces if f.unit == "Jh" and f.geometry.distance(fault) < 1),
        key=lambda f: float(f.geometry.area),
    )
    ring = shapely.get_coordinates(face.geometry.exterior)
    on_fault = shapely.dwithin(shapely.points(ring), fault, 1.0)
    start_rows = np.flatnonzero(~on_fault)
    best: tuple[float, Floats, Floats] | None = None
    for i in start_rows[:: max(1, len(start_rows) // 60)]:
        start = ring[i]
        foot = shapely.get_coordinates(
            shapely.line_interpolate_point(fault, shapely.line_locate_point(fault, shapely.Point(start)))
        )[0]
        line = shapely.LineString([start, foot])
        inside = float(shapely.intersection(line, face.geometry).length) / line.length
        if inside > 0.999 and 350 < line.length < 900 and (best is None or line.length < best[0]):
            best = (float(line.length), start, foot)
    assert best is not None, "the island has a place for it"
    _, start, foot = best
    course = (foot - start) / np.hypot(*(foot - start))
    end = foot - 14 * course
    middle = (start + end) / 2 + 18 * np.array([-course[1], course[0]])
    xy, knots = smoothed(np.array([start, middle, end]), FLAT)
    return Feature(
        "lines",
        shapely.LineString(xy),
        "contact",
        certainty="approximate",
        capture_scale=capture,
        knots=tuple(knots),
        note="Top of the pebbly bed",
    )


def _readings(ground: Island, rng: np.random.Generator, crs: ProjectCrs, capture: int) -> list[Feature]:
    """Foliation, joints and lineations in the gneiss, an overturned bed, and planes of the fault."""
    gneiss = shapely.buffer(shapely.union_all([f.geometry for f in ground.faces if f.unit == "pCg"]), -90)
    shapely.prepare(gneiss)
    west, south, east, north = gneiss.bounds
    places: list[tuple[float, float]] = []
    taken = [(s.x, s.y) for s in ground.stations]
    while len(places) < 16:
        x, y = round(float(rng.uniform(west, east)), 1), round(float(rng.uniform(south, north)), 1)
        if shapely.contains_xy(gneiss, x, y) and all(np.hypot(a - x, b - y) > 260 for a, b in [*places, *taken]):
            places.append((x, y))
    kinds = ["foliation"] * 9 + ["joint"] * 4 + ["lineation"] * 3
    out = []
    for (x, y), kind in zip(places, kinds, strict=True):
        azimuth = float(round(rng.normal({"foliation": 40, "joint": 118, "lineation": 62}[kind], 12)) % 360)
        dip = float(round(np.clip(rng.normal({"foliation": 58, "joint": 84, "lineation": 22}[kind], 9), 4, 90)))
        out.append(_point(kind, x, y, azimuth, dip, capture))
    fault = next(line for line in ground.lines if line.kind == "fault" and line.certainty == "certain")
    xy = shapely.get_coordinates(fault.geometry)
    middle = len(xy) // 2
    course = np.degrees(np.arctan2(*(xy[middle + 1] - xy[middle])))
    x, y = float(xy[middle, 0]), float(xy[middle, 1])
    strike = float(round(course + float(crs.convergence(x, y))) % 360)
    out.append(_point("fault_plane", x, y, strike, 71.0, capture))
    bed = ground.stations[12]
    out.append(_point("overturned_bedding", bed.x + 130, bed.y + 60, (bed.azimuth + 180) % 360, 78.0, capture))
    return out


def _point(kind: str, x: float, y: float, azimuth: float, inclination: float, capture: int) -> Feature:
    return Feature("points", shapely.Point(x, y), kind, azimuth=azimuth, inclination=inclination, capture_scale=capture)


def _own(ground: Island, capture: int) -> list[Feature]:
    """Springs by their flow, two tracks and a patch of peat."""
    till = sorted((f.geometry for f in ground.faces if f.unit == "Qt"), key=lambda p: -float(p.area))
    edge = till[0].exterior
    flows: tuple[dict[str, Any], ...] = (
        {"Flow": "steady", "Litres a minute": 14.0, "Seen on": "2026-05-12"},
        {"Flow": "seep"},
        {"Flow": "dry", "Remark": "After a dry spring"},
    )
    springs = [
        Feature(
            "points",
            shapely.line_interpolate_point(edge, share, normalized=True),
            "gauged_spring",
            fields=values,
            capture_scale=capture,
        )
        for share, values in zip((0.18, 0.42, 0.77), flows, strict=True)
    ]
    base = np.array([511_000.0, 6_801_520.0])
    t = np.linspace(0, 1, 18)
    gravel = base + np.column_stack([900 * t, 180 * np.sin(2.2 * t)])
    grass = gravel[-1] + np.column_stack([420 * t, 260 * t - 40 * np.sin(6 * t)])
    tracks = [
        Feature(
            "lines",
            shapely.LineString(np.round(xy, 2)),
            "cart_track",
            fields={"Surface": surface},
            capture_scale=capture,
        )
        for xy, surface in ((gravel, "gravel"), (grass, "grass"))
    ]
    angle = np.linspace(0, 2 * np.pi, 40)
    radius = 1 + 0.15 * np.sin(3 * angle) + 0.08 * np.sin(5 * angle)
    ring = np.column_stack([512_320 + 120 * radius * np.cos(angle), 6_800_900 + 75 * radius * np.sin(angle)])
    peat = Feature(
        "areas", shapely.Polygon(np.round(ring, 2)), "peat", fields={"Depth": "below 1 m"}, capture_scale=capture
    )
    return [*springs, *tracks, peat]


def _burns(land: Landscape, shore: shapely.Polygon | shapely.MultiPolygon, capture: int) -> list[Feature]:
    """The streams that the ground itself has made, down to the shore."""
    on_land = [
        max(shapely.get_parts(shapely.intersection(stream, shore)), key=shapely.length)
        for stream in land.streams
        if stream.is_simple and stream.intersects(shore)
    ]
    return [Feature("lines", stream, "stream", capture_scale=capture) for stream in on_land]


def _notebook(ground: Island, points: list[Feature], crs: ProjectCrs) -> list[Station]:
    """A morning's stations: most are on the map, four are still to be logged."""
    stations = []
    for number, station in list(enumerate(ground.stations, 201))[4:12]:
        azimuth = round(station.azimuth + float(crs.convergence(station.x, station.y))) % 360
        stations.append(Station(f"{number}", station.x, station.y, "bedding", float(azimuth), station.inclination))
    left = _free_places([f for f in ground.faces if f.unit in ("Jh", "Kp")], ground, points)
    readings = ((52.0, 31.0, "bedding"), (238.0, 44.0, "bedding"), (121.0, 88.0, "joint"), (61.0, 38.0, "bedding"))
    for number, ((x, y), (strike, dip, kind)) in enumerate(zip(left, readings, strict=True), 301):
        stations.append(Station(f"{number}", x, y, kind, strike, dip, "Red sandstone, pebbly at the top"))
    return stations


def _free_places(faces: list[Face], ground: Island, points: list[Feature]) -> list[tuple[float, float]]:
    rng = np.random.default_rng(11)
    rock = shapely.buffer(shapely.union_all([f.geometry for f in faces]), -60)
    taken = [(s.x, s.y) for s in ground.stations] + [(p.geometry.bounds[0], p.geometry.bounds[1]) for p in points]
    out: list[tuple[float, float]] = []
    while len(out) < 4:
        x, y = (round(float(v), 1) for v in rng.uniform((511_000, 6_800_500), (516_000, 6_804_000)))
        if shapely.contains_xy(rock, x, y) and all(np.hypot(a - x, b - y) > 150 for a, b in [*taken, *out]):
            out.append((x, y))
    return out
