"""Templates of one's own, and the ground that a new sheet shows: within a project, across projects, on other papers."""

from __future__ import annotations

import io
import json
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.affine import apply
from orvik.core.ink.primitives import Fill, Group, Picture, Text, walk
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.core.sheet.parts.title import Title
from orvik.exchange.sheets.sheet_files import picture_or_drawing
from orvik.store.creation import create
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.ground.border import Corners, set_border
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.parts import add_part, give_file
from orvik.usecases.sheet.printing import sheet_fragments
from orvik.usecases.sheet.sheets import add_sheet, new_sheet
from orvik.usecases.sheet.templates import FOLDER, keep_template, offered, remove_template


def of_kind(parts: list[Part], kind: str) -> Part:
    return next(part for part in parts if part.kind == kind)


def frame(part: Part) -> tuple[float, float, float, float]:
    return part.x, part.y, part.width, part.height


def test_a_sheet_is_laid_out_as_another_one_is(demo: Path) -> None:
    project = Project.open(demo)
    old, before = project.sheet(1), project.parts(1)
    keep_template(project, 1, "  House  style ", for_all=False)
    (kept,) = offered(project)
    assert (kept.name, kept.for_all) == ("House style", False)
    with pytest.raises(SheetRefused, match="already"):
        keep_template(project, 1, "House style", for_all=False)
    with pytest.raises(SheetRefused, match="needs a name"):
        keep_template(project, 1, " ", for_all=False)
    entry, said = add_sheet(project, NewSheet("Sule", f"{old.width:g}x{old.height:g}", True, kept.key))
    assert said == []
    sheet, parts = project.sheet(entry.changes[0].id), project.parts(entry.changes[0].id)
    assert sheet.layout == old.layout
    assert [part.kind for part in parts] == [part.kind for part in before]
    np.testing.assert_allclose([frame(part) for part in parts], [frame(part) for part in before], atol=1e-3)
    # It is called by its own name, and its parts speak of its own panel.
    title = of_kind(parts, "title").settings
    assert isinstance(title, Title)
    assert title.text == "{title}"
    panel = of_kind(parts, "map_panel")
    spoken = {p.settings.panel for p in parts if isinstance(p.settings, PanelPartSettings)}
    assert spoken == {panel.id}
    assert isinstance(panel.settings, MapPanel)
    settings = of_kind(before, "map_panel").settings
    assert isinstance(settings, MapPanel)
    assert (panel.settings.scale, panel.settings.neatline) == (settings.scale, settings.neatline)
    assert panel.settings.centre == pytest.approx(settings.centre)
    # Of a smaller paper it says what does not fit.
    small = new_sheet(project, NewSheet("Small", "A5", True, kept.key))
    assert any("beyond the page" in sentence for sentence in small.said)
    remove_template(project, kept.key)
    assert offered(project) == []
    with pytest.raises(NotFound):
        add_sheet(project, NewSheet("Again", "A3", True, kept.key))
    project.undo()
    assert len(offered(project)) == 1
    project.close()


def test_a_template_for_all_goes_to_a_project_in_another_system(demo: Path) -> None:
    project = Project.open(demo)
    png = io.BytesIO()
    Image.new("RGB", (8, 8), "#336699").save(png, "PNG")
    mark = add_part(project, 1, "picture").changes[0].id
    give_file(project, mark, "file", picture_or_drawing("mark.png", png.getvalue()))
    keep_template(project, 1, "Für alle", for_all=True)
    (kept,) = offered(project)
    project.close()
    path = demo.with_name("outer-stills.gpkg")
    create(path, "Outer Stills", project_crs("EPSG:3057"), Scales(50_000, 10_000))
    other = Project.open(path)
    assert [(o.name, o.for_all) for o in offered(other)] == [("Für alle", True)]
    with pytest.raises(SheetRefused, match="border"):
        new_sheet(other, NewSheet("Stills", "A3", True, kept.key))
    set_border(other, Corners("400000", "400000", "412000", "408000"))
    entry, _ = add_sheet(other, NewSheet("Stills", "A3", True, kept.key))
    parts = other.parts(entry.changes[0].id)
    panel = of_kind(parts, "map_panel")
    assert isinstance(panel.settings, MapPanel)
    assert panel.settings.centre == pytest.approx((406_000, 404_000))
    assert panel.settings.underlays == {}
    # The ground lies whole in the frame, at a round scale.
    across = 12_000 * 1000 / panel.settings.scale
    assert panel.width / 2 < across <= panel.width
    title = of_kind(parts, "title").settings
    assert isinstance(title, Title)
    assert title.text == "{title}"
    # The picture came along, and prints.
    groups = composed(other, entry.changes[0].id).groups
    assert any(isinstance(item, Picture) for group in groups for item in walk(group.items))
    other.close()


def test_a_template_that_is_damaged_is_said_and_can_be_removed(demo: Path) -> None:
    project = Project.open(demo)
    folder = demo.parent / FOLDER
    folder.mkdir()
    (folder / "torn.json").write_text('{"name": "Torn"')
    (folder / "odd.json").write_text(json.dumps({"name": "Odd", "template": {"parts": [{"kind": "x"}]}, "files": []}))
    (folder / "list.json").write_text("[]")
    for one in offered(project):
        with pytest.raises(SheetRefused, match="cannot be read"):
            new_sheet(project, NewSheet("New", "A3", True, one.key))
        remove_template(project, one.key)
    assert offered(project) == []
    for key in ("all-../isle-of-quennet", "all-", "project-x", "project-99", "project-1; DROP TABLE parts"):
        with pytest.raises(NotFound):
            new_sheet(project, NewSheet("New", "A3", True, key))
    project.close()


@pytest.mark.parametrize("template", ["quadrangle", "regional", "figure", "poster"])
def test_a_new_sheet_shows_the_ground_that_is_asked_for(demo: Path, template: str) -> None:
    project = ReadProject.open(demo)
    view = project.views()[0]
    made = new_sheet(project, NewSheet("Burn", "A3", True, template, f"view-{view.id}"))
    panel = of_kind(made.parts, "map_panel").settings
    assert isinstance(panel, MapPanel)
    assert panel.centre == pytest.approx((view.x, view.y))
    assert panel.neatline == "rectangle"
    with pytest.raises(SheetRefused, match="no longer there"):
        new_sheet(project, NewSheet("Burn", "A3", True, template, "view-99"))
    if template != "quadrangle":
        whole = new_sheet(project, NewSheet("All", "A3", True, template, "all"))
        shown = of_kind(whole.parts, "map_panel")
        assert isinstance(shown.settings, MapPanel)
        west, south, east, north = project.extent() or (0, 0, 0, 0)
        assert (east - west) * 1000 / shown.settings.scale <= shown.width
        assert (north - south) * 1000 / shown.settings.scale <= shown.height
    project.close()


@pytest.mark.parametrize("paper", ["A3", "A2", "tabloid"])
@pytest.mark.parametrize("template", ["regional", "figure", "poster"])
def test_what_a_template_shows_of_a_border_is_cut_there(demo: Path, template: str, paper: str) -> None:
    project = ReadProject.open(demo)
    made = new_sheet(project, NewSheet("Burn", paper, template != "figure", template))
    part = of_kind(made.parts, "map_panel")
    panel = panel_of(part, project.crs, project.border())
    border = project.border()
    assert border is not None
    # Its frame is the border itself, and lies on the page.
    assert shapely.hausdorff_distance(panel.ground.exterior, border) * 1000 / panel.scale < 0.01
    assert 0 < part.x < part.x + part.width < made.sheet.width
    assert 0 < part.y < part.y + part.height < made.sheet.height
    project.close()


def test_a_locator_shows_the_land_around(demo: Path) -> None:
    project = Project.open(demo)
    entry, _ = add_sheet(project, NewSheet("Burn", "A2", True, "regional"))
    sheet = entry.changes[0].id
    locator = next(part for part in project.parts(sheet) if getattr(part.settings, "land", False))
    made = composed(project, sheet, 30)
    shown = next(group for group in made.groups if group.name == f"part-{locator.id}")
    names = [item.name for item in _groups(shown)]
    assert "land" in names
    # Iceland and the Faroes lie there, as any atlas says; of the map itself it has the footprint alone.
    panel = made.panels[locator.id or 0]
    land = next(item for item in _groups(shown) if item.name == "land")
    ink = [item for item in walk(land.items) if isinstance(item, Fill)]
    areas = [ring for item in ink for ring in (item.paths[i] for i in range(len(item.paths)))]
    drawn = shapely.union_all([shapely.make_valid(shapely.Polygon(ring)) for ring in areas])
    for place, is_land in (((-18.5, 65.0), True), ((-7.0, 62.15), True), ((-12.0, 63.0), False)):
        x, y = (float(v) for v in panel.crs.from_geographic(*place))
        at = shapely.Point(apply(panel.to_page, np.array([(x, y)]))[0])
        assert not panel.page_area.contains(at) or drawn.distance(at) < 0.5 if is_land else not drawn.contains(at)
    assert not [i for g in _groups(shown) if g.name in ("units", "linework", "attitudes", "labels") for i in g.items]
    project.close()


def _groups(group: Group) -> Iterator[Group]:
    for item in group.items:
        if isinstance(item, Group):
            yield item
            yield from _groups(item)


def test_what_a_part_says_instead_is_seen_and_not_printed(demo: Path) -> None:
    project = Project.open(demo)
    number = add_part(project, 1, "picture").changes[0].id
    letters = [
        item for group in composed(project, 1, 30).groups for item in walk(group.items) if isinstance(item, Text)
    ]
    assert not [text for text in letters if text.run.chars.startswith("Choose")]
    project.close()
    assert "Choose" in sheet_fragments(demo, 1, {number})[number]
