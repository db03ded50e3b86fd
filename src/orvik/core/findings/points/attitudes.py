"""Readings of beds that are at odds with all their neighbours: a slip of the compass, of the hand, or a find."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.features.kind import kind_words
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.points.neighbours import nearest
from orvik.core.findings.points.slips import slips
from orvik.core.findings.rule import Reach, looks_at, rule

rule(
    "odd_attitude",
    "warning",
    "linework",
    "Beds dip more than 70° off the way of the readings around, which agree",
    features=(
        "kind",
        "azimuth",
        "inclination",
    ),
    why="a wrong number looks like a fold that is not there",
)

# Neighbours stand within so many millimetres on the sheet; the nearest so many are asked, and fewer say nothing.
NEAR_MM = 25.0
MOST, LEAST = 6, 4
# Neighbours agree that dip within so many degrees of their mean direction; a bed is odd that dips so far off it.
AGREE, ODD = 35.0, 70.0
# Beds that lie flatter or stand steeper dip anywhere.
FLAT, STEEP = 8.0, 80.0


@looks_at("points", reach=Reach(lambda kind: True, NEAR_MM, "points"))
def attitudes(ground: CheckInput) -> list[Finding]:
    """Readings against those around: such as a slip of the pen explains, and beds that dip another way."""
    slipped = slips(ground)
    told = {finding.features[0] for finding in slipped}
    return [*slipped, *(odd for odd in odd_attitudes(ground) if odd.features[0] not in told)]


def odd_attitudes(ground: CheckInput) -> list[Finding]:
    """Beds that dip another way than all the readings around, which agree with one another."""
    columns = ground.points.columns
    rows = np.array([r for r in ground.bedding if FLAT <= columns["inclination"][r] <= STEEP], dtype=np.int64)
    if len(rows) <= LEAST:
        return []
    places = ground.points.geometries[rows]
    xy = shapely.get_coordinates(places)
    # After the right-hand rule beds dip to the right of their strike.
    down = np.radians([columns["azimuth"][r] + 90.0 for r in rows])
    ways = np.column_stack([np.sin(down), np.cos(down)])
    # What stands at the same place is another matter, and told as such.
    around, count, _ = nearest(xy, ground.units_on_ground(NEAR_MM), MOST)
    asked = np.flatnonzero(count >= LEAST)
    there = np.arange(MOST) < count[asked, None]
    near = ways[around[asked]] * there[..., None]
    mean = near.sum(axis=1)
    mean /= np.maximum(np.hypot(*mean.T), 1e-12)[:, None]
    off = _angles(ways[asked], mean)
    agree = np.where(there, _angles(near, mean[:, None, :]), 0.0).max(axis=1, initial=0.0) <= AGREE
    found = []
    for k in np.flatnonzero((off > ODD) & agree).tolist():
        i = asked[k]
        row = int(rows[i])
        name = f"{kind_words(str(columns['kind'][row])).capitalize()} {ground.points.ids[row]}"
        message = (
            f"{name} dips {off[k]:.0f}° off the way of the {count[i]} readings around it, which agree; "
            "look at its strike again."
        )
        place = (float(xy[i, 0]), float(xy[i, 1]))
        beside = ground.points.ids[rows[around[i, : count[i]]]].tolist()
        found.append(
            Finding(
                "odd_attitude",
                "warning",
                message,
                place,
                (("points", int(ground.points.ids[row])),),
                beside=tuple(("points", number) for number in sorted(beside)),
            )
        )
    return found


def _angles(ways: Floats, mean: Floats) -> Floats:
    return np.asarray(np.degrees(np.arccos(np.clip((ways * mean).sum(axis=-1), -1.0, 1.0))))
