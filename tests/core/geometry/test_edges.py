"""Edges as numbers: against plain dictionaries of places."""

from __future__ import annotations

import numpy as np

from orvik.core.geometry.edges import edge_codes, found_in, vertex_codes


def test_the_same_places_have_the_same_number_and_no_others() -> None:
    rng = np.random.default_rng(12)
    # A grid of ten thousand places a millimetre apart at eastings in the millions, each met some ten times.
    xy = rng.integers(0, 100, (100_000, 2)) * 1e-3 + (6_800_000.0, 510_000.0)
    by_place: dict[tuple[float, float], set[int]] = {}
    for place, code in zip(xy.tolist(), vertex_codes(xy).tolist(), strict=True):
        by_place.setdefault((place[0], place[1]), set()).add(code)
    assert all(len(codes) == 1 for codes in by_place.values())
    assert len({code for codes in by_place.values() for code in codes}) == len(by_place)
    assert (vertex_codes(np.array([[-0.0, 1.0]])) == vertex_codes(np.array([[0.0, 1.0]]))).all()
    assert vertex_codes(np.array([[1.0, 2.0]])) != vertex_codes(np.array([[2.0, 1.0]]))


def test_edges_are_found_as_a_dictionary_finds_them() -> None:
    rng = np.random.default_rng(13)
    vertices = rng.uniform(0, 1e6, (300, 2))
    codes = vertex_codes(vertices)
    there, asked = rng.integers(0, 300, (2_000, 2)), rng.integers(0, 300, (40_000, 2))
    held = {(a, b): {i for i, edge in enumerate(there.tolist()) if edge == [a, b]} for a, b in there.tolist()}
    hit, row = found_in(edge_codes(*codes[asked].T), edge_codes(*codes[there].T))
    found = dict(zip(hit.tolist(), row.tolist(), strict=True))
    assert len(found) == len(hit) > 500
    for i, (a, b) in enumerate(asked.tolist()):
        assert (found[i] in held[a, b]) if (a, b) in held else (i not in found)
    # The same either way round only where that is asked for.
    forward, backward = edge_codes(*codes[asked].T), edge_codes(*codes[asked[:, ::-1]].T)
    assert ((forward == backward) == (asked[:, 0] == asked[:, 1])).all()
    assert (edge_codes(*codes[asked].T, True) == edge_codes(*codes[asked[:, ::-1]].T, True)).all()


def test_nothing_is_found_in_nothing() -> None:
    none = vertex_codes(np.zeros((0, 2)))
    for asked, there in ((none, none), (none, vertex_codes(np.ones((3, 2)))), (vertex_codes(np.ones((3, 2))), none)):
        assert [len(rows) for rows in found_in(asked, there)] == [0, 0]
