"""Lines too short for a reader to see by their dashes how certain they are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_words
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import figures
from orvik.core.symbols.symbol import Symbol

rule(
    "dashes_unseen",
    "warning",
    "symbols",
    "A line is too short to show the dashes that say how certain it is",
    features=("kind", "certainty"),
    why="it is printed as if it were certain",
    spoils="reading",
)

# Of the next dash so large a share must be seen.
NEXT = 0.3
SHORT = "lines are too short on the sheet to show by their dashes how certain they are."


def unseen(lines: Features, symbols: Mapping[int, Symbol], mm_per_unit: float) -> list[Finding]:
    """Lines that show one dash alone and end in the open; what runs from line to line is as long as they are apart.

    Parameters
    ----------
    symbols
        Of the lines that are drawn in dashes, by their rows.
    mm_per_unit
        Millimetres on the sheet of one project unit, at the publication scale.
    """
    kinds, certainties = lines.columns["kind"], lines.columns["certainty"]
    open_ended = _open_ended(lines, list(symbols))
    out = []
    for row, symbol in symbols.items():
        dash = next(style.dash for style in symbol.strokes if style.dash)
        long = float(lines.geometries[row].length) * mm_per_unit
        need = sum(dash[:2]) + NEXT * dash[0]
        if long >= need or row not in open_ended or lines.columns["stretches"][row]:
            continue
        number = int(lines.ids[row])
        name = f"{kind_words(str(kinds[row]))} {number}"
        middle = np.asarray(shapely.line_interpolate_point(lines.geometries[row], 0.5, normalized=True).coords[0])
        message = (
            f"{name.capitalize()} is {figures(long, 2)} mm long on the sheet and shows one dash; that it is "
            f"{certainties[row]} is seen from {figures(need, 2)} mm on."
        )
        at = (float(middle[0]), float(middle[1]))
        facts = (f"{long:.2f} mm",)
        key: FeatureKey = ("lines", number)
        out.append(Finding("dashes_unseen", "warning", message, at, (key,), facts=facts, shared=SHORT, subject=name))
    return out


def _open_ended(lines: Features, rows: Sequence[int]) -> set[int]:
    """Which of some lines have an end that no other line meets, and go on in none of their kind and certainty."""
    if not rows:
        return set()
    kinds, certainties = lines.columns["kind"], lines.columns["certainty"]
    ends = [shapely.Point(xy) for row in rows for xy in shapely.get_coordinates(lines.geometries[row])[[0, -1]]]
    hits, others = shapely.STRtree(lines.geometries).query(ends, predicate="dwithin", distance=NODE)
    met: set[int] = set()
    going_on: set[int] = set()
    for hit, other in zip(hits.tolist(), others.tolist(), strict=True):
        row = rows[hit // 2]
        if other != row:
            met.add(hit)
            if (kinds[row], certainties[row]) == (kinds[other], certainties[other]):
                going_on.add(row)
    return {rows[end // 2] for end in range(len(ends)) if end not in met} - going_on
