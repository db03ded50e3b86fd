"""Linework and what covers it: concealed without cover, certain where others are concealed."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely

from orvik.core.features.kind import kind_of
from orvik.core.features.stretch import certainties
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import looks_at, rule
from orvik.core.ground.scale import figures

rule(
    "uncovered",
    "warning",
    "linework",
    "A line is concealed where no deposit lies over it",
    features=("kind", "certainty"),
    why="a dotted line says that something lies over it",
)
rule(
    "under_cover",
    "warning",
    "linework",
    "A line is certain below a deposit that conceals others",
    features=("kind", "certainty"),
    why="a line is drawn as seen where nothing can be seen",
)

# What lies within so many millimetres on the sheet of the edge of its cover is at the edge.
BESIDE_MM = 0.3
# So long must it be, in millimetres on the sheet, or all of the line.
LEAST_MM, MOST_OF = 2.0, 0.9
CONCEALED, CERTAIN = "concealed", "certain"


@looks_at("lines", "areas", "points")
def covers(ground: CheckInput) -> list[Finding]:
    """Concealed lines on bare rock, and certain faults and folds below what elsewhere conceals them."""
    lines, areas = ground.lines, ground.areas
    graded = {name: _can_be_covered(name) for name in set(lines.columns["kind"])}
    rows = [r for r, kind in enumerate(lines.columns["kind"]) if graded[kind] and lines.columns["band"][r] is None]
    covering = {code for code, unit in ground.units.items() if unit.is_deposit}
    if not rows or not covering or not len(areas):
        return []
    starts, ends, owner, said = _segments(ground, rows)
    middles = (starts + ends) / 2
    way = ends - starts
    long = np.hypot(*way.T)
    aside = ground.units_on_ground(BESIDE_MM) * np.column_stack([-way[:, 1], way[:, 0]])
    aside /= np.maximum(long, 1e-12)[:, None]
    left, right = (ground.units_at(middles + sign * aside) for sign in (1.0, -1.0))
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    concealed: dict[int, list[int]] = defaultdict(list)
    bare: dict[int, list[int]] = defaultdict(list)
    below: dict[tuple[int, str], list[int]] = defaultdict(list)
    concealing: set[str] = set()
    for i, row in enumerate(owner.tolist()):
        one, two = left[i], right[i]
        if said[i] == CONCEALED:
            concealed[row].append(i)
            concealing |= {one, two} & covering
            if one and two and not {one, two} & covering:
                bare[row].append(i)
        elif said[i] == CERTAIN and one == two and one in covering:
            below[(row, one)].append(i)
    out = []
    for row, some in bare.items():
        length = float(long[some].sum()) * mm
        if length >= min(LEAST_MM, MOST_OF * float(long[concealed[row]].sum()) * mm):
            out.append(_uncovered(ground, row, length, middles[some[len(some) // 2]], left[some[0]]))
    for (row, unit), some in below.items():
        length = float(long[some].sum()) * mm
        # A contact within one unit is another matter, and told as such.
        if length >= LEAST_MM and unit in concealing and not kind_of(lines.columns["kind"][row]).parts_units:
            out.append(_under(ground, row, length, middles[some[len(some) // 2]], unit))
    return out


def _can_be_covered(name: str) -> bool:
    """Whether a deposit may conceal a line of a kind: what goes down into rock, but no shore."""
    kind = kind_of(name)
    return kind.graded and (kind.parts_units or kind.runs_through or kind.is_fold)


def _segments(ground: CheckInput, rows: list[int]) -> tuple[np.ndarray, np.ndarray, np.ndarray, list[str]]:
    """All segments of some lines: where they begin and end, their rows, and how certain each is."""
    lines = ground.lines
    starts, ends, owner = [], [], []
    said: list[str] = []
    for row in rows:
        xy = shapely.get_coordinates(lines.geometries[row])
        starts.append(xy[:-1])
        ends.append(xy[1:])
        owner.append(np.full(len(xy) - 1, row))
        said += certainties(lines.columns["certainty"][row], lines.columns["stretches"][row] or (), len(xy) - 1)
    return np.concatenate(starts), np.concatenate(ends), np.concatenate(owner), said


def _uncovered(ground: CheckInput, row: int, length: float, at: np.ndarray, unit: str) -> Finding:
    held = ground.units.get(unit)
    name = f"{unit} ({held.name})" if held is not None else unit
    message = (
        f"{ground.line_name(row).capitalize()} is concealed along {figures(length, 2)} mm on the sheet, where no "
        f"deposit lies over it but {name} comes to the surface."
    )
    key = ("lines", int(ground.lines.ids[row]))
    return Finding("uncovered", "warning", message, (float(at[0]), float(at[1])), (key,))  # type: ignore[arg-type]


def _under(ground: CheckInput, row: int, length: float, at: np.ndarray, unit: str) -> Finding:
    name = ground.units[unit].name
    message = (
        f"{ground.line_name(row).capitalize()} is certain along {figures(length, 2)} mm on the sheet below {unit} "
        f"({name}), which conceals other lines; did it move after that was laid down, or is it concealed?"
    )
    key: FeatureKey = ("lines", int(ground.lines.ids[row]))
    said = f"lines are certain below {unit} ({name}), which conceals others."
    place = (float(at[0]), float(at[1]))
    return Finding("under_cover", "warning", message, place, (key,), shared=said, subject=ground.line_name(row))
