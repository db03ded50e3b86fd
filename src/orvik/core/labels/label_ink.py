"""Labels as ink on the ground: letters, leaders, names that follow their lines, and what waits for larger scales."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from orvik.core.features.table import Table
from orvik.core.ink.affine import Affine, apply, inverse, turn_of
from orvik.core.ink.primitives import Group, Item, Run, Text
from orvik.core.labels.inside import anchors
from orvik.core.labels.label import Label, hung
from orvik.core.labels.label_request import LabelKey, LabelRequest
from orvik.core.labels.placement import LabelPlace
from orvik.core.labels.tints import Tints
from orvik.core.lettering import run
from orvik.core.symbols.portrayal.ink_keys import key_of

# The layers that labels are printed in, and the table whose features they speak of.
LABEL_LAYERS: Mapping[str, Table] = {"names": "lines", "figures": "points", "labels": "areas"}
# What has no room is shown from this share of the scale on.
WAITS = 0.5


def label_layers(
    labels: Sequence[Label],
    without: Sequence[LabelRequest],
    pages: Mapping[LabelKey, shapely.Geometry],
    m: Affine,
    scale: float,
    tints: Tints,
) -> dict[str, Group]:
    """The ink of labels in ground coordinates, a group for each of ``LABEL_LAYERS``.

    Parameters
    ----------
    without
        Labels that have no room at this scale.
    pages
        What each label speaks of, on the page.
    m
        From ground coordinates to millimetres on the page.
    """
    items: dict[Table, list[Item]] = {table: [] for table in LABEL_LAYERS.values()}
    back, turn = inverse(m), turn_of(m)
    for label in labels:
        items[label.request.key.table] += _ink(label, back, turn)
    for request in without:
        items[request.key.table] += _waiting(request, pages[request.key], back, turn, scale, tints)
    return {name: Group(name, tuple(items[table])) for name, table in LABEL_LAYERS.items()}


def _ink(label: Label, back: Affine, turn: float) -> list[Item]:
    request, found = label.request, label.place
    if found.letters is not None:
        return [
            replace(_text(letter, label, (0.0, 0.0), angle, turn), at=_back(at, back))
            for letter, (*at, angle) in zip(_letters(request.run), found.letters.tolist(), strict=True)
        ]
    text = _text(request.run, label, label.offset, found.angle, turn)
    if found.leader is not None:
        start = found.leader[0] - found.leader[1]
        text = replace(text, leader=(float(start[0]), float(start[1])))
    return [text]


def _back(at: Sequence[float], back: Affine) -> tuple[float, float]:
    x, y = apply(back, np.array([at]))[0]
    return float(x), float(y)


def _letters(letters: Run) -> list[Run]:
    """Each letter of a run by itself, set about its middle."""
    return [run(char, font, letters.size, "centre") for font, chars, _ in letters.pieces() for char in chars]


def _text(letters: Run, label: Label, offset: tuple[float, float], angle: float, turn: float) -> Text:
    radians = np.radians(angle)
    drop = label.request.drop
    return Text(
        letters,
        label.at,
        label.request.colour,
        angle - turn,
        (float(offset[0] - drop * np.sin(radians)), float(offset[1] + drop * np.cos(radians))),
        label.halo,
        label.largest,
        key_of(label.request.key.table, label.request.key.id),
    )


def _waiting(
    request: LabelRequest, page: shapely.Geometry, back: Affine, turn: float, scale: float, tints: Tints
) -> list[Item]:
    """A label that finds no room at this scale is shown at larger ones, where it has some."""
    if request.placing == "inside":
        at = anchors(np.array([page]))[0]
        fits = scale * room_about(page, (float(at[0]), float(at[1]))) / float(np.hypot(*request.half))
    elif request.placing in ("around", "over"):
        at = shapely.get_coordinates(page)[0] + np.array(request.at)
        fits = scale * WAITS
    else:
        return []
    standing = LabelPlace((float(at[0]), float(at[1])), 0.0)
    halo = tints.below(at[None, :])[0] if request.placing == "inside" else None
    return _ink(hung(request, page, standing, min(fits, scale * WAITS), halo, back), back, turn)


def room_about(area: shapely.Geometry, middle: tuple[float, float]) -> float:
    """How far a place within an area is from its edge."""
    return float(shapely.distance(shapely.boundary(area), shapely.Point(middle)))
