"""What can be said of features by themselves: drawn too coarsely, off the sheet, logged twice; and of texts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import CERTAINTIES, FeatureKey, Features
from orvik.core.features.kind import SHEET_BORDER, kind_of
from orvik.core.findings.finding import Finding, Ground, Mend
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import SEEN_MM, spaced
from orvik.core.lettering import missing_letters


def coarse(ground: Ground, features: Features) -> list[Finding]:
    """Features drawn at a coarser scale than the digitizing scale."""
    limit = ground.scales.digitizing
    found = []
    scales = features.columns["capture_scale"]
    for i in [i for i, scale in enumerate(scales) if scale and scale > limit]:
        scale = scales[i]
        name = f"{str(features.columns['kind'][i]).replace('_', ' ')} {features.ids[i]}"
        if features.columns["kind"][i] == SHEET_BORDER:
            continue
        at = shapely.get_coordinates(shapely.point_on_surface(features.geometries[i]))[0]
        found.append(
            Finding(
                "coarse",
                "warning",
                f"{name.capitalize()} was drawn at 1:{spaced(scale)}; "
                f"this project digitizes at 1:{spaced(limit)} or larger.",
                (float(at[0]), float(at[1])),
                ((features.table, int(features.ids[i])),),
                shared=f"features were drawn at 1:{spaced(scale)}; "
                f"this project digitizes at 1:{spaced(limit)} or larger.",
            )
        )
    return found


def outside(ground: Ground) -> list[Finding]:
    """Points, lines and unit areas that lie wholly beyond the sheet border."""
    if ground.frame is None:
        return []
    found: list[Finding] = []
    shapely.prepare(ground.frame)
    for features in (ground.points, ground.lines, ground.areas):
        if not len(features):
            continue
        beyond = ~np.asarray(shapely.dwithin(ground.frame, features.geometries, NODE))
        for i in np.flatnonzero(beyond).tolist():
            kind, number = str(features.columns["kind"][i]), int(features.ids[i])
            unit = features.columns["map_unit"][i]
            name = f"{kind.replace('_', ' ')} {number}"
            words = f"{name.capitalize()}{f' ({unit})' if unit else ''}"
            verb = "stands" if features.table == "points" else "lies"
            at = shapely.get_coordinates(shapely.point_on_surface(features.geometries[i]))[0]
            found.append(
                Finding(
                    "outside",
                    "warning",
                    f"{words} {verb} outside the sheet border.",
                    (float(at[0]), float(at[1])),
                    ((features.table, number),),
                    Mend("delete", f"Delete {name}"),
                )
            )
    return found


def letters(ground: Ground, texts: Sequence[tuple[str, str]]) -> list[Finding]:
    """Texts that are printed and hold letters for which no face of the sheet has a shape.

    Parameters
    ----------
    texts
        What each is, such as "the name of unit Qal", and the text.
    """
    found = []
    at = _middle(ground)
    for what, text in texts:
        lacking = missing_letters(text)
        if lacking:
            listed = ", ".join(f"“{c}” (U+{ord(c):04X})" for c in lacking[:6])
            found.append(
                Finding(
                    "letters",
                    "error",
                    f"{what} has {listed}, which would print as a box; write it otherwise.",
                    at,
                    about=what,
                    facts=(text,),
                )
            )
    return found


def unknown(ground: Ground) -> list[Finding]:
    """Features whose kind, certainty or map unit the project does not know, and attitudes without a reading."""
    found: list[Finding] = []
    for features in (ground.lines, ground.areas, ground.points):
        known = ground.kinds.get(features.table)
        if known is None:
            continue
        columns = features.columns
        for i, kind in enumerate(columns["kind"]):
            why = ""
            if kind not in known:
                why = f"is of a kind that the sign book does not have, “{kind[:40]}”"
            elif columns["certainty"][i] not in CERTAINTIES:
                why = f"has the certainty “{str(columns['certainty'][i])[:40]}”, which is none"
            elif columns["map_unit"][i] and columns["map_unit"][i] not in ground.units:
                why = f"names the map unit {str(columns['map_unit'][i])[:20]}, which the project does not have"
            elif kind_of(kind).inclined and (columns["azimuth"][i] is None or columns["inclination"][i] is None):
                why = "has no strike or no dip"
            elif kind_of(kind).reading and columns["azimuth"][i] is None:
                why = "has no direction"
            if why:
                number = int(features.ids[i])
                at = shapely.get_coordinates(shapely.point_on_surface(features.geometries[i]))[0]
                words = f"{kind[:40].replace('_', ' ').capitalize()} {number} {why}."
                found.append(
                    Finding(
                        "unknown",
                        "error",
                        words,
                        (float(at[0]), float(at[1])),
                        ((features.table, number),),
                        facts=(why,),
                    )
                )
    return found


def faults(ground: Ground, listed: Sequence[tuple[str, int, str]]) -> list[Finding]:
    """Rows of the project file that hold nothing that can be shown.

    Parameters
    ----------
    listed
        Table, number and what is wrong.
    """
    at = _middle(ground)
    return [
        Finding(
            "row",
            "error",
            f"Row {number} of {table} {why.rstrip('.')}; it is not shown. Another program has written it.",
            at,
            about=f"{table} {number}",
            facts=(why,),
        )
        for table, number, why in listed
    ]


def _middle(ground: Ground) -> tuple[float, float]:
    """A place for what has none of its own: the middle of the sheet, or of what there is."""
    if ground.frame is not None:
        return ground.frame.centroid.x, ground.frame.centroid.y
    for features in (ground.lines, ground.areas, ground.points):
        if len(features):
            west, south, east, north = shapely.total_bounds(features.geometries)
            return float(west + east) / 2, float(south + north) / 2
    return 0.0, 0.0


def same_place(ground: Ground) -> list[Finding]:
    """Two readings of one kind at one place: the same one logged twice, or two that contradict each other."""
    points, rows = ground.points, ground.readings
    if len(rows) < 2:
        return []
    places = points.geometries[rows]
    one, two = shapely.STRtree(places).query(places, predicate="dwithin", distance=ground.units_on_ground(SEEN_MM))
    found = []
    for a, b in sorted((int(rows[i]), int(rows[j])) for i, j in zip(one.tolist(), two.tolist(), strict=True) if i < j):
        columns = points.columns
        if columns["kind"][a] != columns["kind"][b]:
            continue
        older, newer = sorted((a, b), key=lambda r: int(points.ids[r]))
        name, twin = (f"{str(columns['kind'][r]).replace('_', ' ')} {points.ids[r]}" for r in (newer, older))
        at = shapely.get_coordinates(points.geometries[newer])[0]
        keys: tuple[FeatureKey, ...] = (("points", int(points.ids[newer])), ("points", int(points.ids[older])))
        same = all(columns[c][a] == columns[c][b] for c in ("azimuth", "inclination"))
        if same:
            words, mend = (
                f"{name.capitalize()} is the same reading as {twin}, at the same place.",
                Mend("delete", f"Delete {name}"),
            )
        else:
            readings = [
                Attitude(columns["azimuth"][r] or 0.0, columns["inclination"][r] or 0.0).text for r in (newer, older)
            ]
            words, mend = (
                f"{name.capitalize()} ({readings[0]}) and {twin} ({readings[1]}) stand at one place and disagree.",
                None,
            )
        found.append(
            Finding("doubled", "error" if same else "warning", words, (float(at[0]), float(at[1])), keys, mend)
        )
    return found
