"""Areas filled, cut, split, merged and trimmed: never a gap, an overlap or an unsound ring."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.drawing import area_operations
from orvik.core.errors import FeatureRefused
from orvik.core.faces.forming import proven
from orvik.core.features.feature import Feature
from tests.core.pieces import area, line
from tests.examples import examples

WEST = area(1, shapely.box(0, 0, 500, 1000), "Kp", note="first")
EAST = area(2, shapely.box(500, 0, 1000, 1000), "Jh")
NEW = area(None, shapely.box(0, 0, 1, 1), "Qt")


def after(before: list[Feature], outcome: area_operations.Outcome) -> list[Feature]:
    """All areas after an operation; new ones get the next numbers."""
    there = {f.id: f for f in before if f.id not in outcome.deleted}
    top = max((i or 0 for i in there), default=0)
    for f in outcome.kept:
        top += f.id is None
        there[f.id or top] = f.changed(id=f.id or top)
    return list(there.values())


def sound(features: list[Feature]) -> bool:
    good, over = proven(f.geometry for f in features)
    return good and abs(over) < 1e-6


def test_an_area_filled_to_its_neighbours_shares_their_edges() -> None:
    drawn = area(None, shapely.Polygon([(400, 900), (600, 900), (700, 1400), (300, 1400)]), "Qt")
    outcome = area_operations.fill_to_neighbours(drawn, [WEST, EAST])
    new = next(f for f in outcome.kept if f.id is None)
    assert not new.geometry.overlaps(WEST.geometry)
    # Where its sides cross the neighbours' edges, these have the vertex too, to the last bit.
    held = {tuple(p) for f in outcome.kept if f.id for p in shapely.get_coordinates(f.geometry)}
    corners = [tuple(p) for p in shapely.get_coordinates(new.geometry) if p[1] == 1000]
    assert len(corners) >= 3
    assert set(corners) <= held | {(500.0, 1000.0)}
    assert sound(after([WEST, EAST], outcome))
    with pytest.raises(FeatureRefused, match="no ground"):
        area_operations.fill_to_neighbours(area(None, shapely.box(100, 100, 200, 200), "Qt"), [WEST, EAST])


def test_open_ground_is_filled_by_one_click() -> None:
    ring = [shapely.box(0, 0, 300, 100), shapely.box(0, 100, 100, 300), shapely.box(200, 100, 300, 300)]
    around = [area(i, p, "Kp") for i, p in enumerate(ring, 1)]
    roof = line(9, [(0, 280), (300, 280)])
    outcome = area_operations.filled_at(150, 200, around, [roof], NEW)
    new = next(f for f in outcome.kept if f.id is None)
    assert new.geometry.equals(shapely.box(100, 100, 200, 280))
    assert sound(after(around, outcome))
    with pytest.raises(FeatureRefused, match="do not close"):
        area_operations.filled_at(150, 200, around, [], NEW)
    with pytest.raises(FeatureRefused, match="already"):
        area_operations.filled_at(50, 50, around, [roof], NEW)


def test_a_hole_a_notch_and_their_filling() -> None:
    hole = area_operations.cut_out([WEST], shapely.box(100, 100, 200, 200), [EAST], None)
    assert len(hole.kept[0].geometry.interiors) == 1
    filled = area_operations.cut_out([WEST], shapely.box(100, 100, 200, 200), [EAST], NEW)
    everything = after([WEST, EAST], filled)
    assert sound(everything)
    assert sum(f.geometry.area for f in everything) == pytest.approx(1e6)
    notch = area_operations.cut_out([WEST, EAST], shapely.box(400, 400, 600, 600), [], NEW)
    everything = after([WEST, EAST], notch)
    assert sound(everything)
    assert next(f for f in everything if f.map_unit == "Qt").geometry.area == 40_000
    assert area_operations.cut_out([WEST], shapely.box(-10, -10, 600, 1100), [], NEW).deleted == (1,)
    with pytest.raises(FeatureRefused, match="beside"):
        area_operations.cut_out([WEST], shapely.box(2000, 0, 2100, 100), [], None)


def test_split_and_merge_are_each_others_undoing() -> None:
    outcome = area_operations.split(WEST, shapely.LineString([(-10, 300), (250, 350), (510, 300)]), [EAST])
    parts = [f for f in outcome.kept if f.map_unit == "Kp"]
    assert [p.id for p in parts] == [1, None]
    assert parts[1].note == "first"
    everything = after([WEST, EAST], outcome)
    assert sound(everything)
    # The neighbour has the vertex where the line came through.
    assert len(next(f for f in everything if f.id == 2).geometry.exterior.coords) == 6
    again = area_operations.merge([f for f in everything if f.map_unit == "Kp"])
    assert again.kept[0].geometry.equals(WEST.geometry)
    assert again.deleted == (3,)
    with pytest.raises(FeatureRefused, match="edge to edge"):
        area_operations.split(WEST, shapely.LineString([(100, 300), (200, 300)]), [])
    with pytest.raises(FeatureRefused, match="do not share"):
        area_operations.merge([WEST, area(5, shapely.box(600, 0, 700, 10), "Kp")])
    with pytest.raises(FeatureRefused, match="two or more"):
        area_operations.merge([WEST])


@pytest.mark.parametrize("below", [True, False])
def test_overlaps_are_trimmed_from_either(below: bool) -> None:
    over = area(3, shapely.box(400, 200, 900, 400), "Qt")
    outcome = area_operations.trim_overlaps(over, [WEST, EAST], below)
    if below:
        assert outcome.deleted == (3,)
        assert outcome.kept == ()
        return
    everything = after([WEST, EAST, over], outcome)
    assert sound(everything)
    assert next(f for f in everything if f.id == 3).geometry.equals(over.geometry)


def test_an_area_is_clipped_to_the_shore() -> None:
    shore = line(9, [(200, -50), (230, 500), (200, 1050)], "shoreline")
    outcome = area_operations.clip_to_shore(WEST, [shore], [EAST], side="larger")
    kept = next(f for f in outcome.kept if f.id == 1)
    assert kept.geometry.bounds[2] == 500
    assert kept.geometry.area == pytest.approx(
        500_000 - (shapely.Polygon([(0, 0), (202.727272, 0), (230, 500), (202.727272, 1000), (0, 1000)]).area), rel=1e-5
    )
    island = line(9, [(100, 100), (300, 100), (300, 300), (100, 300), (100, 100)], "shoreline")
    with pytest.raises(FeatureRefused, match="No shoreline"):
        area_operations.clip_to_shore(EAST, [island], [])


def ring(polygon: shapely.Polygon, number: int = 9) -> Feature:
    return line(number, [(float(x), float(y)) for x, y in polygon.exterior.coords], "shoreline")


@pytest.mark.parametrize("seed", range(50))
def test_a_lake_is_a_hole_and_an_island_stays(seed: int) -> None:
    """Against the difference and the intersection of shapely; what the shoreline cannot tell the tags tell."""
    rng = np.random.default_rng(seed)
    closed = blob(rng)
    inner = shapely.affinity.scale(closed, 0.4, 0.4, origin=closed.representative_point())
    shores, inside = [ring(closed)], closed
    if seed % 2 and closed.contains(inner):
        # An island in the lake, or a lake on the island.
        shores.append(ring(inner, 10))
        inside = closed.difference(inner)
    two = shapely.box(0, 0, 1000, 1000)
    area_ = area(1, two, "Kp")
    within, beyond = two.intersection(inside), two.difference(inside)
    share = max(within.area, beyond.area) / two.area
    for land, tag in ((within, within.representative_point()), (beyond, beyond.representative_point())):
        spot = Feature("points", tag, "unit_tag", map_unit="Kp")
        kept = area_operations.clip_to_shore(area_, shores, [], [spot]).kept
        assert shapely.union_all([f.geometry for f in kept]).symmetric_difference(land).area < 1e-6
        assert {f.map_unit for f in kept} == {"Kp"}
        side = "larger" if land.area * 2 > two.area else "smaller"
        again = area_operations.clip_to_shore(area_, shores, [], [], side).kept
        assert shapely.union_all([f.geometry for f in again]).symmetric_difference(land).area < 1e-6
    if share < area_operations.CERTAIN:
        with pytest.raises(FeatureRefused, match="choose beside Clip"):
            area_operations.clip_to_shore(area_, shores, [])
    else:
        larger = max((within, beyond), key=lambda one: one.area)
        kept = area_operations.clip_to_shore(area_, shores, []).kept
        assert shapely.union_all([f.geometry for f in kept]).symmetric_difference(larger).area < 1e-6


def test_areas_of_two_kinds_are_not_merged() -> None:
    overlay = Feature("areas", shapely.box(400, 0, 600, 100), "alteration", id=7)
    with pytest.raises(FeatureRefused, match="one kind"):
        area_operations.merge([WEST, overlay])


def blob(rng: np.random.Generator) -> shapely.Polygon:
    angle = np.sort(rng.uniform(0, 2 * np.pi, int(rng.integers(4, 9))))
    radius = rng.uniform(60, 300, len(angle))
    middle = rng.uniform(100, 900, 2)
    ring = shapely.Polygon(np.column_stack([middle[0] + radius * np.cos(angle), middle[1] + radius * np.sin(angle)]))
    return ring if ring.is_valid and ring.area > 10 else shapely.box(*(middle - 30), *(middle + 30))


@examples(60)
@given(st.integers(0, 100_000))
def test_any_sequence_of_operations_leaves_a_sound_coverage(seed: int) -> None:
    rng = np.random.default_rng(seed)
    there = [WEST, EAST]
    for _ in range(6):
        what = rng.choice(["fill", "cut", "split", "merge"])
        try:
            if what == "fill":
                outcome = area_operations.fill_to_neighbours(area(None, blob(rng), "Qt"), there)
            elif what == "cut":
                outcome = area_operations.cut_out(there, blob(rng), there, NEW)
            elif what == "split":
                x, y = rng.uniform(0, 1000, 2)
                turn = rng.uniform(0, np.pi)
                far = np.array([np.cos(turn), np.sin(turn)]) * 2000
                cut = shapely.LineString([(x - far[0], y - far[1]), (x + far[0], y + far[1])])
                outcome = area_operations.split(there[int(rng.integers(len(there)))], cut, there)
            else:
                outcome = area_operations.merge([there[int(i)] for i in rng.permutation(len(there))[:2]])
        except FeatureRefused:
            continue
        there = after(there, outcome)
        assert sound(there)
        assert all(f.geometry.is_valid for f in there)
    # What was covered at the beginning is covered still.
    ground = shapely.union_all([f.geometry for f in there])
    assert shapely.intersection(ground, shapely.box(0, 0, 1000, 1000)).area == pytest.approx(1e6, abs=1e-3)
