"""Curves whose vertices are too few for the publication scale."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.features.kind import kind_of
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.rule import Reach, looks_at, rule
from orvik.core.ground.scale import figures, spaced

rule(
    "sparse",
    "warning",
    "linework",
    "A curved line has so few vertices that its chords are seen on the sheet",
    features=("kind",),
    why="corners are seen where the ground has a curve",
    spoils="finish",
)

# Chords are seen that leave the curve by so many millimetres on the sheet (common practice: the drawing accuracy).
SEEN_MM = 0.3
# So many bends, and such a share of all, must be gentle: what turns more sharply was meant as a corner.
BENDS, GENTLE_SHARE, GENTLE, STRAIGHT = 4, 0.8, 50.0, 3.0


@looks_at("lines", reach=Reach(lambda kind: kind.graded, 0.0))
def sparse(ground: CheckInput) -> list[Finding]:
    """Smooth lines of which half the bends leave their chords by more than can be overlooked.

    A chord of length c that turns by t into the next one leaves the circle through both by c / 2 tan(t / 4).
    """
    lines = ground.lines
    graded = {kind: kind_of(kind).graded for kind in set(lines.columns["kind"])}
    rows = np.flatnonzero([graded[kind] for kind in lines.columns["kind"]])
    if not len(rows):
        return []
    xy, of = shapely.get_coordinates(lines.geometries[rows], return_index=True)
    step = np.diff(xy, axis=0)
    same = of[1:] == of[:-1]
    long = np.hypot(*step.T)
    turn = np.degrees(
        np.arctan2(step[:-1, 0] * step[1:, 1] - step[:-1, 1] * step[1:, 0], (step[:-1] * step[1:]).sum(axis=1))
    )
    inner = same[:-1] & same[1:]
    turn, owner = np.abs(turn[inner]), of[1:-1][inner]
    chord = np.minimum(long[:-1], long[1:])[inner]
    off = chord / 2 * np.tan(np.radians(turn) / 4)
    bends = turn > STRAIGHT
    gentle = bends & (turn < GENTLE)
    count = np.bincount(owner[bends], minlength=len(rows))
    smooth = np.bincount(owner[gentle], minlength=len(rows))
    maybe = np.flatnonzero((smooth >= BENDS) & (smooth >= GENTLE_SHARE * count))
    seen = ground.units_on_ground(SEEN_MM)
    mm = 1000 * ground.metres_per_unit / ground.scales.publication
    enough = np.bincount(owner[gentle & (off > seen)], minlength=len(rows)) * 2 >= smooth
    out = []
    for i in maybe[enough[maybe]].tolist():
        mine = off[(owner == i) & gentle]
        middle, worst = float(np.median(mine)) * mm, float(mine.max()) * mm
        if middle <= SEEN_MM:
            continue
        row = int(rows[i])
        place = shapely.line_interpolate_point(lines.geometries[row], 0.5, normalized=True)
        scale = spaced(ground.scales.publication)
        message = (
            f"{ground.line_name(row).capitalize()} has too few vertices for 1:{scale}: its chords leave a smooth "
            f"course by {figures(middle, 2)} mm on the sheet, and by {figures(worst, 2)} mm at most."
        )
        key: FeatureKey = ("lines", int(lines.ids[row]))
        said = f"curved lines have too few vertices for 1:{scale}: their chords are seen on the sheet."
        at = (float(place.x), float(place.y))
        out.append(Finding("sparse", "warning", message, at, (key,), shared=said, subject=ground.line_name(row)))
    return out
