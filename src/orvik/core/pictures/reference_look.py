"""The symbol of a reference layer: its lines or the outline of its areas, their fill, and whether it is explained."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, fields

import numpy as np

from orvik.core.colour.hex import is_colour, mixed
from orvik.core.errors import FileRefused
from orvik.core.features.custom_kind import DASHES
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import PAPER, Fill, LineStyle, Stamp
from orvik.core.symbols.symbol import Symbol

# Of a reference layer that has no colour of its own yet.
REFERENCE_COLOUR = "#7A3E9D"
REFERENCE_DOT = 0.6


@dataclass(frozen=True)
class ReferenceLook:
    """How a reference layer is drawn.

    Attributes
    ----------
    colour
        Of lines, outlines and dots.
    width, dash
        Of lines and outlines in millimetres; the dash is one of ``DASHES``.
    outlined
        Whether areas have an outline.
    fill, fill_opacity
        Of areas, and how strongly it is laid over white, 0 to 1; empty for none.
    explained
        Whether it has a row in the explanation.
    """

    colour: str = REFERENCE_COLOUR
    width: float = 0.25
    dash: str = "solid"
    outlined: bool = True
    fill: str = ""
    fill_opacity: float = 0.5
    explained: bool = False

    def __post_init__(self) -> None:
        for colour in (self.colour, self.fill):
            if colour and not is_colour(colour):
                raise FileRefused(f"“{str(colour)[:20]}” is not a colour; type six digits such as {REFERENCE_COLOUR}.")
        if not 0.05 <= self.width <= 5:
            raise FileRefused(f"A line is 0.05 to 5 mm wide on the sheet, not {self.width:g}.")
        if self.dash not in DASHES:
            raise FileRefused(f"A line is {', '.join(DASHES)}.")
        if not 0 <= self.fill_opacity <= 1:
            raise FileRefused("A fill is 0 to 100 % opaque; type another opacity.")

    @property
    def style(self) -> LineStyle:
        """Of its lines."""
        return LineStyle(self.width, self.colour, DASHES[self.dash], "butt" if DASHES[self.dash] else "round")

    @property
    def tint(self) -> str:
        """What fills its areas; empty for nothing."""
        return mixed(self.fill, PAPER, self.fill_opacity) if self.fill else ""

    @property
    def dot(self) -> Stamp:
        """Of its points."""
        turn = np.linspace(0, 2 * np.pi, 25)
        ring = REFERENCE_DOT * np.column_stack([np.cos(turn), np.sin(turn)])
        return Stamp("dot", (Fill(self.colour, Paths(ring, np.array([0, len(ring)])), np.array([0, 1])),))

    def symbol(self, name: str, shape: str) -> Symbol:
        """Its row in the explanation.

        Parameters
        ----------
        shape
            What it mostly is: ``lines``, ``areas`` or ``points``.
        """
        if shape == "areas":
            strokes = (self.style,) if self.outlined else ()
            return Symbol(f"reference-{name}", "areas", "reference", name, tint=self.tint, strokes=strokes)
        if shape == "points":
            return Symbol(f"reference-{name}", "points", "reference", name, stamp=self.dot)
        return Symbol(f"reference-{name}", "lines", "reference", name, strokes=(self.style,))

    @property
    def text(self) -> str:
        """All but the colour as JSON, as ``of`` reads it."""
        values = asdict(self)
        del values["colour"]
        return json.dumps(values, sort_keys=True)

    @staticmethod
    def of(colour: str, text: str) -> ReferenceLook:
        """A look as it was kept; what is missing or cannot be is as usual."""
        colour = colour if is_colour(colour) else REFERENCE_COLOUR
        try:
            values = json.loads(text) if text else {}
            known = {one.name for one in fields(ReferenceLook)} - {"colour"}
            return ReferenceLook(colour, **{name: value for name, value in values.items() if name in known})
        except (ValueError, TypeError, AttributeError, FileRefused):
            return ReferenceLook(colour)


def mostly(areas: int, lines: int, points: int) -> str:
    """What a layer mostly is, by the numbers of its parts."""
    return max((areas, "areas"), (lines, "lines"), (points, "points"))[1]
