"""A net and a rose as ink: what a panel shows beside the map and what a sheet prints are the same."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np

from orvik.core.arrays import Floats, Ints
from orvik.core.colour.hex import mixed
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Group, Item, LineStyle, Marks, Stamp, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.structure.axes import AxialStatistics
from orvik.core.structure.density import density_grid
from orvik.core.structure.net import Projection, great_circle, projected, small_circle
from orvik.core.structure.readings import NetReadings
from orvik.core.structure.rose import Rose

RIM = LineStyle(0.25, INK)
THIN = LineStyle(0.12, INK)
CIRCLE = LineStyle(0.1, INK)
GIRDLE = LineStyle(0.3, "#A33B20", (1.6, 0.8))
# The tone of the densest ground, and as many bands as the eye tells apart.
DENSE = "#5E8F8B"
MOST_BANDS = 5
# Poles are dots of this radius, lines squares of as large a ground, in millimetres.
DOT = 0.65
# Above so many readings each great circle is one of a crowd that says nothing.
MOST_CIRCLES = 150
# Of more poles than this only one in so many is drawn, which says so; density and figures are of all.
MOST_POLES = 10_000


@dataclass(frozen=True)
class NetLook:
    """What a net shows.

    Attributes
    ----------
    poles, circles, density, statistics
        Poles and lines; the great circles of planes; bands of density; the best girdle with its axis, or the mean.
    """

    projection: Projection = "equal_area"
    poles: bool = True
    circles: bool = False
    density: bool = True
    statistics: bool = True


@dataclass(frozen=True)
class Frame:
    """Where a net stands: its middle and its radius, in millimetres, y downwards."""

    x: float
    y: float
    radius: float

    def at(self, places: Floats) -> Floats:
        """Places of a net of radius 1, north up, on the page."""
        return np.asarray(places * [self.radius, -self.radius] + [self.x, self.y])


def every(count: int) -> int:
    """Which pole of so many is drawn: each, or one in so many."""
    return -(-count // MOST_POLES) if count > MOST_POLES else 1


def net_ink(
    readings: NetReadings, colours: Sequence[str], statistics: AxialStatistics | None, look: NetLook, frame: Frame
) -> list[Item]:
    """A net of readings.

    Parameters
    ----------
    colours
        Of each reading.
    statistics
        Of those readings that have a place on the net; None where there are none.
    """
    shown = readings.on_net
    axes = readings.axes[shown]
    items: list[Item] = []
    if look.density and len(axes) > 1:
        items += _density(axes, look.projection, frame)
    if look.circles:
        planes = axes[readings.planar[shown]][:MOST_CIRCLES]
        items += [Stroke(CIRCLE, Paths.of(*(frame.at(great_circle(pole, look.projection)) for pole in planes)))]
    items += _rim(frame)
    if look.poles and len(axes):
        step = every(len(axes))
        places = frame.at(projected(axes[::step], look.projection))
        shades = [colour for colour, on in zip(colours, shown.tolist(), strict=True) if on][::step]
        items += _dots(places, shades, readings.planar[shown][::step].tolist())
    if look.statistics and statistics is not None:
        items += _statistics(statistics, look.projection, frame)
    return items


def rose_ink(rose: Rose, colour: str, frame: Frame) -> list[Item]:
    """A rose of directions; the longest petal reaches the rim."""
    petals = [frame.at(petal) for petal in rose.petals()]
    items = _rim(frame)
    if petals:
        items.append(Fill(colour, Paths.of(*petals), np.arange(len(petals) + 1)))
        items.append(Stroke(THIN, Paths.of(*petals)))
    return items


def count_ink(words: str, frame: Frame, size: float) -> Item:
    """How many readings a net or a rose shows, below it."""
    return Text(run(words, ITALIC, size, "centre"), (frame.x, frame.y + frame.radius + 1.6 + cap_height(size)), INK)


def _rim(frame: Frame) -> list[Item]:
    turn = np.linspace(0, 2 * np.pi, 181)
    circle = frame.at(np.column_stack([np.sin(turn), np.cos(turn)]))
    tens = np.radians(np.arange(0, 360, 10))
    out = np.column_stack([np.sin(tens), np.cos(tens)])
    ticks = [np.vstack([frame.at(at[None]), frame.at(at[None] * (1 + 1.0 / frame.radius))]) for at in out]
    size = max(2.0, frame.radius / 9)
    letter = Text(run("N", ROMAN, size, "centre"), (frame.x, frame.y - frame.radius - 1.6), INK)
    middle = 0.8
    cross = [
        [(frame.x - middle, frame.y), (frame.x + middle, frame.y)],
        [(frame.x, frame.y - middle), (frame.x, frame.y + middle)],
    ]
    return [Stroke(RIM, Paths.of(circle)), Stroke(THIN, Paths.of(*ticks, *cross)), letter]


def _density(axes: Floats, projection: Projection, frame: Frame) -> list[Item]:
    import contourpy

    across, found = density_grid(axes, projection)
    most = float(np.nanmax(found))
    # Even steps of two standard deviations or a multiple of that.
    step = 2.0 * max(1, int(np.ceil(most / 2 / (MOST_BANDS + 1))))
    levels = [step * (i + 1) for i in range(MOST_BANDS) if step * (i + 1) < most]
    generator = contourpy.contour_generator(
        across, across, np.ma.masked_invalid(found), fill_type=contourpy.FillType.OuterOffset
    )
    bands: list[Item] = []
    for i, level in enumerate(levels):
        places, offsets = cast("tuple[list[Floats], list[Ints]]", generator.filled(level, np.inf))
        if not places:
            continue
        rings = [ring for xy, cut in zip(places, offsets, strict=True) for ring in np.split(xy, cut[1:-1])]
        parts = np.concatenate([[0], np.cumsum([len(cut) - 1 for cut in offsets])])
        shade = mixed(DENSE, "#FFFFFF", (i + 1) / (len(levels) + 0.5))
        bands.append(Fill(shade, Paths.of(*(frame.at(ring) for ring in rings)), parts.astype(np.int64)))
    turn = np.linspace(0, 2 * np.pi, 181)
    rim = Paths.of(frame.at(np.column_stack([np.sin(turn), np.cos(turn)])))
    return [Group("density", tuple(bands), clip=rim)] if bands else []


def _dots(places: Floats, colours: Sequence[str], planar: Sequence[bool]) -> list[Item]:
    turn = np.linspace(0, 2 * np.pi, 17)
    dot = DOT * np.column_stack([np.sin(turn), np.cos(turn)])
    half = DOT * np.sqrt(np.pi) / 2
    square = half * np.array([(-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1)])
    shades, shade = np.unique(np.array(colours), return_inverse=True)
    looks = 2 * shade + np.array(planar, dtype=np.int64)
    items: list[Item] = []
    for look in np.unique(looks).tolist():
        colour, plane, rows = str(shades[look // 2]), bool(look % 2), np.flatnonzero(looks == look)
        outline = Paths.of(dot if plane else square)
        stamp = Stamp(
            f"{'pole' if plane else 'line'} {colour}", (Fill(colour, outline, np.array([0, 1])), Stroke(THIN, outline))
        )
        items.append(Marks(stamp, places[rows], np.zeros(len(rows)), upright=True))
    return items


def _statistics(found: AxialStatistics, projection: Projection, frame: Frame) -> list[Item]:
    turn = np.linspace(0, 2 * np.pi, 25)
    ring = 1.3 * np.column_stack([np.sin(turn), np.cos(turn)])
    if found.cone is not None:
        mean = found.eigenvectors[0]
        cone = [frame.at(part) for part in small_circle(mean, found.cone, projection)]
        at = frame.at(projected(mean[None], projection))
        return [Stroke(LineStyle(0.3, GIRDLE.colour), Paths.of(ring + at, *cone))]
    if found.count < 2 or found.shape >= 1:
        return []
    axis = found.eigenvectors[2]
    at = frame.at(projected(axis[None], projection))
    circle = frame.at(great_circle(axis, projection))
    return [Stroke(GIRDLE, Paths.of(circle)), Stroke(LineStyle(0.3, GIRDLE.colour), Paths.of(ring + at))]
