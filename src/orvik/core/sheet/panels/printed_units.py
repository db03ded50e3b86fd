"""Which units a panel prints, and in which colours: one answer for all parts that speak of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orvik.core.colour.hex import mixed
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import PAPER
from orvik.core.sheet.panels.map_context import MapContext

# The layer of a panel that units are printed in.
UNITS = "units"


def shown_units(context: MapContext, opacities: Mapping[str, float]) -> frozenset[str]:
    """The codes of the units of the column that a panel shows; none where it does not print its units.

    Parameters
    ----------
    context
        The map as the panel shows it.
    opacities
        How strongly it prints each of its layers, 0 to 1, where not in full.
    """
    areas = context.features.get("areas")
    if areas is None or opacities.get(UNITS, 1.0) <= 0:
        return frozenset()
    return frozenset(code for code in areas.columns["map_unit"] if code in context.units)


def printed_unit(unit: MapUnit, opacities: Mapping[str, float]) -> MapUnit:
    """A unit in the colour that comes of its tint on white, as strongly as a panel prints it."""
    opacity = opacities.get(UNITS, 1.0)
    return replace(unit, colour=mixed(unit.colour, PAPER, opacity), pattern_opacity=unit.pattern_opacity * opacity)
