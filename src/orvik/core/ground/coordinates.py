"""Reading and writing coordinates as people type and read them."""

from __future__ import annotations

import math
import re

from orvik.core.errors import CoordinateRefused, OrvikError
from orvik.core.ground.scale import spaced
from orvik.core.wording import not_a

_SPACES = re.compile(r"[\s\u2009\u202f\u00a0]+")
_PLAIN = re.compile(r"[-+]?(\d{1,30}(\.\d{0,30})?|\.\d{1,30})([eE][-+]?\d{1,3})?", re.ASCII)
_PARTS = re.compile(
    r"""(?P<sign>[-+−])?\s*
        (?P<deg>\d+(?:\.\d+)?)\s*[°d]?\s*
        (?:(?P<min>\d+(?:\.\d+)?)\s*['′m]?\s*
           (?:(?P<sec>\d+(?:\.\d+)?)\s*(?:["″s]|''|′′)?\s*)?)?""",
    re.VERBOSE,
)


def parse_number(text: str, what: str = "coordinate") -> float:
    """A plain number, with or without thin or plain spaces between its thousands.

    Raises
    ------
    CoordinateRefused
        Empty, not a number, or not finite.
    """
    compact = _SPACES.sub("", text).replace("−", "-")
    compact = re.sub(r"[mENmen]$", "", compact)
    if re.fullmatch(r"[-+]?[1-9]\d{0,2}(,\d{3})+(\.\d+)?", compact):
        compact = compact.replace(",", "")
    elif re.fullmatch(r"[-+]?\d{1,3}(\.\d{3})+,\d+|[-+]?\d{1,3}(\.\d{3}){2,}", compact):
        compact = compact.replace(".", "").replace(",", ".")
    elif re.fullmatch(r"[-+]?\d+,\d+", compact):
        # One comma that parts no thousands is a decimal comma.
        compact = compact.replace(",", ".")
    value = float(compact) if _PLAIN.fullmatch(compact) else math.nan
    if not math.isfinite(value):
        raise CoordinateRefused(not_a(text, what, "plain digits such as 513 482.6"))
    return value


def decimal(figures: str) -> float:
    """Figures that a pattern has found, with a point or a comma before their decimals.

    Raises
    ------
    ValueError
        They are none.
    """
    return float(figures.replace(",", "."))


def parse_quantity(text: str, what: str, refusal: type[OrvikError] = CoordinateRefused) -> float:
    """A width, a size or a share as typed, with a point or a comma before its decimals.

    One comma before three figures can be read two ways, a thousandfold apart, and is asked about.

    >>> parse_quantity("0,35", "width")
    0.35
    >>> parse_quantity("1 200", "distance")
    1200.0

    Parameters
    ----------
    what
        What it is, for the sentence that refuses.
    refusal
        The kind of refusal that belongs to where it was typed.

    Raises
    ------
    OrvikError
        ``refusal``: empty, not a number, not finite, or to be read two ways.
    """
    compact = _SPACES.sub("", text).replace("−", "-")
    if re.fullmatch(r"[-+]?[1-9]\d{0,2},\d{3}", compact):
        whole, decimal = compact.replace(",", ""), compact.replace(",", ".")
        raise refusal(f"“{text.strip()[:40]}” can be read two ways; type {whole} or {decimal.rstrip('0').rstrip('.')}.")
    compact = compact.replace(",", ".")
    value = float(compact) if _PLAIN.fullmatch(compact) else math.nan
    if not math.isfinite(value):
        raise refusal(not_a(text, what, "plain digits such as 0.35"))
    return value


def parse_angle(text: str, axis: str) -> float:
    """Degrees of a longitude or latitude typed as decimal degrees or degrees, minutes, seconds.

    Parameters
    ----------
    text
        Such as ``14°45'30" W``, ``-14.7583`` or ``61 21 00 N``.
    axis
        ``longitude`` or ``latitude``.

    Raises
    ------
    CoordinateRefused
        It cannot be read, or is beyond 180° or 90°.
    """
    allowed, limit = ("EW", 180) if axis == "longitude" else ("NS", 90)
    example = "14°45'30\" W" if axis == "longitude" else "61°21'00\" N"
    compact = _SPACES.sub(" ", text.strip().upper().replace("º", "°"))
    letter = ""
    letters = re.findall(r"[NSEW]", compact)
    if len(letters) == 1 and compact and (compact[0] in "NSEW" or compact[-1] in "NSEW"):
        letter = letters[0]
        compact = compact.replace(letter, "").strip()
    match = _PARTS.fullmatch(compact.lower())
    if match is None or (letter and letter not in allowed):
        raise CoordinateRefused(not_a(text, axis, such_as=f"{example} or in decimal degrees"))
    minutes, seconds = float(match["min"] or 0), float(match["sec"] or 0)
    if minutes >= 60 or seconds >= 60:
        raise CoordinateRefused(f"“{text.strip()[:40]}” has 60 or more minutes or seconds; type it as {example}.")
    value = float(match["deg"]) + minutes / 60 + seconds / 3600
    if value > limit:
        raise CoordinateRefused(f"“{text.strip()[:40]}” is beyond {limit}°, so it is no {axis}; check the digits.")
    negative = (match["sign"] or "+") in "-−"
    if letter and match["sign"]:
        raise CoordinateRefused(f"“{text.strip()[:40]}” has a sign and a letter; type one of the two.")
    return -value if negative or letter in ("W", "S") else value


def format_angle(degrees: float, axis: str, decimals: int = 1) -> str:
    """Degrees, minutes and seconds with the letter of the hemisphere: ``61°21'48.2"N``."""
    positive, negative = ("E", "W") if axis == "longitude" else ("N", "S")
    letter = negative if degrees < 0 else positive
    unit = 10**decimals
    ticks = round(abs(degrees) * 3600 * unit)
    seconds = ticks % (60 * unit) / unit
    minutes, whole = ticks // (60 * unit) % 60, ticks // (3600 * unit)
    width = 2 + (decimals + 1 if decimals else 0)
    return f"{whole}°{minutes:02d}'{seconds:0{width}.{decimals}f}\"{letter}"


def format_grid(x: float, y: float) -> str:
    """Grid coordinates to a tenth: ``513 482.6 E  6 803 117.9 N``."""
    return f"{spaced(x, 1)} E  {spaced(y, 1)} N"
