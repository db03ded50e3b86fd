"""Errors of parts against panels and of the page, and pages that look like such and are right."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from orvik.core.labels.label_move import LabelMove
from orvik.core.labels.label_request import LabelKey
from orvik.core.sheet.parts.box import Box
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.text import RunningText
from orvik.store.project import Project
from orvik.store.tables.labels import move_change
from tests.proof.editor.seed_kind import (
    INSETS,
    QUADRANGLE,
    Counter,
    Random,
    SeedKind,
    Told,
    any_of,
    change_place,
    change_settings,
    ground_of_unit,
    key_of,
    labelled,
    note,
    of_kinds,
    parts_of,
    put_part,
    remove,
    right,
)
from tests.proof.seeds import every

PARTS: list[SeedKind] = []
RIGHT_PARTS: list[Counter] = []


def _inset(project: Project, random: Random) -> int:
    insets = [p for p in parts_of(project, MapPanel, INSETS) if p.label != "Main map"]
    return any_of(random, insets).number  # type: ignore[no-any-return]


@of_kinds(PARTS, INSETS, "other_panel")
def a_scale_bar_of_another_panel(project: Project, random: Random) -> Told:
    bar = next(p for p in parts_of(project, ScaleBar, INSETS) if p.settings.panel == 25)  # type: ignore[attr-defined]
    change_settings(project, bar, panel=_inset(project, random))
    return Told(("scale bar", "Main map", "Where it lies|Head of the burn"), parts=(bar.number,))


@of_kinds(PARTS, INSETS, "other_panel")
def a_fraction_of_another_panel(project: Project, random: Random) -> Told:
    part = next(p for p in parts_of(project, Fraction, INSETS) if p.settings.panel == 25)  # type: ignore[attr-defined]
    change_settings(project, part, panel=_inset(project, random))
    return Told(("fraction", "Main map", "Where it lies|Head of the burn"), parts=(part.number,))


@of_kinds(PARTS, INSETS, "other_panel")
def a_graticule_of_another_panel(project: Project, random: Random) -> Told:
    part = next(p for p in parts_of(project, Graticule, INSETS) if p.settings.panel == 25)  # type: ignore[attr-defined]
    change_settings(project, part, panel=labelled(project, "Head of the burn", INSETS).number)
    return Told(("graticule", "Main map", "Head of the burn"), parts=(part.number,))


@of_kinds(PARTS, INSETS, "other_panel")
def an_explanation_of_another_panel(project: Project, random: Random) -> Told:
    (part,) = parts_of(project, Explanation, INSETS)
    change_settings(project, part, panel=labelled(project, "Head of the burn", INSETS).number)
    return Told(("explanation", "Main map", "Head of the burn"), parts=(part.number,))


@of_kinds(PARTS, QUADRANGLE, "typed_scale")
def a_panel_at_another_scale_than_is_said(project: Project, random: Random) -> Told:
    part = note(project, "Published at 1:25 000")
    (panel,) = parts_of(project, MapPanel)
    scale = any_of(random, (20_000, 24_000))
    change_settings(project, panel, scale=scale)
    return Told(("25 000", f"{scale // 1000} 000"), parts=(part.number,))


@of_kinds(PARTS, QUADRANGLE, "layer_off")
def a_layer_that_is_off(project: Project, random: Random) -> Told:
    (panel,) = parts_of(project, MapPanel)
    layer = any_of(random, ("labels", "units", "attitudes"))
    change_settings(project, panel, layers={layer: 0.0})
    words = {"labels": "codes", "units": "units", "attitudes": "attitudes"}[layer]
    return Told(("Main map", words, "counts?"), parts=(panel.number,))


@of_kinds(PARTS, INSETS, "inset_untitled")
def an_inset_without_title(project: Project, random: Random) -> Told:
    inset = labelled(project, "Head of the burn", INSETS)
    for part in parts_of(project, RunningText, INSETS):
        if "burn" in part.settings.text:  # type: ignore[attr-defined]
            remove(project, "parts", part.number)
    return Told(("Head of the burn", "what it shows"), parts=(inset.number,))


@of_kinds(PARTS, INSETS, "inset_scaleless")
def an_inset_without_scale(project: Project, random: Random) -> Told:
    inset = labelled(project, "Head of the burn", INSETS)
    for part in project.parts(inset.sheet_id or 0):
        settings = part.settings
        if getattr(settings, "panel", None) == inset.number and not isinstance(settings, MapPanel):
            remove(project, "parts", part.number)
    for part in parts_of(project, RunningText, INSETS):
        if "burn" in part.settings.text:  # type: ignore[attr-defined]
            change_settings(project, part, text="Head of the burn")
    return Told(("15 000", "20 000"), parts=(inset.number,))


@of_kinds(PARTS, QUADRANGLE, "hidden_part")
def a_text_behind_a_panel(project: Project, random: Random) -> Told:
    (panel,) = parts_of(project, MapPanel)
    x, y = panel.x + float(random.uniform(5, 200)), panel.y + float(random.uniform(5, 180))
    text = put_part(project, RunningText(name="Caption", text="Landing place", size=3.0), (x, y, 40, 6), position=0)
    return Told(("Caption", "Main map"), parts=(text.number,))


@of_kinds(PARTS, QUADRANGLE, "faint_letters")
def letters_faint_on_the_tint_below_them(project: Project, random: Random) -> Told:
    (panel,) = parts_of(project, MapPanel)
    code = any_of(random, ("Kp", "Kw", "Jh"))
    ground = max(ground_of_unit(project, code).geoms, key=lambda g: g.area)
    place = shapely.maximum_inscribed_circle(ground).coords[0]
    x = panel.middle[0] + (place[0] - 513_250.0) / 25.0
    y = panel.middle[1] - (place[1] - 6_802_500.0) / 25.0
    colour = {"Kp": "#93B07E", "Kw": "#7FAFA6", "Jh": "#D6A07F"}[code]
    settings = RunningText(name="Moor", text="Moor of Wray", size=3.2, colour=colour)
    part = put_part(project, settings, (x - 9, y - 3, 20, 6))
    return Told(("Moor of Wray", r"\d\.\d"), parts=(part.number,))


@of_kinds(PARTS, QUADRANGLE, "faint_letters")
def a_line_of_text_that_begins_on_a_dark_box(project: Project, random: Random) -> Told:
    text = note(project, "Begun at the harbour in the dark, and ended on the moor in broad daylight a year after.")
    wide = float(random.uniform(12, 20))
    put_part(project, Box(name="Night", ground_colour="#2A2F38"), (22.0, 411.0, wide, 14.0), position=1)
    return Told(("Begun at the harbour", r"\d\.\d"), parts=(text.number,))


def _areas(project: Project) -> list:  # type: ignore[type-arg]
    return [a for a in every(project, "areas", kind="unit_area") if a.geometry.area > 300_000]


@of_kinds(PARTS, QUADRANGLE, "code_hidden")
def a_code_that_is_hidden(project: Project, random: Random) -> Told:
    area = any_of(random, _areas(project))
    keys = [LabelKey("areas", area.id, n) for n in range(6)]
    project.apply("seed", [move_change(None, LabelMove(key, hidden=True)) for key in keys])
    return Told((rf"\b{area.map_unit}\b|p.g", "hidden", "cm²"), features=(key_of(area),))


@of_kinds(PARTS, QUADRANGLE, "code_astray")
def a_code_dragged_into_another_area(project: Project, random: Random) -> Told:
    areas = _areas(project)
    pairs = [(a, b) for a in areas for b in areas if a.map_unit != b.map_unit and a.geometry.distance(b.geometry) < 1]
    one, two = any_of(random, pairs)
    inner = two.geometry.buffer(-60)
    place = shapely.point_on_surface(inner if not inner.is_empty else two.geometry)
    project.apply("seed", [move_change(None, LabelMove(LabelKey("areas", one.id), at=(place.x, place.y)))])
    return Told((rf"\b{one.map_unit}\b|p.g", rf"\b{two.map_unit}\b|p.g", "ground"), features=(key_of(one),))


@of_kinds(PARTS, QUADRANGLE, "code_run_over")
def a_code_on_a_line(project: Project, random: Random) -> Told:
    pairs = []
    areas = _areas(project)
    for kind in ("contact", "fault", "normal_fault", "dyke"):
        for line in every(project, "lines", kind=kind):
            for area in areas:
                inside = shapely.intersection(line.geometry, area.geometry.buffer(1.0))
                if inside.length > 300:
                    pairs.append((line, area, inside))
    line, area, inside = any_of(random, pairs)
    whole = max(getattr(inside, "geoms", [inside]), key=lambda piece: piece.length)
    at = whole.interpolate(float(random.uniform(0.3, 0.7)), normalized=True)
    # A little to the side of its own area, so that its middle stays there.
    x, y = shapely.get_coordinates(shapely.shortest_line(at, area.geometry.buffer(-12.0)))[-1]
    project.apply("seed", [move_change(None, LabelMove(LabelKey("areas", area.id), at=(float(x), float(y))))])
    return Told((rf"\b{area.map_unit}\b|p.g", "line"), features=(key_of(area),))


@of_kinds(PARTS, QUADRANGLE, "no_figures")
def grid_figures_left_out(project: Project, random: Random) -> Told:
    (part,) = parts_of(project, Graticule)
    change_settings(project, part, figures="none")
    return Told(("graticule", "figures"), parts=(part.number,))


@of_kinds(PARTS, QUADRANGLE, "nearly_aligned")
def baselines_that_nearly_agree(project: Project, random: Random) -> Told:
    off = round(float(random.uniform(0.3, 0.8)), 1)
    one = put_part(project, RunningText(name="Left", text="Printed in Quennet", size=3.0), (23, 414, 60, 6))
    two = put_part(project, RunningText(name="Right", text="Folded by hand", size=3.0), (95, 414 + off, 60, 6))
    return Told((rf"{off:.1f} mm", "Left", "Right"), parts=(one.number, two.number))


@of_kinds(PARTS, INSETS, "nearly_aligned")
def margins_that_nearly_agree(project: Project, random: Random) -> Told:
    off = round(float(random.uniform(0.3, 0.8)), 1)
    right_most = max(
        (p for p in project.parts(project.sheets()[INSETS].number)), key=lambda p: (p.x + p.width, p.height)
    )
    change_place(project, right_most, width=right_most.width - off)
    for part in project.parts(project.sheets()[INSETS].number):
        if part.number != right_most.number and part.x + part.width > 580.0 - off:
            change_place(project, part, width=part.width - off)
    return Told(("margin", r"\d\.\d mm"))


@of_kinds(PARTS, QUADRANGLE, "covers_map")
def a_box_over_mapped_ground(project: Project, random: Random) -> Told:
    (panel,) = parts_of(project, MapPanel)
    x, y = panel.x + float(random.uniform(90, 160)), panel.y + float(random.uniform(70, 120))
    box = put_part(project, Box(name="Inlay", ground_colour="#FFFFFF", frame=0.2), (x, y, 30, 20), position=60)
    return Told(("Inlay", "cm²", "Main map"), parts=(box.number,))


# Pages that are right


@right(RIGHT_PARTS, "other_panel", "inset_unplaced", "inset_untitled", "inset_scaleless", sheet=INSETS)
def an_inset_with_all_that_belongs_to_it(project: Project, random: Random) -> None:
    inset = labelled(project, "Head of the burn", INSETS)
    x, y = inset.x + 2, inset.y + inset.height - 9
    put_part(project, ScaleBar(name="Bar", panel=inset.number, size=2.2), (x, y, 40, 8), INSETS)
    put_part(project, NorthArrow(name="North", panel=inset.number, size=1.9), (x, inset.y + 2, 10, 16), INSETS)


@right(RIGHT_PARTS, "border_cut", sheet=QUADRANGLE)
def a_figure_of_a_part_of_the_ground(project: Project, random: Random) -> None:
    (panel,) = parts_of(project, MapPanel)
    change_settings(project, panel, scale=10_000)


@right(RIGHT_PARTS, "layer_off", sheet=INSETS)
def a_locator_without_codes(project: Project, random: Random) -> None:
    inset = labelled(project, "Where it lies", INSETS)
    change_settings(project, inset, layers={"labels": 0.0, "attitudes": 0.0, "linework": 0.0, "units": 0.0})


@right(RIGHT_PARTS, "code_hidden", "code_astray", "code_run_over", sheet=QUADRANGLE)
def a_code_moved_within_its_area(project: Project, random: Random) -> None:
    area = max(every(project, "areas", map_unit="Kw", kind="unit_area"), key=lambda a: float(a.geometry.area))
    circle = shapely.maximum_inscribed_circle(area.geometry.difference(_taken(project)))
    x, y = circle.coords[0]
    small = min(every(project, "areas", kind="unit_area"), key=lambda a: float(a.geometry.area))
    moves = [
        LabelMove(LabelKey("areas", area.id or 0), at=(x, y)),
        LabelMove(LabelKey("areas", small.id or 0), hidden=True),
    ]
    project.apply("seed", [move_change(None, move) for move in moves])


def _taken(project: Project) -> shapely.Geometry:
    features = project.all_features()
    rows = np.concatenate([features["lines"].geometries, features["points"].geometries])
    taken: shapely.Geometry = shapely.union_all(shapely.buffer(rows, 60.0))
    return taken


@right(RIGHT_PARTS, "nearly_aligned", sheet=QUADRANGLE)
def edges_that_differ_plainly(project: Project, random: Random) -> None:
    part = labelled(project, "By")
    change_place(project, part, x=part.x + 2.0)
    put_part(project, RunningText(name="One", text="Here", size=3.0), (23, 414, 60, 6))
    put_part(project, RunningText(name="Two", text="There", size=3.0), (95, 416, 60, 6))


@right(RIGHT_PARTS, "covers_map", "hidden_part", sheet=QUADRANGLE)
def a_box_over_the_sea(project: Project, random: Random) -> None:
    (panel,) = parts_of(project, MapPanel)
    put_part(project, Box(name="Inlay", ground_colour="#FFFFFF", frame=0.2), (panel.x + 2, panel.y + 2, 24, 12))


@right(RIGHT_PARTS, "no_figures", sheet=QUADRANGLE)
def ticks_beside_a_grid_with_figures(project: Project, random: Random) -> None:
    (part,) = parts_of(project, Graticule)
    settings = replace(part.settings, lines_of="geographic", style="ticks", figures="none", corners=False)  # type: ignore[call-arg]
    put_part(project, settings, (part.x, part.y, part.width, part.height), position=3)


@right(RIGHT_PARTS, "faint_letters", sheet=QUADRANGLE)
def dark_letters_on_the_map(project: Project, random: Random) -> None:
    (panel,) = parts_of(project, MapPanel)
    at = (panel.x + 30, panel.y + 30, 40.0, 6.0)
    put_part(project, RunningText(name="Sea", text="Deep water", size=3.2, colour="#22303C"), at)


@right(RIGHT_PARTS, "faint_letters", sheet=QUADRANGLE)
def a_line_ruled_through_letters(project: Project, random: Random) -> None:
    note(project, "Struck out by the surveyor herself")
    put_part(project, Box(name="Rule", frame=0.3), (22.0, 415.2 + float(random.uniform(0, 0.6)), 90.0, 1.0))


@right(RIGHT_PARTS, "section_untraced", sheet=QUADRANGLE)
def sections_as_they_are(project: Project, random: Random) -> None:
    note(project, "Sections A–A′ and B–B′.")
