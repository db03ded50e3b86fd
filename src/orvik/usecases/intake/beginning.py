"""A project begun from files: the system, the border and the scale that they propose."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pyproj
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import CrsRefused, FileRefused, OrvikError, SheetRefused
from orvik.core.ground.border import TypedCorners, corners_around, typed_corners
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.crs_change import way_in
from orvik.core.ground.crs_choice import short_list
from orvik.core.ground.scale import proposed_digitizing, spaced
from orvik.core.sheet.panels.aim import ROUND_SCALES
from orvik.core.sheet.templates.fitting import scale_fits
from orvik.exchange.features.unit_table import columns_meant, read
from orvik.exchange.untrusted.parent import TABLES, Layer, opened

# The page that a map is fitted to as long as nobody has said another.
PAPER = "A1"
# What is traced has a vertex about every so many millimetres of the sheet it is traced for (common practice).
SPACING_MM = 2.0
# No table of map units has more bytes.
LARGEST_TABLE = 4_000_000
# No map is published at a larger scale than this.
LARGEST = 500
# So many vertices tell where a file lies and how dense it is.
MOST_VERTICES = 50_000


@dataclass(frozen=True)
class BegunFile:
    """A file to begin with.

    Attributes
    ----------
    place
        Where it stands among those that were given.
    why
        Why it says nothing of where it lies; empty where it does.
    units
        How many map units it lists, if it is a table of these; they are there when the project is made.
    """

    name: str
    features: int
    place: int
    why: str = ""
    units: int = 0


@dataclass(frozen=True)
class Beginning:
    """What files propose for a project.

    Attributes
    ----------
    crs
        What names the system in a form: a code, or its definition.
    corners
        Of a border around all features that could be placed.
    words
        Why it is so, in sentences.
    files
        In the order in which they are imported: lines before the areas that they bound, points last.
    """

    name: str
    crs: str
    corners: TypedCorners
    publication: int
    digitizing: int
    words: tuple[str, ...]
    files: tuple[BegunFile, ...]


def beginning_of(paths: Sequence[Path]) -> Beginning:
    """What some files propose for a project; runs in a worker.

    Raises
    ------
    FileRefused
        None of them says where it lies.
    """
    placed: list[tuple[str, Any]] = []
    files: list[tuple[int, BegunFile]] = []
    for place, path in enumerate(paths):
        units = units_in(path)
        if units:
            files.append((_LAST, BegunFile(path.name, 0, place, units=units)))
            continue
        try:
            layers = opened(path)
        except OrvikError as refusal:
            why = refusal.sentence.removeprefix(f"{path.name} ")
            files.append((_LAST, BegunFile(path.name, 0, place, why[:1].upper() + why[1:])))
            continue
        stated = [(layer.crs, layer.geometries) for layer in layers if layer.crs]
        placed += stated
        why = "" if stated else "It does not state its coordinate system; it is asked for when the file is imported."
        count = sum(len(layer.values) for layer in layers)
        files.append((_turn(layers), BegunFile(path.name, count, place, why)))
    if not placed:
        said = " ".join(f"{file.name}: {file.why}" for _, file in files)
        raise FileRefused(f"None of these files says where it lies; begin with the system instead. {said}")
    crs, why_crs = _system(placed)
    xy = np.concatenate([_places(stated, geometries, crs) for stated, geometries in placed])
    xy = xy[np.isfinite(xy).all(axis=1)]
    if not len(xy):
        raise FileRefused(f"Nothing of these files lies where {crs.label} can be used; begin with the system instead.")
    corners = corners_around(*xy.min(axis=0).tolist(), *xy.max(axis=0).tolist())
    publication, why_scale = _scale(corners, crs, _spacing(placed, crs))
    name = " ".join(Path(paths[0].name).stem.split("_")).strip() or "New map"
    return Beginning(
        name[:60],
        crs.text,
        typed_corners(corners),
        publication,
        proposed_digitizing(publication),
        (why_crs, why_scale),
        tuple(file for _, file in sorted(files, key=lambda turn: (turn[0], turn[1].place))),
    )


# When files are imported, by the dimension of what they hold.
_TURNS = {1: 0, 2: 1, 0: 2}
_LAST = 3


def _turn(layers: Sequence[Layer]) -> int:
    dimensions = {int(d) for layer in layers for d in set(shapely.get_dimensions(layer.geometries).tolist()) if d >= 0}
    return min((_TURNS[dimension] for dimension in dimensions), default=_LAST)


def units_in(path: Path) -> int:
    """How many map units a file lists that is a table of these, with their codes and names; none for other files."""
    if path.suffix.lower() not in TABLES or path.stat().st_size > LARGEST_TABLE:
        return 0
    data = path.read_bytes()
    try:
        _, meant = columns_meant(data)
        if not {"code", "name"} <= set(meant):
            return 0
        return sum(row.unit is not None for row in read(data, ()))
    except OrvikError:
        return 0


def _system(placed: Sequence[tuple[str, Any]]) -> tuple[ProjectCrs, str]:
    """The projected system that most features are in, else the truest for where they lie."""
    counts: Counter[str] = Counter()
    for stated, geometries in placed:
        counts[stated] += len(geometries)
    for stated, _ in counts.most_common():
        try:
            crs = project_crs(stated)
        except CrsRefused:
            continue
        return crs, f"{crs.label} is the system of most of the features."
    plane = np.concatenate([_degrees(stated, geometries) for stated, geometries in placed])
    plane = plane[np.isfinite(plane).all(axis=1)]
    if not len(plane):
        raise FileRefused("These files lie nowhere that can be mapped; check their coordinates.")
    (west, south), (east, north) = plane.min(axis=0), plane.max(axis=0)
    if east - west > 180:
        turned = np.where(plane[:, 0] < 0, plane[:, 0] + 360, plane[:, 0])
        west, east = turned.min(), turned.max()
    found = short_list((float(west), float(south), float(east), float(north)), limit=1)
    if not found:
        raise FileRefused("No listed system holds all of this ground; begin with a system of your own.")
    crs = found[0].crs
    return crs, f"The files are in degrees; {crs.label} shows lengths truest over their ground."


def _degrees(stated: str, geometries: Any) -> Floats:
    """Longitudes and latitudes of some vertices of a layer that is in degrees."""
    xy = _some(geometries)
    to_degrees = pyproj.Transformer.from_crs(stated, "EPSG:4326", always_xy=True)
    return np.column_stack(to_degrees.transform(xy[:, 0], xy[:, 1]))


def _places(stated: str, geometries: Any, crs: ProjectCrs) -> Floats:
    return np.asarray(way_in(stated, crs, None).places(_some(geometries)))


def _some(geometries: Any) -> Floats:
    xy = shapely.get_coordinates(geometries)
    return np.asarray(xy[:: max(1, len(xy) // MOST_VERTICES)])


def _spacing(placed: Sequence[tuple[str, Any]], crs: ProjectCrs) -> float | None:
    """How far apart vertices of lines and areas lie, in metres; None where there are no lines."""
    lengths = []
    for stated, geometries in placed:
        whole = np.asarray(geometries, dtype=object)
        drawn = whole[shapely.get_dimensions(whole) > 0][:2000]
        if not len(drawn):
            continue
        xy, index = shapely.get_coordinates(drawn, return_index=True)
        ground = np.asarray(way_in(stated, crs, None).places(xy))
        steps = np.hypot(*np.diff(ground, axis=0).T)[np.diff(index) == 0]
        lengths.append(steps[np.isfinite(steps) & (steps > 0)])
    both = np.concatenate(lengths) if lengths else np.empty(0)
    return float(np.median(both)) * crs.metres_per_unit if len(both) else None


def _scale(corners: tuple[float, float, float, float], crs: ProjectCrs, spacing: float | None) -> tuple[int, str]:
    """The largest scale at which the ground fits a page, and no larger than the lines were drawn for."""
    border = shapely.LineString(shapely.box(*corners).exterior.coords)
    try:
        fits = [fit.denominator for fit in scale_fits(border, crs, PAPER) if fit.filled is not None]
    except SheetRefused:
        fits = []
    fitting = max(LARGEST, min(fits, default=ROUND_SCALES[-1]))
    dense = 0.0 if spacing is None else spacing * 1000 / SPACING_MM
    drawn_for = next((scale for scale in ROUND_SCALES if scale >= dense), ROUND_SCALES[-1])
    if drawn_for > fitting:
        why = f"Their vertices lie {spaced(spacing or 0)} m apart, as is drawn for 1:{spaced(drawn_for)}."
        return drawn_for, why
    return fitting, f"At 1:{spaced(fitting)} their ground fits a page of {PAPER}."
