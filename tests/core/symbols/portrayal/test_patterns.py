"""Patterns: no seam from tile to tile, one lattice for all areas, upright on the sheet."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pypdfium2
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.arrays import Floats
from orvik.core.features.feature import Feature, Features
from orvik.core.ground.crs import project_crs
from orvik.core.ink.lattice import EVERYWHERE, block, lattice, within
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Pattern, Tile, moved
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray
from orvik.press.pdf import page_pdf
from tests.examples import examples

BOOK = standard()


def pattern_over(
    boxes: list[shapely.Polygon], name: str = "limestone", anchor: tuple[float, float] = (0, 0)
) -> Pattern:
    rings = np.array([box.exterior for box in boxes], dtype=object)
    return Pattern(BOOK.patterns[name].tile("#000000"), Paths.of_lines(rings), np.arange(len(rings) + 1), anchor=anchor)


boxes = st.lists(
    st.builds(
        lambda x, y, w, h: shapely.box(x, y, x + w, y + h),
        st.floats(-200, 200),
        st.floats(-200, 200),
        st.floats(0.1, 40),
        st.floats(0.1, 40),
    ),
    min_size=1,
    max_size=5,
)


@examples(80)
@given(boxes, st.sampled_from(sorted(BOOK.patterns)), st.tuples(st.floats(-1e5, 1e5), st.floats(-1e5, 1e5)))
def test_every_tile_that_touches_an_area_is_there_and_once(
    areas: list[shapely.Polygon], name: str, anchor: tuple[float, float]
) -> None:
    pattern = pattern_over(areas, name, anchor)
    tile, at = pattern.tile, lattice(pattern, EVERYWHERE)
    steps = (at - anchor) / (tile.width, tile.height)
    np.testing.assert_allclose(steps, np.rint(steps), atol=1e-6)
    assert len({tuple(place) for place in np.rint(steps).tolist()}) == len(at)
    covered = shapely.union_all(shapely.box(*at.T, *(at + (tile.width, tile.height)).T))
    assert covered.buffer(1e-6).covers(shapely.union_all(areas))


def test_what_is_out_of_sight_is_left_out() -> None:
    pattern = pattern_over([shapely.box(0, 0, 1000, 1000)])
    near = lattice(pattern, within(EVERYWHERE, Paths.of([(100, 100), (120, 100), (120, 110)])))
    assert 20 < len(near) < 90
    assert (np.abs(near - (110, 105)) < (30, 20)).all()


@pytest.mark.parametrize("name", sorted(BOOK.patterns))
def test_a_tile_goes_on_in_its_neighbours(name: str) -> None:
    """Printed, the picture is the same one tile further on; at a seam it would not be."""
    tile = BOOK.patterns[name].tile("#000000")
    dots = 20
    pattern = pattern_over([shapely.box(-5, -5, 65, 65)], name)
    data = page_pdf([pattern], 60, 60, name)
    page = pypdfium2.PdfDocument(data)[0].render(scale=dots * 25.4 / 72).to_pil().convert("L")
    pixels = np.asarray(page, dtype=float)
    right, down = round(tile.width * dots), round(tile.height * dots)
    middle = pixels[200:800, 200:800]
    assert middle.min() < 120, "nothing is drawn"
    assert np.abs(tile.width * dots - right) < 1e-6, "a whole number of dots is needed here"
    for dx, dy in ((right, 0), (0, down)):
        shifted = pixels[200 + dy : 800 + dy, 200 + dx : 800 + dx]
        assert np.abs(middle - shifted).mean() < 0.5, (dx, dy)


def test_two_areas_share_the_lattice_and_the_ground_carries_it() -> None:
    crs = project_crs("EPSG:32628")
    x, y = 513_000.0, 6_802_000.0
    areas = Features.of(
        "areas",
        [
            Feature("areas", shapely.box(x + i * 500, y, x + i * 500 + 480, y + 400), "landslide_body", id=i)
            for i in (1, 2)
        ],
    )
    (item,) = (i for i in portray({"areas": areas}, BOOK, {}, crs)["units"].items if isinstance(i, Pattern))
    assert len(item.parts) == 3
    one, other = (moved([item], (0.04, 0, -0.04 * (x + dx), 0, -0.04, 0.04 * y))[0] for dx in (0, 250))
    assert isinstance(one, Pattern)
    assert isinstance(other, Pattern)
    # Ten millimetres further on the page: the lattice moved along with the ground.
    assert one.anchor[0] - other.anchor[0] == pytest.approx(10.0)


def test_a_hole_has_no_pattern() -> None:
    area = shapely.box(0, 0, 60, 60).difference(shapely.box(20, 20, 40, 40))
    rings = shapely.get_rings(shapely.orient_polygons(np.array([area], dtype=object)))
    pattern = Pattern(BOOK.patterns["not_mapped"].tile("#000000"), Paths.of_lines(rings), np.array([0, 2]))
    page = pypdfium2.PdfDocument(page_pdf([pattern], 60, 60, "hole"))[0]
    pixels = np.asarray(page.render(scale=4).to_pil().convert("L"))
    k = 4 * 72 / 25.4
    assert pixels[int(22 * k) : int(38 * k), int(22 * k) : int(38 * k)].min() == 255
    assert pixels[int(2 * k) : int(18 * k), int(2 * k) : int(58 * k)].min() < 60


def test_lines_reach_over_the_edge_of_their_tile() -> None:
    """Where two ends only meet, dots of half a line each would leave a paler one."""
    reaching = 0
    for pattern in BOOK.patterns.values():
        plain = [p for p in pattern.pieces if p.shape == "line" and not p.closed]
        at_edge = [p for p in plain if any(x in (0.0, pattern.width) for x, _ in (p.points[0], p.points[-1]))]
        if not at_edge:
            continue
        xs = np.concatenate([item.paths.xy[:, 0] for item in pattern.tile("#000000").items])
        assert xs.min() < -0.02 or xs.max() > pattern.width + 0.02, pattern.id
        reaching += 1
    assert reaching >= 8


@pytest.mark.parametrize("name", sorted(BOOK.patterns))
def test_blocks_of_tiles_cover_what_tiles_do(name: str) -> None:
    """Every place of a piece that a tile draws within the areas is drawn by a block, in one of its copies."""
    pattern = pattern_over([shapely.box(3.7, -21.3, 161.2, 140.4)], name)
    tile, across = pattern.tile, 4
    big = block(tile, across)
    assert (big.width, big.height) == (tile.width * across, tile.height * across)

    def places(tile: Tile, at: Floats) -> set[tuple[float, float]]:
        xy = np.vstack([item.paths.xy for item in tile.items])
        drawn = (at[:, None, :] + xy[None, :, :]).reshape(-1, 2)
        inside = (drawn[:, 0] > 3.7) & (drawn[:, 0] < 161.2) & (drawn[:, 1] > -21.3) & (drawn[:, 1] < 140.4)
        return set(map(tuple, np.round(drawn[inside], 6).tolist()))

    by_blocks = lattice(replace(pattern, tile=big), EVERYWHERE)
    by_tiles = lattice(pattern, EVERYWHERE)
    assert places(big, by_blocks) == places(tile, by_tiles)
    assert len(by_blocks) * 4 < len(by_tiles)
    for item, of in zip(big.items, tile.items, strict=True):
        assert len(item.paths) == len(of.paths) * across**2
