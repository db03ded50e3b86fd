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
from orvik.demo.island import Island
from orvik.demo.outcrop import Face
from orvik.demo.rock import attitude, in_strike, shaken

# The station of the notebook that is of a joint.
JOINT_STATION = 303
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


def compiled(ground: Island, areas: list[Feature], crs: ProjectCrs, capture: int) -> Compiled:
    """Make it; always the same."""
    rng = np.random.default_rng(7)
    points = _readings(ground, rng, crs, capture)
    features = [
        *_bands(ground, areas, capture),
        *_lines(ground, capture),
        *points,
        *_own(ground, capture),
        *_burns(ground, capture),
    ]
    return Compiled(tuple(features), tuple(_notebook(ground, points, crs)))


def _bands(ground: Island, areas: list[Feature], capture: int) -> list[Feature]:
    """The dyke, cut by drift and alluvium and by faults, with one margin inferred; and an inclined sheet."""
    dyke = next(line for line in ground.lines if line.kind == "dyke")
    band = Band(32.0, "ground", right="inferred", cut_by=("Qal", "Qt", "faults"))
    last = len(dyke.geometry.coords) - 1
    inferred = (Stretch(round(0.55 * last), round(0.75 * last), "inferred", "left"),)
    made = Feature("lines", dyke.geometry, "dyke", capture_scale=capture, band=band, stretches=inferred)
    sheet = Feature(
        "lines",
        ground.outcrop(ground.rock.thin_sheet),
        "dyke",
        capture_scale=capture,
        inclination=ground.rock.thin_sheet.dip,
        certainty="approximate",
        band=Band(0.7, "sheet", dips="right", cut_by=("Qt",)),
        note="Inclined sheet, chilled at its foot",
    )
    swarm = []
    for thinner, width in zip(ground.rock.dykes[1:], (14.0, 9.0), strict=True):
        on_land = shapely.intersection(ground.outcrop(thinner), shapely.buffer(ground.shore, -5))
        longest = max(shapely.get_parts(on_land), key=lambda part: float(part.length))
        other = Feature(
            "lines", longest, "dyke", capture_scale=capture, band=Band(width, "ground", cut_by=("Qal", "Qt", "faults"))
        )
        swarm.append(covered(other, areas))
    return [covered(made, areas), covered(sheet, areas), *swarm]


def _lines(ground: Island, capture: int) -> list[Feature]:
    """A smooth fault that ends in the gneiss, drawn at too coarse a scale, and a contact that stops short."""
    through = np.array([(512_870, 6_802_420), (513_150, 6_802_270), (513_470, 6_802_250), (513_730, 6_802_110.0)])
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
        dip = float(round(np.clip(rng.normal({"foliation": 58, "joint": 84, "lineation": 22}[kind], 9), 4, 88)))
        out.append(_point(kind, x, y, azimuth, dip, capture))
    longest = max((line for line in ground.lines if line.kind == "fault"), key=lambda line: float(line.geometry.length))
    xy = shapely.get_coordinates(longest.geometry)
    x, y = (float(v) for v in xy[len(xy) // 2])
    u, across = in_strike(np.array([x, y]))
    fault = min(
        ground.rock.faults, key=lambda sheet: abs(float(sheet.beyond(u, across, np.array(ground.height(x, y)))))
    )
    strike, dip = attitude(fault.up(float(across)))
    out.append(
        _point("fault_plane", x, y, float(round(strike + float(crs.convergence(x, y))) % 360), round(dip), capture)
    )
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


def _burns(ground: Island, capture: int) -> list[Feature]:
    """The streams that the ground itself has made, down to the shore."""
    land, shore = ground.land, ground.shore
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
        azimuth = float(round(station.azimuth + float(crs.convergence(station.x, station.y))) % 360)
        stations.append(Station(f"{number}", station.x, station.y, "bedding", azimuth, station.inclination))
    left = _free_places([f for f in ground.faces if f.unit in ("Jh", "Kp")], ground, points)
    rng = np.random.default_rng(12)
    for number, (x, y) in enumerate(left, 301):
        strike, dip = shaken(*ground.beds(x, y), rng)
        azimuth = float(round(strike + float(crs.convergence(x, y))) % 360)
        kind, azimuth, dip = ("joint", 121.0, 88.0) if number == JOINT_STATION else ("bedding", azimuth, dip)
        stations.append(Station(f"{number}", x, y, kind, azimuth, dip, "Red sandstone, pebbly at the top"))
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
