"""A survey's quadrangle: on every paper, for maps of any shape, it is laid out whole or refused in words."""

from __future__ import annotations

from datetime import date
from itertools import combinations

import numpy as np
import pytest
import shapely

from orvik.core.errors import SheetRefused
from orvik.core.ground.crs import project_crs
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.paper import PAPERS, paper_size
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts import needed
from orvik.core.sheet.templates import laid_out, survey
from orvik.core.sheet.templates.brief import Brief

CRS = project_crs("EPSG:32628")


def brief(page: tuple[float, float], width: float, height: float, **more: object) -> Brief:
    """For ground that is so wide and so high on a sheet at 1:25 000."""
    ground = shapely.box(500_000, 6_800_000, 500_000 + width * 25, 6_800_000 + height * 25).exterior
    return Brief("Sheet", "Small", page, ground, 25_000, CRS, date(2026, 7, 2), **more)  # type: ignore[arg-type]


def box(part: Part) -> shapely.Polygon:
    return shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)


@pytest.mark.parametrize("paper", sorted({paper.name for paper in PAPERS}))
@pytest.mark.parametrize("landscape", [True, False])
def test_all_of_it_lies_on_the_page_and_nothing_on_anything_else(paper: str, landscape: bool) -> None:
    rng = np.random.default_rng(len(paper) + landscape)
    _, across, down = paper_size(paper, landscape)
    for _ in range(8):
        width, height = rng.uniform(0.1, 0.9) * across, rng.uniform(0.1, 0.9) * down
        more = {
            "sections": tuple(zip("ABC", rng.uniform(20, 90, 3), strict=True))[: int(rng.integers(0, 4))],
            "readings": bool(rng.integers(2)),
            "texts": tuple(rng.integers(10, 900, int(rng.integers(0, 80))).tolist()),
            "heights": bool(rng.integers(2)),
        }
        least = survey.needed(width, height)
        if least[0] > across + 1e-6 or least[1] > down + 1e-6:
            with pytest.raises(SheetRefused, match="it takes"):
                laid_out(brief((across, down), width, height, **more), "survey")
            continue
        parts = laid_out(brief((across, down), width, height, **more), "survey")
        page = shapely.box(0, 0, across, down).buffer(1e-6)
        assert all(page.contains(box(part)) for part in parts)
        apart = [part for part in parts if not part.settings.lies_on_panel]
        for one, other in combinations(apart, 2):
            assert box(one).intersection(box(other)).area < 1e-6, (one.label, other.label)
        imprint = Imprint(authors="H. Quill", day="2026-07-02")
        lacking = [what for what, there in needed(Sheet("S", paper, across, down), parts, imprint) if not there]
        assert set(lacking) <= {"Sources"}


def test_a_page_that_is_too_small_names_the_paper_that_holds_it() -> None:
    with pytest.raises(SheetRefused, match=r"A\d landscape would hold it|A\d portrait would hold it"):
        laid_out(brief((420.0, 297.0), 280.0, 220.0), "survey")
    words = survey.paper_for(280.0, 220.0, "ISO A")
    assert words is not None
    name, way = words.split()
    _, across, down = paper_size(name, way == "landscape")
    assert laid_out(brief((across, down), 280.0, 220.0), "survey")
