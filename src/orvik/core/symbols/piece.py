"""Pieces: the figures that a symbol is made of, as they are drawn and typed, and as ink."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from orvik.core.colour.hex import is_colour
from orvik.core.errors import SymbolRefused
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, LineStyle, Stroke

Shape = Literal["line", "polygon", "star", "circle", "arc"]
SHAPES: tuple[Shape, ...] = ("line", "polygon", "star", "circle", "arc")
# Nothing on a printed map is thinner (common practice).
THINNEST = 0.1
WIDEST = 5.0
# No piece of a symbol lies further from its anchor, in millimetres on the sheet.
FARTHEST_MM = 60.0
MOST_POINTS = 2000
SHORTEST_DASHES, LONGEST_DASH, MOST_DASHES = 0.1, 100.0, 16
_FIGURES = {"reach", "inner", "turned", "sweep", "width"}
# A round is drawn as a polygon whose edges stay this close to it, in millimetres.
ROUNDNESS = 0.002


def check_dash(dash: tuple[float, ...]) -> None:
    """Refuse dashes that nobody could draw, or that would fill a line with more of them than can be seen."""
    if not all(0 <= length <= LONGEST_DASH for length in dash) or (dash and not sum(dash) >= SHORTEST_DASHES):
        raise SymbolRefused(
            f"Dashes are lengths of mark and gap in millimetres, such as 2.4 and 1, {SHORTEST_DASHES:g} mm together at "
            f"the least and {LONGEST_DASH:g} mm each at the most."
        )
    if len(dash) > MOST_DASHES:
        raise SymbolRefused(f"A line has at most {MOST_DASHES} lengths of mark and gap, not {len(dash)}.")


@dataclass(frozen=True)
class Piece:
    """One figure in a symbol's own millimetres: x to the right, y downwards, for a strike or a line that runs upwards.

    Attributes
    ----------
    points
        Of a line, (x, y); ``closed`` joins the last to the first.
    at
        The middle of any other shape.
    sides
        Of a polygon or a star.
    reach, inner
        From the middle to the corners, and to a star's inner corners; the radius of a circle or an arc.
    turned, sweep
        Degrees clockwise from the top at which the first corner stands or the arc begins, and how far it goes on.
    width
        Of the outline; 0 for none.
    outline, fill
        Colours; a fill is empty for none.
    dash, cap
        As in ``LineStyle``.
    """

    shape: Shape
    points: tuple[tuple[float, float], ...] = ()
    closed: bool = False
    at: tuple[float, float] = (0.0, 0.0)
    sides: int = 3
    reach: float = 1.0
    inner: float = 0.5
    turned: float = 0.0
    sweep: float = 180.0
    width: float = 0.0
    outline: str = INK
    fill: str = ""
    dash: tuple[float, ...] = ()
    cap: str = "butt"

    def __post_init__(self) -> None:
        figures = [*self.at, self.reach, self.inner, self.turned, self.sweep, self.width, *self.dash]
        figures += [value for point in self.points for value in point]
        if not all(math.isfinite(value) for value in figures):
            raise SymbolRefused("A measure of a piece is not a number; type millimetres such as 1.2.")
        if len(self.points) > MOST_POINTS:
            raise SymbolRefused(f"A line of a symbol has at most {MOST_POINTS} points, not {len(self.points)}.")
        if self.shape == "line" and len(self.points) < 2:
            raise SymbolRefused("A line of a symbol needs two points.")
        if self.shape in ("polygon", "star") and not 3 <= self.sides <= 60:
            raise SymbolRefused(f"A {self.shape} has 3 to 60 sides, not {self.sides}.")
        if self.shape != "line" and not 0.01 <= self.reach <= FARTHEST_MM:
            raise SymbolRefused(
                f"A {self.shape} reaches 0.01 to {FARTHEST_MM:g} mm from its middle, not {self.reach:g}."
            )
        if any(abs(value) > FARTHEST_MM for point in (self.at, *self.points) for value in point):
            raise SymbolRefused(f"A piece lies more than {FARTHEST_MM:g} mm from its symbol's place; bring it nearer.")
        if abs(self.sweep) > 360 or abs(self.turned) > 360:
            raise SymbolRefused("An arc spans up to 360°, and a piece is turned by as much; type fewer degrees.")
        if self.shape == "star" and not 0.01 <= self.inner <= FARTHEST_MM:
            raise SymbolRefused(f"The inner corners of a star are 0.01 to {FARTHEST_MM:g} mm from its middle.")
        if self.width and not THINNEST <= self.width <= WIDEST:
            raise SymbolRefused(f"An outline is {THINNEST:g} to {WIDEST:g} mm wide, not {self.width:g}.")
        if not self.width and not self.fill:
            raise SymbolRefused("A piece needs an outline or a fill; else it is not seen.")
        check_dash(self.dash)
        for colour in (self.outline, self.fill):
            if colour and not is_colour(colour):
                raise SymbolRefused(f"“{str(colour)[:20]}” is not a colour; type six digits such as #22303C.")
        if self.cap not in ("butt", "round", "square"):
            raise SymbolRefused(f"“{str(self.cap)[:20]}” is not an end of a line; it is butt, round or square.")

    @staticmethod
    def of(row: Mapping[str, Any]) -> Piece:
        """A piece from a symbol book; raises SymbolRefused for what is none.

        >>> Piece.of({"shape": "polygon", "sides": 3, "reach": 1.2, "fill": True}).fill
        '#22303C'
        """
        values = dict(row)
        if values.get("shape") not in SHAPES:
            raise SymbolRefused(f"“{str(values.get('shape'))[:20]}” is not a shape; a piece is a {', '.join(SHAPES)}.")
        if values.get("fill") is True:
            values["fill"] = values.get("outline", INK)
        strange = set(values) - set(Piece.__dataclass_fields__)
        if strange:
            raise SymbolRefused(f"A piece of a symbol has a part that is not known, “{sorted(strange)[0][:20]}”.")
        try:
            for name in _FIGURES & set(values):
                values[name] = float(values[name])
            if "sides" in values:
                values["sides"] = int(values["sides"])
            values["points"] = tuple((float(x), float(y)) for x, y in values.get("points", ()))
            if "at" in values:
                values["at"] = (float(values["at"][0]), float(values["at"][1]))
            if "dash" in values:
                values["dash"] = tuple(float(length) for length in values["dash"])
        except (TypeError, ValueError, IndexError, OverflowError) as error:
            raise SymbolRefused(f"A measure of a piece is not a number: {error}.") from error
        return Piece(**values)

    @property
    def path(self) -> list[tuple[float, float]]:
        """Its edge; closed figures come back to their first point."""
        if self.shape == "line":
            return [*self.points, self.points[0]] if self.closed else list(self.points)
        if self.shape == "polygon":
            return self._corners([self.reach] * self.sides)
        if self.shape == "star":
            return self._corners([self.reach, self.inner] * self.sides)
        sweep = 360.0 if self.shape == "circle" else self.sweep
        step = 2 * math.degrees(math.acos(max(1 - ROUNDNESS / self.reach, 0.5)))
        count = max(8, math.ceil(abs(sweep) / step))
        return [self._place(self.turned + sweep * i / count, self.reach) for i in range(count + 1)]

    def ink(self) -> list[Stroke | Fill]:
        """What it looks like: the fill below the outline."""
        path = self.path
        out: list[Stroke | Fill] = []
        if self.fill:
            ring = path if path[0] == path[-1] else [*path, path[0]]
            out.append(Fill(self.fill, Paths.of(ring), np.array([0, 1])))
        if self.width:
            join = "miter" if self.shape in ("polygon", "star") or self.closed else "round"
            out.append(Stroke(LineStyle(self.width, self.outline, self.dash, self.cap, join), Paths.of(path)))
        return out

    def _corners(self, reaches: list[float]) -> list[tuple[float, float]]:
        step = 360 / len(reaches)
        corners = [self._place(self.turned + i * step, reach) for i, reach in enumerate(reaches)]
        return [*corners, corners[0]]

    def _place(self, degrees: float, reach: float) -> tuple[float, float]:
        angle = math.radians(degrees)
        return (self.at[0] + reach * math.sin(angle), self.at[1] - reach * math.cos(angle))

    def moved(self, dx: float, dy: float) -> Piece:
        """The same piece elsewhere, in millimetres."""
        points = tuple((round(x + dx, 4), round(y + dy, 4)) for x, y in self.points)
        return replace(self, points=points, at=(round(self.at[0] + dx, 4), round(self.at[1] + dy, 4)))

    def swapped(self) -> Piece:
        """Filled where it was an outline, and an outline where it was filled; with both, their colours change places.

        >>> Piece("polygon", width=0.2).swapped().fill
        '#22303C'
        """
        if self.fill and self.width:
            return replace(self, fill=self.outline, outline=self.fill)
        if self.fill:
            return replace(self, fill="", outline=self.fill, width=self.width or 0.2)
        return replace(self, fill=self.outline, width=0.0)
