"""Labels that hands move: kept, undone, given back, taken along when the project moves to another system."""

from __future__ import annotations

import numpy as np
import pyproj
import pytest
import shapely

from orvik.core.errors import FeatureRefused, NotFound, SymbolMissing
from orvik.core.features.feature import Feature
from orvik.core.ground.crs import project_crs
from orvik.core.ground.crs_change import CrsChange
from orvik.core.ink.affine import apply
from orvik.core.labels.label import Label
from orvik.core.labels.label_request import LabelKey
from orvik.core.labels.label_rule import LabelRule
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.tables.labels import label_moves
from orvik.usecases.project.relocation import ground, relocation
from orvik.usecases.sheet.arranging import copy_parts
from orvik.usecases.sheet.composing import panel_labelling
from orvik.usecases.sheet.labels import (
    LabelChange,
    change_label,
    give_all_back,
    give_back,
    label_kinds,
    labelling_of,
    remove_rule,
    set_rule,
)
from orvik.usecases.sheet.panels import panels_of
from orvik.usecases.sheet.parts import PartChange, add_part, change_part
from orvik.usecases.sheet.sheets import add_sheet, duplicate_sheet
from orvik.web.session.jobs import written_panel

X, Y = 511_000.0, 6_801_000.0


@pytest.fixture
def keys(project: Project) -> tuple[LabelKey, LabelKey]:
    """An area and an attitude more, by the keys of their labels."""
    area = Feature("areas", shapely.box(X, Y, X + 900, Y + 700), "unit_area", map_unit="Kp")
    point = Feature("points", shapely.Point(X + 300, Y + 300), "bedding", azimuth=20.0, inclination=41.0)
    entry = project.apply("draw", [rows.feature_change(f, project.srs_id) for f in (area, point)])
    return LabelKey("areas", entry.changes[0].id), LabelKey("points", entry.changes[1].id)


def standing(project: Project, key: LabelKey) -> Label:
    return next(label for label in labelling_of(project).labels if label.request.key == key)


def test_moves_are_kept_undone_and_given_back(project: Project, keys: tuple[LabelKey, LabelKey]) -> None:
    code, figure = keys
    before = standing(project, code).at
    entry = change_label(project, code, LabelChange(at=(X + 100, Y + 600)))
    assert entry is not None
    assert entry.label == f"move the label of unit area {code.id}"
    assert standing(project, code).at == pytest.approx((X + 100, Y + 600))
    change_label(project, code, LabelChange(angle=15.0))
    assert (standing(project, code).at, standing(project, code).place.angle) == (pytest.approx((X + 100, Y + 600)), 15)
    assert change_label(project, code, LabelChange(angle=15.0)) is None
    change_label(project, code, LabelChange(unturned=True))
    assert (standing(project, code).at, standing(project, code).place.angle) == (pytest.approx((X + 100, Y + 600)), 0)
    project.undo()
    change_label(project, figure, LabelChange(at=(-3.0, 2.0)))
    assert standing(project, figure).offset == pytest.approx((-3.0, 2.0))
    change_label(project, figure, LabelChange(hidden=True))
    assert [request.key for request in labelling_of(project).hidden] == [figure]
    project.undo()
    assert standing(project, figure).offset == pytest.approx((-3.0, 2.0))
    give_back(project, code)
    assert standing(project, code).at == pytest.approx(before)
    assert give_back(project, code) is None
    give_all_back(project)
    assert label_moves(project) == []
    assert give_all_back(project) is None
    project.undo()
    assert [move.key for _, move in label_moves(project)] == [figure]


def test_what_cannot_be_is_refused(project: Project, keys: tuple[LabelKey, LabelKey]) -> None:
    code, figure = keys
    with pytest.raises(NotFound, match="no longer there"):
        change_label(project, LabelKey("areas", 9_999), LabelChange(hidden=True))
    with pytest.raises(FeatureRefused, match="-180 to 180"):
        change_label(project, code, LabelChange(angle=400.0))
    with pytest.raises(FeatureRefused, match="more than 60 mm"):
        change_label(project, figure, LabelChange(at=(100.0, 0.0)))
    with pytest.raises(NotFound):
        change_label(project, code, LabelChange(hidden=True), scope=12_345)
    assert label_moves(project) == []


def test_a_move_outlives_its_feature_so_that_undo_brings_both_back(
    project: Project, keys: tuple[LabelKey, LabelKey]
) -> None:
    code, _ = keys
    change_label(project, code, LabelChange(at=(X + 100, Y + 600)))
    project.apply("delete", [rows.Change(code.table, code.id, None)])
    assert all(label.request.key != code for label in labelling_of(project).labels)
    project.undo()
    assert standing(project, code).at == pytest.approx((X + 100, Y + 600))


def test_a_panel_has_its_own_moves_and_those_of_its_scale(project: Project, keys: tuple[LabelKey, LabelKey]) -> None:
    code, _ = keys
    change_label(project, code, LabelChange(at=(X + 100, Y + 600)))
    add_sheet(project, NewSheet("One", "A3"))
    sheet = project.sheets()[-1].id or 0
    add_part(project, sheet, "map_panel")
    panels = [part.id or 0 for part in project.parts(sheet) if part.kind == "map_panel"]
    change_label(project, code, LabelChange(at=(X + 800, Y + 100)), scope=panels[1])

    def on(panel: int) -> tuple[float, float]:
        return next(label.at for label in panel_labelling(project, panel)[1].labels if label.request.key == code)

    assert on(panels[0]) == pytest.approx((X + 100, Y + 600))
    assert on(panels[1]) == pytest.approx((X + 800, Y + 100))
    give_back(project, code, scope=panels[1])
    assert on(panels[1]) == pytest.approx((X + 100, Y + 600))


def test_a_move_on_a_panel_in_a_system_of_its_own_is_kept_on_the_ground(
    project: Project, keys: tuple[LabelKey, LabelKey]
) -> None:
    """Given in the panel's coordinates, kept in the project's, and standing where it was put; against pyproj."""
    code, figure = keys
    add_sheet(project, NewSheet("One", "A3"))
    panel = next(p for p in panels_of(project) if p.sheet.name == "One").part.id or 0
    for typed in ({"system": "EPSG:3057"}, {"rotation": "30"}, {"symbol_scale": "1.5"}, {"neatline": "rectangle"}):
        change_part(project, panel, PartChange(typed=typed))
    way = pyproj.Transformer.from_crs(32628, 3057, always_xy=True)
    there = way.transform(X + 100, Y + 600)
    change_label(project, code, LabelChange(at=there), scope=panel)
    change_label(project, figure, LabelChange(at=(-3.0, 2.0)), scope=panel)
    kept = {move.key: move.at for _, move in label_moves(project)}
    assert kept[code] == pytest.approx((X + 100, Y + 600), abs=1e-3)
    shown, found = panel_labelling(project, panel)
    labels = {label.request.key: label for label in found.labels}
    assert labels[code].at == pytest.approx(there, abs=1e-3)
    assert labels[figure].offset == pytest.approx((-3.0, 2.0))
    # On the page itself by the panel's symbol scale, for labels are placed as on a smaller one.
    on_page = apply(shown.to_page, np.array([there]))[0]
    assert np.multiply(labels[code].hangs, 1.5) == pytest.approx(on_page, abs=1e-3)
    places = written_panel(project.path, panel)
    assert next(p["at"] for p in places.places if tuple(p["key"]) == tuple(code)) == pytest.approx(on_page, abs=1e-3)


def test_copies_of_a_panel_keep_what_hands_have_done_to_its_labels(
    project: Project, keys: tuple[LabelKey, LabelKey]
) -> None:
    code, _ = keys
    add_sheet(project, NewSheet("One", "A3"))
    sheet = project.sheets()[-1].id or 0
    panel = panels_of(project)[-1].part.id or 0
    change_label(project, code, LabelChange(at=(X + 300, Y + 500)), scope=panel)
    duplicate_sheet(project, sheet, "", "A2", True)
    copy_parts(project, [panel], sheet)
    project.undo()
    project.redo()
    others = [p.part.id or 0 for p in panels_of(project) if p.part.id != panel]
    assert len(others) >= 2
    moves = {move.scope: move.at for _, move in label_moves(project) if move.key == code}
    assert set(others[-2:]) <= set(moves)
    assert all(at == pytest.approx((X + 300, Y + 500)) for at in moves.values())


def test_labels_go_along_into_another_coordinate_system(project: Project, keys: tuple[LabelKey, LabelKey]) -> None:
    """Against pyproj's own answer for the place; what is millimetres from a point stays."""
    code, figure = keys
    change_label(project, code, LabelChange(at=(X + 100, Y + 600)))
    change_label(project, figure, LabelChange(at=(-3.0, 2.0)))
    target = project_crs("EPSG:25829")
    there = CrsChange(project.crs, target, ground(project)).places(np.array([[X + 100, Y + 600]]))[0]
    project.apply("move", list(relocation(project, target).changes))
    assert standing(project, code).at == pytest.approx(tuple(there), abs=1e-3)
    assert standing(project, figure).offset == pytest.approx((-3.0, 2.0))


def test_rules_say_what_labels_write(project: Project, keys: tuple[LabelKey, LabelKey]) -> None:
    code, figure = keys
    set_rule(project, LabelRule("areas", "unit_area", "{unit} ({code})", 3.0, True))
    request = standing(project, code).request
    assert (request.run.chars, request.run.size, request.run.font) == ("Pellan Mudstone (Kp)", 3.0, "Spectral-Italic")
    assert standing(project, figure).request.run.chars == "41"
    with pytest.raises(FeatureRefused, match="no attribute “depth”"):
        set_rule(project, LabelRule("areas", "unit_area", "{depth}"))
    with pytest.raises(FeatureRefused, match="not closed"):
        set_rule(project, LabelRule("areas", "unit_area", "{label"))
    with pytest.raises(SymbolMissing):
        set_rule(project, LabelRule("areas", "no_such_kind", "{note}"))
    with pytest.raises(FeatureRefused, match="1 to 12 mm"):
        set_rule(project, LabelRule("areas", "unit_area", "{label}", 0.2))
    listed = {kind.rule.kind: kind for kind in label_kinds(project)}
    assert not listed["unit_area"].usual
    assert listed["bedding"].rule.pattern == "{inclination}"
    remove_rule(project, "areas", "unit_area")
    assert remove_rule(project, "areas", "unit_area") is None
    assert standing(project, code).request.run.chars == "Kp"
