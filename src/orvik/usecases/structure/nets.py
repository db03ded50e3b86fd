"""The net of a project's readings: which they are, what they say together, and what becomes of a fold axis."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import FeatureRefused
from orvik.core.features.attitude import three_figures
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import AXIS_OF_FOLDS
from orvik.core.ink.primitives import Item
from orvik.core.structure.axes import AxialStatistics, statistics_of
from orvik.core.structure.net import projected
from orvik.core.structure.net_ink import DENSE, Frame, NetLook, net_ink, rose_ink
from orvik.core.structure.readings import NetReadings, ReadingChoice, chosen_readings, reading_kinds
from orvik.core.structure.rose import rose
from orvik.store.reader import Reader
from orvik.usecases.compile.features import FeatureEdit

# Radius of a net on the screen in millimetres, and the room around it.
RADIUS, AROUND = 31.0, 5.0


@dataclass(frozen=True, eq=False)
class NetView:
    """A net as a page shows it.

    Attributes
    ----------
    items, frame
        Its ink, and where it stands.
    readings
        What it is of.
    at
        (n, 2) where the readings lie on the picture; NaN for those without a place on it.
    statistics
        Of those with a place on the net.
    kinds
        The kinds of readings that the project has, the most frequent first.
    """

    items: tuple[Item, ...]
    frame: Frame
    readings: NetReadings
    at: Floats
    statistics: AxialStatistics | None
    kinds: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class NetGround:
    """What nets of a project are made of: its points with readings, and its areas."""

    points: Features
    areas: Features

    @staticmethod
    def of(project: Reader) -> NetGround:
        """As the project is now."""
        return NetGround(project.readings(), project.features("areas"))


def net_view(
    project: Reader, choice: ReadingChoice, look: NetLook, sector: float | None, ground: NetGround | None = None
) -> NetView:
    """The net of readings, or with a sector their rose; raises StructureRefused for a sector that cannot be.

    Parameters
    ----------
    ground
        What the project holds, where that is known from before.
    """
    ground = ground or NetGround.of(project)
    points = ground.points
    readings = chosen_readings(points, ground.areas, choice)
    frame = Frame(RADIUS + AROUND, RADIUS + AROUND + 2.0, RADIUS)
    shown = readings.on_net
    statistics = statistics_of(readings)
    at: Floats = np.full((len(readings), 2), np.nan)
    if sector is not None:
        items = rose_ink(rose(readings.azimuth, sector), DENSE, frame)
    else:
        colours = readings.colours(project.units_by_code())
        items = net_ink(readings, colours, statistics, look, frame)
        at[shown] = frame.at(projected(readings.axes[shown], look.projection))
    return NetView(tuple(items), frame, readings, at, statistics, tuple(reading_kinds(points)))


def lie_along_girdle(found: NetView) -> bool:
    """Whether readings are planes whose poles lie along a girdle, as around a fold."""
    statistics = found.statistics
    planar = found.readings.planar[found.readings.on_net]
    return statistics is not None and statistics.count > 2 and statistics.shape < 1 and bool(planar.all())


def axis_reading(found: NetView, scale: int) -> FeatureEdit:
    """The axis of the best girdle as a reading on the map, in the middle of what it is of; its note says so.

    Raises
    ------
    FeatureRefused
        The readings lie along no girdle.
    """
    statistics = found.statistics
    if statistics is None or not lie_along_girdle(found):
        raise FeatureRefused("These readings lie along no girdle of planes; choose those of one fold.")
    trend, plunge = (round(v) for v in statistics.girdle_axis)
    place = found.readings.places[found.readings.on_net].mean(axis=0)
    reading = Feature(
        "points",
        shapely.Point(place),
        AXIS_OF_FOLDS,
        azimuth=float(trend % 360),
        inclination=float(plunge),
        capture_scale=scale,
        note=f"Axis of the best girdle of {statistics.count} poles.",
    )
    return FeatureEdit(f"measure a fold axis {plunge}/{three_figures(trend % 360)}", [reading])
