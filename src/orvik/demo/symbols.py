"""What a full map has beside its units: folds, ice and shore, localities, roads; each where it makes sense."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import ProjectCrs
from orvik.demo.island import Island
from orvik.demo.outcrop import traces
from orvik.demo.rock import SHELL_BED, STRIKE, along_strike, shaken

# The lines of the sections by their letters: one across the strike, one along the island with a bend.
SECTION_LINES = {
    "A": ((511_620.0, 6_804_150.0), (514_820.0, 6_800_420.0)),
    "B": ((510_700.0, 6_801_650.0), (513_050.0, 6_802_700.0), (516_050.0, 6_801_750.0)),
}
# Height of the former shore, in metres.
RAISED = 9.0
# Metres between points that stand beside one another, and between them and lines: 6 and 2.4 mm on the sheet.
APART, CLEAR = 170.0, 60.0


def symbols(ground: Island, there: list[Feature], crs: ProjectCrs, capture: int) -> list[Feature]:
    """Make them; always the same.

    Parameters
    ----------
    there
        What is on the map already, which points keep clear of.
    """
    rng = np.random.default_rng(23)
    lines = [*_folds(ground), *_ice(ground), *_coast(ground), *_rock(ground), *_ways(ground)]
    areas = _areas(ground)
    free = _Free(ground, [*there, *lines], rng)
    points = [*_readings(free, crs), *_localities(free), *_names(free)]
    return [feature.changed(capture_scale=capture) for feature in (*lines, *areas, *points)]


def _unit(ground: Island, *codes: str) -> BaseGeometry:
    """The ground of some units."""
    return shapely.union_all([face.geometry for face in ground.faces if face.unit in codes])


def _longest(geometry: BaseGeometry) -> shapely.LineString:
    parts = [part for part in shapely.get_parts(geometry) if isinstance(part, shapely.LineString)]
    return shapely.LineString(np.round(shapely.get_coordinates(max(parts, key=shapely.length)), 2))


def _below_cover(ground: Island, line: shapely.LineString) -> tuple[Stretch, ...]:
    """Stretches of a line that lie below the drift."""
    cover = _unit(ground, "Qt", "Qal")
    xy = shapely.get_coordinates(line)
    hidden = shapely.contains_xy(cover, (xy[1:, 0] + xy[:-1, 0]) / 2, (xy[1:, 1] + xy[:-1, 1]) / 2)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], hidden, [False]]).astype(int)))
    return tuple(Stretch(int(a), int(b), "concealed", "line") for a, b in zip(edges[::2], edges[1::2], strict=True))


def _folds(ground: Island) -> list[Feature]:
    """The arch that the beds lie in, whose core is gneiss, and the trough beside it in the north-west."""
    cuts = shapely.union_all([line.geometry for line in ground.lines if line.kind in ("fault", "dyke")])
    fold = ground.rock.fold
    u = np.arange(-2300.0, 2301.0, 45.0)
    out = []
    for kind, v, certainty in (
        ("anticline", fold.crest, "approximate"),
        ("syncline", fold.trough, "inferred"),
    ):
        # Its hinges lie upright above one another; a block that slid took its part along.
        slid = [ground.rock.slid(b)[0] for b in ground.rock.block(along_strike(u, u * 0 + v), u * 0)]
        course = shapely.LineString(along_strike(u, v + fold.meander(u - np.array(slid))))
        on_land = shapely.difference(shapely.intersection(course, shapely.buffer(ground.shore, -60)), cuts.buffer(40))
        line = _longest(on_land)
        out.append(
            Feature(
                "lines",
                line,
                kind,
                certainty=certainty,
                azimuth=STRIKE,
                inclination=float(round(np.degrees(fold.plunge))),
                stretches=_below_cover(ground, line),
            )
        )
    return out


def _ice(ground: Island) -> list[Feature]:
    """An esker and a moraine on the till, and how far the last ice came."""
    till = sorted((f.geometry for f in ground.faces if f.unit == "Qt"), key=lambda face: -float(face.area))
    out = []
    for face, kind, dy in ((till[0], "esker", 60.0), (till[1], "moraine_crest", -40.0)):
        west, _, east, _ = face.bounds
        t = np.linspace(west + 130, east - 130, 24)
        y = face.centroid.y + dy + 45 * np.sin((t - west) / 90)
        line = _longest(shapely.intersection(shapely.LineString(np.column_stack([t, y])), face.buffer(-60)))
        out.append(Feature("lines", line, kind))
    limit = along_strike(np.arange(-600.0, 1700.0, 60.0), -1500 + 90 * np.sin(np.arange(-600.0, 1700.0, 60.0) / 260))
    inside = _longest(shapely.intersection(shapely.LineString(limit), shapely.buffer(ground.shore, -150)))
    out.append(Feature("lines", inside, "glacier_limit", certainty="approximate"))
    return out


def _coast(ground: Island) -> list[Feature]:
    """A raised shoreline along the west coast, and a slide with its scarp in the north-western cliffs."""
    west, south = shapely.bounds(ground.shore)[:2]
    window = shapely.box(west, south, west + 1_700, south + 1_900)
    _, _, z = ground.land.places
    raised = shapely.intersection(shapely.union_all(traces(ground.land, z - RAISED)), window)
    x, y = _scarp_place(ground)
    turns = np.radians(np.linspace(-30, 150, 15))
    scarp = np.column_stack([x + 150 * np.cos(turns), y + 110 * np.sin(turns)])
    return [
        Feature("lines", _seaward(_longest(raised), ground), "raised_shoreline", certainty="approximate"),
        Feature("lines", shapely.LineString(np.round(scarp[::-1], 2)), "landslide_scarp"),
    ]


def _seaward(line: shapely.LineString, ground: Island) -> shapely.LineString:
    """The line in the direction in which the former sea lay to its right."""
    (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
    right = shapely.Point((x0 + x1) / 2 + (y1 - y0), (y0 + y1) / 2 - (x1 - x0))
    return line if not ground.shore.contains(right) else shapely.reverse(line)


def _scarp_place(ground: Island) -> tuple[float, float]:
    """The middle of the slide: in the largest ground of mudstone, where it is broadest."""
    face = max((f.geometry for f in ground.faces if f.unit == "Kp"), key=lambda g: float(g.area))
    place = shapely.get_point(shapely.maximum_inscribed_circle(face, tolerance=10.0), 0)
    return float(place.x), float(place.y)


def _rock(ground: Island) -> list[Feature]:
    """Veins and a thrust in the gneiss, a marker bed in the siltstone, a shear zone."""
    gneiss = shapely.buffer(_unit(ground, "pCg"), -50)
    faults = shapely.union_all([line.geometry for line in ground.lines if line.kind in ("fault", "dyke")]).buffer(90)
    free = shapely.difference(gneiss, faults)
    out = []
    for kind, sheet, certainty in (
        ("thrust", ground.rock.thrust, "certain"),
        ("shear_zone", ground.rock.shear_zone, "approximate"),
    ):
        out.append(
            Feature("lines", _longest(shapely.intersection(ground.outcrop(sheet), free)), kind, certainty=certainty)
        )
    for (x, y), turn, long, note in (
        ((513_100, 6_802_640), 118, 420, "qz"),
        ((513_700, 6_802_870), 122, 300, "qz"),
    ):
        step = np.linspace(-long / 2, long / 2, 8)
        xy = np.column_stack(
            [x + step * np.sin(np.radians(turn)), y + step * np.cos(np.radians(turn)) + 9 * np.sin(step / 60)]
        )
        line = shapely.intersection(shapely.LineString(xy), gneiss)
        out.append(Feature("lines", _longest(line), "vein", note=note))
    out.append(Feature("lines", _shell_bed(ground), "marker_bed", note="Shell bed, 0.4 m"))
    return out


def _shell_bed(ground: Island) -> shapely.LineString:
    """The longest outcrop of the shell bed in the siltstone, in one block."""
    x, y, z = ground.land.places
    xy = np.stack([x, y], axis=-1)
    silt = shapely.buffer(_unit(ground, "Kw"), -30)
    shapely.prepare(silt)
    found = []
    for block in range(3):
        inside = np.asarray(shapely.contains_xy(silt, x, y)) & (ground.rock.block(xy, z) == block)
        above = np.full(z.shape, np.nan)
        above[inside] = ground.rock.above_base(xy[inside], z[inside], block)
        found += traces(ground.land, above - dict(ground.rock.floors)["Kw"] - SHELL_BED)
    return _longest(shapely.multilinestrings(found))


def _ways(ground: Island) -> list[Feature]:
    """A road from the landing to the farms, a footpath on from it, and the lines of the sections."""
    shore = shapely.buffer(ground.shore, -40)
    road = _curve([(510_900, 6_801_980), (511_500, 6_801_830), (512_150, 6_801_350), (512_900, 6_800_820)])
    path = _curve([(512_900, 6_800_820), (513_350, 6_800_950), (513_900, 6_800_700), (514_500, 6_800_780)])
    sections = [
        Feature("lines", shapely.LineString(xy), "section_line", note=letter) for letter, xy in SECTION_LINES.items()
    ]
    return [
        Feature("lines", _longest(shapely.intersection(road, shore)), "road"),
        Feature("lines", _longest(shapely.intersection(path, shore)), "footpath"),
        *sections,
    ]


def _curve(knots: list[tuple[float, float]]) -> shapely.LineString:
    """A way through some places, with no corner."""
    from scipy.interpolate import CubicSpline

    xy = np.array(knots, dtype=float)
    t = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    return shapely.LineString(CubicSpline(t, xy)(np.linspace(0, t[-1], 60)))


def _areas(ground: Island) -> list[Feature]:
    """A tarn, the slide, altered rock around the veins, and ground that is not sure."""
    x, y = _scarp_place(ground)
    slide = _blob(x - 20, y - 70, 150, 95, 3)
    till = max((f.geometry for f in ground.faces if f.unit == "Qt"), key=lambda face: float(face.area))
    tarn = till.centroid
    return [
        Feature("areas", _blob(tarn.x - 60, tarn.y - 130, 95, 48, 5), "lake"),
        Feature("areas", slide, "landslide_body"),
        Feature("areas", _blob(512_980, 6_802_665, 250, 130, 4), "alteration", note="Sericite and pyrite"),
        Feature("areas", _blob(510_930, 6_800_980, 190, 120, 2), "area_of_doubt"),
    ]


def _blob(x: float, y: float, across: float, high: float, seed: int) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    radius = 1 + 0.12 * np.sin(3 * angle + seed) + 0.06 * np.sin(5 * angle + 2 * seed)
    return shapely.Polygon(
        np.round(np.column_stack([x + across * radius * np.cos(angle), y + high * radius * np.sin(angle)]), 2)
    )


class _Free:
    """Finds places on the ground of a unit that are clear of all that is there."""

    def __init__(self, ground: Island, there: list[Feature], rng: np.random.Generator) -> None:
        self.ground = ground
        self.rng = rng
        self.lines = shapely.union_all([f.geometry for f in there if f.table == "lines"])
        self.taken = [(f.geometry.bounds[0], f.geometry.bounds[1]) for f in there if f.table == "points"]
        shapely.prepare(self.lines)

    def is_clear(self, place: tuple[float, float], share: float = 1.0) -> bool:
        """Whether nothing else stands near a place; ``share`` of the usual distances is enough."""
        apart = all(np.hypot(a - place[0], b - place[1]) > APART * share for a, b in self.taken)
        return apart and bool(self.lines.distance(shapely.Point(place)) > CLEAR * share)

    def place(self, *units: str) -> tuple[float, float]:
        """The next place on one of some units."""
        land = shapely.buffer(_unit(self.ground, *units), -CLEAR)
        west, south, east, north = land.bounds
        for share in (1.0, 0.75, 0.55):
            for _ in range(400):
                x, y = (round(float(v), 1) for v in self.rng.uniform((west, south), (east, north)))
                if shapely.contains_xy(land, x, y) and self.is_clear((x, y), share):
                    self.taken.append((x, y))
                    return x, y
        raise ValueError(f"The island has no room left on {', '.join(units)}.")


def _point(kind: str, place: tuple[float, float], note: str = "") -> Feature:
    return Feature("points", shapely.Point(place), kind, note=note)


def _readings(free: _Free, crs: ProjectCrs) -> list[Feature]:
    """Readings of many kinds; and planes and a line that were read at one place."""
    wanted: tuple[tuple[str, str, float | None, float | None], ...] = (
        ("mylonitic_foliation", "pCg", 230, 72),
        ("banding", "pCg", 36, 57),
        ("mineral_lineation", "pCg", 71, 19),
        ("vein_plane", "pCg", 208, 81),
        ("cleavage", "Kw", 54, 78),
        ("fold_axis", "pCg", 59, 11),
        ("ice_striae", "pCg", 225, None),
        ("ice_striae", "Jc", 232, None),
        ("ice_striae_unknown", "Jh", 38, None),
    )
    out = []
    for kind, unit, azimuth, dip in wanted:
        feature = _point(kind, free.place(unit))
        out.append(feature.changed(azimuth=azimuth and float(azimuth), inclination=None if dip is None else float(dip)))
    for kind, unit in (("crumpled_bedding", "Kw"), ("bedding_top_known", "Jh"), ("bedding_direction", "Kp")):
        strike, dip = _beds(free, place := free.place(unit), crs)
        # Of a direction no more is known than the strike.
        known = None if kind == "bedding_direction" else dip
        out.append(_point(kind, place).changed(azimuth=strike, inclination=known))
    shared = free.place("Jh")
    strike, dip = _beds(free, shared, crs)
    # Cleavage that stands across the beds, and the line in which it cuts them: down the dip.
    for kind, azimuth, inclination in (
        ("bedding", strike, dip),
        ("cleavage", (strike + 90) % 360, 87.0),
        ("intersection_lineation", (strike + 90) % 360, dip),
    ):
        out.append(_point(kind, shared).changed(azimuth=azimuth, inclination=inclination))
    x, y = _scarp_place(free.ground)
    # What slid has turned over, or stands on its edge.
    for kind, dx, dy, azimuth, inclination in (
        ("overturned_bedding", -75.0, -75.0, 71.0, 78.0),
        ("bedding", 55.0, -85.0, 96.0, 90.0),
    ):
        place = (round(x + dx, 1), round(y + dy, 1))
        out.append(_point(kind, place, "In the slide").changed(azimuth=azimuth, inclination=inclination))
    return out


def _beds(free: _Free, place: tuple[float, float], crs: ProjectCrs) -> tuple[float, float]:
    """A reading of the beds at a place, from true north."""
    strike, dip = shaken(*free.ground.beds(*place), free.rng)
    return float(round(strike + float(crs.convergence(*place))) % 360), dip


def _localities(free: _Free) -> list[Feature]:
    """Where rock is worked, sampled, dated or holds fossils, and where water comes out of it."""
    wanted = (
        ("quarry", "Jh", ""),
        ("gravel_pit", "Qt", ""),
        ("prospect", "pCg", ""),
        ("mine_shaft", "pCg", ""),
        ("water_well", "Qt", ""),
        ("sample", "Kw", "Q-14"),
        ("sample", "pCg", "Q-21"),
        ("fossil", "Kp", "F 3"),
        ("microfossil", "Kp", "F 7"),
        ("plant_fossil", "Jh", "F 9"),
        ("dated_sample", "pCg", "1 742 ± 6"),
        ("mineral_occurrence", "pCg", "Cu"),
        ("spring", "Jc", ""),
        ("seep", "Jh", ""),
        ("sinkhole", "Kp", ""),
        ("building", "Jh", ""),
        ("building", "Qt", ""),
    )
    out = [_point(kind, free.place(unit), note) for kind, unit, note in wanted]
    out.append(_point("adit", free.place("pCg")).changed(azimuth=310.0))
    return out


def _names(free: _Free) -> list[Feature]:
    """The two highest tops of the gneiss with their names, and heights: all as the ground has them."""
    named = [
        _point("summit", (x, y), f"{name} {free.ground.height(x, y):.0f}")
        for name, (x, y) in zip(("Carn Hoe", "Skell"), _tops(free), strict=True)
    ]
    for kind, unit in (("triangulation_point", "Jc"), ("spot_height", "Jh"), ("spot_height", "Kw")):
        place = free.place(unit)
        named.append(_point(kind, place, f"{free.ground.height(*place):.0f}"))
    return named


def _tops(free: _Free) -> list[tuple[float, float]]:
    """The highest place on gneiss, and the highest that is a kilometre and more from it; clear of lines."""
    x, y, z = free.ground.land.places
    gneiss = shapely.buffer(_unit(free.ground, "pCg"), -CLEAR)
    shapely.prepare(gneiss)
    there = np.argwhere(shapely.contains_xy(gneiss, x, y))
    tops: list[tuple[float, float]] = []
    for row, column in there[np.argsort(-z[tuple(there.T)])].tolist():
        place = (round(float(x[row, column]), 1), round(float(y[row, column]), 1))
        apart = all(np.hypot(place[0] - a, place[1] - b) > 1_000 for a, b in tops)
        if apart and free.is_clear(place):
            tops.append(place)
            free.taken.append(place)
        if len(tops) == 2:
            break
    return tops
