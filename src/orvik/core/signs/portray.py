"""Portrayal: features and their signs become ink, for one feature as for a hundred thousand."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

import numpy as np
import shapely

from orvik.core.arrays import Ints, Objects
from orvik.core.colour import readable_on
from orvik.core.features.band import FAULTS
from orvik.core.features.feature import TABLES, Features, Table
from orvik.core.features.kind import SHEET_BORDER, UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.stretch import certainties, runs
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink import Fill, Group, Item, Marks, Stroke, Text
from orvik.core.lettering import BOLD, ROMAN, cap_height, run
from orvik.core.paths import Paths
from orvik.core.signs.band_ink import bands
from orvik.core.signs.catalogue import INK, LineSign, SignBook

# Neighbouring tints overlap by this much on the sheet; otherwise painters leave a seam of light.
SPREAD = 0.05
CODE_SIZE = 2.6
DIP_SIZE = 2.0
NO_UNIT = "#E4E0D6"
PAPER = "#FFFFFF"

# The layers of a portrayal from the lowest to the highest.
LAYERS = ("units", "linework", "attitudes", "labels", "tags", "border")


def key_of(table: Table, feature_id: int) -> int:
    """One number for a feature among all tables, as ink carries it."""
    return feature_id * len(TABLES) + TABLES.index(table)


def portray(
    features: Mapping[Table, Features],
    book: SignBook,
    units: Mapping[str, MapUnit],
    crs: ProjectCrs,
    publication: int = 25_000,
) -> dict[str, Group]:
    """The ink of features in ground coordinates, a group for each of ``LAYERS``.

    Signs do not depend on the view's scale: they are millimetres. Where a label fits only at larger
    scales, its ink says so. ``publication`` is the denominator that the width of a band on the sheet is
    measured at.
    """
    layers: dict[str, list[Item]] = {name: [] for name in LAYERS}
    if "areas" in features and len(features["areas"]):
        _areas(features["areas"], book, units, crs, layers)
    if "lines" in features and len(features["lines"]):
        _lines(features["lines"], book, layers, publication, crs.metres_per_unit)
    if "points" in features and len(features["points"]):
        _points(features["points"], book, crs, layers)
    return {name: Group(name, tuple(items)) for name, items in layers.items()}


def _rows(*columns: Objects) -> dict[tuple[object, ...], Ints]:
    """Row numbers by their values in some columns, in order of first appearance."""
    groups: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for i, values in enumerate(zip(*columns, strict=True)):
        groups[values].append(i)
    return {values: np.array(rows) for values, rows in groups.items()}


def _keys(features: Features, rows: Ints) -> Ints:
    return features.ids[rows] * len(TABLES) + TABLES.index(features.table)


def _areas(
    areas: Features, book: SignBook, units: Mapping[str, MapUnit], crs: ProjectCrs, layers: dict[str, list[Item]]
) -> None:
    for (kind, variant, code), rows in _rows(
        areas.column("kind"), _variants(areas, book), areas.column("map_unit")
    ).items():
        unit = units.get(str(code))
        kind_colour = book.area(str(kind), str(variant)).colour if kind != UNIT_AREA else ""
        colour = kind_colour or (unit.colour if unit else NO_UNIT)
        geometries = areas.geometries[rows]
        rings, owner = shapely.get_rings(geometries, return_index=True)
        parts = np.concatenate([[0], np.cumsum(np.bincount(owner, minlength=len(rows)))]).astype(np.int64)
        keys = _keys(areas, rows)
        layers["units"].append(Fill(colour, Paths.of_lines(rings), parts, keys, SPREAD))
    of_units = np.array([k == UNIT_AREA for k in areas.columns["kind"]], dtype=bool)
    _codes(areas if of_units.all() else areas.select(of_units), units, crs, layers["labels"])


def _variants(features: Features, book: SignBook) -> Objects:
    """Which sign of its kind each feature takes."""
    if not book.own_kinds:
        return features.column("certainty")
    out = np.empty(len(features), dtype=object)
    columns = features.columns
    out[:] = [
        book.variant(k, c, f) for k, c, f in zip(columns["kind"], columns["certainty"], columns["fields"], strict=True)
    ]
    return out


def _codes(areas: Features, units: Mapping[str, MapUnit], crs: ProjectCrs, out: list[Item]) -> None:
    """Unit codes at the middle of the widest place of each area, shown where they fit."""
    size = np.maximum(np.sqrt(shapely.area(areas.geometries)), 1e-4)
    # A hundredth of an area's size cannot be seen in where its code stands, and saves most of the search.
    coarse = shapely.simplify(areas.geometries, size / 100, preserve_topology=False)
    sound = (shapely.get_type_id(coarse) == shapely.GeometryType.POLYGON) & shapely.is_valid(coarse)
    coarse = np.where(sound & ~shapely.is_empty(coarse), coarse, areas.geometries)
    circles = shapely.maximum_inscribed_circle(coarse, tolerance=size / 30)
    middles = shapely.get_point(circles, 0)
    places = shapely.get_coordinates(middles)
    radii = shapely.distance(shapely.boundary(areas.geometries), middles) * crs.metres_per_unit
    for i, code in enumerate(areas.columns["map_unit"]):
        doubt = bool(areas.columns["questionable"][i])
        text = f"{code or '—'}{'?' if doubt else ''}"
        letters = run(text, ROMAN, CODE_SIZE, "centre")
        reach = np.hypot(letters.width, cap_height(CODE_SIZE)) / 2
        unit = units.get(str(code))
        out.append(
            Text(
                letters,
                (float(places[i, 0]), float(places[i, 1])),
                readable_on(unit.colour if unit else NO_UNIT, dark=INK),
                offset=(0.0, cap_height(CODE_SIZE) / 2),
                largest=float(radii[i] * 1000 / reach),
                key=key_of("areas", int(areas.ids[i])),
            )
        )


def _lines(
    lines: Features, book: SignBook, layers: dict[str, list[Item]], publication: int, metres_per_unit: float
) -> None:
    paths, kinds, certainty, owners = _parts(lines, book)
    groups = _rows(kinds, certainty)
    signs = {values: book.line(str(values[0]), str(values[1])) for values in groups}
    banded = [i for i, band in enumerate(lines.columns["band"]) if band is not None]
    below = [i for i in banded if FAULTS in lines.columns["band"][i].cut_by]
    above = [i for i in banded if FAULTS not in lines.columns["band"][i].cut_by]
    layers["linework"] += bands(lines, below, book, publication, metres_per_unit)
    # Heavier lines last, so that a fault runs over the contacts that end on it.
    for values in sorted(groups, key=lambda v: signs[v].style.width):
        rows = groups[values]
        layer = "border" if values[0] == SHEET_BORDER else "linework"
        keys = lines.ids[owners[rows]] * len(TABLES) + TABLES.index("lines")
        layers[layer].append(Stroke(signs[values].style, Paths.of_lines(paths[rows]), keys))
    layers["linework"] += bands(lines, above, book, publication, metres_per_unit)
    doubtful = np.flatnonzero(lines.column("questionable").astype(bool))
    for i in doubtful:
        sign = book.line(str(lines.columns["kind"][i]), str(lines.columns["certainty"][i]))
        layers["linework"].append(_doubt(lines, int(i), sign))


def _parts(lines: Features, book: SignBook) -> tuple[Objects, Objects, Objects, Ints]:
    """Lines, cut where their certainty changes; with kind and certainty of each part, and the row it is of.

    Bands are left out: they are drawn by their margins.
    """
    stretched, banded = lines.columns["stretches"], lines.columns["band"]
    whole = np.array([not s and b is None for s, b in zip(stretched, banded, strict=True)], dtype=bool)
    kinds, certainty = lines.column("kind"), _variants(lines, book)
    rows = np.flatnonzero(whole)
    if whole.all():
        return lines.geometries, kinds, certainty, rows
    paths: list[shapely.LineString] = list(lines.geometries[whole])
    own_kind, own_certainty, owners = list(kinds[whole]), list(certainty[whole]), rows.tolist()
    for i in np.flatnonzero(~whole).tolist():
        if banded[i] is not None:
            continue
        xy = shapely.get_coordinates(lines.geometries[i])
        for a, b, value in runs(certainties(str(certainty[i]), stretched[i], len(xy) - 1)):
            paths.append(shapely.LineString(xy[a : b + 1]))
            own_kind.append(kinds[i])
            own_certainty.append(value)
            owners.append(i)
    out = [np.empty(len(paths), dtype=object) for _ in range(3)]
    for array, values in zip(out, (paths, own_kind, own_certainty), strict=True):
        array[:] = values
    return out[0], out[1], out[2], np.array(owners, dtype=np.int64)


def _doubt(lines: Features, i: int, sign: LineSign) -> Text:
    """A question mark in the middle of the line, on a halo that interrupts it."""
    middle = shapely.line_interpolate_point(lines.geometries[i], 0.5, normalized=True)
    return Text(
        run("?", BOLD, CODE_SIZE, "centre"),
        (middle.x, middle.y),
        sign.style.colour,
        offset=(0.0, cap_height(CODE_SIZE) / 2),
        halo=PAPER,
        key=key_of("lines", int(lines.ids[i])),
    )


def _points(points: Features, book: SignBook, crs: ProjectCrs, layers: dict[str, list[Item]]) -> None:
    xy = shapely.get_coordinates(points.geometries)
    azimuth = np.array([a or 0.0 for a in points.columns["azimuth"]], dtype=float)
    turned = azimuth - crs.convergence(xy[:, 0], xy[:, 1])
    dips = points.columns["inclination"]
    chosen = np.empty(len(points), dtype=object)
    variants = _variants(points, book)
    chosen[:] = [book.point(str(k), d, str(v)) for k, d, v in zip(points.columns["kind"], dips, variants, strict=True)]
    by_sign: dict[str, list[int]] = defaultdict(list)
    for i, sign in enumerate(chosen):
        by_sign[sign.label].append(i)
    for numbers in by_sign.values():
        rows = np.array(numbers)
        sign = chosen[rows[0]]
        layer = layers["tags" if sign.shows_unit else "attitudes"]
        angles = turned[rows] if sign.turns else np.zeros(len(rows))
        layer.append(Marks(sign.symbol, xy[rows], angles, _keys(points, rows)))
        for i in rows:
            at, key = (float(xy[i, 0]), float(xy[i, 1])), key_of("points", int(points.ids[i]))
            if sign.number is not None:
                text = f"{round(dips[i])}{'?' if points.columns['questionable'][i] else ''}"
                layer.append(_dip_figure(text, at, float(turned[i]), sign.number, key))
            if sign.shows_unit:
                code = str(points.columns["map_unit"][i] or "?")
                layer.append(Text(run(code, ROMAN, DIP_SIZE), at, "#5B6B78", offset=(0.8, 0.7), key=key))


def turned_place(place: tuple[float, float], turned: float) -> tuple[float, float]:
    """Where a place of a symbol's own frame stands when the symbol is turned by degrees clockwise."""
    angle = np.radians(turned)
    x = place[0] * np.cos(angle) - place[1] * np.sin(angle)
    y = place[0] * np.sin(angle) + place[1] * np.cos(angle)
    return float(x), float(y)


def _dip_figure(text: str, at: tuple[float, float], turned: float, place: tuple[float, float], key: int) -> Text:
    """The dip beside the sign, upright: its middle goes round with the sign, the figures do not turn."""
    x, y = turned_place(place, turned)
    offset = (x, y + cap_height(DIP_SIZE) / 2)
    return Text(run(text, ROMAN, DIP_SIZE, "centre"), at, INK, offset=offset, key=key)
