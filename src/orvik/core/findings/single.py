"""What can be said of features by themselves: drawn too coarsely, off the sheet, logged twice; and of texts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Ints
from orvik.core.coordinates import GroundXY
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import CERTAINTIES, Features
from orvik.core.features.kind import SHEET_BORDER, kind_of, kind_words
from orvik.core.features.table import FeatureKey, Table
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.rule import Reach, looks_at, rule
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import SEEN_MM, spaced
from orvik.core.lettering import missing_letters

rule(
    "coarse",
    "warning",
    "linework",
    "A feature was digitized at a coarser scale than the digitizing scale",
    features=(
        "kind",
        "capture_scale",
    ),
    why="it can be off by more than its line is wide",
)
rule(
    "outside",
    "warning",
    "linework",
    "A feature lies wholly outside the sheet border",
    features=("kind",),
    why="it is stored and counted, and printed nowhere",
    spoils="finish",
)
rule(
    "unknown",
    "error",
    "linework",
    "A feature has a kind, unit or certainty that the project does not have",
    features=(
        "kind",
        "certainty",
        "map_unit",
        "azimuth",
        "inclination",
    ),
    why="it is drawn as a question mark, or not at all",
)
rule(
    "row",
    "error",
    "linework",
    "A row of the project file holds nothing that can be shown",
    why="something that was mapped is missing without a trace",
)


def coarse(ground: CheckInput, features: Features) -> list[Finding]:
    """Features digitized at a coarser scale than the digitizing scale."""
    limit = ground.scales.digitizing
    found = []
    scales = features.columns["capture_scale"]
    for i in [i for i, scale in enumerate(scales) if scale and scale > limit]:
        scale = scales[i]
        name = f"{kind_words(str(features.columns['kind'][i]))} {features.ids[i]}"
        if features.columns["kind"][i] == SHEET_BORDER:
            continue
        at = shapely.get_coordinates(shapely.point_on_surface(features.geometries[i]))[0]
        found.append(
            Finding(
                "coarse",
                "warning",
                f"{name.capitalize()} was digitized at 1:{spaced(scale)}; "
                f"this project digitizes at 1:{spaced(limit)} or larger.",
                (float(at[0]), float(at[1])),
                ((features.table, int(features.ids[i])),),
                subject=name,
                shared=f"features were digitized at 1:{spaced(scale)}; "
                f"this project digitizes at 1:{spaced(limit)} or larger.",
            )
        )
    return found


@looks_at("lines", "areas", "points", by_itself=True)
def outside(ground: CheckInput) -> list[Finding]:
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
            name = f"{kind_words(kind)} {number}"
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
                    Fix("delete", f"Delete {name}"),
                    shared="features lie outside the sheet border; move the border, or delete them.",
                    subject=name,
                )
            )
    return found


@dataclass(frozen=True)
class PrintedText:
    """A text that is printed.

    Attributes
    ----------
    what
        What it is, such as "The name of unit Qal".
    """

    what: str
    text: str


def letters(ground: CheckInput, texts: Iterable[PrintedText]) -> list[Finding]:
    """Texts that are printed and hold letters for which no face of the sheet has a shape."""
    at = _middle(ground)
    return [found for printed in texts if (found := _lacking(printed, at, printed.what)) is not None]


def noted(features: Features, kinds: frozenset[str]) -> list[Finding]:
    """The same of the notes of features whose kinds print them."""
    if not kinds:
        return []
    found = []
    for row, (kind, note) in enumerate(zip(features.columns["kind"], features.columns["note"], strict=True)):
        if note and kind in kinds and missing_letters(str(note)):
            number = int(features.ids[row])
            xy = shapely.get_coordinates(shapely.point_on_surface(features.geometries[row]))[0]
            printed = PrintedText(f"The note of {kind_words(str(kind))} {number}", str(note))
            lacking = _lacking(printed, (float(xy[0]), float(xy[1])), note_of(features.table, number))
            found += [lacking] if lacking is not None else []
    return found


def note_of(table: Table, number: int) -> str:
    """By what a finding of the note of a feature is known."""
    return f"note of {table} {number}"


def _lacking(printed: PrintedText, at: GroundXY, about: str) -> Finding | None:
    lacking = missing_letters(printed.text)
    if not lacking:
        return None
    listed = ", ".join(f"“{c}” (U+{ord(c):04X})" for c in lacking[:6])
    message = f"{printed.what} has {listed}, which would print as a box; write it otherwise."
    return Finding("letters", "error", message, at, about=about, facts=(printed.text,))


@looks_at("lines", "areas", "points", by_itself=True)
def unknown(ground: CheckInput) -> list[Finding]:
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
                why = f"is of a kind that the symbol book does not have, “{kind[:40]}”"
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
                words = f"{kind_words(kind)[:40].capitalize()} {number} {why}."
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


def faults(ground: CheckInput, listed: Sequence[tuple[str, int, str]]) -> list[Finding]:
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


def _middle(ground: CheckInput) -> tuple[float, float]:
    """A place for what has none of its own: the middle of the sheet, or of what there is."""
    if ground.frame is not None:
        return ground.frame.centroid.x, ground.frame.centroid.y
    for features in (ground.lines, ground.areas, ground.points):
        if len(features):
            west, south, east, north = shapely.total_bounds(features.geometries)
            return float(west + east) / 2, float(south + north) / 2
    return 0.0, 0.0


@looks_at("points", reach=Reach(lambda kind: kind.inclined, SEEN_MM, "points"))
def same_place(ground: CheckInput) -> list[Finding]:
    """Two readings of one kind at one place: the same one logged twice, or two that contradict each other.

    Of many at one place each is held against one that is older: against one that says the same, if there is any.
    """
    points, rows = ground.points, ground.readings
    columns = points.columns
    found = []
    for newer, older in _twins(ground, rows):
        name, twin = (f"{kind_words(str(columns['kind'][r]))} {points.ids[r]}" for r in (newer, older))
        at = shapely.get_coordinates(points.geometries[newer])[0]
        keys: tuple[FeatureKey, ...] = (("points", int(points.ids[newer])), ("points", int(points.ids[older])))
        same = all(columns[c][newer] == columns[c][older] for c in ("azimuth", "inclination"))
        if same:
            words, fix = (
                f"{name.capitalize()} is the same reading as {twin}, at the same place.",
                Fix("delete", f"Delete {name}"),
            )
        else:
            readings = [
                Attitude(columns["azimuth"][r] or 0.0, columns["inclination"][r] or 0.0).text for r in (newer, older)
            ]
            words, fix = (
                f"{name.capitalize()} ({readings[0]}) and {twin} ({readings[1]}) stand at one place and disagree.",
                None,
            )
        found.append(Finding("doubled", "error" if same else "warning", words, (float(at[0]), float(at[1])), keys, fix))
    return found


def _twins(ground: CheckInput, rows: Ints) -> Iterator[tuple[int, int]]:
    """Rows of readings that stand where an older one of their kind does, each with one such row."""
    points, columns = ground.points, ground.points.columns
    xy, place_of = np.unique(shapely.get_coordinates(points.geometries[rows]), axis=0, return_inverse=True)
    places = np.asarray(shapely.points(xy), dtype=object)
    one, two = shapely.STRtree(places).query(places, predicate="dwithin", distance=ground.units_on_ground(SEEN_MM))
    beside: dict[int, list[int]] = defaultdict(list)
    for place, other in zip(one.tolist(), two.tolist(), strict=True):
        beside[place].append(other)
    # The oldest readings of each place: by what they say, and by their kind.
    alike: dict[tuple[object, ...], int] = {}
    of_kind: dict[tuple[object, ...], int] = {}
    ordered = sorted(zip(rows.tolist(), place_of.reshape(-1).tolist(), strict=True), key=lambda one: points.ids[one[0]])
    for row, place in ordered:
        kind, said = columns["kind"][row], (columns["azimuth"][row], columns["inclination"][row])
        same = [alike[other, kind, said] for other in beside[place] if (other, kind, said) in alike]
        near = [of_kind[other, kind] for other in beside[place] if (other, kind) in of_kind]
        if same or near:
            yield row, min(same or near, key=lambda r: int(points.ids[r]))
        alike.setdefault((place, kind, said), row)
        of_kind.setdefault((place, kind), row)
