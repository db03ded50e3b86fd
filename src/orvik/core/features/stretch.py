"""Stretches: parts of a line with a certainty of their own, anchored to its vertices."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import FeatureRefused

# What a stretch is of: the line itself, or one margin of a band, as seen along its direction.
SIDES = ("line", "left", "right")


@dataclass(frozen=True)
class Stretch:
    """From one vertex of a line to a later one, with a certainty of its own."""

    first: int
    last: int
    certainty: str
    side: str = "line"


def dumped(stretches: Sequence[Stretch]) -> str:
    """Stretches as the project file holds them; an empty text for none."""
    if not stretches:
        return ""
    return json.dumps([[s.first, s.last, s.certainty, s.side] for s in stretches], separators=(",", ":"))


def loaded(text: str | None) -> tuple[Stretch, ...]:
    """Stretches from the project file."""
    return tuple(Stretch(*row) for row in json.loads(text)) if text else ()


def certainties(base: str, stretches: Iterable[Stretch], segments: int, side: str = "line") -> list[str]:
    """The certainty of every segment between two vertices, one side of a band or the line itself.

    Parameters
    ----------
    base
        The certainty where no stretch says otherwise.
    segments
        How many segments the line has: one less than vertices.
    """
    out = [base] * segments
    for stretch in stretches:
        if stretch.side == side:
            for i in range(max(stretch.first, 0), min(stretch.last, segments)):
                out[i] = stretch.certainty
    return out


def runs(values: Sequence[str]) -> list[tuple[int, int, str]]:
    """Segments in a row with one value: first vertex, last vertex, value."""
    out: list[tuple[int, int, str]] = []
    for i, value in enumerate(values):
        if out and out[-1][2] == value:
            out[-1] = (out[-1][0], i + 1, value)
        else:
            out.append((i, i + 1, value))
    return out


def normalized(base: str, stretches: Iterable[Stretch], segments: int, side: str = "line") -> list[Stretch]:
    """The shortest list of stretches of one side that says the same."""
    stretched = runs(certainties(base, stretches, segments, side))
    return [Stretch(first, last, certainty, side) for first, last, certainty in stretched if certainty != base]


def with_stretch(base: str, stretches: Sequence[Stretch], segments: int, new: Stretch) -> tuple[Stretch, ...]:
    """Stretches with one more laid over them.

    ``base`` is the certainty of that side where no stretch says otherwise.

    Raises
    ------
    FeatureRefused
        Its two ends are the same vertex, or not on the line.
    """
    if not 0 <= new.first < new.last <= segments:
        raise FeatureRefused("A stretch needs two different places on the line; click its other end elsewhere.")
    others = tuple(s for s in stretches if s.side != new.side)
    return others + tuple(normalized(base, [*stretches, new], segments, new.side))


def shifted(stretches: Iterable[Stretch], where: Callable[[int], int], vertices: int) -> tuple[Stretch, ...]:
    """Stretches after an edit that moved vertex ``i`` to ``where(i)``; those without length are gone."""
    out = []
    for stretch in stretches:
        first, last = where(stretch.first), where(stretch.last)
        first, last = max(0, min(first, vertices - 1)), max(0, min(last, vertices - 1))
        if first < last:
            out.append(replace(stretch, first=first, last=last))
    return tuple(out)
