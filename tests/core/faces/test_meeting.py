"""Units that touch, against what shapely says of their edges."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.faces.meeting import meetings
from orvik.core.features.feature import Feature, Features
from tests.examples import examples


def areas(*faces: tuple[str, shapely.Polygon]) -> Features:
    return Features.of(
        "areas", [Feature("areas", face, "unit_area", id=i, map_unit=unit) for i, (unit, face) in enumerate(faces, 1)]
    )


@examples(40)
@given(st.integers(0, 10_000), st.integers(3, 40), st.integers(2, 6))
def test_lengths_against_shapely(seed: int, count: int, units: int) -> None:
    """A ground cut into cells around random places: every pair by its common boundary."""
    rng = np.random.default_rng(seed)
    places = shapely.MultiPoint(rng.uniform(0, 1000, (count, 2)))
    cells = shapely.get_parts(shapely.voronoi_polygons(places))
    faces = [(f"u{i % units}", cell) for i, cell in enumerate(cells)]
    found = {(m.one, m.other): m.length for m in meetings(areas(*faces), 0.5)}
    expected: dict[tuple[str, str], float] = {}
    pieces: dict[tuple[str, str], int] = {}
    for (a, one), (b, other) in itertools.combinations(faces, 2):
        shared = shapely.intersection(one.boundary, other.boundary).length
        if a != b and shared > 1:
            key = (min(a, b), max(a, b))
            expected[key] = expected.get(key, 0.0) + shared
            pieces[key] = pieces.get(key, 0) + 1
    for key, length in expected.items():
        # Each boundary may be off by the tolerance at its ends.
        assert found[key] == pytest.approx(length, rel=1e-6, abs=max(2.0, 0.5 * pieces[key]))
    for key, length in found.items():
        assert key in expected or length < 5


def test_the_place_is_on_the_common_edge_and_the_longest_comes_first() -> None:
    west, middle, east = shapely.box(0, 0, 10, 100), shapely.box(10, 0, 20, 100), shapely.box(20, 0, 90, 30)
    found = meetings(areas(("A", west), ("B", middle), ("C", east)), 0.1)
    assert [(m.one, m.other) for m in found] == [("A", "B"), ("B", "C")]
    assert found[0].length == pytest.approx(100)
    assert found[0].at == (10, 50)
    # The second pair has no vertices in common.
    assert found[1].length == pytest.approx(30, abs=0.5)
    assert shapely.Point(found[1].at).distance(shapely.LineString([(20, 0), (20, 30)])) < 0.2


def test_corners_custom_kinds_and_the_same_unit_do_not_count() -> None:
    one, corner = shapely.box(0, 0, 10, 10), shapely.box(10, 10, 20, 20)
    assert meetings(areas(("A", one), ("B", corner)), 0.1) == []
    assert meetings(areas(("A", one), ("A", shapely.box(10, 0, 20, 10))), 0.1) == []
    other = Feature("areas", shapely.box(10, 0, 20, 10), "lake", id=2)
    alone = Features.of("areas", [Feature("areas", one, "unit_area", id=1, map_unit="A"), other])
    assert meetings(alone, 0.1) == []
    assert meetings(areas(), 0.1) == []
