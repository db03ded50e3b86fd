"""Bands: margins that follow to the ends, stretches of each margin, and what lies over them."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import FeatureRefused
from orvik.core.faces.concealment import covered
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ink.paths import Paths, beside
from orvik.core.ink.primitives import Fill, Marks, Stroke, Text
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray
from tests.core.pieces import area, line
from tests.examples import examples

BOOK = standard()
X, Y = 513_000.0, 6_802_000.0


def margin(xy: np.ndarray, right: float) -> np.ndarray:
    """A line to the right on the ground, where y grows upwards."""
    return beside(Paths(xy, np.array([0, len(xy)])), -right).xy


ROW = [(X, Y), (X + 500, Y), (X + 1000, Y)]


def ink(crs: ProjectCrs, *lines: Feature, publication: int = 25_000) -> list[object]:
    return list(portray({"lines": Features.of("lines", lines)}, BOOK, {}, crs, publication)["linework"].items)


def test_width_on_the_ground_and_on_the_sheet() -> None:
    assert Band(30.0).ground_width(25_000, 1.0) == 30
    assert Band(1.2, "sheet").ground_width(25_000, 1.0) == 30
    assert Band(30.0).ground_width(25_000, 0.3048) == pytest.approx(98.425, abs=1e-3)
    for width in (0, -1, 1e5):
        with pytest.raises(FeatureRefused):
            Band(width)
    assert Band.of(Band(3.5, "sheet", "inferred", "", "left", ("Qt", "faults")).text) == Band(
        3.5, "sheet", "inferred", "", "left", ("Qt", "faults")
    )


def test_margins_end_exactly_beside_the_ends(crs: ProjectCrs) -> None:
    items = ink(crs, line(1, ROW, "dyke", band=Band(40.0)))
    (fill,) = [i for i in items if isinstance(i, Fill)]
    assert shapely.Polygon(fill.paths.xy).equals(shapely.box(X, Y - 20, X + 1000, Y + 20))
    left, right = [i.paths.xy for i in items if isinstance(i, Stroke)]
    assert left.tolist() == [[X, Y + 20], [X + 500, Y + 20], [X + 1000, Y + 20]]
    assert right[:, 1].tolist() == [Y - 20] * 3
    # A bend keeps the distance on both sides of it.
    bent = margin(np.array([(0, 0), (100, 0), (100, 100.0)]), 10)
    assert bent.tolist() == [[0, -10], [110, -10], [110, 100]]


@examples(80)
@given(st.lists(st.tuples(st.floats(20, 200), st.floats(-1.0, 1.0)), min_size=2, max_size=10))
def test_margins_against_geos(steps: list[tuple[float, float]]) -> None:
    """Where bends are gentle our margins are GEOS's offset curves, vertex for vertex with the centre line."""
    course = np.cumsum([turn * 0.3 for _, turn in steps])
    xy = np.vstack(
        [[0, 0], np.cumsum([[r * np.cos(t), r * np.sin(t)] for (r, _), t in zip(steps, course, strict=True)], axis=0)]
    )
    ours = shapely.LineString(margin(xy, -3.0))
    theirs = shapely.offset_curve(shapely.LineString(xy), 3.0, join_style="mitre", mitre_limit=10)
    assert shapely.hausdorff_distance(ours, theirs) < 0.05
    assert len(ours.coords) == len(xy)


def test_certainty_of_each_margin_and_stretch(crs: ProjectCrs) -> None:
    dyke = line(1, ROW, "dyke", band=Band(40.0, right="inferred"), stretches=(Stretch(1, 2, "approximate", "left"),))
    strokes = [i for i in ink(crs, dyke) if isinstance(i, Stroke)]
    assert [s.style.dash for s in strokes] == [(), (3.4, 1.0), (1.4, 0.8)]
    assert [s.paths.xy[0, 1] - Y for s in strokes] == [20, 20, -20]


def test_below_a_cover_there_is_no_fill_and_dotted_margins(crs: ProjectCrs) -> None:
    dyke = covered(
        line(1, ROW, "dyke", band=Band(40.0, cut_by=("Qt",))),
        [
            area(1, shapely.box(X + 200, Y - 300, X + 400, Y + 300), "Qt"),
            area(2, shapely.box(X + 600, Y - 300, X + 800, Y + 300), "Kp"),
        ],
    )
    assert [p[0] - X for p in dyke.geometry.coords] == [0, 200, 400, 500, 1000]
    assert dyke.stretches == (Stretch(1, 2, "concealed"),)
    items = ink(crs, dyke)
    assert sorted(round(shapely.Polygon(i.paths.xy).area) for i in items if isinstance(i, Fill)) == [8_000, 24_000]
    dots = [i for i in items if isinstance(i, Stroke) and i.style.cap == "round"]
    assert len(dots) == 2
    # Looked at again, it is as it was.
    assert covered(dyke, [area(1, shapely.box(X + 200, Y - 300, X + 400, Y + 300), "Qt")]) == dyke
    # Told to cut it, it comes to the surface again.
    again = covered(dyke.changed(band=Band(40.0)), [])
    assert again.stretches == ()


def test_dip_marks_stand_on_the_side_that_it_dips_to(crs: ProjectCrs) -> None:
    sheet = line(1, ROW, "dyke", band=Band(20.0, dips="right"), inclination=34.0)
    items = ink(crs, sheet)
    (marks,) = [i for i in items if isinstance(i, Marks)]
    assert (marks.at[:, 1] == Y - 10).all()
    # The tick of the stamp points right; turned by the course it points away from the band.
    assert marks.angles == pytest.approx([90.0])
    (text,) = [i for i in items if isinstance(i, Text)]
    assert text.run.chars == "34"
    assert text.offset[1] > 2
    left = line(1, ROW, "dyke", band=Band(20.0, dips="left"), inclination=34.0)
    (marks,) = [i for i in ink(crs, left) if isinstance(i, Marks)]
    assert (marks.at[:, 1] == Y + 10).all()


def test_faults_run_over_a_band_that_they_cut_and_below_one_that_cuts_them(crs: ProjectCrs) -> None:
    fault = line(2, [(X + 500, Y - 100), (X + 500, Y + 100)], "fault")

    def order(cut_by: tuple[str, ...]) -> list[str]:
        items = ink(crs, line(1, ROW, "dyke", band=Band(40.0, cut_by=cut_by)), fault)
        return ["fault" if isinstance(i, Stroke) and i.style.width == 0.375 else "band" for i in items]

    assert order(("faults",))[-1] == "fault"
    assert order(())[0] == "fault"


def test_stretches_of_a_plain_line_are_drawn_in_their_symbols(crs: ProjectCrs) -> None:
    items = ink(crs, line(1, ROW, stretches=(Stretch(1, 2, "inferred"),)))
    dashes = {i.style.dash: i.paths.xy[:, 0].tolist() for i in items if isinstance(i, Stroke)}
    assert dashes == {(): [X, X + 500], (1.4, 0.8): [X + 500, X + 1000]}
