"""What a new sheet is made for: its page and the ground that it is to show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import shapely

from orvik.core.errors import SheetRefused
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.paper import family_of
from orvik.core.sheet.panels.aim import FITTING_SCALES
from orvik.core.sheet.panels.panel import aimed
from orvik.core.sheet.parts.map_panel import NO_BORDER

# The numbers by which the parts of a template speak of its panels.
MAIN, LOCATOR, DETAIL = -1, -2, -3


@dataclass(frozen=True)
class Brief:
    """What a template lays out.

    Attributes
    ----------
    name, project
        Of the sheet and of the project.
    page
        Width and height in millimetres.
    paper
        The name of the paper.
    ground
        What is to be shown, as a ring in the project's system; None where nobody has said.
    neatline
        What a panel that shows just that is cut to: a name of ``NEATLINES``.
    scale
        The publication scale.
    today
        The day that the declination is of.
    sections
        The letters of the map's sections, each with how high it is at the publication scale, in millimetres.
    readings
        Whether the map has readings that a net could show.
    heights
        Whether the project has heights.
    texts
        How many letters are to be said of each map unit of the project.
    """

    name: str
    project: str
    page: tuple[float, float]
    ground: shapely.LineString | None
    scale: int
    crs: ProjectCrs
    today: date
    paper: str = "A3"
    neatline: str = "border"
    sections: tuple[tuple[str, float], ...] = ()
    readings: bool = False
    heights: bool = False
    texts: tuple[int, ...] = ()

    @property
    def title(self) -> str:
        """The title of a map of this sheet, in which the project's name is said once."""
        one, other = self.name.strip().casefold(), self.project.strip().casefold()
        if one in other or other in one:
            return f"Geologic map of {max(self.name, self.project, key=len)}"
        return f"Geologic map of {self.name}, {self.project}"

    @property
    def family(self) -> str:
        return family_of(self.paper)

    @property
    def centre(self) -> tuple[float, float]:
        """The middle of the ground; raises SheetRefused where there is none."""
        return aimed(self._ground, self.scale, self.crs)[0]

    def size_at(self, scale: float) -> tuple[float, float]:
        """Width and height in millimetres of the ground at a scale; raises SheetRefused where there is none."""
        return aimed(self._ground, scale, self.crs)[1:]

    @property
    def _ground(self) -> shapely.LineString:
        if self.ground is None:
            raise SheetRefused(NO_BORDER)
        return self.ground

    def panel_size(self, scale: float, width: float, height: float) -> tuple[float, float]:
        """Width and height of a panel in a frame: of just the ground, or the whole frame where none bounds it."""
        if self.neatline != "border":
            return width, height
        across, down = self.size_at(scale)
        return min(across, width), min(down, height)

    def scale_for(self, width: float, height: float) -> int:
        """The largest round scale at which the ground lies in a frame.

        Raises
        ------
        SheetRefused
            The frame has no room, or the ground is too large for any.
        """
        if min(width, height) < 20:
            across, down = self.page
            raise SheetRefused(f"{across:g} × {down:g} mm has no room for this template; choose larger paper.")
        for scale in FITTING_SCALES:
            needed = self.size_at(scale)
            if needed[0] <= width + 1e-6 and needed[1] <= height + 1e-6:
                return int(scale)
        raise SheetRefused(
            f"This ground does not fit {width:.0f} × {height:.0f} mm at any scale down to "
            f"1:{spaced(FITTING_SCALES[-1])}; choose larger paper."
        )


def text_lengths(units: Sequence[MapUnit]) -> tuple[int, ...]:
    """How many letters a description says of each unit: its name, its age and its text."""
    return tuple(len(unit.name) + len(unit.printed_age) + len(unit.description) + 4 for unit in units)
