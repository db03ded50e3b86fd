from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
import shapely

from orvik.core.errors import SheetRefused
from orvik.core.features.feature import Feature, Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.border import geographic_border
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Fill, Marks, Stroke, Text, moved, walk
from orvik.core.sheet.output.compose import compose
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.page import PageLayout, Sheet
from orvik.core.sheet.page.paper import paper_size
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.parts import needed
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.explanation.found_rows import rows_of
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.core.sheet.parts.scale_bar.lengths import found_for
from orvik.core.sheet.templates import laid_out
from orvik.core.sheet.templates.brief import MAIN, Brief
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray
from tests.core.labels.ground import written_ink

BOOK = standard()
DAY = date(2026, 7, 2)
UNITS = {
    "Qt": MapUnit("Qt", "Till", "Pleistocene", "#D3C7B4", position=1),
    "Kp": MapUnit("Kp", "Pellan Mudstone", "Early Cretaceous", "#BBD5A6", position=2),
    "Xx": MapUnit("Xx", "Elsewhere", "", "#FF00FF", position=3),
}
BORDER = shapely.LineString(shapely.box(510_000, 6_800_000, 515_000, 6_804_000).exterior.coords)


def features() -> dict[str, Features]:
    areas = [
        Feature("areas", shapely.box(510_500, 6_800_500, 512_000, 6_803_000), "unit_area", id=1, map_unit="Kp"),
        Feature("areas", shapely.box(512_000, 6_800_500, 514_000, 6_803_000), "unit_area", id=2, map_unit="Qt"),
        Feature("areas", shapely.box(520_000, 6_800_500, 521_000, 6_803_000), "unit_area", id=3, map_unit="Xx"),
    ]
    lines = [
        Feature("lines", BORDER, "border", id=1),
        Feature("lines", shapely.LineString([(512_000, 6_800_500), (512_000, 6_803_000)]), "contact", id=2),
        Feature("lines", shapely.LineString([(520_000, 6_800_500), (520_000, 6_803_000)]), "fault", id=3),
    ]
    points = [
        Feature("points", shapely.Point(511_000, 6_801_000), "bedding", id=1, azimuth=350.0, inclination=60.0),
        Feature("points", shapely.Point(511_500, 6_801_000), "unit_tag", id=2, map_unit="Kp"),
    ]
    return {
        "areas": Features.of("areas", areas),
        "lines": Features.of("lines", lines),
        "points": Features.of("points", points),
    }


def context(crs: ProjectCrs) -> MapContext:
    return MapContext("Small", crs, Scales(25_000, 6_250), BOOK, UNITS, features(), BORDER)


def parts(crs: ProjectCrs) -> list[Part]:
    made = laid_out(Brief("Sheet", "Small", (420, 297), BORDER, 25_000, crs, DAY))
    numbered = [p.changed(id=i) for i, p in enumerate(made, 1)]
    return [p.changed(settings=p.settings.changed(p.settings.renumbered({MAIN: 1}))) for p in numbered]


PAGE = Sheet("Sheet", "A3", 420, 297)


def test_panel_scale_is_exact(crs: ProjectCrs) -> None:
    panel = panel_of(parts(crs)[0], crs, BORDER)
    assert (panel.part.width, panel.part.height) == pytest.approx((200, 160))
    a, b = apply(panel.to_page, np.array([[510_000.0, 6_800_000.0], [515_000.0, 6_800_000.0]]))
    assert b[0] - a[0] == pytest.approx(200.0, abs=1e-9)
    assert (a[0], a[1]) == pytest.approx((panel.part.x, panel.part.y + 160))
    assert panel.window == pytest.approx((510_000, 6_800_000, 515_000, 6_804_000))


def test_feet_are_shown_at_the_same_scale() -> None:
    from orvik.core.ground.crs import project_crs

    feet = project_crs("EPSG:32040")
    part = Part(MapPanel(scale=24_000, centre=(2_963_503.0, 254_759.0)), 0, 0, 100, 100)
    panel = panel_of(part, feet, None)
    assert panel.mm_per_unit == pytest.approx(1200 / 3937 * 1000 / 24_000)


def test_explanation_lists_what_the_panel_shows_and_no_more(crs: ProjectCrs) -> None:
    panel = panel_of(parts(crs)[0], crs, BORDER)
    rows = rows_of(context(crs).for_panel(panel), [], {}, "none", "symbol")
    assert [row.key for row in rows if row.is_unit] == ["unit Qt", "unit Kp"]
    assert [row.name for row in rows if not row.is_unit] == ["Contact, certain", "Bedding, inclined"]


def test_only_printed_layers_are_printed(crs: ProjectCrs) -> None:
    groups = compose(PAGE, parts(crs), context(crs)).groups
    texts = [i.run.chars for g in groups for i in walk(g.items) if isinstance(i, Text)]
    assert "60" in texts
    assert "1:25\u2009000" in texts
    assert any("EPSG:32628" in t for t in texts)
    circles = [i for g in groups for i in walk(g.items) if isinstance(i, Marks) and "tag" in i.stamp.name]
    assert circles == []


def test_unit_areas_have_no_outline_of_their_own(crs: ProjectCrs) -> None:
    layers = portray(features(), BOOK, UNITS, crs)
    assert {type(i) for i in layers["units"].items} == {Fill}
    # A neighbour is overlapped by 0.05 mm, in the area's own colour.
    assert all(i.spread == 0.05 for i in layers["units"].items if isinstance(i, Fill))


def test_attitudes_turn_by_strike_less_convergence(crs: ProjectCrs) -> None:
    marks = next(i for i in portray(features(), BOOK, UNITS, crs)["attitudes"].items if isinstance(i, Marks))
    convergence = float(crs.convergence(511_000.0, 6_801_000.0))
    assert convergence != 0
    assert marks.angles[0] == pytest.approx(350 - convergence)
    # Strike 350 dips to the east: the tick of the stamp points right of the strike.
    tick = marks.stamp.items[1]
    assert isinstance(tick, Stroke)
    assert tick.paths.xy[1, 0] > 0


def test_dip_figure_stands_down_dip_and_upright(crs: ProjectCrs) -> None:
    (figure,) = written_ink(features(), BOOK, UNITS, crs)["figures"]
    assert figure.angle == 0
    assert figure.offset[0] > 1.5
    page = moved([figure], (0.04, 0, 0, 0, -0.04, 0))[0]
    assert isinstance(page, Text)
    assert page.angle == 0


def test_labels_show_only_where_they_fit(crs: ProjectCrs) -> None:
    labels = written_ink(features(), BOOK, UNITS, crs)["labels"]
    # Half the inscribed diameter of a 1 500 m wide area over the reach of "Kp": coarser than 1:25 000.
    assert all(i.largest is not None and 50_000 < i.largest < 1_000_000 for i in labels)


def test_template_names_the_paper_that_would_hold_it(crs: ProjectCrs) -> None:
    with pytest.raises(SheetRefused, match="A3 landscape would hold it"):
        laid_out(Brief("S", "P", (297, 210), BORDER, 25_000, crs, DAY, "A4"))
    with pytest.raises(SheetRefused, match=r"ANSI [BC] landscape would hold it"):
        laid_out(Brief("S", "P", (279.4, 215.9), BORDER, 25_000, crs, DAY, "ANSI A"))
    with pytest.raises(SheetRefused, match="no standard paper"):
        laid_out(Brief("S", "P", (297, 210), BORDER, 500, crs, DAY, "A4"))


@pytest.mark.parametrize("paper", ["A4", "A3", "A2", "ANSI B", "ANSI D"])
@pytest.mark.parametrize("landscape", [True, False])
def test_template_parts_stay_on_the_page_and_apart(crs: ProjectCrs, paper: str, landscape: bool) -> None:
    name, width, height = paper_size(paper, landscape)
    try:
        made = laid_out(Brief("S", "P", (width, height), BORDER, 40_000, crs, DAY, name))
    except SheetRefused:
        return
    boxes = {p.kind: shapely.box(p.x, p.y, p.x + p.width, p.y + p.height) for p in made}
    page = shapely.box(0, 0, width, height)
    assert all(page.contains(b) for b in boxes.values())
    assert not boxes["map_panel"].intersects(boxes["explanation"])
    assert not boxes["map_panel"].intersects(boxes["scale_bar"])


def test_own_sizes_and_bad_ones() -> None:
    assert paper_size("300x400", landscape=True) == ("Custom size", 400, 300)
    for text, wanted in (
        ("60 x 40 cm", (600, 400)),
        ("24 × 36 in", (609.6, 914.4)),
        ('24" x 36"', (609.6, 914.4)),
        ("12 in x 300 mm", (304.8, 300)),
        ("29,7x42cm", (297, 420)),
    ):
        assert paper_size(text, landscape=False) == ("Custom size", *map(pytest.approx, wanted))
    assert paper_size("roll 914 x 1500", landscape=False) == ("Roll 914.4 mm", 914.4, 1500)
    with pytest.raises(SheetRefused, match="No roll is 700 mm wide"):
        paper_size("roll 700 x 1500", landscape=True)
    assert paper_size("e1", landscape=False)[0] == "Arch E1"
    with pytest.raises(SheetRefused, match="ANSI D or Arch D"):
        paper_size("d", landscape=False)
    for bad in ("B9", "300", "axb", "3 ft x 4 ft", "300x", "x", "", "1x2x3", "mm x cm", "-3x4 in x"):
        with pytest.raises(SheetRefused):
            paper_size(bad, landscape=False)
    with pytest.raises(SheetRefused):
        Sheet("S", "Custom size", 4, 10_000)
    with pytest.raises(SheetRefused):
        Part(Explanation(), float("nan"), 0, 10, 10)
    with pytest.raises(SheetRefused):
        found_for(8, 25_000, "metric")


def test_essentials(crs: ProjectCrs) -> None:
    said = ["Author", "Date", "Sources"]
    assert [name for name, there in needed(PAGE, parts(crs), Imprint()) if not there] == said
    note = next(p for p in parts(crs) if p.kind == "credit_note")
    told = note.changed(settings=note.settings.changed({"author": "A", "day": "2026-07-02", "sources": "sheet 3"}))
    whole = [told if p is note or p.kind == "credit_note" else p for p in parts(crs)]
    assert all(there for _, there in needed(PAGE, whole, Imprint()))
    without = [p for p in whole if p.kind != "scale_bar"]
    assert [name for name, there in needed(PAGE, without, Imprint()) if not there] == ["Scale bar"]


def test_a_figure_in_a_text_needs_less() -> None:
    figure = replace(PAGE, layout=PageLayout(purpose="figure"))
    assert [name for name, _ in needed(figure, [], Imprint())] == ["Map panel", "Scale bar", "North arrow"]


def test_a_border_that_is_no_rectangle_cuts_the_panel(crs: ProjectCrs) -> None:
    line = geographic_border(crs, "14°49' W", "61°20' N", "14°43' W", "61°22' N")
    made = laid_out(Brief("S", "P", (420, 297), line, 25_000, crs, DAY))
    panel = panel_of(made[0], crs, line)
    assert len(panel.neatline) == 1
    assert len(panel.neatline[0]) > 100
    assert panel.ground.area < shapely.box(*panel.window).area


@pytest.mark.parametrize(
    ("sheet", "title"),
    [
        ("Harrack Head", "Geologic map of Harrack Head, Isle of Quennet"),
        ("Isle of Quennet", "Geologic map of Isle of Quennet"),
        ("isle of quennet, north", "Geologic map of isle of quennet, north"),
        ("Quennet", "Geologic map of Isle of Quennet"),
    ],
)
def test_a_title_says_the_name_of_the_project_once(crs: ProjectCrs, sheet: str, title: str) -> None:
    assert Brief(sheet, "Isle of Quennet", (420, 297), BORDER, 25_000, crs, DAY).title == title
