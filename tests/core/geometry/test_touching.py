"""What touches within rounding meets: findings and faces agree about it, at every size of coordinate."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from orvik.core.faces import forming
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import BOUNDING
from orvik.core.findings.finding import CheckInput
from orvik.core.findings.lines import ends
from orvik.core.geometry.touching import with_ends_met
from orvik.core.ground.scale import Scales
from orvik.core.symbols.book_file import standard

BOOK = standard()
CORNERS = [(0.0, 0.0), (513_000.0, 6_802_000.0), (2_963_503.9, 254_759.8), (32_500_000.0, 5_400_000.0)]


def lines_of(*paths: object) -> Features:
    features = [Feature("lines", shapely.LineString(p), "contact", id=i) for i, p in enumerate(paths, 1)]
    return Features.of("lines", features)


def split_triangle(rng: np.random.Generator, corner: tuple[float, float]) -> list[np.ndarray]:
    """A triangle and two lines from its first corner's sides to the opposite one, ending at interpolated places."""
    a, b, c = rng.uniform(0, 3000, (3, 2)) + corner
    s, t, u = rng.uniform(0.2, 0.8, 3)
    p, q, r = a + s * (b - a), b + t * (c - b), c + u * (a - c)
    return [np.array([a, b, c, a]), np.array([p, q]), np.array([q, r])]


@pytest.mark.parametrize("corner", CORNERS)
def test_a_triangle_is_split_where_lines_end_on_its_sides(corner: tuple[float, float]) -> None:
    rng = np.random.default_rng(5)
    for _ in range(200):
        lines = lines_of(*split_triangle(rng, corner))
        pieces = forming.pieces_of(lines, BOUNDING)
        faces = forming.faces_of(pieces.lines, None)
        assert len(faces) == 3
        ground = CheckInput(
            lines,
            Features.of("points", []),
            Features.of("areas", []),
            forming.Faces(faces, [()] * 3, [()] * 3),
            {},
            Scales(25_000, 6_250),
            1.0,
            BOUNDING,
        )
        assert ends.dangles(ground) == []


@pytest.mark.parametrize("corner", CORNERS)
def test_random_junctions_against_union_on_a_grid(corner: tuple[float, float]) -> None:
    """Thousands of lines that end on others at interpolated places; GEOS's overlay on a grid is the yardstick."""
    rng = np.random.default_rng(11)
    for _ in range(20):
        frame = np.array([(0, 0), (4000, 0), (4000, 4000), (0, 4000), (0, 0)]) + np.array(corner)
        paths = [frame]
        for _ in range(60):
            one, two = rng.integers(0, len(paths), 2)
            places = []
            for k in (one, two):
                i = int(rng.integers(0, len(paths[k]) - 1))
                places.append(paths[k][i] + rng.uniform(0.05, 0.95) * (paths[k][i + 1] - paths[k][i]))
            if np.hypot(*(places[1] - places[0])) > 50:
                paths.append(np.array(places))
        lines = np.array([shapely.LineString(p) for p in paths], dtype=object)
        ours = forming.faces_of(lines, None)
        grid = 2e-6 if corner[0] < 3e7 else 1e-5
        theirs = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(lines, grid_size=grid))))
        large = [p for p in theirs if p.area > 1.0]
        assert len([p for p in ours if p.area > 1.0]) == len(large)
        assert shapely.area(ours).sum() == pytest.approx(4000.0**2, rel=1e-9)
        assert shapely.coverage_is_valid(ours)


def test_what_meets_already_is_left_alone() -> None:
    lines = np.array([shapely.LineString([(0, 0), (10, 0)]), shapely.LineString([(10, 0), (10, 9)])], dtype=object)
    assert all(a is b for a, b in zip(with_ends_met(lines), lines, strict=True))


def test_an_end_beside_a_vertex_moves_onto_it_and_ends_beside_each_other_become_one() -> None:
    ring = shapely.LineString([(0, 0), (10, 0), (10, 10), (0, 0)])
    one = shapely.LineString([(10 + 3e-8, 2e-8), (30, 5)])
    two = shapely.LineString([(30 + 1e-8, 5 - 1e-8), (50, 5)])
    met = with_ends_met(np.array([ring, one, two], dtype=object))
    assert met[1].coords[0] == (10.0, 0.0)
    assert met[1].coords[-1] == met[2].coords[0]


def test_formed_areas_turn_as_the_standard_says() -> None:
    frame = shapely.box(0, 0, 100, 100)
    hole = shapely.box(40, 40, 60, 60)
    rings = [shapely.LineString(p.exterior.coords) for p in (frame, hole)]
    for face in forming.faces_of(np.array(rings, dtype=object), None):
        assert shapely.is_ccw(face.exterior)
        assert not any(shapely.is_ccw(ring) for ring in face.interiors)
