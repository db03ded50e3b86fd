"""The small pictures of what a system does."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.ground import distortion_map
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Fill, Group, Stroke

GROUND = (-14.82, 61.33, -14.68, 61.38)


def parts(code: str, ground: tuple[float, float, float, float] = GROUND) -> tuple[list[Fill], list[Stroke]]:
    (group,) = distortion_map.picture(project_crs(code), ground, 46.0, 30.0)
    assert isinstance(group, Group)
    assert group.clip is not None
    fills = [item for item in group.items if isinstance(item, Fill)]
    strokes = [item for item in group.items if isinstance(item, Stroke)]
    return fills, strokes


def test_tints_follow_the_distortion() -> None:
    """A zone is truest along two lines 180 km from its meridian, and bends more beyond the zone's edge."""
    fills, _ = parts("EPSG:32628")
    assert {"#DCEBE4", "#BBDAD0"} <= {fill.colour for fill in fills}
    # A system made for other ground has none of the good tints at the sheet.
    europe, _ = parts("EPSG:3035")
    assert {fill.colour for fill in europe} == {"#DE9B78"}


@pytest.mark.parametrize("code", ["EPSG:32628", "EPSG:3035", "EPSG:8088", "EPSG:3857", "EPSG:5932"])
def test_the_sheet_stands_in_the_middle(code: str) -> None:
    _, strokes = parts(code)
    sheet = strokes[-1]
    assert sheet.style.colour == distortion_map.SIGNAL
    middle = (sheet.paths.xy.min(axis=0) + sheet.paths.xy.max(axis=0)) / 2
    assert middle == pytest.approx([23, 15], abs=0.3)
    assert np.ptp(sheet.paths.xy, axis=0).max() >= 1.2


def test_a_large_sheet_is_drawn_to_its_shape() -> None:
    _, strokes = parts("EPSG:3035", (-10.0, 40.0, 20.0, 60.0))
    ring = strokes[-1].paths.xy
    assert len(ring) > 30
    # Parallels curve in this projection: the southern edge is longer than the northern.
    south, north = ring[8] - ring[0], ring[18] - ring[26]
    assert np.hypot(*south) > 1.2 * np.hypot(*north)


def test_classes_are_in_order() -> None:
    limits = [limit for limit, _ in distortion_map.CLASSES]
    assert limits == sorted(limits)
    assert len(distortion_map.WORDS) == len(limits)
