"""Joins against shapely: mosaics that one line cuts in two meet, and every misfit put in afterwards is told."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
import pytest
import shapely

from orvik.core.errors import NeighbourRefused
from orvik.core.features.feature import Feature
from orvik.core.joins.meeting import Misfit, SharedBorder, misfits, shared_border
from orvik.core.joins.neighbour import PLACES, Edge, Neighbour, edge_of, place_of
from tests.mosaics import FIRST, Half, halves

# A millimetre on a sheet at 1:25 000, in metres.
MM = 25.0


def compared(one: Half, two: Half, there: Edge | None = None) -> tuple[SharedBorder, list[Misfit]]:
    here = edge_of(one.lines, one.areas, None, one.border, 15 * MM)
    other = there or edge_of(two.lines, two.areas, two.border, one.border, 15 * MM)
    shared = shared_border(one.border, other, MM)
    return shared, misfits(shared, here, other)


@pytest.mark.parametrize("seed", range(50))
def test_what_one_line_has_cut_meets(seed: int) -> None:
    one, two = halves(seed)
    for here, there in ((one, two), (two, one)):
        shared, found = compared(here, there)
        assert found == []
        reference = shapely.intersection(here.border.exterior, there.border.exterior).length
        assert abs(shared.length_mm - reference / MM) < 0.01
    opposite = {"n": "s", "s": "n", "e": "w", "w": "e"}
    assert opposite[place_of(one.border, two.border)] == place_of(two.border, one.border)


def crossing(half: Half, shared: SharedBorder, rng: np.random.Generator) -> tuple[int, np.ndarray]:
    """A line of a sheet that ends at the border, far from its neighbours there and from its ends, and where."""
    border = shapely.MultiLineString(shared.parts)
    ends = [
        (row, shapely.Point(line.geometry.coords[i]), i)
        for row, line in enumerate(half.lines)
        for i in (0, -1)
        if shapely.Point(line.geometry.coords[i]).distance(border) < 1e-6
    ]
    lonely = [
        (row, i)
        for row, place, i in ends
        if sum(place.distance(other) < 12 * MM for _, other, _ in ends) == 1
        and all(place.distance(shapely.Point(part.coords[j])) > 12 * MM for part in shared.parts for j in (0, -1))
    ]
    row, i = lonely[int(rng.integers(len(lonely)))]
    return row, np.array(half.lines[row].geometry.coords[i])


def replaced(features: Sequence[Feature], row: int, **values: object) -> list[Feature]:
    out = list(features)
    out[row] = out[row].changed(**values)
    return out


def seeded(what: str, seed: int) -> tuple[Half, Half, np.ndarray]:
    """Two halves with one misfit between them, and where it is."""
    rng = np.random.default_rng(1000 + seed)
    one, two = halves(seed)
    shared, _ = compared(one, two)
    row, at = crossing(two, shared, rng)
    lines, areas = two.lines, two.areas
    line = lines[row]
    if what == "offset":
        s = shared.ring.project(shapely.Point(at))
        moved = shared.place(s + 1.5 * MM)
        xy = shapely.get_coordinates(line.geometry)
        xy[np.hypot(*(xy - at).T).argmin()] = moved
        lines = replaced(lines, row, geometry=shapely.LineString(xy))
    elif what == "ends":
        lines = [other for i, other in enumerate(lines) if i != row]
    elif what == "kind":
        lines = replaced(lines, row, kind="normal_fault")
    elif what == "certainty":
        lines = replaced(lines, row, certainty="concealed")
    else:
        beside = min(range(len(areas)), key=lambda i: areas[i].geometry.distance(shapely.Point(at)))
        areas = replaced(areas, beside, map_unit="Other")
    return one, Half(two.border, lines, areas), at


@pytest.mark.parametrize("what", ["offset", "ends", "kind", "certainty", "unit"])
@pytest.mark.parametrize("seed", range(100, 104))
def test_every_misfit_is_told_on_both_sheets(what: str, seed: int) -> None:
    one, two, at = seeded(what, seed)
    for here, there in ((one, two), (two, one)):
        _, found = compared(here, there)
        wanted = "begins" if what == "ends" and here is two else what
        told = [misfit for misfit in found if misfit.what == wanted]
        assert told, Counter(misfit.what for misfit in found)
        assert {misfit.what for misfit in found} == {wanted}
        if what == "offset":
            assert abs(told[0].mm - 1.5) < 0.02
        if what != "unit":
            assert np.hypot(*(np.array(told[0].at) - at)) < 1.6 * MM


def test_borders_that_are_drawn_in_two_systems_are_one_border() -> None:
    """Their ring is bent by up to half a millimetre, and their lines end on it."""
    one, two = halves(7, straight=True)
    _, south, _, north = one.border.union(two.border).bounds

    def bent(xy: np.ndarray) -> np.ndarray:
        across = np.array([1.0, 0.0]) * 0.4 * MM
        share = np.sin((xy[:, 1] - south) / (north - south) * np.pi)
        return np.asarray(xy + share[:, None] * across)

    ring = shapely.transform(shapely.segmentize(two.border, 200.0), bent)
    lines = [line.changed(geometry=shapely.transform(line.geometry, bent)) for line in two.lines]
    areas = [area.changed(geometry=shapely.transform(area.geometry, bent)) for area in two.areas]
    shared, found = compared(one, two, edge_of(lines, areas, ring, one.border, 15 * MM))
    assert shared.length_mm > 390
    assert [misfit for misfit in found if misfit.what != "offset"] == []
    # Moved along with the bend, lines end beside where they did by no more than it slants.
    assert all(misfit.mm < 0.5 for misfit in found)


def test_a_neighbour_at_a_corner_has_nothing_to_join() -> None:
    here, there = shapely.box(0, 0, 1000, 1000), shapely.box(1000, 1000, 2000, 2000)
    area = Feature("areas", there, "unit_area", map_unit="A")
    edge = edge_of([], [area], there, here, 15 * MM)
    shared = shared_border(here, edge, MM)
    assert shared.parts == ()
    assert misfits(shared, edge, edge) == []
    assert place_of(here, there) == "ne"


def test_the_eight_places() -> None:
    here = shapely.box(0, 0, 10, 10)
    for place in PLACES:
        dx = 10 * (("e" in place) - ("w" in place))
        dy = 10 * (("n" in place) - ("s" in place))
        assert place_of(here, shapely.transform(here, lambda xy, dx=dx, dy=dy: xy + [dx, dy])) == place


def test_an_edge_is_kept_to_the_last_bit() -> None:
    one, two = halves(3)
    edge = edge_of(two.lines, two.areas, two.border, one.border, 15 * MM)
    assert Edge.of_json(edge.json) == edge
    assert all(line.number >= FIRST for line in edge.lines)


@pytest.mark.parametrize("text", ["", "[]", "{}", '{"ring": "00", "lines": [], "areas": []}', '{"ring": null}'])
def test_what_is_no_edge_is_refused(text: str) -> None:
    with pytest.raises(NeighbourRefused):
        Edge.of_json(text)


@pytest.mark.parametrize(("name", "number", "place"), [("", "", "n"), ("Sule", "", "up"), ("S" * 81, "", "n")])
def test_what_is_no_neighbour_is_refused(name: str, number: str, place: str) -> None:
    with pytest.raises(NeighbourRefused):
        Neighbour(name, number, place)
