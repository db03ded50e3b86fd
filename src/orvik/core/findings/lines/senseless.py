"""Lines too short for the ornament that says their sense."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_words
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import figures
from orvik.core.ink.paths import Paths
from orvik.core.symbols.portrayal.ornaments import placed, reach_along
from orvik.core.symbols.symbol import Ornament

rule(
    "no_sense",
    "warning",
    "symbols",
    "A line is too short for the ornament that says its sense",
    features=(
        "kind",
        "certainty",
    ),
    why="a reader cannot tell which side goes down",
    spoils="reading",
)

SHORT = "lines are too short on the sheet for what says their sense; lead them on, or smooth them."


def senseless(lines: Features, once: Mapping[int, Sequence[Ornament]], mm_per_unit: float) -> list[Finding]:
    """Lines none of whose ornaments finds a place, as the arrows of a short strike-slip fault.

    Parameters
    ----------
    once
        The ornaments that stand once or a few times on a line, by the row of the line.
    mm_per_unit
        Millimetres on the sheet of one project unit, at the publication scale.
    """
    by_ornament: dict[int, tuple[Ornament, list[int]]] = {}
    for row, ornaments in once.items():
        for ornament in ornaments:
            by_ornament.setdefault(id(ornament), (ornament, []))[1].append(row)
    shown: set[int] = set()
    for ornament, rows in by_ornament.values():
        places = placed(ornament, Paths.of_lines(lines.geometries[rows]), mm_per_unit)
        shown |= {rows[path] for path in np.unique(places.paths).tolist()}
    found = []
    for row in sorted(set(once) - shown):
        number = int(lines.ids[row])
        name = f"{kind_words(str(lines.columns['kind'][row]))} {number}"
        long = float(lines.geometries[row].length) * mm_per_unit
        need = min(reach_along(ornament.stamp) for ornament in once[row])
        middle = shapely.line_interpolate_point(lines.geometries[row], 0.5, normalized=True)
        message = (
            f"{name.capitalize()} is {figures(long, 2)} mm long on the sheet, corners and all, with no room for what "
            f"says its sense, which takes {figures(need, 2)} mm; lead it on, or smooth it."
        )
        at = (float(middle.x), float(middle.y))
        facts = (f"{long:.2f} mm",)
        key: FeatureKey = ("lines", number)
        found.append(Finding("no_sense", "warning", message, at, (key,), facts=facts, shared=SHORT, subject=name))
    return found
