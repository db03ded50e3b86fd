"""The invented rock in three dimensions: what lies at a place, and how it lies there.

One model from a seed: beds of given thickness on gneiss, folded about an axis that plunges gently, cut and moved by two
normal faults, with dykes and a thrust as sheets. Contacts on the map are where the model meets the ground, readings are
the model's, and what a section shows is the model below its line; so all of them agree.

Places are ``u`` along the strike from the middle of the island (to the north-east), ``v`` across it (to the north-west)
and ``z`` up, in metres. Beds are folded in parallel: what lies above their base lies so far from it at right angles
(common practice; as the construction of Busk 1929, Earth Flexures, has it: from memory), so that thickness is the same
wherever one measures it, but for the gentle meander of the axis (2 % at the most).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Flags, Floats, Ints

SEED = 20_260_401
BORDER = (509_750.0, 6_799_750.0, 516_750.0, 6_805_250.0)
CENTRE = (513_400.0, 6_802_300.0)
# Direction in which the beds strike on the grid, in degrees from north.
STRIKE = 52.0
BASEMENT = "pCg"
# Beds from the oldest upwards and how thick each is in metres; the last has no top on the island.
BEDS = (("Jc", 140.0), ("Jh", 380.0), ("Kw", 260.0), ("Kp", np.inf))
# How far above the base of the siltstone its shell bed lies, in metres.
SHELL_BED = 150.0


def waves(rng: np.random.Generator, count: int, longest: float, fall: float) -> Callable[[Floats], Floats]:
    """A smooth random curve: ``count`` waves from ``longest`` downwards, each weaker by ``fall``."""
    phases = rng.uniform(0, 2 * np.pi, count)

    def curve(t: Floats) -> Floats:
        return np.asarray(sum(fall**k * np.sin(2 * np.pi * t * (k + 1) / longest + phases[k]) for k in range(count)))

    return curve


def in_strike(xy: Floats) -> tuple[Floats, Floats]:
    """Along and across the strike, from the middle of the island; across grows to the north-west."""
    angle = np.radians(STRIKE)
    dx, dy = xy[..., 0] - CENTRE[0], xy[..., 1] - CENTRE[1]
    return dx * np.sin(angle) + dy * np.cos(angle), -dx * np.cos(angle) + dy * np.sin(angle)


def along_strike(u: Floats, v: Floats) -> Floats:
    """Places so far along and across the strike, from the middle of the island."""
    angle = np.radians(STRIKE)
    x = CENTRE[0] + u * np.sin(angle) - v * np.cos(angle)
    y = CENTRE[1] + u * np.cos(angle) + v * np.sin(angle)
    return np.column_stack([x, y])


@dataclass(frozen=True)
class Bend:
    """A piece of the base of the beds, looked at along the axis: an arc, or straight where it has no radius.

    Attributes
    ----------
    v, z
        Where it begins.
    begins, ends
        How steeply it rises towards the north-west there, in radians.
    radius
        In metres; positive with its middle above (a trough), negative with its middle below (a crest), 0 straight.
    length
        Of a straight piece, in metres.
    """

    v: float
    z: float
    begins: float
    ends: float
    radius: float
    length: float

    @property
    def end(self) -> tuple[float, float]:
        """Where it ends."""
        if not self.radius:
            return self.v + self.length * np.cos(self.begins), self.z + self.length * np.sin(self.begins)
        v = self.v + self.radius * (np.sin(self.ends) - np.sin(self.begins))
        return v, self.z - self.radius * (np.cos(self.ends) - np.cos(self.begins))

    def above(self, v: Floats, z: Floats) -> tuple[Floats, Floats]:
        """How far places lie above it, at right angles, and how it rises there; infinitely far beside it."""
        if not self.radius:
            along = (v - self.v) * np.cos(self.begins) + (z - self.z) * np.sin(self.begins)
            up = -(v - self.v) * np.sin(self.begins) + (z - self.z) * np.cos(self.begins)
            beside = (along < -1e-6) | (along > self.length + 1e-6)
            return np.where(beside, np.inf, up), np.full(v.shape, self.begins)
        side = np.sign(self.radius)
        middle_v = self.v - self.radius * np.sin(self.begins)
        middle_z = self.z + self.radius * np.cos(self.begins)
        dv, dz = v - middle_v, z - middle_z
        rises = np.arctan2(side * dv, -side * dz)
        low, high = min(self.begins, self.ends), max(self.begins, self.ends)
        beside = (rises < low - 1e-9) | (rises > high + 1e-9)
        return np.where(beside, np.inf, side * (abs(self.radius) - np.hypot(dv, dz))), rises


@dataclass(frozen=True)
class Fold:
    """The base of the beds: a trough in the south-east, an arch, and a trough in the north-west."""

    bends: tuple[Bend, ...]
    crest: float
    trough: float
    plunge: float
    meander: Callable[[Floats], Floats]

    def above_base(self, u: Floats, v: Floats, z: Floats) -> tuple[Floats, Floats]:
        """How far places lie above the base of the beds, and how these rise there towards the north-west (radians)."""
        v, z = v - self.meander(u), z + u * np.tan(self.plunge)
        distance, rises = np.full(v.shape, np.inf), np.zeros(v.shape)
        for bend in self.bends:
            here, slope = bend.above(v, z)
            nearer = np.abs(here) < np.abs(distance)
            distance, rises = np.where(nearer, here, distance), np.where(nearer, slope, rises)
        return distance, rises

    def up(self, u: Floats, v: Floats, z: Floats) -> Floats:
        """Upwards at right angles to the beds (n, 3), along u, v and z; of length 1."""
        _, rises = self.above_base(u, v, z)
        drift = (self.meander(u + 0.5) - self.meander(u - 0.5)) * np.sin(rises)
        normal = np.stack([drift + np.cos(rises) * np.tan(self.plunge), -np.sin(rises), np.cos(rises)], axis=-1)
        return np.asarray(normal / np.linalg.norm(normal, axis=-1, keepdims=True))


@dataclass(frozen=True)
class FaultSheet:
    """A normal fault across the strike: what lies on the side that it dips to has slid straight down it.

    Attributes
    ----------
    u, lean
        Where it crosses the middle of the island, and how it leans from straight across, in degrees.
    dip
        In degrees, towards ``side``: 1 to the north-east, -1 to the south-west.
    throw
        How much lower the rock lies on that side, in metres.
    """

    u: float
    lean: float
    dip: float
    side: int
    throw: float
    wave: Callable[[Floats], Floats]

    def beyond(self, u: Floats, v: Floats, z: Floats) -> Floats:
        """How far places lie to the north-east of it, along u."""
        course = self.u + np.tan(np.radians(self.lean)) * v + 70 * self.wave(v)
        return np.asarray(u - course + self.side * z / np.tan(np.radians(self.dip)))

    @property
    def slid(self) -> tuple[float, float]:
        """What slid went so far along u, and so far up."""
        return self.side * self.throw / float(np.tan(np.radians(self.dip))), -self.throw

    def up(self, v: float) -> Floats:
        """Upwards at right angles to it where it crosses the ground, along u, v and z; of length 1."""
        turn = np.tan(np.radians(self.lean)) + 70 * float(self.wave(np.array(v + 0.5)) - self.wave(np.array(v - 0.5)))
        normal = np.array([self.side, -self.side * turn, 1 / np.tan(np.radians(self.dip))])
        return np.asarray(normal / np.linalg.norm(normal))


@dataclass(frozen=True)
class Sheet:
    """A sheet of rock, or a thrust: a plane with gentle bends.

    Attributes
    ----------
    at
        A place on it: easting, northing and up.
    strike, dip
        On the grid by the right-hand rule, in degrees.
    wave
        How far it is out of its plane along its strike, in metres.
    reach
        From where to where along its strike it is seen, from the place, in metres.
    """

    at: tuple[float, float, float]
    strike: float
    dip: float
    reach: tuple[float, float]
    wave: Callable[[Floats], Floats]

    def along(self, xy: Floats) -> Floats:
        """How far along its strike places lie."""
        strike = np.radians(self.strike)
        return np.asarray((xy[..., 0] - self.at[0]) * np.sin(strike) + (xy[..., 1] - self.at[1]) * np.cos(strike))

    def above(self, xy: Floats, z: Floats) -> Floats:
        """How far places lie above it, about at right angles."""
        towards, dip = np.radians(self.strike + 90), np.radians(self.dip)
        across = (xy[..., 0] - self.at[0]) * np.sin(towards) + (xy[..., 1] - self.at[1]) * np.cos(towards)
        return np.asarray((across - self.wave(self.along(xy))) * np.sin(dip) + (z - self.at[2]) * np.cos(dip))


@dataclass(frozen=True)
class Rock:
    """The whole model."""

    fold: Fold
    faults: tuple[FaultSheet, ...]
    dykes: tuple[Sheet, ...]
    thin_sheet: Sheet
    thrust: Sheet
    shear_zone: Sheet

    @property
    def floors(self) -> tuple[tuple[str, float], ...]:
        """Each bed with how far its foot lies above the base of all, in metres, the oldest first."""
        feet = np.cumsum([0.0, *(thick for _, thick in BEDS[:-1])])
        return tuple((code, float(foot)) for (code, _), foot in zip(BEDS, feet, strict=True))

    def block(self, xy: Floats, z: Floats) -> Ints:
        """Between which faults places lie, counted from the south-west."""
        u, v = in_strike(xy)
        return np.asarray(sum((fault.beyond(u, v, z) > 0).astype(np.int64) for fault in self.faults))

    def slid(self, block: int) -> tuple[float, float]:
        """How far a block went along u and up; the middle one stayed."""
        west, east = self.faults
        stayed = (0.0, 0.0)
        return (west.slid if west.side < 0 else stayed, stayed, east.slid if east.side > 0 else stayed)[block]

    def above_base(self, xy: Floats, z: Floats, block: int) -> Floats:
        """How far places would lie above the base of the beds if they were of a block."""
        u, v = in_strike(xy)
        along, up = self.slid(block)
        return self.fold.above_base(u - along, v, z - up)[0]

    def unit(self, xy: Floats, z: Floats, block: int | None = None) -> np.ndarray[tuple[int, ...], np.dtype[np.str_]]:
        """The bedrock at places: the code of its unit."""
        blocks = self.block(xy, z) if block is None else np.full(z.shape, block)
        out = np.full(z.shape, BASEMENT, dtype="<U3")
        for number in np.unique(blocks).tolist():
            inside: Flags = blocks == number
            above = self.above_base(xy[inside], z[inside], int(number))
            codes = np.full(above.shape, BASEMENT, dtype="<U3")
            for code, foot in self.floors:
                codes[above >= foot] = code
            out[inside] = codes
        return out

    def bedding(self, x: float, y: float, z: float) -> tuple[float, float]:
        """Strike on the grid by the right-hand rule and dip of the beds at a place, in degrees."""
        xy, height = np.array([[x, y]]), np.array([z])
        u, v = in_strike(xy)
        along, up = self.slid(int(self.block(xy, height)[0]))
        return attitude(self.fold.up(u - along, v, height - up)[0])


def attitude(normal: Floats) -> tuple[float, float]:
    """Strike on the grid by the right-hand rule and dip of a plane whose normal is given along u, v and z."""
    along, across, up = normal if normal[2] >= 0 else -normal
    angle = np.radians(STRIKE)
    east = along * np.sin(angle) - across * np.cos(angle)
    north = along * np.cos(angle) + across * np.sin(angle)
    towards = np.degrees(np.arctan2(east, north))
    return float(towards - 90) % 360, float(np.degrees(np.arctan2(np.hypot(east, north), up)))


def shaken(strike: float, dip: float, rng: np.random.Generator, spread: float = 2.0) -> tuple[float, float]:
    """A reading of a plane: its pole out by a few degrees any way, and written in whole degrees.

    Parameters
    ----------
    spread
        Standard deviation of the pole on each of two ways at right angles, in degrees.
    """
    towards, slope = np.radians(strike + 90), np.radians(dip)
    pole = np.array([np.sin(slope) * np.sin(towards), np.sin(slope) * np.cos(towards), np.cos(slope)])
    pole = pole + np.tan(np.radians(spread)) * rng.normal(size=3)
    pole /= np.linalg.norm(pole)
    if pole[2] < 0:
        pole = -pole
    read = np.degrees(np.arctan2(pole[0], pole[1])) - 90
    return float(round(float(read)) % 360), float(round(float(np.degrees(np.arccos(pole[2])))))


def rock(seed: int = SEED) -> Rock:
    """Make the model, or another one from another seed; always the same from the same one."""
    rng = np.random.default_rng(seed + 40)

    def about(value: float, spread: float) -> float:
        return value + (0.0 if seed == SEED else float(rng.uniform(-spread, spread)))

    rises, falls = np.radians(about(35.0, 4.0)), -np.radians(about(40.0, 4.0))
    crest = about(40.0, 80.0)
    fold = _fold(rng, rises, falls, crest, about(505.0, 25.0), np.radians(about(3.0, 0.8)))
    quiet = waves(rng, 4, 5200.0, 0.5)
    faults = (
        FaultSheet(about(-900.0, 150.0), 12.0, about(71.0, 5.0), -1, about(90.0, 30.0), quiet),
        FaultSheet(about(1450.0, 150.0), -8.0, about(63.0, 5.0), 1, about(120.0, 40.0), waves(rng, 4, 5200.0, 0.5)),
    )
    dykes = tuple(
        Sheet((x, y, 0.0), strike, dip, reach, _bends(rng, size))
        for x, y, strike, dip, reach, size in (
            (512_700.0, 6_802_200.0, 92.0, 82.0, (-2230.0, 2260.0), 18.0),
            (511_900.0, 6_801_900.0, 93.0, 84.0, (-1700.0, 2800.0), 14.0),
            (513_600.0, 6_802_620.0, 91.0, 83.0, (-1900.0, 2250.0), 14.0),
        )
    )
    level = waves(rng, 2, 900.0, 0.5)
    return Rock(
        fold,
        faults,
        dykes,
        Sheet((513_600.0, 6_801_050.0, 90.0), 104.0, 34.0, (-480.0, 520.0), lambda t: 5 * level(t)),
        _sheet_along(-330.0, 0.0, 46.0, (-2300.0, 2300.0), _bends(rng, 12.0)),
        _sheet_along(480.0, 180.0, 74.0, (-2300.0, 2300.0), _bends(rng, 12.0)),
    )


def _bends(rng: np.random.Generator, size: float) -> Callable[[Floats], Floats]:
    """Gentle bends of a sheet along its strike, so many metres out of its plane."""
    wave = waves(rng, 4, 3800.0, 0.55)

    def out(t: Floats) -> Floats:
        return size * wave(t)

    return out


def _sheet_along(
    v: float, turn: float, dip: float, reach: tuple[float, float], wave: Callable[[Floats], Floats]
) -> Sheet:
    """A sheet that strikes as the beds do, or the other way round, through a place across the strike."""
    x, y = along_strike(np.array([0.0]), np.array([v]))[0]
    return Sheet((float(x), float(y), 120.0), (STRIKE + turn) % 360, dip, reach, wave)


def _fold(rng: np.random.Generator, rises: float, falls: float, crest: float, high: float, plunge: float) -> Fold:
    """The base of the beds from its flanks' slopes (radians), the place of its crest across, and its height there."""
    # The arch is built from its crest both ways, so that its place and height are as asked.
    crest_radius, trough_radius = -700.0, 1800.0
    south = Bend(0.0, 0.0, rises, 0.0, crest_radius, 0.0)
    v, z = south.end
    start_v, start_z = crest - v, high - z
    flank = 1900.0
    foot_v, foot_z = start_v - flank * np.cos(rises), start_z - flank * np.sin(rises)
    trough = Bend(0.0, 0.0, 0.0, rises, 2500.0, 0.0)
    far_v, far_z = foot_v - trough.end[0], foot_z - trough.end[1]
    bends = [Bend(far_v - 4000.0, far_z, 0.0, 0.0, 0.0, 4000.0)]
    for ends, radius, length in (
        (rises, 2500.0, 0.0),
        (rises, 0.0, flank),
        (falls, crest_radius, 0.0),
        (falls, 0.0, 1320.0),
        (np.radians(14.0), trough_radius, 0.0),
        (np.radians(14.0), 0.0, 6000.0),
    ):
        last = bends[-1]
        bends.append(Bend(*last.end, last.ends, ends, radius, length))
    into = bends[5]
    trough_v = into.v - into.radius * np.sin(into.begins)
    wave = waves(rng, 3, 7000.0, 0.5)

    def meander(u: Floats) -> Floats:
        return 90 * wave(u)

    return Fold(tuple(bends), crest, float(trough_v), plunge, meander)
