"""The net of readings as a page shows it, made by a worker: what is sent back is small, and ready to be shown."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from orvik.core.structure.axes import AxialStatistics
from orvik.core.structure.net_ink import NetLook, every
from orvik.core.structure.readings import ReadingChoice
from orvik.press.svg import fragment
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.structure.nets import NetGround, NetView, lie_along_girdle, net_view


@dataclass(frozen=True, eq=False)
class NetPicture:
    """A net, and what there is to say of it.

    Attributes
    ----------
    ink
        SVG elements.
    stations
        Number, easting, northing, and place on the picture in hundredths of a millimetre, of each reading that has one,
        as JSON.
    count, on_net, every
        Of the readings, and of those with a place on the net; and which of these is drawn, each or one in so many.
    planar, mixed
        Whether all are planes, and whether planes and lines are among them.
    foldable
        Whether their girdle has an axis that is a fold's.
    kinds
        Kinds of readings that the project has, the most frequent first.
    """

    ink: str
    stations: str
    count: int
    on_net: int
    every: int
    planar: bool
    mixed: bool
    foldable: bool
    statistics: AxialStatistics | None
    kinds: tuple[str, ...]


def net_picture(path: Path, choice: ReadingChoice, look: NetLook, sector: float | None) -> NetPicture:
    """The net of a project's readings, or with a sector their rose."""
    with opened_for_reading(path) as project, project.snapshot():
        found = net_view(project, choice, look, sector, _ground_of(path, project))
    readings = found.readings
    return NetPicture(
        fragment(found.items, "net"),
        "[]" if sector is not None else _stations(found),
        len(readings),
        int(readings.on_net.sum()),
        every(int(readings.on_net.sum())),
        bool(readings.planar.all()),
        readings.mixed,
        lie_along_girdle(found),
        found.statistics,
        found.kinds,
    )


# What was read last, for another look at the same: the file, its revision, and what it held.
_held: tuple[tuple[Path, int, int], NetGround] | None = None


def _ground_of(path: Path, project: ReadProject) -> NetGround:
    """The readings of a project, read once for each revision."""
    global _held
    key = (path, path.stat().st_ino, project.revision)
    if _held is None or _held[0] != key:
        _held = (key, NetGround.of(project))
    return _held[1]


def _stations(found: NetView) -> str:
    shown = found.readings.on_net
    # Whole figures are written three times as fast as decimal ones.
    rows = np.column_stack([found.readings.ids[shown], found.readings.places[shown], 100 * found.at[shown]])
    rows = rows[:: every(len(rows))]
    return json.dumps(np.rint(rows).astype(np.int64).tolist(), separators=(",", ":"))
