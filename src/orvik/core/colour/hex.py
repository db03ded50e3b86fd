"""Colours as the project holds them, six digits after a number sign, and how the eye tells them apart."""

from __future__ import annotations

import re
from functools import lru_cache

import numpy as np

from orvik.core.arrays import Floats


def is_colour(text: object) -> bool:
    """Whether a text is a colour such as ``#F4E6A8``."""
    return isinstance(text, str) and re.fullmatch(r"#[0-9A-Fa-f]{6}", text) is not None


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours, 1 to 21 (WCAG 2.2, definition of contrast ratio).

    >>> contrast("#000000", "#FFFFFF"), round(contrast("#777777", "#FFFFFF"), 2)
    (21.0, 4.48)
    """
    # Here, and not for every process that starts: loading it takes a tenth of a second.
    from coloraide import Color

    return round(Color(one).contrast(Color(other), method="wcag21"), 9)


def contrasts(one: str, others: Floats) -> Floats:
    """Contrast ratios of a colour with many, (n, 3) with 0 to 255; as ``contrast``."""
    mine, theirs = _luminance(np.array([channels(one)])), _luminance(others / 255.0)
    held = (np.maximum(mine, theirs) + 0.05) / (np.minimum(mine, theirs) + 0.05)
    return np.asarray(held, dtype=np.float64)


def _luminance(rgb: Floats) -> Floats:
    """Relative luminance of colours, (n, 3) with 0 to 1 (WCAG 2.2, definition of relative luminance)."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ np.array([0.2126, 0.7152, 0.0722]), dtype=np.float64)


@lru_cache(maxsize=1024)
def readable_on(colour: str, dark: str = "#22303C", light: str = "#FFFFFF") -> str:
    """Whichever of two text colours stands out more on a ground."""
    return dark if contrast(dark, colour) >= contrast(light, colour) else light


# Letters stand out from their ground by so much (WCAG 2.2, 1.4.3).
READABLE = 4.5


@lru_cache(maxsize=1024)
def readable_on_all(grounds: tuple[str, ...], dark: str = "#22303C", light: str = "#FFFFFF") -> tuple[str, str]:
    """The colour of a text on several grounds and of its halo, which is one of these: dark letters where any is pale.

    >>> readable_on_all(("#5A2E1C", "#F4EDC8"))
    ('#22303C', '#F4EDC8')
    """
    text = dark if max(contrast(dark, ground) for ground in grounds) >= READABLE else light
    return text, max(grounds, key=lambda ground: contrast(text, ground))


def lab_of(colour: str) -> tuple[float, float, float]:
    """CIELAB of a colour under D50, as presses and colour books give it; lightness 0 to 100.

    >>> lab_of("#FFFFFF")[0]
    100.0
    """
    from coloraide import Color

    values = Color(colour).convert("lab").coords()
    return (round(values[0], 3), round(values[1], 3), round(values[2], 3))


def of_lab(lightness: float, a: float, b: float) -> str:
    """The colour of a CIELAB place under D50; raises ValueError where no screen shows it."""
    from coloraide import Color

    made = Color("lab", [lightness, a, b])
    # A few steps of 255 beyond are the rounding of figures with one decimal, not another colour.
    if not made.in_gamut("srgb", tolerance=0.012):
        raise ValueError("out of gamut")
    return made.convert("srgb").clip().to_string(hex=True, upper=True)


def of_cmyk(cyan: float, magenta: float, yellow: float, black: float) -> str:
    """The colour of printer's percentages, by the plain rule that knows no paper and no press."""
    light = [(1 - ink / 100) * (1 - black / 100) for ink in (cyan, magenta, yellow)]
    return "#" + "".join(f"{round(255 * value):02X}" for value in light)


def cmyk_of(colour: str) -> tuple[int, int, int, int]:
    """Printer's percentages of a colour, with as much black as it can have.

    >>> cmyk_of("#E0AE75")
    (0, 22, 48, 12)
    """
    light = channels(colour)
    most = max(light)
    if most == 0:
        return (0, 0, 0, 100)
    cyan, magenta, yellow = (round(100 * (1 - value / most)) for value in light)
    return (cyan, magenta, yellow, round(100 * (1 - most)))


def channels(colour: str) -> tuple[float, float, float]:
    """Red, green and blue of a colour, 0 to 1."""
    return tuple(int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))  # type: ignore[return-value]


def mixed(over: str, below: str, opacity: float) -> str:
    """A colour laid over another at an opacity of 0 to 1, as one opaque colour.

    >>> mixed("#000000", "#FFFFFF", 0.5)
    '#808080'
    """
    pairs = zip(channels(over), channels(below), strict=True)
    return "#" + "".join(f"{round(255 * (o * opacity + b * (1 - opacity))):02X}" for o, b in pairs)


def ramp(first: str, last: str, count: int) -> list[str]:
    """Colours from one to another in even steps for the eye (CIELAB); both ends are among them."""
    from coloraide import Color

    if count == 1:
        return [first]
    steps = Color.steps([first, last], steps=count, space="lab-d65", out_space="srgb")
    made = [step.clip().to_string(hex=True, upper=True) for step in steps]
    return [first.upper(), *made[1:-1], last.upper()]
