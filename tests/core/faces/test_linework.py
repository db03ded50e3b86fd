"""Linework out of areas, against shapely's coverage functions on random mosaics."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest
import shapely

from orvik.core.faces.forming import polygonized
from orvik.core.faces.linework import NOBODY, OUTSIDE, Linework, linework_of
from tests.examples import MANY, SEED

SEEDS = [SEED + i for i in range(200 if MANY else 6)]
SIZE = 1000.0
TOLERANCE = 1.0


def mosaic(seed: int, count: int = 40) -> list[shapely.Polygon]:
    """Cells of random points in a square, some of them merged: with islands, holes and corners of three and four."""
    rng = np.random.default_rng(seed)
    points = shapely.multipoints(rng.uniform(0, SIZE, (count, 2)))
    square = shapely.box(0, 0, SIZE, SIZE)
    cells = [
        part
        for cell in shapely.get_parts(shapely.voronoi_polygons(points, extend_to=square))
        for part in shapely.get_parts(shapely.intersection(cell, square))
    ]
    fitted = shapely.coverage_clean(cells)
    groups: dict[int, list[shapely.Polygon]] = {}
    for i, cell in enumerate(fitted):
        groups.setdefault(int(rng.integers(0, count * 2 // 3)) if i % 3 else -i, []).append(cell)
    merged = [part for cells in groups.values() for part in shapely.get_parts(shapely.coverage_union_all(cells))]
    return [shapely.Polygon(p) for p in merged]


def lines_of(made: Linework) -> list[shapely.LineString]:
    return [b.line for b in made.boundaries]


def grounds(areas: Sequence[shapely.Polygon], lines: Sequence[shapely.Geometry]) -> dict[int, float]:
    """How much ground the faces have that lie in each area for the most part, by its place in the list."""
    # As units are formed: an end on a line meets it, whatever the rounding of its place.
    faces = polygonized(np.array(lines, dtype=object))
    out = dict.fromkeys(range(len(areas)), 0.0)
    tree = shapely.STRtree(areas)
    for face in faces:
        over = {int(i): face.intersection(areas[i]).area for i in tree.query(face, predicate="intersects")}
        # A gap touches areas all around and lies in none.
        if over and max(over.values()) > 1e-6 * face.area:
            out[max(over, key=lambda i: over[i])] += face.area
    return out


@pytest.mark.parametrize("seed", SEEDS)
def test_a_clean_mosaic_comes_back_to_the_last_digit(seed: int) -> None:
    areas = mosaic(seed)
    assert shapely.coverage_is_valid(areas)
    made = linework_of(areas, [], TOLERANCE)
    assert (made.misfits, made.lost, made.gained, made.vanished) == ((), 0.0, 0.0, ())
    # Each boundary once, from junction to junction: as many, and as long, as shapely merges them.
    merged = shapely.get_parts(shapely.line_merge(shapely.union_all(shapely.boundary(areas))))
    assert len(made.boundaries) == len(merged)
    assert sum(b.line.length for b in made.boundaries) == pytest.approx(shapely.length(merged).sum(), rel=1e-12)
    after = grounds(areas, lines_of(made))
    for i, area in enumerate(areas):
        assert after[i] == pytest.approx(area.area, rel=1e-9)


@pytest.mark.parametrize("seed", SEEDS)
def test_sides_are_told_right(seed: int) -> None:
    areas = mosaic(seed)
    for boundary in linework_of(areas, [], TOLERANCE).boundaries:
        length = boundary.line.length
        for i in range(5):
            at = boundary.line.interpolate(length * (i + 0.5) / 5)
            ahead = boundary.line.interpolate(length * (i + 0.5) / 5 + 1e-4)
            dx, dy = (ahead.x - at.x) * 10, (ahead.y - at.y) * 10
            for side, place in ((boundary.left, (at.x - dy, at.y + dx)), (boundary.right, (at.x + dy, at.y - dx))):
                held = [k for k, area in enumerate(areas) if area.contains(shapely.Point(place))]
                assert held == ([] if side == OUTSIDE else [side])
    assert OUTSIDE not in {b.left for b in linework_of(areas, [], TOLERANCE).boundaries if not b.outer}


@pytest.mark.parametrize("seed", SEEDS)
def test_narrow_gaps_and_overlaps_are_closed_and_told(seed: int) -> None:
    rng = np.random.default_rng(seed)
    clean = mosaic(seed)
    # As other programs leave them: each area by itself a little larger or smaller.
    by = rng.uniform(-0.2, 0.2, len(clean))
    areas = [area.buffer(d, join_style="mitre") for area, d in zip(clean, by, strict=True)]
    # A narrow neck may part an area in two: that one is made larger.
    areas = [
        made if made.geom_type == "Polygon" else area.buffer(abs(d), join_style="mitre")
        for area, made, d in zip(clean, areas, by, strict=True)
    ]
    made = linework_of(areas, [], TOLERANCE)
    assert not made.misfits
    after = grounds(clean, lines_of(made))
    total = sum(area.area for area in clean)
    lost = sum(abs(after[i] - area.area) for i, area in enumerate(clean))
    around = sum(area.length for area in clean)
    assert lost < 0.4 * around
    assert made.lost <= 0.4 * around
    # What each unit has more or less than before is what was told, to the last square millimetre.
    before = sum(area.area for area in areas)
    assert sum(after.values()) - before == pytest.approx(made.gained - made.lost, abs=1e-6 * total)
    assert not made.vanished
    whole = shapely.union_all(areas)
    filled = shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(whole)])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(lines_of(made)))))
    # Slits that are open to the outside are closed, too: no farther than a stroke of the tolerance's width fills them.
    closed = filled.buffer(TOLERANCE / 2, join_style="mitre").buffer(-TOLERANCE / 2, join_style="mitre")
    assert filled.area - 1e-6 * total <= shapely.area(faces).sum() <= closed.area + 1e-3 * TOLERANCE * around


def test_wide_gaps_and_overlaps_are_nobodys_and_told_with_their_place() -> None:
    areas = [shapely.box(0, 0, 100, 100), shapely.box(80, 0, 200, 100), shapely.box(220, 0, 300, 100)]
    areas += [shapely.box(200, 0, 220, 40), shapely.box(200, 60, 220, 100)]
    made = linework_of(areas, [], TOLERANCE)
    told = {(m.kind, round(m.area), m.between) for m in made.misfits}
    assert told == {("overlap", 2000, (0, 1)), ("gap", 400, (1, 2, 3, 4))}
    for misfit in made.misfits:
        assert sum(area.contains(shapely.Point(misfit.at)) for area in areas) == (2 if misfit.kind == "overlap" else 0)
    assert any(NOBODY in (b.left, b.right) for b in made.boundaries)
    owned = sorted(face.area for face in polygonized(np.array(lines_of(made), dtype=object)))
    assert owned == pytest.approx([400, 800, 800, 2000, 8000, 8000, 10_000])


def test_a_gap_that_is_closed_is_told() -> None:
    around = [shapely.box(0, 100, 101, 120), shapely.box(0, -20, 101, 0)]
    made = linework_of([shapely.box(0, 0, 50, 100), shapely.box(50.5, 0, 101, 100), *around], [], TOLERANCE)
    assert not made.misfits
    assert (made.lost, made.gained) == (0, pytest.approx(50))


def test_an_area_that_lies_over_another_is_told_with_both() -> None:
    """A lake drawn over its ground, and the same area twice: nobody has the ground that two claim."""
    over = linework_of([shapely.box(0, 0, 100, 100), shapely.box(40, 40, 60, 60)], [], TOLERANCE)
    assert [(m.kind, m.area, m.between) for m in over.misfits] == [("overlap", 400, (0, 1))]
    assert (over.lost, over.gained, over.vanished) == (0, 0, ())
    twice = linework_of([shapely.box(0, 0, 100, 100)] * 2, [], TOLERANCE)
    assert [(m.kind, m.area, m.between) for m in twice.misfits] == [("overlap", 10_000, (0, 1))]


@pytest.mark.parametrize("along", [False, True])
def test_a_narrow_area_is_no_sliver(along: bool) -> None:
    """A dyke narrower than the tolerance keeps its ground, also where a fault is one of its edges."""
    dyke = shapely.box(50, 0, 50.8, 100)
    areas = [shapely.box(0, 0, 50, 100), dyke, shapely.box(50.8, 0, 100, 100)]
    lines = [shapely.LineString([(50, -10), (50, 110)])] if along else []
    made = linework_of(areas, lines, TOLERANCE)
    ground = grounds(areas, [*lines_of(made), *lines])
    assert {who: round(area, 6) for who, area in ground.items()} == {0: 5000, 1: 80, 2: 4920}
    assert (made.lost, made.gained, made.vanished) == (0, 0, ())


def test_an_area_of_which_nothing_is_left_is_told() -> None:
    """A sliver of another unit that lies wholly over its neighbour is closed like any narrow overlap."""
    made = linework_of([shapely.box(0, 0, 100, 100), shapely.box(10, 0, 10.4, 100)], [], TOLERANCE)
    assert made.vanished == (1,)
    assert made.lost == pytest.approx(40)


def test_an_area_within_another_is_a_closed_line() -> None:
    hole = shapely.box(40, 40, 60, 60)
    made = linework_of([shapely.box(0, 0, 100, 100).difference(hole), hole], [], TOLERANCE)
    assert sorted(b.line.length for b in made.boundaries) == [80, 400]
    assert all(b.line.is_ring for b in made.boundaries)


def test_areas_of_one_unit_side_by_side_stay_two() -> None:
    made = linework_of([shapely.box(0, 0, 50, 100), shapely.box(50, 0, 100, 100)], [], TOLERANCE)
    assert sorted(b.line.length for b in made.boundaries) == [100, 200, 200]


@pytest.mark.parametrize("off", [0.0, 0.3, -0.4])
def test_a_boundary_along_a_fault_is_the_fault(off: float) -> None:
    """The fault runs along the middle half of the boundary, a little beside it."""
    areas = [shapely.box(0, 0, 100, 400), shapely.box(100, 0, 200, 400)]
    fault = shapely.LineString([(100 + off, 100), (100 + off, 300)])
    made = linework_of(areas, [fault], TOLERANCE)
    inner = [b for b in made.boundaries if not b.outer]
    assert sum(b.line.length for b in inner) == pytest.approx(200, abs=2 * TOLERANCE + 1)
    assert all(b.line.distance(fault) < 2 for b in inner)
    assert not any(b.line.intersects(shapely.box(99, 110, 101, 290)) for b in inner)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all([*lines_of(made), fault]))))
    assert sorted(round(face.area) for face in faces) == pytest.approx(
        sorted([40_000 + round(200 * off), 40_000 - round(200 * off)]), abs=abs(off) * 4 + 1
    )
    assert made.lost == pytest.approx(made.gained)
    assert made.lost == pytest.approx(200 * abs(off), abs=abs(off) * 4 + 1e-6)
    assert made.along == pytest.approx(200)


def test_a_fault_that_a_boundary_crosses_or_ends_on_leaves_it_where_it_is() -> None:
    areas = [shapely.box(0, 0, 100, 100), shapely.box(100, 0, 200, 100)]
    fault = shapely.LineString([(20, 50), (180, 51)])
    made = linework_of(areas, [fault], TOLERANCE)
    (one, two) = sorted((b for b in made.boundaries if not b.outer), key=lambda b: b.line.length)
    assert one.line.length + two.line.length == pytest.approx(100)
    assert (made.lost, made.gained, made.along) == (0, 0, 0)


def test_a_fault_within_an_area_changes_nothing() -> None:
    area = shapely.box(0, 0, 100, 100)
    made = linework_of([area], [shapely.LineString([(20, 20), (80, 80)])], TOLERANCE)
    assert [b.line.length for b in made.boundaries] == [400]
    parted = linework_of([area], [shapely.LineString([(-5, 50), (105, 50)])], TOLERANCE)
    assert sum(b.line.length for b in parted.boundaries) == pytest.approx(400)


def test_nothing_comes_of_nothing() -> None:
    assert linework_of([], [], TOLERANCE) == Linework(())


@pytest.mark.parametrize("seed", SEEDS[:3])
def test_faults_along_random_boundaries(seed: int) -> None:
    """Of a random mosaic some boundaries are faults, moved a little: no line runs beside them any more."""
    areas = mosaic(seed)
    rng = np.random.default_rng(seed)
    first = linework_of(areas, [], TOLERANCE)
    long = sorted((b.line for b in first.boundaries if not b.outer), key=lambda line: -line.length)[:6]
    faults = [shapely.transform(line, lambda xy: xy + rng.uniform(-0.25, 0.25, 2)) for line in long]
    made = linework_of(areas, faults, TOLERANCE)
    ribbons = shapely.union_all([fault.buffer(0.8, cap_style="flat") for fault in faults])
    beside = sum(shapely.intersection(line, ribbons).length for line in lines_of(made))
    assert beside < 0.03 * sum(line.length for line in long)
    assert made.lost < 0.5 * sum(line.length for line in long)
    after = grounds(areas, [*lines_of(made), *faults])
    assert sum(after.values()) == pytest.approx(SIZE * SIZE, rel=1e-6)
    for i, area in enumerate(areas):
        assert after[i] == pytest.approx(area.area, abs=0.5 * area.length)


@pytest.mark.parametrize("width", [0.05, 0.4, 0.9])
def test_a_slit_between_two_sheets_is_closed_though_it_is_open_at_both_ends(width: float) -> None:
    """Two maps side by side, a little apart, each with areas of its own: one boundary stands between them."""
    left = [shapely.box(0, 100 * i, 500, 100 * i + 100) for i in range(5)]
    right = [shapely.box(500 + width, 100 * i, 1000, 100 * i + 100) for i in range(5)]
    areas = [*left, *right]
    made = linework_of(areas, [], TOLERANCE)
    assert made.misfits == ()
    assert made.gained - made.lost == pytest.approx(500 * width, rel=0.02)
    between = [b for b in made.boundaries if {b.left < 5, b.right < 5} == {True, False} and not b.outer]
    assert {frozenset((b.left, b.right)) for b in between} == {frozenset((i, i + 5)) for i in range(5)}
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(lines_of(made)))))
    assert len(faces) == 10
    # A street that is wider stays open.
    apart = [*left, *(shapely.transform(area, lambda xy: xy + (2.0, 0.0)) for area in right)]
    assert linework_of(apart, [], TOLERANCE).gained == 0.0
