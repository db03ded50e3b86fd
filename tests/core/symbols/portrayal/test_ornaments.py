"""Ornaments: whole between ends and corners, evenly apart, on the side that is meant."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import assume, given
from hypothesis import strategies as st

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.findings.lines.senseless import senseless
from orvik.core.ground.crs import project_crs
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Ornaments
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.ornaments import CORNER, Places, placed, reach_across, reach_along, whole_within
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol import Ornament, mirrored
from tests.core.labels.ground import written_ink
from tests.examples import examples

CRS = project_crs("EPSG:32628")
BOOK = standard()
X, Y = 513_000.0, 6_802_000.0
TOOTH = BOOK.symbol("lines", "thrust").ornaments[0]
ARROWS = BOOK.symbol("lines", "right_lateral_fault").ornaments[0]
LONG = reach_along(TOOTH.stamp)


def on(ornament: Ornament, *lines: shapely.LineString, trends: list[float] | None = None) -> Places:
    paths = Paths.of_lines(np.array(lines, dtype=object))
    return placed(ornament, paths, 1.0, np.array(trends) if trends is not None else None)


def runs(line: shapely.LineString) -> list[shapely.LineString]:
    """The stretches between ends and sharp corners, found one vertex at a time."""
    xy = list(line.coords)
    out, begin = [], 0
    for i in range(1, len(xy) - 1):
        one, two = np.subtract(xy[i], xy[i - 1]), np.subtract(xy[i + 1], xy[i])
        turn = np.degrees(np.arctan2(one[0] * two[1] - one[1] * two[0], one @ two))
        if abs(turn) > CORNER:
            out.append(shapely.LineString(xy[begin : i + 1]))
            begin = i
    return [*out, shapely.LineString(xy[begin:])]


paths = st.lists(st.tuples(st.floats(0.5, 30), st.floats(-150, 150)), min_size=1, max_size=14)


def path_of(steps: list[tuple[float, float]]) -> shapely.LineString:
    angles = np.radians(np.cumsum([turn for _, turn in steps]))
    lengths = np.array([step for step, _ in steps])
    xy = np.cumsum(np.column_stack([lengths * np.cos(angles), lengths * np.sin(angles)]), axis=0)
    return shapely.LineString(np.vstack([[0, 0], xy]))


def not_at_the_limit(steps: list[tuple[float, float]]) -> bool:
    """Whether rounding does not decide what is a corner."""
    return all(abs(abs(turn) - CORNER) > 0.01 for _, turn in steps)


@examples(150)
@given(paths, st.floats(2.5, 20))
def test_they_fit_whole_and_evenly(steps: list[tuple[float, float]], spacing: float) -> None:
    """Against shapely, stretch by stretch: each has as many as its length calls for, at even distances."""
    line = path_of(steps)
    assume(not_at_the_limit(steps))
    found = on(replace(TOOTH, spacing=spacing), line)
    expected, ways = [], []
    for run in runs(line):
        if run.length < LONG - 1e-6:
            continue
        count = min(max(1, int(run.length / spacing + 0.5 + 1e-6)), int(run.length / LONG + 1e-6))
        step = run.length / count
        assert step >= LONG - 1e-5
        expected += [run.interpolate((i + 0.5) * step).coords[0] for i in range(count)]
        ways += [way_along(run, (i + 0.5) * step, LONG) for i in range(count)]
    assert len(found.at) == len(expected)
    np.testing.assert_allclose(found.at, np.array(expected).reshape(-1, 2), atol=1e-6)
    np.testing.assert_allclose((found.angles - ways + 180) % 360, 180, atol=1e-3)
    assert (found.paths == 0).all()


def way_along(run: shapely.LineString, at: float, long: float) -> float:
    """The direction over a length around a place of a stretch, in degrees clockwise from the growing y."""
    (x1, y1), (x2, y2) = (run.interpolate(d).coords[0] for d in (max(0, at - long / 2), min(run.length, at + long / 2)))
    return float(np.degrees(np.arctan2(x2 - x1, y2 - y1)))


@examples(60)
@given(paths, st.floats(0.02, 5))
def test_sizes_are_on_the_sheet_whatever_the_unit_of_the_ground(steps: list[tuple[float, float]], k: float) -> None:
    """The same line in units of another size has its ornaments at the same places of it."""
    line = path_of(steps)
    assume(not_at_the_limit(steps))
    # On a line that is alike from both ends two places are as good, and rounding decides between them.
    assume(len({length for length, _ in steps}) == len(steps))
    for ornament, trends in ((TOOTH, None), (ARROWS, None), (replace(TOOTH, place="ends"), None), (TOOTH, [30.0])):
        here = on(ornament, line, trends=trends)
        larger = Paths.of_lines(np.array([shapely.transform(line, lambda xy: xy / k)], dtype=object))
        there = placed(ornament, larger, k, np.array(trends) if trends else None)
        np.testing.assert_allclose(there.at * k, here.at, atol=1e-5)
        np.testing.assert_allclose((there.angles - here.angles + 180) % 360, 180, atol=1e-3)
        np.testing.assert_allclose(there.coarser, here.coarser, rtol=1e-6)


@examples(60)
@given(st.floats(1, 200), st.floats(3, 40), st.floats(0.1, 0.9))
def test_one_for_each_length_of_spacing_stands_at_its_share(length: float, spacing: float, phase: float) -> None:
    """On straight lines, by plain sums; near an end it moves in until it is whole."""
    ornament = replace(ARROWS, spacing=spacing, phase=phase)
    long = reach_along(ornament.stamp)
    assume(abs(length - long) > 1e-3)
    assume(abs((length / spacing) % 1 - 0.5) > 1e-3)
    found = on(ornament, shapely.LineString([(0, 0), (0, length)]))
    count = max(1, int(length / spacing + 0.5)) if length > long else 0
    wanted = [(i + phase) * length / count for i in range(count)]
    np.testing.assert_allclose(found.at[:, 1], np.clip(wanted, long / 2, length - long / 2), atol=1e-6)
    assert (found.at[:, 0] == 0).all()
    np.testing.assert_allclose((found.angles + 180) % 360, 180, atol=1e-6)


@examples(60)
@given(paths)
def test_at_the_ends_they_point_outwards(steps: list[tuple[float, float]]) -> None:
    line = path_of(steps)
    ornament = replace(TOOTH, place="ends")
    found = on(ornament, line)
    long = max(LONG, 0.5)
    inward = [line.interpolate(min(long, line.length)), line.interpolate(max(line.length - long, 0))]
    ends = [shapely.Point(line.coords[0]), shapely.Point(line.coords[-1])]
    for at, angle, end, within in zip(found.at, found.angles, ends, inward, strict=True):
        assert at == pytest.approx(end.coords[0])
        if within.distance(end) > 1e-3:
            way = np.degrees(np.arctan2(end.x - within.x, end.y - within.y))
            assert (angle - way + 180) % 360 == pytest.approx(180, abs=1e-3)
    # So long as the line is longer than what stands at its ends.
    assert found.coarser == pytest.approx(np.clip(line.length / max(LONG, 0.1), 1, 64))


@pytest.mark.parametrize("seed", range(5))
def test_what_crosses_the_edge_of_a_page_is_left_out_whole(seed: int) -> None:
    """Against shapely, one by one: the outline turned, moved and asked whether the ground contains it."""
    rng = np.random.default_rng(seed)
    ground = shapely.Polygon(rng.uniform(0, 30, (7, 2))).convex_hull
    at, angles = rng.uniform(0, 30, (200, 2)), rng.uniform(-180, 180, 200)
    keys = np.arange(200) + 1
    ornaments = Ornaments(TOOTH.stamp, at, angles, np.full(200, 5e4) + keys, keys)
    outline = shapely.MultiPoint(np.vstack([item.paths.xy for item in TOOTH.stamp.items]))
    kept = []
    for i in range(200):
        # On a page y runs down: what turns clockwise there has growing angles.
        turned = shapely.affinity.rotate(outline, angles[i], origin=(0, 0))
        kept.append(all(ground.contains(p) for p in shapely.affinity.translate(turned, *at[i]).geoms))
    found = whole_within(ornaments, ground)
    assert 0 < sum(kept) < 200
    assert found.keys is not None
    assert found.keys.tolist() == keys[kept].tolist()
    assert found.at.tolist() == at[kept].tolist()
    assert found.angles.tolist() == angles[kept].tolist()
    assert found.largest.tolist() == ornaments.largest[kept].tolist()


@examples(80)
@given(st.lists(paths, min_size=2, max_size=6))
def test_lines_do_not_disturb_one_another(many: list[list[tuple[float, float]]]) -> None:
    assume(all(not_at_the_limit(steps) for steps in many))
    lines = [path_of(steps) for steps in many]
    together = on(TOOTH, *lines)
    for i, line in enumerate(lines):
        alone = on(TOOTH, line)
        np.testing.assert_allclose(together.at[together.paths == i], alone.at, atol=1e-9)
        np.testing.assert_allclose(together.angles[together.paths == i], alone.angles, atol=1e-6)


def test_halfway_between_two_numbers_rounding_does_not_decide() -> None:
    """20 mm at 8 mm are two and a half: three, wherever the line stands among others."""
    long = shapely.LineString([(0, 0), (1 / 3, 0.1), (13.52, 0.7)])
    for before in ([], [long], [long, long]):
        course = shapely.LineString([(0, 0), (20 * np.cos(0.96), 20 * np.sin(0.96))])
        found = on(replace(TOOTH, spacing=8.0), *before, course)
        assert (found.paths == len(before)).sum() == 3


def tip(places: Places, i: int, ornament: Ornament = TOOTH) -> shapely.Point:
    """The point of a tooth: the place of its drawing that is furthest from the line."""
    xy = np.vstack([item.paths.xy for item in ornament.stamp.items])
    x, y = xy[np.argmax(np.abs(xy[:, 0]))]
    angle = np.radians(places.angles[i])
    # In the drawing y runs down and along the line backwards.
    right, along = np.array([np.cos(angle), -np.sin(angle)]), np.array([np.sin(angle), np.cos(angle)])
    return shapely.Point(places.at[i] + right * x - along * y)


def test_teeth_stand_to_the_right_and_change_sides_with_the_line() -> None:
    line = shapely.LineString([(0, 0), (40, 0)])
    for course, side in ((line, -1), (shapely.reverse(line), 1)):
        found = on(TOOTH, course)
        assert len(found.at) == 5
        assert all(np.sign(tip(found, i).y) == side for i in range(5))
    left = on(replace(TOOTH, stamp=mirrored(TOOTH.stamp)), line)
    assert all(tip(left, i, replace(TOOTH, stamp=mirrored(TOOTH.stamp))).y > 0 for i in range(5))


def test_reversing_does_not_change_the_sense_of_a_strike_slip_fault() -> None:
    """The paired arrows come out at the same places, whichever way the line runs."""

    def drawn(line: shapely.LineString) -> set[tuple[float, float]]:
        found = on(ARROWS, line)
        angle = np.radians(found.angles[0])
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        xy = np.vstack([item.paths.xy for item in ARROWS.stamp.items]) @ turn * (1, -1) + found.at[0]
        return {(round(x, 6) + 0.0, round(y, 6) + 0.0) for x, y in xy}

    line = shapely.LineString([(0, 0), (30, 12), (60, 14)])
    assert drawn(line) == drawn(shapely.reverse(line))
    # Right-lateral (common practice): seen from one side, the other went to the right.
    east = {place for place in drawn(shapely.LineString([(0, 0), (40, 0)])) if place[1] > 0}
    assert max(east, key=lambda place: place[0])[0] - 20 == pytest.approx(2.0)
    assert max(y for x, y in east if x - 20 > 0.5) > 1.2


def test_a_plunge_points_down_its_trend_whichever_way_the_line_was_drawn() -> None:
    plunge = next(o for o in BOOK.symbol("lines", "anticline").ornaments if o.place == "plunge")
    line = shapely.LineString([(0, 0), (30, 5)])
    for course in (line, shapely.reverse(line)):
        for trend, end in ((80.0, (30, 5)), (255.0, (0, 0))):
            found = on(plunge, course, trends=[trend])
            assert found.at.tolist() == [list(end)]
            assert abs((found.angles[0] - trend + 180) % 360 - 180) < 10
        assert len(on(plunge, course, trends=[np.nan]).at) == 0


@pytest.mark.parametrize("sides", [3, 4, 60])
def test_a_closed_line_closes_evenly(sides: int) -> None:
    """A round has no seam, and a square is the same from whichever of its sides it was begun."""
    turns = np.linspace(0, 2 * np.pi, sides + 1)
    ring = np.column_stack([20 * np.cos(turns), 20 * np.sin(turns)])
    ring[-1] = ring[0]
    found = on(TOOTH, shapely.LineString(ring))
    gaps = np.hypot(*np.diff(np.vstack([found.at, found.at[:1]]), axis=0).T)
    if sides == 60:
        assert gaps.max() - gaps.min() < 0.05
    middle = (ring[0] + ring[1]) / 2
    begun = np.vstack([[middle], ring[1:], [middle]])
    other = on(TOOTH, shapely.LineString(begun))
    if sides < 60:
        ours, theirs = (sorted(map(tuple, np.round(p.at, 6).tolist())) for p in (found, other))
        np.testing.assert_allclose(ours, theirs, atol=1e-5)


def test_a_line_that_is_too_short_has_none_and_one_that_just_holds_it_has_one() -> None:
    assert len(on(TOOTH, shapely.LineString([(0, 0), (LONG - 0.01, 0)])).at) == 0
    assert on(TOOTH, shapely.LineString([(0, 0), (LONG + 0.01, 0)])).at[0, 0] == pytest.approx(LONG / 2 + 0.005)


def test_they_thin_out_by_halves() -> None:
    """At twice the denominator every other one is left, at four times every fourth, down to the middle one."""
    found = on(replace(TOOTH, spacing=2.5), shapely.LineString([(0, 0), (160, 0)]))
    counts = [int((found.coarser >= factor).sum()) for factor in (1, 2, 4, 8, 16)]
    assert counts[0] == 64
    for more, fewer in itertools.pairwise(counts):
        assert abs(fewer - more / 2) <= 1
    left = np.diff(found.at[found.coarser >= 4][:, 0])
    assert left.max() - left.min() < 1e-9


def drawn(*lines: Feature, scale: int = 25_000) -> list[object]:
    return list(portray({"lines": Features.of("lines", lines)}, BOOK, {}, CRS, scale)["linework"].items)


def course(*places: tuple[float, float]) -> shapely.LineString:
    return shapely.LineString([(X + x, Y + y) for x, y in places])


def test_they_go_on_where_only_certainty_changes_and_below_a_cover() -> None:
    """What is concealed keeps its sense (the standard, from memory); each stands on the nearest mark."""
    line = course(*((i * 250, 0) for i in range(9)))
    plain = Feature("lines", line, "thrust", id=1)
    (whole,) = (i for i in drawn(plain) if isinstance(i, Ornaments))
    inferred = plain.changed(stretches=(Stretch(3, 5, "inferred", "line"),))
    (mixed,) = (i for i in drawn(inferred) if isinstance(i, Ornaments))
    # Dashes of 1.4 mm with gaps of 0.8 mm, dots 1.1 mm apart: none is moved by more than half of that.
    assert np.abs(whole.at - mixed.at).max() <= 1.1 * 25 + 1e-6
    at_rest = (whole.at[:, 0] < X + 700) | (whole.at[:, 0] > X + 1300)
    np.testing.assert_allclose(whole.at[at_rest], mixed.at[at_rest])
    hidden = plain.changed(stretches=(Stretch(3, 5, "concealed", "line"),))
    (broken,) = (i for i in drawn(hidden) if isinstance(i, Ornaments))
    assert np.abs(whole.at - broken.at).max() <= 0.55 * 25 + 1e-6
    (below,) = (i for i in drawn(plain.changed(certainty="concealed")) if isinstance(i, Ornaments))
    assert abs(len(below.at) - len(whole.at)) <= 1
    # Seven dots apart are 7.7 mm, and eight are 8.8.
    np.testing.assert_allclose(np.diff(below.at[:, 0]), 7.7 * 25, atol=1e-6)


def test_each_scale_places_its_own() -> None:
    """Ornaments are so many millimetres apart on the sheet, whatever its scale."""
    line = Feature("lines", course((0, 0), (4000, 0)), "thrust", id=1)
    for scale, count in ((25_000, 20), (50_000, 10), (100_000, 5)):
        (found,) = (i for i in drawn(line, scale=scale) if isinstance(i, Ornaments))
        assert len(found.at) == count


def test_what_would_cross_the_neatline_is_left_out() -> None:
    stamp = TOOTH.stamp
    at = np.array([[5.0, 5.0], [9.5, 5.0], [5.0, 0.5], [12.0, 5.0], [9.05, 5.0]])
    angles = np.array([0.0, 0.0, 0.0, 0.0, -90.0])
    kept = whole_within(Ornaments(stamp, at, angles, np.ones(5), np.arange(5)), shapely.box(0, 0, 10, 10))
    assert kept.keys is not None
    # A tooth points up the page when its line runs to the left.
    assert kept.keys.tolist() == [0]
    flat = whole_within(
        Ornaments(stamp, at[4:], np.array([180.0]), np.ones(1), np.arange(1)), shapely.box(0, 0, 10, 10)
    )
    assert len(flat.at) == 1


def test_a_fold_says_its_plunge_beside_the_arrow() -> None:
    fold = Feature("lines", course((0, 0), (2000, 0)), "syncline", id=1, azimuth=92.0, inclination=17.0)
    items = drawn(fold)
    arrows = [i for i in items if isinstance(i, Ornaments)]
    assert [len(a.at) for a in arrows] == [1, 1]
    (figure,) = written_ink({"lines": Features.of("lines", [fold])}, BOOK, {}, CRS)["names"]
    assert figure.run.chars == "17"
    assert figure.at == pytest.approx((X + 2000, Y))
    assert len([i for i in drawn(fold.changed(azimuth=None, inclination=None)) if isinstance(i, Ornaments)]) == 1


def test_a_band_has_its_ornaments_on_the_right_margin() -> None:
    """The ticks of a sill stand on its upper side, as in the explanation, and below a cover, too."""
    sill = Feature("lines", course(*((i * 200, 0) for i in range(6))), "sill", id=1, band=Band(40.0))
    (ticks,) = (i for i in drawn(sill) if isinstance(i, Ornaments))
    assert len(ticks.at) == 8
    np.testing.assert_allclose(ticks.at[:, 1], Y - 20, atol=1e-6)
    covered = sill.changed(stretches=(Stretch(2, 5, "concealed", "line"),))
    for other in (covered, sill.changed(certainty="concealed")):
        (same,) = (i for i in drawn(other) if isinstance(i, Ornaments))
        np.testing.assert_allclose(same.at, ticks.at)


@pytest.mark.parametrize("kind", ["right_lateral_fault", "left_lateral_fault", "right_oblique_fault"])
def test_arrows_stand_where_a_line_is_nearly_straight_or_are_missed(kind: str) -> None:
    """A ring smaller than its arrows has none, and Proof says so; on a hairpin they stand on a limb."""
    (arrows,) = [o for o in BOOK.symbol("lines", kind).ornaments if o.stamp.name and reach_along(o.stamp) > 3]
    long, mm = reach_along(arrows.stamp), 1000 / 25_000
    turn = np.linspace(0, 2 * np.pi, 200)
    for radius, many in ((long / 3, 0), (long, 0), (6 * long, 1)):
        ring = radius * 25 * np.column_stack([np.cos(turn), np.sin(turn)]) + (X, Y)
        line = shapely.LineString([*ring[:-1], ring[0]])
        found = placed(arrows, Paths.of_lines(np.array([line], dtype=object)), mm)
        assert (len(found.at) > 0) is bool(many), radius
        lines = Features.of("lines", [Feature("lines", line, kind, id=1)])
        assert bool(senseless(lines, {0: [arrows]}, mm)) is not bool(many)
    half = np.linspace(0, np.pi, 60)
    bend = 60 * np.column_stack([np.sin(half), np.cos(half)]) + (X + 900, Y + 60)
    hairpin = shapely.LineString([(X, Y + 120), *bend, (X, Y)])
    found = placed(arrows, Paths.of_lines(np.array([hairpin], dtype=object)), mm)
    assert len(found.at) == 1
    assert found.at[0, 0] < X + 910


def test_how_far_ornaments_reach_to_either_side() -> None:
    xs = [abs(x) for o in (TOOTH, ARROWS) for item in o.stamp.items for x, _ in item.paths.xy.tolist()]
    assert reach_across([TOOTH, ARROWS]) == max(xs)
    assert reach_across([TOOTH]) < reach_across([TOOTH, ARROWS]) or reach_across([ARROWS]) < max(xs)
    assert reach_across([]) == 0.0
    ys = [abs(y) for item in TOOTH.stamp.items for _, y in item.paths.xy.tolist()]
    assert reach_along(TOOTH.stamp) == pytest.approx(2 * max(ys))
    assert reach_along(replace(TOOTH.stamp, items=())) == 0.0


@pytest.mark.parametrize("place", ["repeat", "once", "ends", "plunge"])
def test_no_line_has_no_ornament(place: str) -> None:
    found = on(replace(TOOTH, place=place))  # type: ignore[arg-type]
    assert found.at.shape == (0, 2)
    assert (found.angles.shape, found.paths.shape, found.coarser.shape) == ((0,), (0,), (0,))
    assert found.paths.dtype.kind == "i"
