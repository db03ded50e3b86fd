"""A proposal that tells apart the colours that meet: as few of them moved as little as possible."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.colour.difference import ciede2000, from_lab, labs_by_sight, to_lab
from orvik.core.colour.hex import channels

# How far the hue of a moved colour may lie from that of its age on the chart, in degrees of the Lab plane.
HUE_REACH = 22.0
# Colours that are tried: how much lighter or darker, how much more or less coloured, in steps of Lab.
_LIGHTER = (0.0, -3.0, 3.0, -6.0, 6.0, -9.0, 9.0, -12.0, 12.0, -16.0, 16.0, -20.0, 20.0, -26.0)
_STRONGER = (0.0, -5.0, 5.0, -10.0, 10.0, -16.0, 16.0, 24.0, -24.0)
_HUES = (0.0, -6.0, 6.0, -12.0, 12.0, -18.0, 18.0, -22.0, 22.0)
# Tints stay light enough for linework and letters, and dark enough to be none of the paper.
_LIGHTEST, _DARKEST = 96.0, 45.0


@dataclass(frozen=True)
class Move:
    """One colour that is moved, and the least difference from any neighbour before and after."""

    unit: str
    old: str
    new: str
    before: float
    after: float


@dataclass(frozen=True)
class Proposal:
    """Colours moved; the least difference of any pair then; pairs that stay below what was wanted."""

    moves: tuple[Move, ...]
    least: float
    left: tuple[tuple[str, str], ...]


def propose(
    colours: Mapping[str, str],
    pairs: Sequence[tuple[str, str]],
    ages: Mapping[str, str],
    wanted: float,
    opacity: float = 1.0,
) -> Proposal:
    """New colours for some units, so that every pair differs as much as is wanted for every sight.

    Parameters
    ----------
    colours
        The units' colours by code.
    pairs
        The codes of units that touch.
    ages
        The chart's colour of each unit's age, where it has one; the hue of others is held where it is.
    wanted
        The least CIEDE2000 difference.
    opacity
        How strongly the weakest panel prints the units, 0 to 1.
    """
    if not pairs:
        return Proposal((), float("inf"), ())
    order = sorted(colours)
    number = {code: i for i, code in enumerate(order)}
    neighbours: list[list[int]] = [[] for _ in order]
    for one, other in sorted(set(map(_ordered, pairs))):
        neighbours[number[one]].append(number[other])
        neighbours[number[other]].append(number[one])
    now = np.array([channels(colours[code]) for code in order])
    tried = [_candidates(colours[code], ages.get(code)) for code in order]
    labs = labs_by_sight(_on_paper(now, opacity))
    search = _Search(labs.copy(), neighbours, [labs_by_sight(_on_paper(rgb, opacity)) for rgb, _ in tried])
    moved: dict[int, int] = {}
    for _ in range(2 * len(order)):
        near = {unit for unit in range(len(order)) if search.near(unit, wanted)}
        ranked = [(found, unit) for unit in sorted(near) if (found := search.best(unit, tried[unit][1], wanted))]
        if not ranked:
            break
        (_, _, choice), unit = min(ranked)
        moved[unit] = choice
        search.move(unit, search.tried[unit][choice])
    for unit in list(moved):
        # Moves that later ones have made needless are taken back.
        held = search.labs[unit].copy()
        least = search.least(unit)
        search.move(unit, labs[unit])
        if search.least(unit) >= min(least, wanted):
            del moved[unit]
        else:
            search.move(unit, held)
    moves = tuple(
        Move(
            order[unit],
            colours[order[unit]],
            _hex(tried[unit][0][choice]),
            min((_difference(labs[unit], labs[other]) for other in neighbours[unit]), default=np.inf),
            search.least(unit),
        )
        for unit, choice in sorted(moved.items())
    )
    final = [(pair, _difference(search.labs[number[pair[0]]], search.labs[number[pair[1]]])) for pair in pairs]
    left = tuple(sorted({_ordered(pair) for pair, difference in final if difference < wanted}))
    return Proposal(moves, min(difference for _, difference in final), left)


class _Search:
    """What each unit's neighbours look like from its own colour and from those that are tried for it."""

    def __init__(self, labs: Floats, neighbours: list[list[int]], tried: list[Floats]) -> None:
        self.labs = labs
        self.neighbours = neighbours
        self.tried = tried
        # For each unit: of every candidate, the least difference over all sights from every neighbour.
        self.apart = [
            ciede2000(candidates[:, None], labs[others][None]).min(axis=2)
            for candidates, others in zip(tried, neighbours, strict=True)
        ]

    def least(self, unit: int) -> float:
        """The least difference of a unit from any neighbour."""
        return float(self._own(unit).min(initial=np.inf))

    def near(self, unit: int, wanted: float) -> int:
        """How many neighbours are nearer than is wanted."""
        return int((self._own(unit) < wanted).sum())

    def move(self, unit: int, lab: Floats) -> None:
        """Give a unit another colour."""
        self.labs[unit] = lab
        for other in self.neighbours[unit]:
            column = self.neighbours[other].index(unit)
            self.apart[other][:, column] = ciede2000(self.tried[other], lab[None]).min(axis=1)

    def best(self, unit: int, far: Floats, wanted: float) -> tuple[float, float, int] | None:
        """The candidate that leaves the fewest neighbours too near, moved least: minus how many it gains, how far it
        is, and its number; None where none gains any."""
        apart = self.apart[unit]
        if not len(apart):
            return None
        gained = self.near(unit, wanted) - (apart < wanted).sum(axis=1)
        choice = int(np.lexsort([far, -np.minimum(apart.min(axis=1), wanted), -gained])[0])
        return (-float(gained[choice]), float(far[choice]), choice) if gained[choice] > 0 else None

    def _own(self, unit: int) -> Floats:
        out: Floats = ciede2000(self.labs[unit][None], self.labs[self.neighbours[unit]]).min(axis=1)
        return out


def _candidates(colour: str, age: str | None) -> tuple[Floats, Floats]:
    """Colours to try instead of one, the nearest first, with how far each is from it."""
    lightness, a, b = to_lab(np.array(channels(colour)))
    chroma, hue = np.hypot(a, b), np.degrees(np.arctan2(b, a))
    home = hue
    if age is not None:
        _, age_a, age_b = to_lab(np.array(channels(age)))
        home = np.degrees(np.arctan2(age_b, age_a))
    mesh = np.meshgrid(_LIGHTER, _STRONGER, _HUES, indexing="ij")
    light, strong, turn = (axis.ravel() for axis in mesh)
    light, strong = lightness + light, np.maximum(chroma + strong, 2.0)
    # Round the present hue where that is near enough to the age's, else round the age's own.
    near = abs((hue - home + 180) % 360 - 180) <= HUE_REACH
    hues = (hue if near else home) + turn
    within = np.abs((hues - home + 180) % 360 - 180) <= HUE_REACH + 1e-9
    angle = np.radians(hues)
    lab = np.column_stack([light, strong * np.cos(angle), strong * np.sin(angle)])
    rgb = from_lab(lab)
    fits = within & (rgb >= 0).all(axis=1) & (rgb <= 1).all(axis=1) & (light <= _LIGHTEST) & (light >= _DARKEST)
    # What is kept is whole steps of 255: what is tried is that.
    rgb = np.rint(rgb[fits] * 255) / 255
    far = ciede2000(to_lab(rgb), np.array([lightness, a, b]))
    order = np.argsort(far, kind="stable")
    return rgb[order], far[order]


def _ordered(pair: tuple[str, str]) -> tuple[str, str]:
    return (min(pair), max(pair))


def _difference(one: Floats, other: Floats) -> float:
    return float(ciede2000(one, other).min())


def _on_paper(rgb: Floats, opacity: float) -> Floats:
    out: Floats = rgb * opacity + (1 - opacity)
    return out


def _hex(rgb: Floats) -> str:
    return "#" + "".join(f"{round(255 * float(value)):02X}" for value in rgb)
