"""A graticule: the lines of a grid or of latitude and longitude over a panel, with their figures."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.ground.crs import project_crs
from orvik.core.ink.affine import apply
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Item, LineStyle, Run, Stroke, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Colour, Figure, Switch, Words, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.graticule.grid_system import GridSystem, LengthGrid, geographic
from orvik.core.sheet.parts.graticule.lines import Exit, GridLine, crossings, exits, gradient, grid_lines, spacing

TICK = 1.5
CROSS = 1.0
# Between a tick and its figure, and around each figure, in millimetres.
GAP, CLEAR = 0.6, 0.5
# Figures keep so far from the edge of the page.
PAGE_EDGE = 1.0
# Coordinates of corners are exact to so much on the sheet.
EXACT_MM = 0.05
# A side of the neatline that turns by more than this at a vertex has a corner there.
CORNER_DEGREES = 30.0
LINES_OF = {"grid": "the panel's grid", "geographic": "latitude and longitude", "other": "another system"}


@dataclass(frozen=True, kw_only=True)
class Graticule(PanelPartSettings):
    """Lines of equal coordinates over a panel.

    Attributes
    ----------
    lines_of
        A name of ``LINES_OF``.
    system
        The other system.
    style
        How the lines are drawn inside the neatline.
    spacing
        Between lines, in units of the grid or in minutes of arc; None for round values found for the panel.
    figures
        Where their values stand.
    corners
        Whether both coordinates stand in full at each corner of the neatline.
    neighbours
        Whether the sheets beside this one are named in the middle of its sides.
    """

    kind: ClassVar[str] = "graticule"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Graticule"
    icon: ClassVar[str] = "M2 5q10-3 20 0M2 12q10-3 20 0M7 1q-2 7 0 14M17 1q2 7 0 14"
    lies_on_panel: ClassVar[bool] = True

    lines_of: str = entry(Choice("Lines of", LINES_OF), "grid")
    system: str = entry(Words("Other system", longest=20_000), "")
    style: str = entry(Choice("Drawn as", {"crosses": "crosses", "lines": "lines", "ticks": "ticks only"}), "crosses")
    spacing: float | None = entry(Figure("Spacing", 1e-4, 1e8, optional=True), None)
    figures: str = entry(Choice("Figures", {"outside": "outside", "inside": "inside", "none": "none"}), "outside")
    corners: bool = entry(Switch("Corners in full"), False)
    neighbours: bool = entry(Switch("Names of neighbouring sheets"), False)
    size: float = entry(Figure("Figure size", 1, 20, "mm"), 1.9)
    width: float = entry(Figure("Line width", 0.05, 2, "mm"), 0.1)
    colour: str | None = entry(Colour("Colour"), INK)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        if context.panel is None:
            raise SheetRefused("A graticule lies on a panel; place a map panel first.")
        return cls(panel=context.panel), 10.0, 10.0

    @property
    def summary(self) -> str:
        return LINES_OF[self.lines_of] if self.lines_of != "other" else self.system

    def grid_system(self, panel: Panel) -> GridSystem:
        """The coordinates whose lines it draws; raises OrvikError where they cannot be had."""
        if self.lines_of == "geographic":
            return geographic(panel.crs, panel.centre)
        other = project_crs(self.system) if self.lines_of == "other" else panel.crs
        return LengthGrid(panel.crs, other, panel.centre)

    def step(self, panel: Panel, system: GridSystem) -> float:
        """The spacing of its lines, in units of the system."""
        if self.spacing is None:
            return spacing(panel, system)
        return self.spacing / 60 if self.lines_of == "geographic" else self.spacing

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels[self.panel or 0]
        try:
            system = self.grid_system(panel)
            step = self.step(panel, system)
            lines = grid_lines(panel, system, step)
        except OrvikError as refusal:
            return words_instead(refusal.sentence, panel.part.inset(2))
        colour = self.colour or INK
        style = LineStyle(self.width, colour)
        leaving = exits(panel, lines)
        drawn = self._inside(panel, system, lines)
        items: list[Item] = [Stroke(style, Paths.of(*drawn))] if drawn else []
        inward = self.figures == "inside"
        if leaving and self.figures != "inside":
            ticks = [np.array([e.at, np.add(e.at, np.multiply(e.outward, TICK))]) for e in leaving]
            items.append(Stroke(LineStyle(max(self.width, 0.15), colour), Paths.of(*ticks)))
        taken = _taken_before(self, part, page)
        items += _placed(self._corners_in_full(panel, system), taken, page, colour, None)
        items += _placed(self._names_beside(panel, page), taken, page, colour, None)
        return items + _placed(self._edges(system, step, leaving), taken, page, colour, PAPER if inward else None)

    def off_page(self, page: PageContext) -> list[str]:
        """The figures that are not printed, because they would leave the page."""
        panel = page.panels[self.panel or 0]
        try:
            system = self.grid_system(panel)
            step = self.step(panel, system)
            leaving = exits(panel, grid_lines(panel, system, step))
        except OrvikError:
            return []
        sheet = _within_page(page)
        beside = self._names_beside(panel, page)
        figures = [*self._corners_in_full(panel, system), *beside, *self._edges(system, step, leaving)]
        return [figure.text for figure in figures if not sheet.contains(_box_of(figure)[1])]

    def figure_boxes(self, panel: Panel, page: PageContext, taken: list[shapely.Polygon]) -> None:
        """Add to what is taken the room of its figures, for those of other graticules to keep clear of."""
        try:
            system = self.grid_system(panel)
            step = self.step(panel, system)
            leaving = exits(panel, grid_lines(panel, system, step))
        except OrvikError:
            return
        beside = self._names_beside(panel, page)
        for figures in (self._corners_in_full(panel, system), beside, self._edges(system, step, leaving)):
            _placed(figures, taken, page, INK, None)

    def _inside(self, panel: Panel, system: GridSystem, lines: list[GridLine]) -> list[Floats]:
        if self.style == "lines":
            return [piece for line in lines for piece in line.pieces]
        if self.style == "ticks":
            return []
        return [
            np.array([place - way * CROSS, place + way * CROSS])
            for place, ways in crossings(panel, system, lines)
            for way in ways
        ]

    def _edges(self, system: GridSystem, step: float, leaving: list[Exit]) -> list[Figured]:
        """The value of each line where it reaches the neatline, set along that."""
        if self.figures == "none":
            return []
        inward = self.figures == "inside"
        height = cap_height(self.size)
        out = []
        for e in leaving:
            away = -(GAP + height / 2) if inward else TICK * abs(float(np.dot(e.outward, e.normal))) + GAP + height / 2
            along = 0.0 if inward else TICK
            middle = np.add(e.at, np.multiply(e.normal, away))
            if not inward:
                # A line that leaves aslant has its figure at the end of its tick.
                slant = np.subtract(e.outward, np.multiply(e.normal, float(np.dot(e.outward, e.normal))))
                middle = middle + slant * along
            angle = _upright(float(np.degrees(np.arctan2(e.normal[0], -e.normal[1]))))
            words = system.label(e.value, e.axis, step)
            out.append(Figured(words, (float(middle[0]), float(middle[1])), angle, self.size))
        return out

    def _names_beside(self, panel: Panel, page: PageContext) -> list[Figured]:
        """The sheets that adjoin the sides, each in the middle of its side, beyond the figures."""
        if not self.neighbours:
            return []
        left, top, right, bottom = panel.page_area.bounds
        across, down = (left + right) / 2, (top + bottom) / 2
        away = TICK + 2 * GAP + 1.8 * self.size
        sides = {
            "n": ((across, top - away), 0.0),
            "s": ((across, bottom + away), 0.0),
            "w": ((left - away, down), -90.0),
            "e": ((right + away, down), 90.0),
        }
        out = []
        for place, (middle, angle) in sides.items():
            words = ", ".join(neighbour.words for neighbour in page.map.neighbours if neighbour.place == place)
            if words:
                out.append(Figured(words, middle, angle, self.size))
        return out

    def _corners_in_full(self, panel: Panel, system: GridSystem) -> list[Figured]:
        """Both coordinates of each corner of the neatline, above it or below."""
        if not self.corners:
            return []
        corners = _corners(panel.page_area)
        a, b = np.hypot(*gradient(panel, system).T) * EXACT_MM
        middle = np.array(panel.part.middle)
        out = []
        for corner, (u, v) in zip(corners, system.of_ground(apply(panel.to_ground, corners)), strict=True):
            across, down = np.sign(corner - middle)
            first = TICK + GAP + cap_height(self.size) / 2
            for row, text in enumerate(reversed(system.full(float(u), float(v), (float(a), float(b))))):
                half = run(text, ROMAN, self.size).width / 2
                y = corner[1] + down * (first + row * 1.2 * self.size)
                out.append(Figured(text, (float(corner[0] - across * half), float(y)), 0.0, self.size))
        return out


@dataclass(frozen=True)
class Figured:
    """A figure to be set: its letters, its middle, its turn in degrees and its size in millimetres."""

    text: str
    middle: tuple[float, float]
    angle: float
    size: float


def _placed(
    figures: list[Figured], taken: list[shapely.Polygon], page: PageContext, colour: str, halo: str | None
) -> list[Item]:
    """Figures as ink; what would leave the page or run into another figure is left out."""
    sheet = _within_page(page)
    items: list[Item] = []
    for figure in figures:
        letters, box = _box_of(figure)
        angle = np.radians(figure.angle)
        if not sheet.contains(box) or any(box.intersects(other) for other in taken):
            continue
        taken.append(box)
        drop = cap_height(figure.size) / 2
        offset = (float(-drop * np.sin(angle)), float(drop * np.cos(angle)))
        items.append(Text(letters, figure.middle, colour, figure.angle, offset, halo))
    return items


def _within_page(page: PageContext) -> shapely.Polygon:
    return shapely.box(PAGE_EDGE, PAGE_EDGE, page.sheet.width - PAGE_EDGE, page.sheet.height - PAGE_EDGE)


def _box_of(figure: Figured) -> tuple[Run, shapely.Polygon]:
    """The letters of a figure, and the room that they take on the page."""
    letters = run(figure.text, ROMAN, figure.size, "centre")
    half = np.array([letters.width / 2 + CLEAR, cap_height(figure.size) / 2 + CLEAR / 2])
    angle = np.radians(figure.angle)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return letters, shapely.Polygon(np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * half @ turn + figure.middle)


def _taken_before(own: Graticule, part: Part, page: PageContext) -> list[shapely.Polygon]:
    """The room of the figures of graticules that lie below on the same panel."""
    taken: list[shapely.Polygon] = []
    for other in page.parts:
        made = other.settings
        below = (other.position, other.number) < (part.position, part.number)
        if isinstance(made, Graticule) and made.panel == own.panel and below:
            made.figure_boxes(page.panels[own.panel or 0], page, taken)
    return taken


def _upright(angle: float) -> float:
    """The turn of letters along an edge whose normal points so, so that they are read from below or from the right."""
    turned = (angle + 90) % 180 - 90
    return turned - 180 if turned > 89.5 else turned


def _corners(area: shapely.Polygon) -> Floats:
    """The corners of a neatline, (n, 2)."""
    xy = shapely.get_coordinates(area.exterior)[:-1]
    before, after = xy - np.roll(xy, 1, axis=0), np.roll(xy, -1, axis=0) - xy
    turn = np.degrees(np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)))
    corners: Floats = xy[np.abs(turn) > CORNER_DEGREES]
    return corners
