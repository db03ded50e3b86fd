"""Sheets that look like the errors of ``tests.proof.seeds`` and are right."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import shapely
from PIL import Image

from orvik.core.features.feature import Feature
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.parts.box import Box
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.picture import PictureOf
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.geometry import encoded
from orvik.store.journal import Change
from orvik.store.project import Project
from orvik.store.tables.followed import followed_change, followed_template
from orvik.usecases.compile.forming import form_units
from orvik.usecases.sheet.templates import keep_template
from orvik.usecases.structure.sections import section_lines
from tests.proof import seeds
from tests.proof.editor.seed_kind import (
    INSETS,
    QUADRANGLE,
    Counter,
    Random,
    any_of,
    change_settings,
    change_unit,
    free_place,
    largest_face,
    note,
    parts_of,
    put_part,
    right,
)
from tests.proof.seeds import keep, part_of

RIGHT_OLDER_SHEETS: list[Counter] = []


def _sheet(*rules: str) -> Callable[..., Any]:
    return right(RIGHT_OLDER_SHEETS, *rules, sheet=QUADRANGLE)


@_sheet("unexplained")
def a_symbol_that_only_ground_beyond_the_map_has(project: Project, random: Random) -> None:
    west, south, _, _ = BORDER
    keep(project, Feature("points", shapely.Point(west - 900.0, south - 900.0), "oil_well", capture_scale=6250))


@_sheet("unexplained", "nothing_shown")
def a_row_hidden_that_the_map_does_not_show_and_one_shown_that_it_does(project: Project, random: Random) -> None:
    edits = {"symbol oil_well": {"hidden": True}, "added": ["symbol bedding"]}
    seeds.put(project, part_of(project, Explanation), edits=edits)


@_sheet("row_cut")
def an_explanation_that_goes_on_in_a_second_frame(project: Project, random: Random) -> None:
    part = part_of(project, Explanation)
    settings = part.settings
    project.apply("shorter", [rows.part_change(part.changed(height=float(random.uniform(40, 70))))])
    put_part(project, settings.changed({"goes_on": True, "name": "More of it"}), (360.0, 5.0, 355.0, 420.0))


@_sheet("undated", "printed_age")
def a_correlation_of_a_unit_whose_age_is_a_stage(project: Project, random: Random) -> None:
    change_unit(project, "Jh", age_from=any_of(random, ("Oxfordian", "Kimmeridgian")), age_to="", age="")
    seeds.place(project, Correlation(name="Times", panel=part_of(project, MapPanel).id), 5, 5, 150, 90, position=98)


@_sheet("off_page")
def a_part_at_the_very_edge(project: Project, random: Random) -> None:
    part, sheet = part_of(project, NorthArrow), project.sheets()[0]
    project.apply("move", [rows.part_change(part.changed(x=sheet.width - part.width, y=0.0))])


@_sheet("run_together", "hidden_part", "text_cut")
def a_line_of_text_close_below_another(project: Project, random: Random) -> None:
    title = part_of(project, Title)
    size = float(random.uniform(2.6, 3.2))
    for i in range(2):
        text = RunningText(text="Surveyed in the summers of two years", size=size, name=f"Line {i}")
        seeds.place(project, text, title.x, 5.0 + i * size * 1.25, 90.0, size * 1.3, position=97 + i)


@_sheet("figures_off", "no_figures")
def a_graticule_with_room_for_its_figures(project: Project, random: Random) -> None:
    main = part_of(project, MapPanel)
    seeds.place(project, main.settings.changed({"name": "Free"}), 640.0, 200.0, 40.0, 40.0)
    number = max(part.id or 0 for part in project.parts(main.sheet_id or 0))
    seeds.place(project, Graticule(panel=number), 640.0, 200.0, 40.0, 40.0, position=91)


@_sheet("unshown", "untrue_scale")
def a_panel_in_a_sound_system_of_its_own(project: Project, random: Random) -> None:
    main = part_of(project, MapPanel)
    # ETRS89 lies within a metre of what the project has.
    own = seeds.project_crs("EPSG:25828")
    centre = seeds.carried_place(project.crs, own, main.settings.centre)  # type: ignore[attr-defined]
    seeds.put(project, main, system=own.text, centre=centre)


@_sheet("empty_part", "rough_picture")
def a_picture_of_just_enough_dots(project: Project, random: Random) -> None:
    out = Path(project.path).with_name("fine.png")
    wide = int(random.integers(320, 400))
    Image.new("RGB", (wide, wide * 3 // 4), "#446688").save(out)
    kept = KeptFile("fine.png", "picture", out.read_bytes())
    sheet = project.sheets()[0]
    part = Part(PictureOf(file=kept.checksum), 350.0, 255.0, 40.0, 30.0, sheet_id=sheet.id, position=91)
    project.apply("a picture", [rows.part_change(part)], files=[kept])


@_sheet("description_cut", "word_too_wide")
def a_description_with_room(project: Project, random: Random) -> None:
    words = Description(name="Units in words", panel=part_of(project, MapPanel).id, columns=2)
    seeds.place(project, words, 5, 5, float(random.uniform(150, 200)), 400, position=96)


@_sheet("enlarged")
def a_panel_at_the_digitizing_scale(project: Project, random: Random) -> None:
    panel = part_of(project, MapPanel)
    settings = panel.settings.changed({"scale": project.scales.digitizing, "name": "At it"})
    seeds.place(project, settings, 330.0, 240.0, 60.0, 40.0)


@right(RIGHT_OLDER_SHEETS, "land_too_large", sheet=INSETS)
def the_land_around_at_a_small_scale(project: Project, random: Random) -> None:
    panel = max(parts_of(project, MapPanel, INSETS), key=lambda p: p.settings.scale)  # type: ignore[attr-defined]
    change_settings(project, panel, land=True, scale=10_000_000)


@_sheet("section_against_map", "section_doubtful")
def an_end_of_a_section_a_hair_off(project: Project, random: Random) -> None:
    drawn = project.drawn_ends(section_lines(project)[0].number)
    number, (line, _) = next((n, held) for n, held in drawn.items() if held[1][0] is not None)
    moved = shapely.transform(line, lambda xy: xy + [float(random.uniform(-0.3, 0.3)), 0.0])
    project.apply("a hair", [Change("section_lines", number, {"geom": encoded(moved, -1)})])


@_sheet("section_doubtful")
def a_fault_of_a_section_that_dies_out(project: Project, random: Random) -> None:
    line = shapely.LineString([(2600.0, -50.0), (2700.0, -150.0 - float(random.uniform(0, 50)))])
    values = {"section_id": section_lines(project)[0].number, "geom": encoded(line, -1), "kind": "fault"}
    project.apply("draw", [Change("section_lines", None, values)])


@_sheet("template_changed")
def a_template_that_is_as_it_was(project: Project, random: Random) -> None:
    keep_template(project, 1, "House", for_all=False)
    held = followed_template(project, 1)
    assert held is not None
    project.apply("follow", [followed_change(held, 1)])


@_sheet("empty_field", "unknown_field")
def a_text_with_braces_that_are_no_field(project: Project, random: Random) -> None:
    note(project, f"Beds {{{int(random.integers(2, 9))}, 12}} by {{authors}} at {{scale}}")


@_sheet("label")
def labels_a_little_larger(project: Project, random: Random) -> None:
    seeds.put(project, part_of(project, MapPanel), symbol_scale=float(random.uniform(1.0, 1.05)))


@_sheet("small_letters", "thin_line")
def letters_and_lines_of_just_enough_size(project: Project, random: Random) -> None:
    seeds.put(project, part_of(project, NorthArrow), size=2.8)
    seeds.place(project, Box(frame=0.1), 320.0, 270.0, 30.0, 10.0)


@_sheet("no_essential")
def a_fraction_that_a_text_says(project: Project, random: Random) -> None:
    seeds.remove(project, Fraction)
    note(project, "Scale {scale}")


@_sheet("unformed")
def areas_formed_after_the_last_contact(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "pCg"), 130.0)
    ring = place.buffer(90.0, quad_segs=8).exterior
    scale = project.scales.digitizing
    keep(
        project,
        Feature("lines", shapely.LineString(ring.coords), "contact", capture_scale=scale),
        Feature("points", place, "unit_tag", map_unit="Qt", capture_scale=scale),
    )
    form_units(project, take=True)
