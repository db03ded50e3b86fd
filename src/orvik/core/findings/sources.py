"""Sources: how well they lie, how fine they are, and what of the map says that it was taken from them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from orvik.core.errors import FitRefused
from orvik.core.features.feature import Features
from orvik.core.features.table import FeatureKey, Table
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.fractions import denominators_in
from orvik.core.ground.scale import Scales, figures, on_ground, on_sheet, spaced
from orvik.core.pictures.georeferencing import FIT_KINDS, LEAST, ControlSet
from orvik.core.pictures.source import IMPORTED, Source

rule(
    "fit_untold",
    "warning",
    "linework",
    "A picture has just as many control points as its fit needs",
    why="nobody can tell how far off what is traced from it lies",
)
rule(
    "fit_in_line",
    "warning",
    "linework",
    "The control points of a picture stand nearly in a line",
    why="across that line the picture can lie anywhere",
)
rule(
    "coarse_source",
    "warning",
    "linework",
    "Features were taken from a source coarser than the map",
    features=("source_id",),
    why="it looks as exact as the rest, and is not",
)
rule(
    "off_source",
    "warning",
    "linework",
    "A feature names a source that does not reach it",
    features=("source_id",),
    why="what it was taken from is not what it says",
)
rule(
    "source_gap",
    "warning",
    "linework",
    "Ground that a source shows has no feature that was taken from it",
    why="ground looks empty that somebody has mapped",
)
rule(
    "source_unused",
    "warning",
    "sheet",
    "No feature names a source that is listed",
    why="somebody is credited for what was not used, or features lack their source",
    spoils="finish",
)
rule(
    "source_uncredited",
    "warning",
    "sheet",
    "A source that features name has no credit, where others have",
    why="whose work it is goes unsaid",
    spoils="finish",
)

# Control points stand in a line that spread across it by less than such a share of how they spread along it.
IN_LINE = 0.08
# A feature is off its source by so many millimetres on the sheet; cells of a gap are so many millimetres wide.
OFF_MM, CELL_MM = 1.0, 20.0
# So many cells of a source's ground must be drawn from other sources, and such a share of all.
GAP_CELLS, GAP_SHARE = 3, 0.4


def fits(sources: Sequence[Source]) -> list[Finding]:
    """Pictures whose control points say nothing of how well they lie, or hardly hold them across."""
    out = []
    for source in sources:
        if not source.fit or source.aside:
            continue
        try:
            held = ControlSet.of_json(source.fit)
        except FitRefused:
            continue
        used = [point for point in held.points if point.on]
        if len(used) == LEAST.get(held.kind):
            kind = FIT_KINDS[held.kind].split(":")[0].lower()
            message = (
                f"{source.name} has {len(used)} control points, just as many as a fit of this kind ({kind}) needs: how "
                "well it lies is not known. Set one more."
            )
            out.append(Finding("fit_untold", "warning", message, None, about=f"source {source.id}", facts=(held.json,)))
        if len(used) >= 3:
            xy = np.array([(p.x, p.y) for p in used]) - np.mean([(p.x, p.y) for p in used], axis=0)
            along, across = np.linalg.svd(xy, compute_uv=False)
            if across < IN_LINE * along:
                message = (
                    f"The {len(used)} control points of {source.name} stand nearly in a line: across it they spread by "
                    f"{100 * across / along:.0f} % of what they do along it, so that the picture may be off beside it."
                )
                out.append(
                    Finding("fit_in_line", "warning", message, None, about=f"source {source.id}", facts=(held.json,))
                )
    return out


def uses(
    sources: Sequence[Source],
    features: Mapping[Table, Features],
    scales: Scales,
    metres_per_unit: float,
    extents: Mapping[int, shapely.Polygon],
    border: shapely.Polygon | None,
) -> list[Finding]:
    """What features say that they were taken from, against what there is.

    Parameters
    ----------
    extents
        What the pictures among the sources show, in the project's system, by their numbers.
    border
        The ground of the map; None where it has no border.
    """
    named: dict[int, list[tuple[FeatureKey, shapely.Geometry]]] = defaultdict(list)
    for table, some in features.items():
        for number, geometry, source in zip(some.ids, some.geometries, some.columns["source_id"], strict=True):
            if source is not None:
                named[int(source)].append(((table, int(number)), geometry))
    out = []
    credited = [s for s in sources if s.id in named and s.credit.strip()]
    for source in sources:
        mine = named.get(source.id or 0, [])
        if not mine:
            if source.kind == IMPORTED and named:
                message = f"{source.name} is listed as a source, and no feature of the map was taken from it."
                out.append(Finding("source_unused", "warning", message, None, about=f"source {source.id}"))
            continue
        if not source.credit.strip() and credited:
            message = (
                f"{source.name}, from which {len(mine)} features were taken, has no credit; the diagram of sources "
                f"names it by its file where it names {credited[0].name} in full."
            )
            out.append(Finding("source_uncredited", "warning", message, None, about=f"source {source.id}"))
        out += _coarse(source, mine, scales)
        extent = extents.get(source.id or 0)
        if extent is not None:
            out += _off(source, mine, extent, scales, metres_per_unit)
            out += _gaps(source, features, extent, border, on_ground(CELL_MM, scales.publication) / metres_per_unit)
    return out


_Named = list[tuple[FeatureKey, shapely.Geometry]]


def _coarse(source: Source, mine: _Named, scales: Scales) -> list[Finding]:
    stated = denominators_in(f"{source.credit} {source.name}")
    if not stated or min(stated) <= scales.publication:
        return []
    coarse = min(stated)
    many = f"{len(mine)} features were" if len(mine) > 1 else "A feature was"
    message = (
        f"{many} taken from {source.name}, which is at 1:{spaced(coarse)}, coarser than the map at "
        f"1:{spaced(scales.publication)}: 0.5 mm there are {figures(0.5 * coarse / scales.publication, 2)} mm here."
    )
    at = shapely.get_coordinates(shapely.point_on_surface(mine[0][1]))[0]
    keys = tuple(key for key, _ in mine[:200])
    return [
        Finding("coarse_source", "warning", message, (float(at[0]), float(at[1])), keys, about=f"source {source.id}")
    ]


def _off(
    source: Source, mine: _Named, extent: shapely.Polygon, scales: Scales, metres_per_unit: float
) -> list[Finding]:
    geometries = np.array([geometry for _, geometry in mine], dtype=object)
    apart = shapely.distance(geometries, extent)
    reach = on_ground(OFF_MM, scales.publication) / metres_per_unit
    out = []
    for i in np.flatnonzero(apart > reach).tolist():
        key = mine[i][0]
        metres = float(apart[i]) * metres_per_unit
        message = (
            f"{key[0].removesuffix('s').capitalize()} {key[1]} names {source.name} as its source, which ends "
            f"{spaced(metres)} m ({figures(on_sheet(metres, scales.publication), 2)} mm on the sheet) off it."
        )
        at = shapely.get_coordinates(shapely.point_on_surface(geometries[i]))[0]
        out.append(
            Finding("off_source", "warning", message, (float(at[0]), float(at[1])), (key,), about=f"source {source.id}")
        )
    return out


def _gaps(
    source: Source,
    features: Mapping[Table, Features],
    extent: shapely.Polygon,
    border: shapely.Polygon | None,
    cell: float,
) -> list[Finding]:
    """Ground of a source, within the border, on which all that is drawn was taken from elsewhere."""
    ground = shapely.intersection(extent, border) if border is not None else extent
    if shapely.is_empty(ground):
        return []
    west, south, east, north = shapely.bounds(ground).tolist()
    columns, rows = max(1, round((east - west) / cell)), max(1, round((north - south) / cell))
    drawn = np.zeros((rows, columns), dtype=bool)
    its = np.zeros((rows, columns), dtype=bool)
    for some in (features["lines"], features["points"]):
        if not len(some):
            continue
        xy, of = shapely.get_coordinates(some.geometries, return_index=True)
        inside = (xy[:, 0] > west) & (xy[:, 0] < east) & (xy[:, 1] > south) & (xy[:, 1] < north)
        xy, of = xy[inside], of[inside]
        row = ((xy[:, 1] - south) / (north - south) * rows).astype(int)
        column = ((xy[:, 0] - west) / (east - west) * columns).astype(int)
        named = np.array([number == source.id for number in some.columns["source_id"]], dtype=bool)[of]
        drawn[row, column] = True
        its[row[named], column[named]] = True
    gaps = drawn & ~its
    if gaps.sum() < GAP_CELLS or gaps.sum() < GAP_SHARE * drawn.sum():
        return []
    j, i = (int(v) for v in np.argwhere(gaps)[int(gaps.sum()) // 2])
    place = (west + (i + 0.5) * (east - west) / columns, south + (j + 0.5) * (north - south) / rows)
    share = 100 * int(gaps.sum()) / int(drawn.sum())
    message = (
        f"On {share:.0f} % of the ground that {source.name} shows within the border, no feature says that it was taken "
        "from it; was it left out there, or is the source not said?"
    )
    facts = (f"{int(gaps.sum())}",)
    return [Finding("source_gap", "warning", message, place, about=f"source {source.id}", facts=facts)]
