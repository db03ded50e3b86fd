"""Strike, dip, dip direction and quadrant as the columns of a table state them, reconciled by one rule.

A strike is read by the right-hand rule only where nothing else says to which side the plane dips. Where a dip
direction or a quadrant stands beside it, that decides; where the two cannot both be right, the row is refused.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from orvik.core.errors import ReadingRefused
from orvik.core.features.attitude import QUARTER, Attitude, apart, right_hand_strike, three_figures
from orvik.core.features.kind import kind_of
from orvik.core.features.reading import parse_bearing, parse_dip, parse_reading, parse_strike

# How far a stated dip direction may be from a right angle to the strike: the care that a compass is read with.
SLACK_DEGREES = 5.0


@dataclass(frozen=True)
class Stated:
    """What the columns of one row hold, as texts; empty where a column is not there."""

    strike: str = ""
    dip: str = ""
    direction: str = ""
    quadrant: str = ""
    # The whole of it in one column, such as 350/60.
    reading: str = ""

    @property
    def anything(self) -> bool:
        return any((self.strike, self.dip, self.direction, self.quadrant, self.reading))


def reconciled(stated: Stated, kind: str) -> Attitude | None:
    """The attitude that a row states; None where it states none.

    Parameters
    ----------
    stated
        Of a lineation, the strike is its trend and the dip its plunge.
    kind
        The kind of point.

    Raises
    ------
    ReadingRefused
        A figure cannot be, something is missing, or two columns contradict each other.
    """
    if not stated.anything:
        return None
    if stated.reading:
        return _whole(stated, kind)
    if not stated.dip and kind_of(kind).reading in ("strike", "trend"):
        # Which way it points is the same however steep it is.
        made = reconciled(replace(stated, dip="45"), kind)
        return replace(made, inclination=None) if made is not None else None
    if not stated.dip:
        raise ReadingRefused("It has a direction but no dip; fill in the dip, or leave both empty.")
    inclination, letters = parse_dip(stated.dip)
    sides = [parse_bearing(text) for text in (stated.direction, stated.quadrant, letters) if text]
    if kind_of(kind).linear:
        return _line(stated, inclination, sides)
    if not stated.strike:
        return _by_direction(inclination, sides)
    strike, directed = parse_strike(stated.strike)
    if not sides:
        if not directed and inclination not in (0.0, 90.0):
            raise ReadingRefused(
                f"A strike of {stated.strike.strip()} does not say to which side the plane dips; "
                "add a dip direction or a quadrant."
            )
        return Attitude(strike, inclination)
    if inclination == 0.0:
        return Attitude(strike, inclination)
    held = {right_hand_strike(strike, side, QUARTER if wide else SLACK_DEGREES) for side, wide in sides}
    if len(held) != 1 or None in held:
        words = " and ".join(text for text in (stated.direction, stated.quadrant, letters) if text)
        one, two = three_figures((strike + 90) % 360), three_figures((strike + 270) % 360)
        raise ReadingRefused(
            f"A plane that strikes {three_figures(strike)} dips to {one} or {two}, and not to {words}; check the row."
        )
    way = held.pop()
    assert way is not None
    return Attitude(way, inclination)


def _whole(stated: Stated, kind: str) -> Attitude:
    """A reading that stands in one column, and that no other contradicts."""
    attitude = parse_reading(stated.reading, kind=kind)
    down = attitude.azimuth if attitude.linear else attitude.dip_direction
    level = attitude.inclination in (None, 0.0)
    sides = [] if level else [parse_bearing(text) for text in (stated.direction, stated.quadrant) if text]
    wrong = any(apart(down, side) > (QUARTER if wide else SLACK_DEGREES) for side, wide in sides)
    if stated.strike:
        strike = parse_strike(stated.strike)[0]
        wrong |= min(apart(strike, end) for end in (attitude.azimuth, attitude.azimuth + 180)) > SLACK_DEGREES
    if stated.dip and attitude.inclination is not None:
        wrong |= abs(parse_dip(stated.dip)[0] - attitude.inclination) > SLACK_DEGREES
    if wrong:
        raise ReadingRefused(f"The reading {attitude.text} and another column say two things; check the row.")
    return attitude


def _by_direction(inclination: float, sides: list[tuple[float, bool]]) -> Attitude:
    exact = [side for side, wide in sides if not wide]
    if not exact:
        if inclination == 0.0:
            return Attitude(0.0, 0.0)
        raise ReadingRefused("It has a dip but no strike; type the strike, or the dip direction in degrees.")
    towards = exact[0]
    if any(apart(towards, side) > (QUARTER if wide else SLACK_DEGREES) for side, wide in sides):
        raise ReadingRefused(f"It dips to {three_figures(towards)}, and another column says otherwise; check the row.")
    return Attitude((towards - 90) % 360, inclination)


def _line(stated: Stated, plunge: float, sides: list[tuple[float, bool]]) -> Attitude:
    """A line: its trend goes down, unless another column says that it is the other end."""
    if not stated.strike:
        exact = [side for side, wide in sides if not wide]
        if not exact:
            raise ReadingRefused("It has a plunge but no trend; type the trend in degrees.")
        return Attitude(exact[0], plunge, True)
    trend = parse_strike(stated.strike)[0]
    ends = {
        next(
            (end for end in (trend, (trend + 180) % 360) if apart(end, side) <= (QUARTER if wide else SLACK_DEGREES)),
            None,
        )
        for side, wide in sides
    }
    if None in ends or len(ends) > 1:
        raise ReadingRefused(
            f"A line that trends {three_figures(trend)} cannot plunge as another column says; check the row."
        )
    return Attitude(ends.pop() if ends else trend, plunge, True)  # type: ignore[arg-type]
