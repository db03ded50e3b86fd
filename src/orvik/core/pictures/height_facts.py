"""What a grid's heights are: their unit, the datum they stand above, how good they are, whether they are asked."""

from __future__ import annotations

import json
import math
from dataclasses import asdict, dataclass
from typing import Any

from orvik.core.errors import ReliefRefused

# Metres in each unit of heights; the foot of 1959 and that of the US Survey (IOGP codes 9001, 9002, 9003).
HEIGHT_UNITS: dict[str, float] = {"m": 1.0, "ft": 0.3048, "us-ft": 1200 / 3937}
UNIT_WORDS = {"m": "metres", "ft": "feet", "us-ft": "US survey feet"}
# What files call their units.
_SPELLINGS = {
    "m": ("m", "metre", "metres", "meter", "meters"),
    "ft": ("ft", "foot", "feet", "international foot", "international feet"),
    "us-ft": ("us-ft", "us survey foot", "us survey feet", "foot_us", "ftus", "us_survey_foot"),
}
LONGEST_DATUM = 80


@dataclass(frozen=True)
class HeightFacts:
    """What is stated of a grid of heights.

    Attributes
    ----------
    unit
        A name of ``HEIGHT_UNITS``.
    datum
        The vertical datum in words; empty where nobody has said.
    asked
        Whether the project asks it for heights; of several the uppermost that knows a place answers.
    error
        Standard error of a height, in metres.
    """

    unit: str = "m"
    datum: str = ""
    asked: bool = True
    error: float = 2.5

    def __post_init__(self) -> None:
        if self.unit not in HEIGHT_UNITS:
            raise ReliefRefused(f"“{self.unit}” is not a unit of heights; choose {', '.join(HEIGHT_UNITS)}.")
        if not (math.isfinite(self.error) and 0.001 <= self.error <= 1000):
            raise ReliefRefused("Heights are good to 0.001 m up to 1 000 m; type how much they err.")
        if len(self.datum) > LONGEST_DATUM:
            raise ReliefRefused(f"The name of a vertical datum has at most {LONGEST_DATUM} letters; shorten it.")

    @property
    def metres(self) -> float:
        """Metres in one unit of the heights."""
        return HEIGHT_UNITS[self.unit]

    @property
    def words(self) -> str:
        """In what, and above what: ``metres above NAVD88 height``."""
        return f"{UNIT_WORDS[self.unit]} above {self.datum or 'a datum that is not stated'}"

    @property
    def json(self) -> str:
        return json.dumps(asdict(self), ensure_ascii=False)

    @staticmethod
    def of_json(text: str) -> HeightFacts:
        """From the project file; raises ReliefRefused for what is none."""
        try:
            values: dict[str, Any] = json.loads(text) if text else {}
            return HeightFacts(**values)
        except (ValueError, TypeError) as error:
            raise ReliefRefused("What is stated of these heights cannot be read; state it again.") from error


def unit_named(text: str) -> str | None:
    """The unit that a file's word means; None where it is none that we know.

    >>> unit_named("US survey foot"), unit_named("Meter"), unit_named("fathom")
    ('us-ft', 'm', None)
    """
    word = text.strip().lower()
    return next((unit for unit, spellings in _SPELLINGS.items() if word in spellings), None)
