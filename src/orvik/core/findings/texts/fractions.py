"""Representative fractions in texts, also such as have a digit too many or too few."""

from __future__ import annotations

import re

_SPACES = " \u00a0\u2009\u202f"
FRACTION = re.compile(rf"(?<![\d:])1\s?:\s?(\d+(?:[{_SPACES}.,'’]\d{{2,4}})*)(?!\d)")


def denominator_of(found: re.Match[str]) -> int:
    """The denominator of a fraction that was found."""
    return int(re.sub(r"\D", "", found.group(1)))


def denominators_in(text: str) -> list[int]:
    """The denominators of the fractions in a text.

    >>> denominators_in("Tarn, thesis map, 1:12 500, 2019")
    [12500]
    """
    return [denominator_of(found) for found in FRACTION.finditer(text)]
