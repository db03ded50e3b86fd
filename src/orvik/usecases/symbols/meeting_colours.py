"""Colours that meet: which units touch, how well their colours are told apart as printed, and a proposal."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from orvik.core.colour.difference import SIGHTS, ciede2000, labs_by_sight, printed, seen, to_lab
from orvik.core.colour.hex import is_colour
from orvik.core.colour.proposal import Proposal, propose
from orvik.core.errors import FeatureRefused
from orvik.core.faces.meeting import Meeting, meetings
from orvik.core.features.age import chart_colour, written_ends
from orvik.core.features.column_colours import Way, column_colours
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.scale import on_ground
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.sheet.panels import panels_of

# Two areas that lie so near each other on the sheet, in millimetres, touch.
TOUCHING = 0.1
# What is told apart with ease on a printed map is a matter of taste; ours, to begin with.
WANTED = 5.0
# A land unit nearer than this to the sheet's own water is taken for water.
WATER = 8.0


@dataclass(frozen=True)
class Pair:
    """Two units that touch: the length of their edge in metres, and their differences for each of ``SIGHTS``.

    ``grey`` is the difference that is left without any colour; ``swatches`` are both colours as each sight sees them,
    grey last.
    """

    one: str
    other: str
    metres: float
    at: tuple[float, float]
    differences: tuple[float, ...]
    grey: float
    swatches: tuple[tuple[str, str], ...]

    @property
    def least(self) -> float:
        """The least of its differences, grey apart."""
        return min(self.differences)


@dataclass(frozen=True)
class ColourReport:
    """Pairs, the worst first; how strongly the weakest panel prints them; and what comes near to the water."""

    pairs: tuple[Pair, ...]
    opacity: float
    wanted: float
    near_water: tuple[tuple[str, float], ...]

    @property
    def bad(self) -> tuple[Pair, ...]:
        """Pairs that are told apart less than is wanted."""
        return tuple(pair for pair in self.pairs if pair.least < self.wanted)


def colour_report(project: Reader, wanted: float = WANTED) -> ColourReport:
    """How well the colours of units that touch are told apart, as printed at the weakest opacity of any panel."""
    units = project.units_by_code()
    opacity, waters = printed_opacity(project), water_colours(project)
    found = [m for m in _meetings(project) if m.one in units and m.other in units]
    pairs = [_pair(m, units, opacity, project.crs.metres_per_unit) for m in found]
    pairs.sort(key=lambda pair: (pair.least, -pair.metres))
    return ColourReport(tuple(pairs), opacity, wanted, _near_water(units, waters, opacity))


def proposal(project: Reader, wanted: float = WANTED) -> Proposal:
    """Colours that tell every pair apart, or as far as their ages allow."""
    units = project.units_by_code()
    pairs = [(m.one, m.other) for m in _meetings(project) if m.one in units and m.other in units]
    in_pairs = {code for pair in pairs for code in pair}
    ages = {code: colour for code, unit in units.items() if (colour := _age_colour(unit))}
    colours = {code: unit.colour for code, unit in units.items() if code in in_pairs}
    return propose(colours, pairs, ages, wanted, printed_opacity(project))


def column_moves(project: Reader, way: Way) -> list[tuple[MapUnit, str]]:
    """Units that would get another colour by a way of colouring the whole column, each with that colour.

    Raises
    ------
    FeatureRefused
        No unit says what the way goes by.
    """
    units = [unit for _, unit in project.units()]
    colours = column_colours(units, way)
    if not colours:
        lacking = {"age": "an age of the chart", "heading": "a heading", "rock": "a rock"}[way]
        raise FeatureRefused(f"No unit has {lacking}; give them one in the column first.")
    return [(unit, colours[unit.code]) for unit in units if colours.get(unit.code, unit.colour) != unit.colour.upper()]


def take_colours(project: Project, colours: Mapping[str, str]) -> Entry | None:
    """Give units colours by their codes, in one entry; None where they have them.

    Raises
    ------
    FeatureRefused
        A unit is gone, or a colour is none.
    """
    ids = {unit.code: (row_id, unit) for row_id, unit in project.units()}
    changes = []
    for code, colour in colours.items():
        if code not in ids:
            raise FeatureRefused(f"There is no map unit {code[:20]} any more; look at the proposal again.")
        if not is_colour(colour):
            raise FeatureRefused(f"“{colour[:20]}” is not a colour; type six digits such as #F4E6A8.")
        row_id, unit = ids[code]
        if unit.colour.upper() != colour.upper():
            changes.append(Change("units", row_id, {"colour": colour.upper()}))
    return project.apply(f"colour {len(changes)} units", changes) if changes else None


def printed_opacity(project: Reader) -> float:
    """The weakest opacity at which any panel of any sheet prints the units; 1 without a panel that prints them."""
    opacities = [panel.settings.layers.get("units", 1.0) for panel in panels_of(project)]
    shown = [opacity for opacity in opacities if opacity > 0]
    return min(shown, default=1.0)


def water_colours(project: Reader) -> list[str]:
    """The colours that panels give the ground outside the units: the sheet's own water."""
    return [colour for panel in panels_of(project) if (colour := panel.settings.ground_colour)]


def _meetings(project: Reader) -> list[Meeting]:
    reach = on_ground(TOUCHING, project.scales.publication) / project.crs.metres_per_unit
    return meetings(project.features("areas"), reach)


def _age_colour(unit: MapUnit) -> str:
    ends = (unit.age_from, unit.age_to) if unit.age_from else written_ends(unit.age)
    return chart_colour(*ends) if ends is not None else ""


def _pair(meeting: Meeting, units: Mapping[str, MapUnit], opacity: float, metres_per_unit: float) -> Pair:
    rgb = printed([units[meeting.one].colour, units[meeting.other].colour], opacity)
    labs = labs_by_sight(rgb)
    differences = ciede2000(labs[0], labs[1])
    light = to_lab(rgb) * (1.0, 0.0, 0.0)
    grey = float(ciede2000(light[0], light[1]))
    both = [seen(rgb, sight) for sight in SIGHTS]
    shades = np.repeat((light[:, 0] / 100)[:, None], 3, axis=1)
    swatches = tuple((_hex(colours[0]), _hex(colours[1])) for colours in (*both, shades))
    return Pair(
        meeting.one,
        meeting.other,
        meeting.length * metres_per_unit,
        meeting.at,
        tuple(float(value) for value in differences),
        grey,
        swatches,
    )


def _near_water(units: Mapping[str, MapUnit], waters: list[str], opacity: float) -> tuple[tuple[str, float], ...]:
    if not waters or not units:
        return ()
    codes = sorted(units)
    land = to_lab(printed([units[code].colour for code in codes], opacity))
    # Water lies on the paper as it is: a panel's opacity is that of its units.
    water = to_lab(printed(waters, 1.0))
    least = ciede2000(land[:, None], water[None]).min(axis=1)
    return tuple((code, float(value)) for code, value in zip(codes, least, strict=True) if value < WATER)


def _hex(rgb: np.ndarray) -> str:
    return "#" + "".join(f"{round(255 * float(value)):02X}" for value in np.clip(rgb, 0, 1))
