"""A scale of ages down a page: true to time, or one step for each stretch of time in which something was laid down."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from orvik.core.features.age import Age, Span, chart

SCALES = {"ordinal": "a step for each time", "true": "true to time"}
# Below its beginning the chart is only divided where units are.
PHANEROZOIC = Age.of("Phanerozoic")
# What divides the Phanerozoic as far as a correlation shows it.
_COARSE = ("eon", "era", "period", "sub-period")
# How high time is of which there is nothing, in steps.
GAP = 0.45
# Ends that are nearer to one another than this, in millions of years, are one.
SAME = 1e-6


@dataclass(frozen=True)
class TimeScale:
    """Where ages stand.

    Attributes
    ----------
    ages
        In millions of years, the youngest first.
    steps
        How far below the head each of them stands.
    divisions
        The intervals of the chart that units fall into, the youngest first.
    """

    ages: tuple[float, ...]
    steps: tuple[float, ...]
    divisions: tuple[Age, ...]

    @property
    def height(self) -> float:
        """From head to foot, in steps."""
        return self.steps[-1]

    def at(self, age: float) -> float:
        """How far below the head an age stands, in steps; what lies beyond the scale stands at its end."""
        return float(np.interp(age, self.ages, self.steps))

    def age(self, steps: float) -> float:
        """Which age stands so many steps below the head."""
        return float(np.interp(steps, self.steps, self.ages))


def time_scale(spans: Sequence[Span], scale: str) -> TimeScale:
    """The scale for the ages of some units.

    Parameters
    ----------
    spans
        Of at least one unit.
    scale
        A name of ``SCALES``.
    """
    divisions = tuple(_divisions(spans))
    ends = sorted(
        {e for s in spans for e in (s.younger, s.older)} | {e for d in divisions for e in (d.younger, d.older)}
    )
    ages = [ends[0]] + [after for before, after in pairwise(ends) if after - before > SAME]
    steps = [0.0]
    if scale == "true":
        steps = [age - ages[0] for age in ages]
        return TimeScale(tuple(ages), tuple(steps), divisions)
    kept = [ages[0]]
    was_filled = True
    for younger, older in pairwise(ages):
        filled = any(s.younger < older - SAME and s.older > younger + SAME for s in spans)
        if filled or was_filled:
            steps.append(steps[-1] + (1.0 if filled else GAP))
            kept.append(older)
        else:
            # Empty times that follow one another are one gap.
            kept[-1] = older
        was_filled = filled
    return TimeScale(tuple(kept), tuple(steps), divisions)


def _divisions(spans: Sequence[Span]) -> Iterator[Age]:
    """Epochs that units fall into; of the Precambrian, what is as coarse as the ages of units allow."""
    ends = {end for span in spans for end in (span.younger, span.older)}
    parts: dict[str, list[Age]] = {}
    for age in chart():
        parts.setdefault(age.parent, []).append(age)

    def within(age: Age) -> Iterator[Age]:
        if not any(span.younger < age.older - SAME and span.older > age.younger + SAME for span in spans):
            return
        cut = any(age.younger + SAME < end < age.older - SAME for end in ends)
        divided = age.rank in _COARSE if age.older <= PHANEROZOIC.older else cut
        if divided and age.name in parts:
            for part in parts[age.name]:
                yield from within(part)
        else:
            yield age

    for age in parts[""]:
        yield from within(age)


def holder(age: Age, rank: str) -> Age | None:
    """The interval of a rank that an interval is part of, or is itself; None where there is none."""
    by_name = {one.name: one for one in chart()}
    step: Age | None = age
    while step is not None and step.rank != rank:
        step = by_name.get(step.parent)
    return step
