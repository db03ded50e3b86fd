"""Colours as people type them: six digits, Lab, or printer's percentages."""

from __future__ import annotations

import re

from orvik.core.colour.hex import cmyk_of, is_colour, lab_of, of_cmyk, of_lab
from orvik.core.errors import FeatureRefused
from orvik.core.ground.coordinates import decimal, parse_quantity
from orvik.core.wording import not_a

# What is written before the numbers of a colour that is not typed in six digits.
_SPACES = ("cmyk", "rgb", "lab")
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


def parse_colour(text: str) -> str:
    """A colour in six digits: of such digits, of three numbers from 0 to 255, of four percentages, or of Lab.

    >>> parse_colour("f4e6a8"), parse_colour("255, 0, 0"), parse_colour("CMYK 0/0/100/0")
    ('#F4E6A8', '#FF0000', '#FFFF00')

    Raises
    ------
    FeatureRefused
        It is none of these.
    """
    plain = text.strip().lower()
    space = next((space for space in _SPACES if plain.startswith(space)), "")
    numbers = re.split(r"[\s,;/|]+", plain.removeprefix(space).strip(" ;,()"))
    if space == "lab":
        return parse_lab(" ".join(numbers))
    if space == "cmyk" or (not space and len(numbers) == 4):
        return parse_cmyk(" ".join(numbers))
    if len(numbers) != 3:
        return hex_text(text)
    shares = [parse_quantity(number, "part of a colour", FeatureRefused) for number in numbers]
    if not all(0 <= share <= 255 and share == int(share) for share in shares):
        raise FeatureRefused(f"“{text.strip()[:40]}” is not a colour: red, green and blue run from 0 to 255.")
    return "#" + "".join(f"{int(share):02X}" for share in shares)


def typed_colour(text: str) -> str:
    """A colour as it is remembered that was typed otherwise than in six digits; empty for these.

    >>> typed_colour("0/22/48/12"), typed_colour("rgb(244, 230, 168)"), typed_colour("#F4E6A8")
    ('CMYK 0 22 48 12', 'RGB 244 230 168', '')
    """
    plain = text.strip()
    space = next((space for space in _SPACES if plain.lower().startswith(space)), "")
    numbers = re.findall(r"[-−]?\d+(?:[.,]\d+)?", plain) if space or re.search(r"[\s,;/|]", plain) else []
    called = space or {3: "rgb", 4: "cmyk"}.get(len(numbers), "")
    return f"{called.upper() if called != 'lab' else 'Lab'} {' '.join(numbers)}" if called and numbers else ""


def still_typed(typed: str, colour: str) -> str:
    """What was typed for a colour, as long as it still says that colour; empty where the colour is another one now."""
    try:
        return typed if typed and parse_colour(typed) == colour.upper() else ""
    except FeatureRefused:
        return ""


def typed_numbers(typed: str, space: str) -> str:
    """The numbers of a colour that was typed in a space; empty where it was typed otherwise.

    >>> typed_numbers("CMYK 0 22 48 12", "CMYK"), typed_numbers("RGB 1 2 3", "CMYK")
    ('0 22 48 12', '')
    """
    called, _, numbers = typed.partition(" ")
    return numbers if called == space else ""


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
