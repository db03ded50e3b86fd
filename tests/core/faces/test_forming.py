"""Units formed from linework and tags, and formed again after edits."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.faces import forming
from orvik.core.faces.plan import FormingPlan
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.findings.survey import Survey
from tests.core.pieces import area, border, line, survey, tag
from tests.examples import examples

SQUARE = border(0, 0, 1000, 1000)
# From one side of the border to the other, through the middle.
ACROSS = line(2, [(0, 500), (400, 520), (1000, 500)])


def units_of(plan: FormingPlan) -> dict[str | None, float]:
    return {f.map_unit: round(f.geometry.area, 6) for f in plan.kept}


def test_two_faces_take_the_units_of_their_tags() -> None:
    plan = survey(SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp")).plan()
    south = shapely.Polygon([(0, 0), (1000, 0), (1000, 500), (400, 520), (0, 500)]).area
    assert units_of(plan) == {"Qt": round(1e6 - south, 6), "Kp": round(south, 6)}
    assert forming.proven(f.geometry for f in plan.kept) == (True, pytest.approx(0, abs=1e-6))
    # Nobody has said at what scale these lines were captured.
    assert {f.capture_scale for f in plan.kept} == {None}


def test_a_new_area_was_captured_as_coarsely_as_the_coarsest_of_its_edges() -> None:
    frame, fine, coarse = (
        SQUARE.changed(capture_scale=6250),
        ACROSS.changed(capture_scale=5000),
        line(3, [(0, 800), (1000, 800)], capture_scale=500_000),
    )
    tags = (tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"), tag(3, 500, 700, "Jh"))
    plan = survey(frame, fine, coarse, *tags).plan()
    assert {f.map_unit: f.capture_scale for f in plan.kept} == {"Qt": 500_000, "Kp": 6250, "Jh": 500_000}
    unknown = survey(frame, fine, coarse.changed(capture_scale=None), *tags).plan()
    assert {f.map_unit: f.capture_scale for f in unknown.kept} == {"Qt": None, "Kp": 6250, "Jh": None}


def test_what_is_concealed_bounds_nothing() -> None:
    for hidden in (
        ACROSS.changed(certainty="concealed"),
        ACROSS.changed(stretches=(Stretch(1, 2, "concealed"),)),
    ):
        assert len(survey(SQUARE, hidden).faces) == 1
    inferred = ACROSS.changed(stretches=(Stretch(1, 2, "inferred"),))
    assert len(survey(SQUARE, inferred).faces) == 2
    # Bedding traces, dykes and the like do not bound units either.
    assert len(survey(SQUARE, ACROSS.changed(kind="dyke")).faces) == 1


def test_what_is_off_the_sheet_is_left_out() -> None:
    long = line(2, [(-300, 500), (1300, 500)])
    loop = line(3, [(1100, 0), (1300, 0), (1200, 200), (1100, 0)])
    assert sorted(p.area for p in survey(SQUARE, long, loop).faces.polygons) == [500_000, 500_000]


def test_areas_that_were_there_keep_their_number_and_attributes() -> None:
    old = area(7, shapely.box(0, 0, 1000, 450), "Kp", note="seen in the burn", questionable=True)
    made = survey(SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"), old)
    plan = made.plan({7: old})
    kept = next(f for f in plan.kept if f.id == 7)
    assert (kept.note, kept.questionable, kept.map_unit) == ("seen in the burn", True, "Kp")
    assert kept.geometry.area == pytest.approx(510_000)
    assert plan.deleted == ()


def test_forming_twice_changes_nothing() -> None:
    features = (SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"))
    plan = survey(*features).plan()
    areas = [f.changed(id=i) for i, f in enumerate(plan.kept, 1)]
    again = survey(*features, *areas).plan({f.id or 0: f for f in areas})
    assert (again.kept, again.deleted, again.formed) == ((), (), 2)


def test_without_or_with_two_tags_the_unit_that_was_there_stays() -> None:
    old = area(7, shapely.box(0, 0, 1000, 1000), "Kp")
    assert survey(SQUARE, old).plan({7: old}).kept == ()
    two = survey(SQUARE, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Jh"), old).plan({7: old})
    assert two.kept == ()
    assert survey(SQUARE).plan().kept == ()


def test_areas_in_the_way_are_cut_back_to_what_is_free() -> None:
    """A drawn area that reaches beyond the sheet keeps that part; one that is covered goes, once that is asked for."""
    beyond = area(7, shapely.box(900, 400, 1400, 600), "Jh")
    covered = area(8, shapely.box(100, 100, 200, 200), "Jh")
    whole = {7: beyond, 8: covered}
    made = survey(SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"), beyond, covered)
    plan = made.plan(whole, take=True)
    rest = next(f for f in plan.kept if f.id == 7)
    assert rest.geometry.equals(shapely.box(1000, 400, 1400, 600))
    assert plan.deleted == (8,)


def test_an_island_of_another_unit_becomes_a_hole() -> None:
    ring = line(3, [(200, 100), (300, 100), (300, 200), (200, 200), (200, 100)])
    plan = survey(SQUARE, ACROSS, ring, tag(1, 500, 900, "Qt"), tag(2, 500, 50, "Kp"), tag(3, 250, 150, "Jh")).plan()
    around = next(f for f in plan.kept if f.map_unit == "Kp").geometry
    assert len(around.interiors) == 1
    assert units_of(plan)["Jh"] == 10_000


def wandering(rng: np.random.Generator, number: int) -> Feature:
    """A line of a few vertices on a fine grid, over much of the square."""
    xy = rng.integers(-50, 1050, (int(rng.integers(2, 6)), 2)).astype(float)
    xy = np.unique(xy, axis=0)
    if len(xy) < 2:
        xy = np.array([[0.0, 0.0], [1000.0, 7.0]])
    kind = str(rng.choice(["contact", "fault", "dyke"], p=[0.7, 0.2, 0.1]))
    return line(number, [tuple(p) for p in xy.tolist()], kind)


def matched(one: Survey, two: Survey) -> bool:
    """Whether two surveys have the same faces with the same units, but for the rounding of their nodes."""
    if len(one.faces) != len(two.faces):
        return False
    tree = shapely.STRtree(two.faces.polygons)
    for polygon, units in zip(one.faces.polygons, one.faces.units, strict=True):
        twins = tree.query(shapely.point_on_surface(polygon), predicate="intersects")
        if not any(
            shapely.hausdorff_distance(polygon, two.faces.polygons[i]) < 1e-6 and set(two.faces.units[i]) == set(units)
            for i in twins
        ):
            return False
    return True


@examples(40)
@given(st.integers(0, 10_000), st.booleans())
def test_formed_again_after_edits_as_if_from_the_beginning(seed: int, framed: bool) -> None:
    """Any sequence of edits: the survey that follows is the survey that begins anew."""
    rng = np.random.default_rng(seed)
    there: dict[tuple[str, int], Feature] = {("lines", 1): SQUARE} if framed else {}
    for number in range(2, 9):
        there["lines", number] = wandering(rng, number)
    for number in range(1, 4):
        there["points", number] = tag(number, *rng.uniform(0, 1000, 2), str(rng.choice(["Qt", "Kp"])))
    followed = survey(*there.values())
    for step in range(5):
        number = int(rng.integers(2, 12))
        put, gone = [], []
        if step % 2 and ("lines", number) in there:
            del there["lines", number]
            gone.append(("lines", number))
        else:
            there["lines", number] = wandering(rng, number)
            put.append(there["lines", number])
        moved = int(rng.integers(1, 4))
        there["points", moved] = tag(moved, *rng.uniform(0, 1000, 2), str(rng.choice(["Qt", "Kp"])))
        put.append(there["points", moved])
        followed.update(put, gone)  # type: ignore[arg-type]
        anew = survey(*there.values())
        assert matched(followed, anew)
        # Faces built again fit to the last bit between those that were not.
        assert shapely.coverage_is_valid(followed.faces.polygons)
        assert {f.key for f in followed.findings} == {f.key for f in anew.findings}


@examples(60)
@given(st.integers(0, 10_000))
def test_any_linework_makes_a_sound_coverage(seed: int) -> None:
    rng = np.random.default_rng(seed)
    lines = [wandering(rng, n) for n in range(2, 12)]
    tags = [tag(n, *rng.uniform(0, 1000, 2), str(rng.choice(["Qt", "Kp", "Jh"]))) for n in range(1, 12)]
    made = survey(SQUARE, *lines, *tags)
    # The faces tile the sheet: nothing is left over, nothing lies over anything else.
    assert made.faces.polygons is not None
    assert shapely.coverage_is_valid(made.faces.polygons)
    assert float(shapely.area(made.faces.polygons).sum()) == pytest.approx(1e6, rel=1e-9)
    plan = made.plan()
    sound, over = forming.proven(f.geometry for f in plan.kept)
    assert sound
    assert abs(over) < 1e-3


def test_a_drawn_area_that_is_cut_back_shares_its_new_nodes_with_the_faces() -> None:
    """Its edges cross those of the faces where no vertex was; both have one there afterwards, and once is enough."""
    slanted = shapely.Polygon([(950, 300), (1130, 330), (1400, 700), (970, 640)])
    beyond = area(7, slanted, "Jh")
    features = (SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"))
    plan = survey(*features, beyond).plan({7: beyond}, take=True)
    geometries = [f.geometry for f in plan.kept]
    assert plan.cut == 1
    assert forming.proven(geometries) == (True, pytest.approx(0, abs=1e-6))
    assert forming.is_coverage(geometries[:-1], geometries[-1:])
    kept = [f.changed(id=f.id or 20 + i) for i, f in enumerate(plan.kept)]
    again = survey(*features, *kept).plan({f.id or 0: f for f in kept})
    assert (again.kept, again.deleted) == ((), ())


def test_areas_that_were_cut_may_lie_over_one_another_as_before() -> None:
    over = [area(7, shapely.box(900, 300, 1400, 600), "Jh"), area(8, shapely.box(950, 400, 1300, 700), "Jh")]
    plan = survey(SQUARE, ACROSS, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"), *over).plan(
        {a.id or 0: a for a in over}, take=True
    )
    geometries = [f.geometry for f in plan.kept]
    assert not forming.proven(geometries)[0]
    assert forming.is_coverage(geometries[: -plan.cut], geometries[-plan.cut :])
    # But none may part from what is formed: without the node that both have, they do.
    whole, rest = geometries[: -plan.cut], shapely.difference(over[0].geometry, shapely.box(0, 0, 1000, 1000))
    assert forming.is_coverage(whole, [geometries[-1]])
    assert not forming.is_coverage(whole, [shapely.Polygon([(1000, 250), (1400, 250), (1400, 600), (1000, 600)])])
    assert rest.area == 120_000


def test_ground_too_small_to_be_an_area_is_not_formed() -> None:
    """Two lines all but on one another leave a face of a thousandth of a square metre between them."""
    again = line(3, [(400, 520), (700, 510 + 4e-6), (1000, 500)])
    made = survey(SQUARE, ACROSS, again, tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"), tag(3, 700, 510 + 2e-6, "Jh"))
    assert min(shapely.area(made.faces.polygons)) < forming.SPECK
    assert min(f.geometry.area for f in made.plan().kept) > 1000


def test_lines_that_run_along_one_another_within_rounding_are_noded() -> None:
    """Noding pair by pair never comes to rest with these; faces are built nevertheless."""
    lines = np.array(
        [
            shapely.LineString(
                [
                    (512070.61439440015, 6802405.9215916),
                    (511222.5520125304, 6802022.69714047),
                    (510779.74397354946, 6801822.5999880405),
                ]
            ),
            shapely.LineString([(511200.0, 6802000.0), (511305.72528707824, 6802106.405656205)]),
            shapely.LineString([(512103.96920384874, 6802420.994042421), (510779.74397354946, 6801822.5999880405)]),
            shapely.LineString([(511200.0, 6802000.0), (511200.0, 6803000.0), (511305.72528707824, 6802106.405656205)]),
        ],
        dtype=object,
    )
    with pytest.raises(shapely.GEOSException, match="converge"):
        shapely.node(shapely.multilinestrings(lines[:3]))
    faces = forming.faces_of(lines, None)
    assert max(shapely.area(faces)) == pytest.approx(shapely.Polygon(lines[3]).area, rel=1e-2)
