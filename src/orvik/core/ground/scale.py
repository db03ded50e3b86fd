"""Scales: the representative fraction, the digitizing rule, the ladder, sheet and ground."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from orvik.core.errors import ScaleRefused
from orvik.core.wording import not_a

# Common practice: the digitizing scale is at least four times larger than the publication scale.
DIGITIZING_FACTOR = 4
# The smallest distance that a sheet shows (common practice).
SEEN_MM = 0.2
MOST_OTHERS = 4
SMALLEST_DENOMINATOR = 100
LARGEST_DENOMINATOR = 50_000_000
NARROW_SPACE = "\u2009"


@dataclass(frozen=True)
class Rung:
    """One of the scales that the view may stand at."""

    denominator: int
    name: str


@dataclass(frozen=True)
class Scales:
    """The scales of a project, as denominators of representative fractions."""

    publication: int
    digitizing: int
    others: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if len(self.others) > MOST_OTHERS:
            raise ScaleRefused(f"A ladder holds at most {MOST_OTHERS} custom rungs; leave some out.")
        for denominator in (self.publication, self.digitizing, *self.others):
            if not SMALLEST_DENOMINATOR <= denominator <= LARGEST_DENOMINATOR:
                raise ScaleRefused(
                    f"1:{spaced(denominator)} is not a scale for a map; choose one between "
                    f"1:{SMALLEST_DENOMINATOR} and 1:{spaced(LARGEST_DENOMINATOR)}."
                )
        if self.digitizing * DIGITIZING_FACTOR > self.publication:
            proposed = proposed_digitizing(self.publication)
            raise ScaleRefused(
                f"1:{spaced(self.digitizing)} is too coarse to digitize for 1:{spaced(self.publication)}: "
                f"lines drawn at it would show their corners in print. Use 1:{spaced(proposed)} or larger."
            )

    @property
    def ladder(self) -> tuple[Rung, ...]:
        """Overview, publication and digitizing scale and the project's custom rungs, coarsest first."""
        named = {
            self.publication * DIGITIZING_FACTOR: "overview",
            self.publication: "publication",
            self.digitizing: "digitizing",
        }
        rungs = {**dict.fromkeys(self.others, "custom rung"), **named}
        return tuple(Rung(d, rungs[d]) for d in sorted(rungs, reverse=True))

    @property
    def tolerance_metres(self) -> float:
        """What two tenths of a millimetre on the sheet are on the ground."""
        return on_ground(SEEN_MM, self.publication)


def proposed_digitizing(publication: int) -> int:
    """A quarter of the publication denominator, the coarsest that the rule allows."""
    return publication // DIGITIZING_FACTOR


def parse_scale(text: str) -> int:
    """The denominator of ``1:25 000``, ``25000`` or ``1/25,000``.

    >>> parse_scale("1:25 000")
    25000

    Raises
    ------
    ScaleRefused
        The text is not a representative fraction.
    """
    match = re.fullmatch(
        r"\s*(?:1\s*[:/]\s*)?(\d{1,3}(?:[\s\u2009\u202f\u00a0,.']\d{3}){1,3}|\d{1,12})\s*", text, re.ASCII
    )
    digits = re.sub(r"\D", "", match[1]) if match else ""
    if not digits or int(digits) == 0:
        raise ScaleRefused(not_a(text, "scale", such_as="1:25 000 or 25000"))
    return int(digits)


def parse_rungs(text: str) -> tuple[int, ...]:
    """Scales typed one after the other, with commas or semicolons between them; raises ScaleRefused.

    >>> parse_rungs("1:10 000; 1:5 000")
    (10000, 5000)
    """
    pieces = [piece for piece in re.split(r"[;,](?!\d{3}\b)|\n", text) if piece.strip()]
    return tuple(dict.fromkeys(parse_scale(piece) for piece in pieces))


def round_step(least: float) -> float:
    """The smallest of 1, 2 and 5 times a power of ten that is no smaller than ``least``, which is positive.

    >>> round_step(116.7), round_step(3.5), round_step(0.2)
    (200.0, 5.0, 0.2)
    """
    power = 10.0 ** math.floor(math.log10(least))
    return next((step * power for step in (1.0, 2.0, 5.0) if step * power >= least * (1 - 1e-9)), 10 * power)


def spaced(number: float, decimals: int = 0) -> str:
    """A number with thin spaces between its thousands, as every number that is read is written."""
    return f"{number:,.{decimals}f}".replace(",", NARROW_SPACE).replace("-", "−")


def figures(number: float, digits: int) -> str:
    """A number as people read it, rounded to so many digits that count: never with a power of ten.

    >>> figures(10_416.7, 4), figures(112.0, 2), figures(0.000032, 2), figures(-0.5, 3), figures(250.0, 4)
    ('10\u2009420', '110', '0.000032', '−0.5', '250')
    """
    if number == 0 or not math.isfinite(number):
        return spaced(number)
    places = digits - 1 - math.floor(math.log10(abs(number)))
    rounded = round(number, places)
    words = spaced(rounded, max(0, places))
    return words.rstrip("0").rstrip(".") if "." in words else words


def area_words(square_metres: float) -> str:
    """Ground in hectares, from 100 of them on in square kilometres.

    >>> area_words(12_345.0), area_words(2_067_250_000.0)
    ('1.2 ha', '2\u2009067 km²')
    """
    hectares = square_metres / 10_000
    if hectares >= 100:
        return f"{spaced(hectares / 100, 1 if hectares < 10_000 else 0)} km²"
    return f"{spaced(hectares, 1 if hectares >= 1 else 3)} ha"


def on_sheet(ground_metres: float, denominator: float) -> float:
    """Millimetres on the sheet of a length on the ground.

    >>> on_sheet(100.0, 25_000)
    4.0

    >>> on_sheet(250, 25_000)
    10.0
    """
    return ground_metres * 1000.0 / denominator


def on_ground(sheet_mm: float, denominator: float) -> float:
    """Metres on the ground of a length on the sheet.

    >>> on_ground(0.2, 25_000)
    5.0

    >>> on_ground(0.5, 25_000)
    12.5
    """
    return sheet_mm * denominator / 1000.0
