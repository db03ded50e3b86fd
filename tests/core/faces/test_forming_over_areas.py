"""A map that came as areas keeps the ground of every unit, whatever of its contacts is missing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.faces.forming import is_coverage
from orvik.core.faces.plan import FormingPlan
from orvik.core.features.feature import Feature
from orvik.core.findings.survey import Survey
from tests.core.pieces import UNITS, area, border, line, survey, tag
from tests.examples import examples

CODES = list(UNITS)
SQUARE = border(0, 0, 1000, 1000)


def mosaic(rng: np.random.Generator) -> list[Feature]:
    """Areas that tile a square, each of a unit; neighbours may be of one unit."""
    points = shapely.MultiPoint(rng.uniform(0, 1000, (int(rng.integers(3, 14)), 2)))
    cells = shapely.get_parts(shapely.voronoi_polygons(points, extend_to=shapely.box(-500, -500, 1500, 1500)))
    pieces = shapely.intersection(cells, shapely.box(0, 0, 1000, 1000))
    return [area(i, p, str(rng.choice(CODES))) for i, p in enumerate(pieces, 1) if p.geom_type == "Polygon"]


def linework(rng: np.random.Generator, areas: Sequence[Feature], share: float) -> list[Feature]:
    """Some of the edges between areas as contacts, and a few faults across."""
    edges = []
    for i, one in enumerate(areas):
        for other in areas[i + 1 :]:
            shared = shapely.intersection(one.geometry.exterior, other.geometry.exterior)
            edges += [p for p in shapely.get_parts(shapely.line_merge(shared)) if p.geom_type == "LineString"]
    kept = [edge for edge in edges if rng.random() < share and edge.length > 1]
    lines = [Feature("lines", edge, "contact", id=i) for i, edge in enumerate(kept, 2)]
    for number in range(int(rng.integers(0, 4))):
        xy = rng.uniform(-100, 1100, (2, 2))
        lines.append(line(100 + number, [tuple(p) for p in xy.tolist()], "fault"))
    return lines


def after(areas: Sequence[Feature], plan: FormingPlan) -> list[Feature]:
    """The areas once a plan is carried out."""
    there = {a.id: a for a in areas if a.id not in plan.deleted}
    new = max(a.id or 0 for a in areas) + 1
    for feature in plan.kept:
        number = feature.id or new
        new += feature.id is None
        there[number] = feature.changed(id=number)
    return list(there.values())


def ground(areas: Sequence[Feature]) -> dict[str | None, shapely.Geometry]:
    units = {a.map_unit for a in areas}
    return {unit: shapely.union_all([a.geometry for a in areas if a.map_unit == unit]) for unit in units}


def moved_between(before: Sequence[Feature], now: Sequence[Feature]) -> float:
    """Ground that has another unit than it had, or had one and has none."""
    one, two = ground(before), ground(now)
    return sum(
        float(shapely.difference(held, two.get(unit, shapely.Point())).area) for unit, held in one.items() if unit
    )


def made(seed: int, share: float, tags: int) -> tuple[list[Feature], Survey]:
    rng = np.random.default_rng(seed)
    areas = mosaic(rng)
    said = [tag(i, *rng.uniform(0, 1000, 2), str(rng.choice(CODES))) for i in range(1, tags + 1)]
    return areas, survey(SQUARE, *linework(rng, areas, share), *areas, *said)


# The same mosaics each time.
@examples(120, derandomize=True)
@given(st.integers(0, 1_000_000), st.sampled_from([0.0, 0.3, 0.5, 0.8, 1.0]), st.integers(0, 6))
def test_no_unit_loses_ground_without_a_word(seed: int, share: float, tags: int) -> None:
    areas, looked_at = made(seed, share, tags)
    plan = looked_at.plan({a.id or 0: a for a in areas})
    now = after(areas, plan)
    assert moved_between(areas, now) < 1.0
    geometries = [f.geometry for f in plan.kept]
    whole = len(geometries) - plan.cut
    if not is_coverage(geometries[:whole], geometries[whole:]):
        # Forming refuses it in words; no more than a speck may be the reason.
        one, other = shapely.STRtree(geometries).query(geometries, predicate="overlaps")
        over = shapely.area(shapely.intersection(np.array(geometries)[one], np.array(geometries)[other]))
        assert over.sum() / 2 < 5e-4
        return
    assert shapely.is_valid(geometries).all()
    # And with consent no more than was told.
    taking = looked_at.plan({a.id or 0: a for a in areas}, take=True)
    told = sum(t.area for t in plan.takings)
    assert moved_between(areas, after(areas, taking)) <= told + 1.0
    assert [t.area for t in taking.takings] == pytest.approx([t.area for t in plan.takings])


# Of such mosaics three in a thousand are still refused in words; these are the same ones each time.
@pytest.mark.parametrize("at", [(0.0, 0.0), (511_000.0, 6_801_000.0)])
def test_areas_that_fit_within_a_centimetre_and_no_better_are_formed(at: tuple[float, float]) -> None:
    """As areas of others come that were rounded, projected or digitized one by one; without mending, one in four
    was refused."""
    moved = 0.0
    for seed in range(200, 240):
        rng = np.random.default_rng(seed)
        areas, looked_at = made(seed, (0.3, 0.5, 0.8, 1.0)[seed % 4], seed % 6)
        by = 10 ** rng.uniform(-5, -2)
        shaken = []
        for one in areas:
            xy = shapely.get_coordinates(one.geometry.exterior)[:-1]
            ring = shapely.Polygon(xy + rng.normal(0, by, xy.shape) + at)
            shaken += [one.changed(geometry=ring)] if ring.is_valid else []
        there = looked_at.features
        rest = [there[table].feature(i) for table in ("lines", "points") for i in range(len(there[table]))]
        rest = [f.changed(geometry=shapely.transform(f.geometry, lambda xy: xy + at)) for f in rest]
        plan = survey(*rest, *shaken).plan({a.id or 0: a for a in shaken})
        formed = [f.geometry for f in plan.kept]
        whole = len(formed) - plan.cut
        assert is_coverage(formed[:whole], formed[whole:]), seed
        moved = max(moved, moved_between(shaken, after(shaken, plan)))
    # Edges of up to a kilometre, shaken by up to a centimetre or three.
    assert moved < 30.0


@examples(60)
@given(st.integers(0, 1_000_000), st.sampled_from([0.0, 0.5, 1.0]))
def test_formed_twice_nothing_more_changes(seed: int, share: float) -> None:
    areas, looked_at = made(seed, share, 0)
    now = after(areas, looked_at.plan({a.id or 0: a for a in areas}))
    lines = looked_at.features["lines"]
    again = survey(*(lines.feature(i) for i in range(len(lines))), *now)
    plan = again.plan({a.id or 0: a for a in now})
    assert moved_between(now, after(now, plan)) < 1.0
    assert len(plan.kept) + len(plan.deleted) == 0


@examples(60)
@given(st.integers(0, 1_000_000), st.sampled_from([0.0, 0.5, 1.0]))
def test_a_tag_is_only_asked_for_where_one_helps(seed: int, share: float) -> None:
    areas, looked_at = made(seed, share, 0)
    held = ground(areas)
    for finding in looked_at.findings:
        if finding.rule not in ("untagged", "undivided") or finding.at is None:
            continue
        face = next(p for p in looked_at.faces.polygons if p.contains(shapely.Point(finding.at)))
        shares = [float(shapely.intersection(face, g).area) for unit, g in held.items() if unit]
        several = sum(share > 0.01 * face.area for share in shares)
        if finding.rule == "untagged":
            assert max(shares) < (1 - 1e-7) * face.area
            assert finding.fix is not None
        else:
            assert finding.fix is None
            assert len(finding.units) >= max(several, 2)


def test_an_area_is_split_by_a_new_line_and_keeps_its_unit_and_note() -> None:
    old = area(7, shapely.box(0, 0, 1000, 1000), "Kp", note="seen in the burn")
    plan = survey(SQUARE, line(2, [(0, 500), (1000, 500)]), old).plan({7: old})
    assert sorted((f.map_unit, f.note, round(f.geometry.area)) for f in plan.kept) == [
        ("Kp", "seen in the burn", 500_000),
        ("Kp", "seen in the burn", 500_000),
    ]
    assert {f.id for f in plan.kept} == {7, None}


def test_a_tag_that_would_take_ground_waits() -> None:
    parts = [area(1, shapely.box(0, 0, 700, 1000), "Kp"), area(2, shapely.box(700, 0, 1000, 1000), "Qt")]
    looked_at = survey(SQUARE, *parts, tag(1, 100, 100, "Qt"))
    plan = looked_at.plan({a.id or 0: a for a in parts})
    assert (plan.kept, plan.deleted) == ((), ())
    (taking,) = plan.takings
    assert (taking.unit, taking.of, round(taking.area)) == ("Qt", "Kp", 700_000)
    done = looked_at.plan({a.id or 0: a for a in parts}, take=True)
    assert {(f.id, f.map_unit, round(f.geometry.area)) for f in done.kept} == {(2, "Qt", 1_000_000)}
    assert done.deleted == (1,)
