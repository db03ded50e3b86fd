"""Colours as people type them: six digits, Lab, or printer's percentages."""

from __future__ import annotations

import re

from orvik.core.colour.hex import cmyk_of, is_colour, lab_of, of_cmyk, of_lab
from orvik.core.errors import FeatureRefused
from orvik.core.ground.coordinates import decimal
from orvik.core.wording import not_a

_NUMBER = r"[-+−]?\d+(?:[.,]\d+)?"


def hex_text(text: str) -> str:
    """Six figures, with or without the sign before them.

    >>> hex_text("e0ae75")
    '#E0AE75'

    Raises
    ------
    FeatureRefused
        It is none.
    """
    plain = "#" + text.strip().removeprefix("#")
    if not is_colour(plain):
        raise FeatureRefused(not_a(text, "colour", "six digits such as #F4E6A8"))
    return plain.upper()


def parse_lab(text: str) -> str:
    """The colour of three figures: lightness, and how red and how yellow it is.

    Raises
    ------
    FeatureRefused
        They are not three, or no screen shows that colour.
    """
    figures = _figures(text, 3, "Lab has three numbers, such as 74.8 13.8 36.5")
    try:
        return of_lab(*figures)
    except ValueError as error:
        raise FeatureRefused(f"No screen shows the colour {text.strip()[:40]}; choose one nearer to grey.") from error


def parse_cmyk(text: str) -> str:
    """The colour of four percentages: cyan, magenta, yellow, black; raises FeatureRefused."""
    figures = _figures(text, 4, "Printer's colours are four percentages, such as 0 22 48 12")
    if not all(0 <= figure <= 100 for figure in figures):
        raise FeatureRefused("Printer's percentages run from 0 to 100; type them again.")
    return of_cmyk(*figures)


def lab_text(colour: str) -> str:
    """The Lab figures of a colour.

    >>> lab_text("#E0AE75")
    '74.8 13.8 36.5'
    """
    return " ".join(f"{figure:.1f}".replace("-0.0", "0.0") for figure in lab_of(colour))


def cmyk_text(colour: str) -> str:
    """The printer's percentages of a colour."""
    return " ".join(str(figure) for figure in cmyk_of(colour))


def _figures(text: str, count: int, wanted: str) -> list[float]:
    found = re.findall(_NUMBER, text)
    rest = re.sub(_NUMBER, "", text)
    if len(found) != count or re.search(r"[^\s;,/%]", rest):
        raise FeatureRefused(f"{wanted}, not “{text.strip()[:30]}”.")
    return [decimal(figure.replace("−", "-")) for figure in found]
