"""The three norths of a panel: grid, true and magnetic, at its middle."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from orvik.core.errors import SheetRefused
from orvik.core.ground.magnetic import MODEL, Declination, declination, mils
from orvik.core.sheet.page.day import day_words
from orvik.core.sheet.panels.panel import Panel


@dataclass(frozen=True)
class Norths:
    """Directions on the page in degrees clockwise from its top.

    Attributes
    ----------
    grid, true
        Where they point on the page.
    convergence
        Grid north from true north, clockwise positive.
    magnetic
        The declination; None where no day is given.
    """

    grid: float
    true: float
    convergence: float
    magnetic: Declination | None = None
    day: date | None = None

    @property
    def magnetic_on_page(self) -> float:
        """Where magnetic north points on the page."""
        return self.true + (self.magnetic.degrees if self.magnetic else 0.0)

    def lines(self, with_mils: bool = False) -> list[str]:
        """What is said of them, a line each."""
        said = [f"Grid north {self._apart(self.convergence, with_mils)} of true north"]
        if angle_text(self.convergence)[0] == "0°00′":
            said = ["Grid north is true north here"]
        if self.magnetic is None or self.day is None:
            return said
        said.append(f"Magnetic north {self._apart(self.magnetic.degrees, with_mils)} of true north")
        change, side = angle_text(self.magnetic.yearly)
        said.append(f"on {day_words(self.day)}, changing by {change} {side} a year")
        if self.magnetic.weak:
            said.append("The magnetic field is weak here: do not rely on a compass")
        said.append(MODEL)
        return said

    def _apart(self, degrees: float, with_mils: bool) -> str:
        text, side = angle_text(degrees)
        return f"{text} ({mils(degrees)} mils) {side}" if with_mils else f"{text} {side}"


def norths_of(panel: Panel, day: date | None) -> Norths:
    """The norths at the middle of a panel.

    Raises
    ------
    SheetRefused
        The day lies outside the model's years, or the middle is not a place that its system can show.
    """
    convergence = float(panel.crs.convergence(*panel.centre))
    if convergence != convergence:
        raise SheetRefused("The middle of this panel is not a place that its system can show; aim it at ground.")
    magnetic = None
    if day is not None:
        longitude, latitude = (float(v) for v in panel.crs.to_geographic(*panel.centre))
        magnetic = declination(longitude, latitude, day)
    return Norths(panel.rotation, panel.rotation - convergence, convergence, magnetic, day)


def angle_text(degrees: float) -> tuple[str, str]:
    """An angle in degrees and minutes, and its side: ``("0°13′", "east")``."""
    minutes = round(abs(degrees) * 60)
    return f"{minutes // 60}°{minutes % 60:02d}′", "west" if degrees < 0 else "east"
