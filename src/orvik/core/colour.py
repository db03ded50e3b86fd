"""Colours as the project holds them, six figures after a number sign, and how the eye tells them apart."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache

import numpy as np

from orvik.core.arrays import Floats


def is_colour(text: object) -> bool:
    """Whether a text is a colour such as ``#F4E6A8``."""
    return isinstance(text, str) and re.fullmatch(r"#[0-9A-Fa-f]{6}", text) is not None


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2.2, definition of contrast ratio).

    >>> contrast("#000000", "#FFFFFF")
    21.0
    """
    # Here, and not for every process that starts: loading it takes a tenth of a second.
    from coloraide import Color

    return round(Color(one).contrast(Color(other), method="wcag21"), 9)


@lru_cache(maxsize=1024)
def readable_on(colour: str, dark: str = "#22303C", light: str = "#FFFFFF") -> str:
    """Whichever of two text colours stands out more on a ground."""
    return dark if contrast(dark, colour) >= contrast(light, colour) else light


def farthest(choices: Sequence[str], used: Iterable[str]) -> str:
    """The colour of some that the eye tells best from those in use: by the least CIEDE2000 difference from any.

    >>> farthest(("#F4E6A8", "#A9CFC9"), ["#F4E6A8"])
    '#A9CFC9'
    """
    from coloraide import Color

    there = [Color(colour) for colour in set(used)]
    if not there:
        return choices[0]
    return max(choices, key=lambda choice: min(Color(choice).delta_e(other, method="2000") for other in there))


def lab(colours: Floats) -> Floats:
    """CIELAB (D65) of sRGB colours (n, 3), each channel 0 to 1."""
    from coloraide import Color

    return np.array([Color("srgb", colour).convert("lab-d65").coords() for colour in colours.tolist()])
