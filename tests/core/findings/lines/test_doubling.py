"""Lines drawn twice, wholly or in part, and readings logged twice; crossings and meetings are neither."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.faces.forming import Faces
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import BOUNDING
from orvik.core.findings import single
from orvik.core.findings.finding import CheckInput, Finding
from orvik.core.findings.fixes import fixed
from orvik.core.findings.lines import pairs
from orvik.core.findings.lines.doubling import may_run_along, shared_parts
from orvik.core.ground.scale import Scales
from orvik.core.symbols.book_file import standard

BOOK = standard()
NO_FACES = Faces(np.empty(0, dtype=object))
# 0.2 mm on the sheet at 1:25 000.
REACH = 5.0


def ground(*features: Feature, frame: shapely.Polygon | None = None) -> CheckInput:
    by = {t: Features.of(t, [f for f in features if f.table == t]) for t in ("lines", "points", "areas")}  # type: ignore[arg-type]
    return CheckInput(by["lines"], by["points"], by["areas"], NO_FACES, {}, Scales(25_000, 6_250), 1.0, BOUNDING, frame)


def line(number: int, *places: tuple[float, float], kind: str = "contact") -> Feature:
    return Feature("lines", shapely.LineString(places), kind, id=number)


def circle(radius: float = 800.0) -> list[tuple[float, float]]:
    angle = np.linspace(0, 2 * np.pi, 121)
    xy = [(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in angle]
    return [*xy[:-1], xy[0]]


def test_a_chord_is_no_double_of_its_ring() -> None:
    """Its end is near the middle of the ring; the fix would have deleted a real contact."""
    ring = line(1, *circle())
    for end in (59, 60, 61):
        chord = line(2, circle()[0], circle()[end])
        short = line(3, circle()[60], (circle()[60][0] + 300, 40.0))
        assert [f for f in pairs.pairs(ground(ring, chord, short)) if f.rule == "doubled"] == []


@pytest.mark.parametrize("angle", [4, 8, 15, 45, 90])
def test_lines_that_meet_or_cross_at_an_angle_are_no_doubles(angle: float) -> None:
    t = np.radians(angle)
    one = line(1, (-2000, 0), (2000, 0))
    crossing = line(2, (-900 * np.cos(t), -900 * np.sin(t)), (900 * np.cos(t), 900 * np.sin(t)), kind="fault")
    meeting = line(3, (0, 0), (900 * np.cos(t), 900 * np.sin(t)))
    for other in (crossing, meeting):
        assert [f for f in pairs.pairs(ground(one, other)) if f.rule == "doubled"] == []


def wavy(start: float, stop: float, beside: float = 0.0) -> list[tuple[float, float]]:
    return [(float(x), float(120 * np.sin(x / 400) + beside)) for x in np.linspace(start, stop, 60)]


@pytest.mark.parametrize(("share", "where"), [(0.6, 0.0), (0.6, 0.4), (0.6, 0.2), (1.0, 0.0), (0.3, 0.35)])
def test_partial_overlaps_are_found_and_only_the_shared_part_is_fixed(share: float, where: float) -> None:
    long = line(1, *wavy(0, 6000))
    # A line that leaves the other on both sides of the part that they share.
    x0, x1 = 2000.0, 4000.0
    a, b = x0 + where * (x1 - x0), x0 + (where + share) * (x1 - x0)
    shared = [(x, y + 1.0) for x, y in wavy(a, b)]
    head = [(x0, shared[0][1] + 600.0)] if where > 0 else []
    tail = [(x1, shared[-1][1] + 600.0)] if where + share < 1 else []
    double = line(2, *head, *shared, *tail)
    (found,) = (f for f in pairs.pairs(ground(long, double)) if f.rule == "doubled")
    assert found.features[0] == ("lines", 2)
    done = fixed(found, lambda table, number: {1: long, 2: double}[number])
    assert long.geometry.distance(shapely.Point(found.at)) < 10
    if share == 1.0:
        assert done.deleted == (("lines", 2),)
        return
    pieces = [f for f in done.kept if f.id != 1]
    assert len(pieces) == len(head) + len(tail)
    assert {f.id for f in pieces} <= {2, None}
    assert sum(f.id == 2 for f in pieces) == 1
    # What is left is what was beside the other line, and it ends on it, at a vertex of both.
    twin = next(f for f in done.kept if f.id == 1)
    held = set(twin.geometry.coords)
    for piece in pieces:
        assert held & {piece.geometry.coords[0], piece.geometry.coords[-1]}
        assert shared_parts(piece.geometry, twin.geometry, REACH) == []
    assert sum(f.geometry.length for f in pieces) == pytest.approx(double.geometry.length - (b - a), rel=0.12)


def test_a_part_that_runs_over_the_first_vertex_of_a_ring() -> None:
    ring = shapely.LineString(circle())
    arc = shapely.LineString([*circle()[110:-1], *circle()[:11]])
    parts = shared_parts(ring, arc, REACH)
    assert sum(b - a for a, b in parts) == pytest.approx(arc.length, abs=4 * REACH)


def reading(number: int, x: float, strike: float, dip: float, kind: str = "bedding") -> Feature:
    return Feature("points", shapely.Point(x, 0), kind, id=number, azimuth=strike, inclination=dip)


def rules(found: list[Finding]) -> list[tuple[str, str, tuple[int, ...]]]:
    return [(f.rule, f.severity, tuple(i for _, i in f.features)) for f in found]


def test_two_readings_at_one_place() -> None:
    same = ground(reading(1, 0, 45, 30), reading(2, 1, 45, 30), reading(3, 500, 45, 30))
    assert rules(single.same_place(same)) == [("doubled", "error", (2, 1))]
    against = ground(reading(1, 0, 45, 30), reading(2, 1, 225, 30))
    (found,) = single.same_place(against)
    assert (found.severity, found.fix) == ("warning", None)
    assert "disagree" in found.message
    # Beds and a joint are measured at one place every day.
    assert single.same_place(ground(reading(1, 0, 45, 30), reading(2, 0, 45, 30, "joint"))) == []


def test_what_lies_outside_the_border() -> None:
    frame = shapely.box(0, -100, 1000, 100)
    inside = (reading(1, 500, 45, 30), line(1, (100, 0), (2000, 0)))
    beyond = (
        reading(2, 1500, 45, 30),
        line(2, (1500, 0), (2000, 0)),
        Feature("areas", shapely.box(1200, 0, 1300, 50), "unit_area", id=3),
    )
    found = single.outside(ground(*inside, *beyond, frame=frame))
    assert sorted(rules(found)) == [
        ("outside", "warning", (2,)),
        ("outside", "warning", (2,)),
        ("outside", "warning", (3,)),
    ]
    assert {f.features[0][0] for f in found} == {"points", "lines", "areas"}


def test_the_quick_look_misses_no_part() -> None:
    """Random lines, many led along one another a while: what ``shared_parts`` finds, the quick look lets through."""
    rng = np.random.default_rng(20)
    lines: list[shapely.LineString] = []
    others: list[shapely.LineString] = []
    for _ in range(400):
        course = rng.uniform(0, 2 * np.pi) + np.cumsum(rng.normal(0, 0.2, 40))
        xy = np.cumsum(rng.uniform(5, 120) * np.column_stack([np.cos(course), np.sin(course)]), axis=0)
        begin, end = sorted(rng.choice(np.arange(1, 40), 2, replace=False))
        along = xy[begin:end] + rng.uniform(-0.6, 0.6, (end - begin, 2)) * REACH
        before, after = along[:1] + rng.normal(0, 400, (3, 2)), along[-1:] + rng.normal(0, 400, (3, 2))
        lines.append(shapely.LineString(xy))
        others.append(shapely.LineString(np.vstack([before, along, after])))
    one, two = np.array(lines), np.array(others)
    least = np.minimum(0.5 * shapely.length(one), 200.0)
    may = np.zeros(len(one), dtype=bool)
    rows, there = may_run_along(np.arange(400), shapely.STRtree(np.concatenate([one, two])), least, REACH)
    may[rows[there == rows + 400]] = True
    parts = [shared_parts(a, b, REACH) for a, b in zip(lines, others, strict=True)]
    longest = np.array([max((b - a for a, b in found), default=0.0) for found in parts])
    assert (longest >= least).sum() > 50
    assert not ((longest >= least) & ~may).any()
