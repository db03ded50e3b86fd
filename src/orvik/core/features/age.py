"""Ages after the International Chronostratigraphic Chart, and ranges of them."""

from __future__ import annotations

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from orvik.core.errors import FeatureRefused

# International Commission on Stratigraphy, chart 2026/06 (CC BY 4.0): Cohen, K.M., Harper, D.A.T., Gibbard, P.L. and
# Car, N. (2025, updated); see core/features/CHART-LICENCE.txt.
CHART = Path(__file__).with_name("chart.csv")
# How the ranks are called on the chart, from the longest to the shortest.
RANKS = ("super-eon", "eon", "era", "period", "sub-period", "epoch", "age")


@dataclass(frozen=True)
class Age:
    """An interval of the chart.

    Attributes
    ----------
    rank
        One of ``RANKS``.
    parent
        The interval that it is part of; empty for the longest.
    younger, older
        Its ends in millions of years before the present.
    colour
        That of the chart.
    """

    name: str
    rank: str
    parent: str
    younger: float
    older: float
    colour: str

    @staticmethod
    def of(name: str) -> Age:
        """An interval by its name, in capitals or not; ``Early`` and ``Late`` are ``Lower`` and ``Upper``.

        >>> Age.of("early cretaceous").older
        143.1

        Raises
        ------
        FeatureRefused
            The chart has none of that name.
        """
        found = find(name)
        if found is None:
            near = ", ".join(_near(name))
            hint = f" Is it {near}?" if near else " Choose one from the list."
            raise FeatureRefused(f"“{name.strip()[:40]}” is not an age of the chart.{hint}")
        return found


@lru_cache(maxsize=1)
def chart() -> tuple[Age, ...]:
    """All intervals of the chart, the youngest first, longer ones before those that they hold."""
    with CHART.open(encoding="utf-8", newline="") as file:
        rows = [
            Age(r["name"], r["rank"], r["parent"], float(r["younger"]), float(r["older"]), r["colour"])
            for r in csv.DictReader(file)
        ]
    return tuple(sorted(rows, key=lambda age: (age.younger, -age.older, RANKS.index(age.rank))))


@lru_cache(maxsize=1)
def _by_name() -> dict[str, Age]:
    return {age.name.lower(): age for age in chart()}


def find(name: str) -> Age | None:
    """An interval by its name; None where the chart has none."""
    plain = " ".join(name.lower().split())
    for typed, written in (("early ", "lower "), ("late ", "upper "), ("mid ", "middle ")):
        if plain.startswith(typed) and plain not in _by_name():
            plain = written + plain.removeprefix(typed)
    return _by_name().get(plain)


def _near(name: str) -> list[str]:
    import difflib

    found = difflib.get_close_matches(" ".join(name.lower().split()), _by_name(), 3, 0.7)
    return [_by_name()[key].name for key in found]


def spoken(name: str) -> str:
    """A name as it is said of time, not of rock: ``Lower Cretaceous`` is ``Early Cretaceous``."""
    for rock, time in (("Lower ", "Early "), ("Upper ", "Late ")):
        if name.startswith(rock):
            return time + name.removeprefix(rock)
    return name


@dataclass(frozen=True)
class Span:
    """A range of ages, from the older to the younger.

    Attributes
    ----------
    older, younger
        Its ends in millions of years.
    words
        Such as ``Bajocian to Callovian``.
    """

    older: float
    younger: float
    words: str

    @property
    def figures(self) -> str:
        """Its ends in words: ``170.9 to 161.5 Ma``."""
        return f"{_figure(self.older)} to {_figure(self.younger)} Ma"


def span(age_from: str, age_to: str = "") -> Span | None:
    """The range that two names of the chart say; one name alone is the whole of it. None where neither is given.

    Raises
    ------
    FeatureRefused
        A name is not on the chart, or the range runs the wrong way.
    """
    if not age_from and not age_to:
        return None
    if not age_from:
        raise FeatureRefused("Say from which age on; one age alone belongs in the first field.")
    first = Age.of(age_from)
    last = Age.of(age_to) if age_to else first
    if last.younger > first.younger or last.older > first.older:
        raise FeatureRefused(f"{first.name} is younger than {last.name}; the older age comes first.")
    words = spoken(first.name) if first == last else f"{spoken(first.name)} to {spoken(last.name)}"
    return Span(first.older, last.younger, words)


def written_ends(text: str) -> tuple[str, str] | None:
    """The older and the younger age that a text names, the younger empty for one alone; None for other texts.

    >>> written_ends("Early Cretaceous"), written_ends("Bajocian to Callovian"), written_ends("old")
    (('Lower Cretaceous', ''), ('Bajocian', 'Callovian'), None)
    """
    pieces = re.split(r"\s+to\s+|\s*[–-]\s*", text.strip())
    found = [find(piece) for piece in pieces]
    ages = [age for age in found if age is not None]
    if not 0 < len(ages) == len(pieces) <= 2:
        return None
    oldest, youngest = max(ages, key=lambda age: age.older), min(ages, key=lambda age: age.younger)
    return oldest.name, "" if oldest == youngest else youngest.name


def written_span(text: str) -> Span | None:
    """The range that a text names; None where it names none."""
    ends = written_ends(text)
    return span(*ends) if ends is not None else None


def written_ma(text: str) -> tuple[float, float] | None:
    """The older and the younger end of an age in millions of years; None for other texts.

    >>> written_ma("72.1 ± 0.2 Ma"), written_ma("30–28 Ma"), written_ma("12 Ma"), written_ma("Jurassic")
    ((72.3, 71.9), (30.0, 28.0), (12.0, 12.0), None)
    """
    number = r"(\d+(?:[.,]\d+)?)"
    match = re.fullmatch(
        rf"(?:ca\.?|c\.|~)?\s*{number}(?:\s*(±|\+/-|to|[–-])\s*{number})?\s*(?:Ma|m\.?y\.?)", text.strip()
    )
    if match is None:
        return None
    first = float(match[1].replace(",", "."))
    second = float(match[3].replace(",", ".")) if match[3] else 0.0
    if match[2] in ("±", "+/-"):
        return round(first + second, 6), round(max(0.0, first - second), 6)
    return (max(first, second), min(first, second)) if match[3] else (first, first)


def ends_of_ma(older: float, younger: float) -> tuple[str, str]:
    """The ages of the chart that hold a range of millions of years, the older first; one alone if it holds both ends.

    An end on a boundary belongs to the side on which the range lies.

    >>> ends_of_ma(161.5, 154.8), ends_of_ma(72.3, 71.9), ends_of_ma(66.0, 30.0)
    (('Oxfordian', ''), ('Campanian', 'Maastrichtian'), ('Danian', 'Rupelian'))

    Raises
    ------
    FeatureRefused
        It is older than the Earth, or the range runs the wrong way.
    """
    if younger > older:
        raise FeatureRefused(f"{older:g} is younger than {younger:g} million years; the older end comes first.")
    single = older == younger
    before = [age for age in chart() if age.younger < older <= age.older]
    after = [age for age in chart() if age.younger <= younger < age.older]
    first, last = (before or after, after or before) if single else (before, after)
    if not first or not last:
        raise FeatureRefused(f"The chart has no age of {older:g} to {younger:g} million years; check the numbers.")
    oldest, youngest = _shortest(first), _shortest(last)
    return (oldest.name, "") if oldest == youngest or single else (oldest.name, youngest.name)


def _shortest(ages: Sequence[Age]) -> Age:
    return min(ages, key=lambda age: (age.older - age.younger, -RANKS.index(age.rank)))


def chart_colour(age_from: str, age_to: str = "") -> str:
    """The colour that the chart gives an age; of a range, that of the shortest interval that holds it all."""
    whole = span(age_from, age_to)
    if whole is None:
        raise FeatureRefused("Give the unit an age first.")
    holding = [age for age in chart() if age.older >= whole.older and age.younger <= whole.younger]
    return _shortest(holding).colour


def _figure(million: float) -> str:
    return f"{million:.4f}".rstrip("0").rstrip(".") if million < 1 else f"{million:g}"
