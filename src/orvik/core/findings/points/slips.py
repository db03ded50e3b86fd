"""Readings that agree with those around once a slip of the pen is undone: exchanged, turned, from the other end."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints
from orvik.core.features.kind import OVERTURNED, kind_of, kind_words
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding, Fix
from orvik.core.findings.points.neighbours import LEAST, Around, angles, around, lines, poles
from orvik.core.findings.rule import rule

rule(
    "attitude_slip",
    "warning",
    "linework",
    "A reading is off its neighbours and agrees with them once it is exchanged or turned",
    features=("kind", "azimuth", "inclination"),
    why="one slip of the pen tips the beds the other way",
)
rule(
    "odd_reading",
    "warning",
    "linework",
    "A foliation or a lineation lies across those around, which agree",
    features=("kind", "azimuth", "inclination"),
    why="a wrong number looks like a fold that is not there",
)
rule(
    "lone_overturned",
    "warning",
    "linework",
    "One overturned reading stands among upright ones",
    features=("kind", "azimuth", "inclination"),
    why="an overturned bed turns the order of the rocks about",
)

# A reading is off its neighbours that lies so many degrees off their mean, and further than they spread.
OFF, SPREADS = 30.0, 2.0
# Once the slip is undone it agrees within so many degrees, and within such a share of what it was off.
AGREES, SHARE = 15.0, 0.4
LEVEL = 10.0
# A foliation or a lineation is odd from so many degrees on.
ODD = 50.0


def slips(ground: CheckInput) -> list[Finding]:
    """What there is to say of readings against those around, group by group."""
    out: list[Finding] = []
    for rows, axial, linear in _groups(ground):
        out += _of_group(ground, rows, axial, linear)
    return [*out, *_lone_overturned(ground)]


def _groups(ground: CheckInput) -> Iterator[tuple[Ints, bool, bool]]:
    """Rows of readings that can be compared: beds, and others each with their kind; whether as axes, and as lines."""
    columns = ground.points.columns
    by: dict[str, list[int]] = defaultdict(list)
    for row in ground.readings.tolist():
        if columns["azimuth"][row] is None or columns["inclination"][row] is None:
            continue
        kind = kind_of(columns["kind"][row])
        if kind.upright:
            by[""].append(row)
        elif not kind.of_fault and kind.name != OVERTURNED:
            by[kind.name].append(row)
    for name, rows in by.items():
        if len(rows) > 2:
            kind = kind_of(name)
            yield np.array(rows, dtype=np.int64), bool(name), bool(name) and kind.linear


def _of_group(ground: CheckInput, rows: Ints, axial: bool, linear: bool) -> list[Finding]:
    columns = ground.points.columns
    azimuths = np.array([columns["azimuth"][row] for row in rows], dtype=float)
    inclinations = np.array([columns["inclination"][row] for row in rows], dtype=float)
    made = lines if linear else poles
    directions = made(azimuths, inclinations)
    held = around(ground, rows, directions, axial)
    off = angles(directions, held.mean, axial)
    odd = np.flatnonzero(held.agree & (off > OFF) & (off > SPREADS * held.spread))
    out = []
    for i in odd.tolist():
        best = _best(azimuths[i], inclinations[i], held.mean[i], axial, linear)
        if best is not None and best[0] <= min(AGREES, SHARE * off[i]):
            out.append(_slipped(ground, rows, i, held, float(off[i]), best, linear))
        elif axial and off[i] > ODD and held.count[i] >= LEAST:
            out.append(_odd(ground, rows, i, held, float(off[i]), linear))
    return out


_Best = tuple[float, str, float, float]


def _best(azimuth: float, inclination: float, mean: Floats, axial: bool, linear: bool) -> _Best | None:
    """The slip that would explain a reading best: how far it is then off, what it is, and the reading undone."""
    tried = [("read from the other end", azimuth + 180.0, inclination)]
    if azimuth <= 90:
        first, second = ("trend", "plunge") if linear else ("strike", "dip")
        tried.append((f"{first} and {second} exchanged", inclination, azimuth))
    if not linear:
        tried.append(("the direction of dip typed as the strike (turned by 90°)", azimuth - 90.0, inclination))
        tried.append(("turned by 90° the other way", azimuth + 90.0, inclination))
        # Of a vertical bed it would be level, which agrees with whatever lies flat.
        if LEVEL < inclination < 90.0 - LEVEL:
            tried.append(("the dip counted from the vertical", azimuth, 90.0 - inclination))
    tried.append(("east and west exchanged", -azimuth, inclination))
    made = lines if linear else poles
    found = []
    for what, turned, steep in tried:
        direction = made(np.array([turned % 360.0]), np.array([steep]))[0]
        found.append((float(angles(direction, mean, axial)), what, turned % 360.0, steep))
    return min(found, key=lambda one: one[0])


def _slipped(ground: CheckInput, rows: Ints, i: int, held: Around, off: float, best: _Best, linear: bool) -> Finding:
    row = int(rows[i])
    name, place, reading = _described(ground, row)
    left, what, azimuth, inclination = best
    instead = f"{round(azimuth) % 360:03d}/{round(inclination):02d}"
    few = " only" if held.count[i] < LEAST else ""
    first = "trend" if linear else "strike"
    message = (
        f"{name}, {reading}, lies {off:.0f}° off{few} {held.count[i]} readings around it; with {what}, as {instead}, "
        f"it agrees with them to {left:.0f}°. Look up its {first} in the notebook."
    )
    fix = Fix("read_as", f"Write {instead}", values={"azimuth": f"{azimuth:g}", "inclination": f"{inclination:g}"})
    return _finding(ground, "attitude_slip", message, rows, i, held, place, fix)


def _odd(ground: CheckInput, rows: Ints, i: int, held: Around, off: float, linear: bool) -> Finding:
    name, place, reading = _described(ground, int(rows[i]))
    what = "trend" if linear else "strike"
    message = (
        f"{name}, {reading}, lies {off:.0f}° off the {held.count[i]} readings of its kind around it, which agree to "
        f"{held.spread[i]:.0f}°; look at its {what} again."
    )
    return _finding(ground, "odd_reading", message, rows, i, held, place, None)


def _finding(
    ground: CheckInput,
    rule_name: str,
    message: str,
    rows: Ints,
    i: int,
    held: Around,
    place: tuple[float, float],
    fix: Fix | None,
) -> Finding:
    beside = sorted(int(ground.points.ids[rows[held.near[i, k]]]) for k in range(int(held.count[i])))
    key: FeatureKey = ("points", int(ground.points.ids[rows[i]]))
    return Finding(
        rule_name, "warning", message, place, (key,), fix, beside=tuple(("points", number) for number in beside)
    )


def _described(ground: CheckInput, row: int) -> tuple[str, tuple[float, float], str]:
    columns = ground.points.columns
    name = f"{kind_words(str(columns['kind'][row])).capitalize()} {ground.points.ids[row]}"
    x, y = shapely.get_coordinates(ground.points.geometries[row])[0].tolist()
    return name, (x, y), f"{round(columns['azimuth'][row]):03d}/{round(columns['inclination'][row]):02d}"


def _lone_overturned(ground: CheckInput) -> list[Finding]:
    """Overturned beds all of whose neighbours are upright and dip alike: a fold that turns one bed turns more."""
    columns = ground.points.columns
    turned = [r for r in ground.readings.tolist() if columns["kind"][r] == OVERTURNED]
    if not turned or len(ground.bedding) < LEAST:
        return []
    rows = np.concatenate([ground.bedding, np.array(turned, dtype=np.int64)])
    azimuths = np.array([columns["azimuth"][row] or 0.0 for row in rows], dtype=float)
    inclinations = np.array([columns["inclination"][row] or 0.0 for row in rows], dtype=float)
    held = around(ground, rows, poles(azimuths, inclinations), axial=True)
    out = []
    first = len(ground.bedding)
    for i in range(first, len(rows)):
        near = held.near[i, : held.count[i]]
        if held.count[i] < LEAST or (near >= first).any() or not held.agree[i]:
            continue
        name, place, reading = _described(ground, int(rows[i]))
        message = (
            f"{name}, {reading}, is the only overturned one among {held.count[i]} upright readings around it, which "
            f"agree to {held.spread[i]:.0f}°; is it upright?"
        )
        out.append(_finding(ground, "lone_overturned", message, rows, i, held, place, None))
    return out
