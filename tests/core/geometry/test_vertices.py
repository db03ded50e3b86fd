"""Vertices changed by one splice: stretches, knots and what others share go along."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.drawing import line_changes
from orvik.core.errors import FeatureRefused
from orvik.core.features.stretch import Stretch, certainties, with_stretch
from orvik.core.geometry.curve import redrawn, smoothed
from orvik.core.geometry.shared_edges import junctions, taken_along, with_shared_vertices
from orvik.core.geometry.vertices import (
    carried,
    cut,
    inserted,
    joined,
    opened,
    paths_of,
    removed,
    reversed_line,
    spliced,
    with_vertex,
)
from tests.core.pieces import area, line
from tests.examples import examples

ROW = line(1, [(0, 0), (10, 0), (20, 0), (30, 0), (40, 0)], stretches=(Stretch(1, 3, "inferred"),))


def told(feature: object) -> list[str]:
    f = feature
    return certainties(f.certainty, f.stretches, len(f.geometry.coords) - 1)  # type: ignore[attr-defined]


def lengths(feature: object, certainty: str) -> float:
    """How much of a line has a certainty."""
    xy = np.array(feature.geometry.coords)  # type: ignore[attr-defined]
    steps = np.hypot(*np.diff(xy, axis=0).T)
    return float(sum(step for step, value in zip(steps, told(feature), strict=True) if value == certainty))


def test_a_stretch_keeps_its_ground_through_insertion_and_cutting() -> None:
    more = inserted(inserted(ROW, 0, (5, 0)), 3, (25, 0))
    assert lengths(more, "inferred") == 20
    one, two = cut(more, 3)
    assert (lengths(one, "inferred"), lengths(two, "inferred")) == (10, 10)
    assert (one.id, two.id) == (1, None)
    again = joined(one, two.changed(id=2))
    assert again.geometry.equals(ROW.geometry)
    assert lengths(again, "inferred") == 20
    assert told(reversed_line(again)) == told(again)[::-1]
    with pytest.raises(FeatureRefused, match="at its end"):
        cut(ROW, 0)


def test_removing_a_vertex_and_the_last_that_may_go() -> None:
    assert told(removed(ROW, 2)) == ["certain", "inferred", "certain"]
    assert told(removed(ROW, 0)) == ["inferred", "inferred", "certain"]
    short = line(1, [(0, 0), (10, 0)])
    with pytest.raises(FeatureRefused, match="no vertex to spare"):
        removed(short, 0)
    triangle = area(1, shapely.Polygon([(0, 0), (10, 0), (0, 10)]), "Kp")
    with pytest.raises(FeatureRefused, match="three corners"):
        removed(triangle, 1)
    square = area(1, shapely.box(0, 0, 10, 10), "Kp")
    assert removed(square, 0).geometry.area == 50


def test_lines_of_different_certainty_join_as_stretches() -> None:
    other = line(2, [(60, 5), (50, 0), (40, 0)], certainty="approximate", note="b")
    made = joined(ROW.changed(note="a"), other)
    assert made.geometry.coords[-1] == (60, 5)
    assert told(made) == ["certain", "inferred", "inferred", "certain", "approximate", "approximate"]
    assert made.note == "a\nb"
    with pytest.raises(FeatureRefused, match="cannot be one line"):
        joined(ROW, other.changed(kind="fault"))


def test_a_closed_line_is_opened_where_it_is_cut() -> None:
    ring = line(1, [(0, 0), (10, 0), (10, 10), (0, 0)], stretches=(Stretch(2, 3, "inferred"),))
    made = opened(ring, 2)
    assert made.geometry.coords[0] == made.geometry.coords[-1] == (10, 10)
    assert told(made) == ["inferred", "certain", "certain"]


def test_a_stretch_laid_over_another() -> None:
    laid = with_stretch("certain", ROW.stretches, 4, Stretch(2, 4, "concealed"))
    assert told(ROW.changed(stretches=laid)) == ["certain", "inferred", "concealed", "concealed"]
    back = with_stretch("certain", laid, 4, Stretch(0, 4, "certain"))
    assert back == ()
    with pytest.raises(FeatureRefused, match="two different places"):
        with_stretch("certain", (), 4, Stretch(2, 2, "inferred"))


def test_shared_edges_go_along_whichever_way_they_run() -> None:
    beside = area(5, shapely.Polygon([(40, 0), (30, 0), (20, 0), (10, 0), (0, 0), (0, -20), (40, -20)]), "Kp")
    run, new = np.array(ROW.geometry.coords)[1:4], [(10, 0), (20, 7), (30, 0)]
    changed = carried(beside, run, new)
    assert changed is not None
    assert changed.geometry.area == beside.geometry.area + 70
    assert carried(area(6, shapely.box(100, 100, 110, 110), "Kp"), run, new) is None
    # Also where the run passes over the first vertex of the ring.
    turned = beside.changed(geometry=shapely.Polygon([(20, 0), (10, 0), (0, 0), (0, -20), (40, -20), (40, 0), (30, 0)]))
    again = carried(turned, run, new)
    assert again is not None
    assert again.geometry.equals(changed.geometry)


def test_neighbours_get_the_very_vertex() -> None:
    beside = area(5, shapely.Polygon([(0, 0), (40, 0), (40, -20), (0, -20)]), "Kp")
    (changed,) = with_shared_vertices([(12.5, 0)], [beside, area(6, shapely.box(100, 0, 110, 9), "Kp")])
    assert (12.5, 0) in changed.geometry.exterior.coords
    assert with_shared_vertices([(0, 0)], [beside]) == []


def test_smooth_lines_stay_smooth_and_their_knots_stay() -> None:
    places = np.array([(0, 0), (100, 40), (200, 0), (300, 60), (400, 0.0)])
    xy, knots = smoothed(places, 0.5)
    smooth = line(
        1, [tuple(p) for p in xy.tolist()], knots=tuple(knots), stretches=(Stretch(knots[1], knots[3], "inferred"),)
    )
    assert redrawn(smooth, 0.5).geometry.equals_exact(smooth.geometry, 1e-9)
    moved = redrawn(spliced(smooth, knots[2], knots[2], [(200, -80)], knots=(0,)), 0.5)
    held = np.array(moved.geometry.coords)[list(moved.knots)]
    assert (held == np.array([(0, 0), (100, 40), (200, -80), (300, 60), (400, 0)])).all()
    # The stretch still runs from the second knot to the fourth.
    assert moved.stretches == (Stretch(moved.knots[1], moved.knots[3], "inferred"),)
    # What another line was snapped to becomes a knot, so that the two never part.
    on_curve = tuple(xy[knots[0] + 2].tolist())
    pinned = with_vertex(smooth, on_curve)
    assert on_curve in [
        tuple(p) for p in np.array(redrawn(pinned, 0.5).geometry.coords)[list(redrawn(pinned, 0.5).knots)].tolist()
    ]


def test_thinning_keeps_what_others_share() -> None:
    wavy = line(1, [(i, 0.01 * (i % 2)) for i in range(0, 101)])
    meets = line(2, [(50, 0.0), (50, 40)])
    fixed = junctions(wavy, [meets])
    assert fixed == [0, 50, 100]
    thin, runs = line_changes.thinned(wavy, fixed, 1.0)
    assert list(thin.geometry.coords) == [(0, 0), (50, 0), (100, 0)]
    below = area(3, shapely.Polygon([*wavy.geometry.coords, (100, -20), (0, -20)]), "Kp")
    (along,) = taken_along(runs, [below])
    assert along.geometry.equals(shapely.box(0, -20, 100, 0))
    with pytest.raises(FeatureRefused, match="no vertex to spare"):
        line_changes.thinned(thin, junctions(thin, [meets]), 1.0)


def test_smoothing_makes_knots_of_what_stands_out() -> None:
    zigzag = line(1, [(0, 0), (50, 30), (100, 0), (150, 30), (200, 0)], stretches=(Stretch(2, 4, "inferred"),))
    made, runs = line_changes.made_smooth(zigzag, [0, 2, 4], 5.0, 0.5)
    held = np.array(made.geometry.coords)[list(made.knots)]
    assert (held == np.array(zigzag.geometry.coords)).all()
    assert len(made.geometry.coords) > 12
    assert made.stretches == (Stretch(made.knots[2], made.knots[4], "inferred"),)
    assert [len(old) for old, _ in runs] == [3, 3]


def test_extending_and_trimming() -> None:
    wall = line(2, [(100, -50), (100, 50)])
    led, other, place = line_changes.led_on(
        line(1, [(0, 0), (80, 0)]), -1, [wall, line(3, [(300, -50), (300, 50)])], 500
    )
    assert (other.id, place) == (2, (100, 0))
    assert list(led.geometry.coords) == [(0, 0), (80, 0), (100, 0)]
    with pytest.raises(FeatureRefused, match="no line within reach"):
        line_changes.led_on(line(1, [(0, 0), (80, 0)]), 0, [wall], 500)
    over = line(1, [(0, 0), (100.5, 0), (130, 10)])
    short, other, place = line_changes.trimmed(over, -1, [wall])
    assert short.geometry.coords[-1] == place
    assert place == pytest.approx((100, 0))
    with pytest.raises(FeatureRefused, match="crosses no other"):
        line_changes.trimmed(line(1, [(0, 0), (80, 0)]), -1, [wall])


def test_reshaping_lines_and_rings() -> None:
    made, (old, _) = line_changes.reshaped(ROW, [(5, 0), (20, 15), (35, 0)])
    assert list(made.geometry.coords) == [(0, 0), (5, 0), (20, 15), (35, 0), (40, 0)]
    assert len(old) == 5
    square = area(1, shapely.box(0, 0, 100, 100), "Kp")
    bulge, _ = line_changes.reshaped(square, [(100, 20), (130, 50), (100, 80)])
    assert bulge.geometry.area == 10_000 + 900
    corner, _ = line_changes.reshaped(square, [(20, 0), (0, 20)])
    assert corner.geometry.area == 10_000 - 200
    with pytest.raises(FeatureRefused, match="two different places"):
        line_changes.reshaped(ROW, [(5, 0), (5, 0)])


def test_parallels_and_attributes_of_another() -> None:
    right = line_changes.parallel(ROW, 5.0)
    assert set(np.array(right.geometry.coords)[:, 1]) == {-5.0}
    assert line_changes.parallel(ROW, -5.0).geometry.coords[0][1] == 5.0
    taken = line_changes.like(ROW, line(2, [(0, 0), (1, 1)], "fault", certainty="inferred"))
    assert (taken.kind, taken.certainty, taken.id) == ("fault", "inferred", 1)
    with pytest.raises(FeatureRefused, match="cannot lend"):
        line_changes.like(ROW, area(1, shapely.box(0, 0, 1, 1), "Kp"))


@examples(80)
@given(st.integers(0, 100_000))
def test_any_edits_leave_a_stretch_within_its_line(seed: int) -> None:
    rng = np.random.default_rng(seed)
    feature = ROW.changed(knots=(0, 2, 4))
    for _ in range(12):
        n = len(feature.geometry.coords)
        what = rng.choice(["insert", "remove", "move", "reverse", "cut"])
        if what == "insert":
            i = int(rng.integers(n - 1))
            feature = inserted(feature, i, tuple(rng.uniform(-50, 50, 2).tolist()))
        elif what == "remove" and n > 2:
            feature = removed(feature, int(rng.integers(n)))
        elif what == "move":
            i = int(rng.integers(n))
            feature = spliced(feature, i, i, [tuple(rng.uniform(-50, 50, 2).tolist())])
        elif what == "reverse":
            feature = reversed_line(feature)
        elif what == "cut" and n > 2:
            feature = cut(feature, int(rng.integers(1, n - 1)))[int(rng.integers(2))]
        last = len(paths_of(feature)[0]) - 1
        assert all(0 <= s.first < s.last <= last for s in feature.stretches)
        assert all(0 <= k <= last for k in feature.knots)
