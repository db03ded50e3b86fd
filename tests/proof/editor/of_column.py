"""Errors of the column of units and of symbols, and columns that look like such and are right."""

from __future__ import annotations

import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.store import rows
from orvik.store.project import Project
from tests.proof.editor.seed_kind import (
    INSETS,
    Counter,
    Random,
    SeedKind,
    Told,
    any_of,
    change_settings,
    change_unit,
    free_place,
    largest_face,
    of_kinds,
    parts_of,
    right,
    unit_named,
    write,
)

COLUMN: list[SeedKind] = []
RIGHT_COLUMN: list[Counter] = []
DATED = ("Kp", "Kw", "Jh", "Jc")


@of_kinds(COLUMN, rule="label_unlike")
def a_label_unlike_its_code(project: Project, random: Random) -> Told:
    code = any_of(random, DATED)
    label = code[0] + any_of(random, [c for c in "bdfgmn" if c != code[1]])
    change_unit(project, code, label=label)
    return Told((rf"\b{code}\b", label), units=(code,))


@of_kinds(COLUMN, rule="label_doubled")
def one_label_for_two_units(project: Project, random: Random) -> Told:
    one, two = random.permutation(DATED)[:2].tolist()
    change_unit(project, two, label=one)
    return Told((rf"\b{one}\b", rf"\b{two}\b", "label"), units=(one, two))


@of_kinds(COLUMN, rule="one_colour")
def one_colour_for_two_units(project: Project, random: Random) -> Told:
    one, two = any_of(random, (("Qal", "Kp"), ("Qt", "Kw"), ("Kp", "Jc"), ("Qal", "pCg")))
    held = unit_named(project, one)
    change_unit(project, two, colour=held.colour, pattern=held.pattern, pattern_colour=held.pattern_colour)
    return Told((rf"\b{one}\b", rf"\b{two}\b", "colour"), units=(one, two))


@of_kinds(COLUMN, rule="unit_unused")
def a_unit_that_is_nowhere(project: Project, random: Random) -> Told:
    code, name = any_of(random, (("Jm", "Mellan Marl"), ("Kd", "Dovrey Limestone"), ("Qp", "Peat")))
    unit = MapUnit(code, name, "", "#C8B6E2", "Grey.", 4, heading="Sedimentary rocks")
    project.apply("seed", [rows.unit_change(None, unit)])
    return Told((code, name), units=(code,))


@of_kinds(COLUMN, rule="heading_age")
def an_age_against_the_order_of_headings(project: Project, random: Random) -> Told:
    age = any_of(random, ("Triassic", "Permian", "Devonian"))
    change_unit(project, "Qt", age=age, age_from=age, age_to="")
    return Told(("Qt", age), units=("Qt",))


@of_kinds(COLUMN, INSETS, "row_order")
def rows_put_against_their_age(project: Project, random: Random) -> Told:
    (part,) = parts_of(project, Explanation, INSETS)
    one, two = any_of(random, (("Kp", "Kw"), ("Kw", "Jh"), ("Jh", "Jc")))
    order = ["unit Qal", "unit Qt", "unit Kp", "unit Kw", "unit Jh", "unit Jc", "unit pCg"]
    i, j = order.index(f"unit {one}"), order.index(f"unit {two}")
    order[i], order[j] = order[j], order[i]
    change_settings(project, part, edits={"order": order})
    return Told((rf"\b{one}\b", rf"\b{two}\b"), parts=(part.number,))


@of_kinds(COLUMN, rule="printed_age")
def a_printed_age_unlike_the_given_one(project: Project, random: Random) -> Told:
    code = any_of(random, DATED)
    age = any_of(random, ("Late Triassic", "Eocene", "Devonian"))
    change_unit(project, code, age=age)
    return Told((rf"\b{code}\b", age), units=(code,))


@of_kinds(COLUMN, rule="age_letter")
def a_code_with_the_letter_of_another_age(project: Project, random: Random) -> Told:
    code, age = any_of(random, (("Kw", "Upper Jurassic"), ("Jh", "Lower Cretaceous"), ("Jc", "Upper Triassic")))
    change_unit(project, code, age="", age_from=age, age_to="")
    return Told((rf"\b{code}\b", "letter"), units=(code,))


@of_kinds(COLUMN, rule="one_name")
def two_names_a_letter_apart(project: Project, random: Random) -> Told:
    one, two = any_of(random, (("Kp", "Kw"), ("Jh", "Jc"), ("Kw", "Jc")))
    name = unit_named(project, one).name
    change_unit(project, two, name=any_of(random, (f"{name}s", f"{name[:3]}{name[2:]}", f"{name[:2]}{name[3:]}")))
    return Told((rf"\b{one}\b", rf"\b{two}\b"), units=(one, two))


@of_kinds(COLUMN, rule="pattern_unlike")
def the_pattern_of_another_rock(project: Project, random: Random) -> Told:
    code, pattern = any_of(
        random, (("Jh", "mudstone"), ("Kp", "sandstone"), ("Kw", "conglomerate"), ("Jc", "siltstone"))
    )
    change_unit(project, code, pattern=pattern)
    return Told((rf"\b{code}\b", pattern), units=(code,))


# Columns that are right


@right(RIGHT_COLUMN, "label_unlike", "label_doubled", "age_letter")
def labels_that_keep_to_the_practice(project: Project, random: Random) -> None:
    change_unit(project, "pCg", label="pꞒg")
    change_unit(project, "Jh", label="Jha")
    unit = MapUnit("QUA-HOL-ALL-1", "Fan", "Holocene", "#DDE8B0", "Fans.", 9, label="Qf", heading="Surficial deposits")
    project.apply("seed", [rows.unit_change(None, unit)])


@right(RIGHT_COLUMN, "one_name", "one_colour")
def members_that_differ_by_a_number(project: Project, random: Random) -> None:
    change_unit(project, "Jh", name="Harrack Sandstone 1")
    change_unit(project, "Jc", name="Harrack Sandstone 2", colour=unit_named(project, "Jh").colour)


@right(RIGHT_COLUMN, "printed_age", "member_age", "heading_age", "column")
def ages_that_agree_in_other_words(project: Project, random: Random) -> None:
    change_unit(project, "Jh", age="Kimmeridgian", parent="Jc", rank="member")
    change_unit(project, "Jc", age="", age_from="Bajocian", age_to="Tithonian")
    dyke = MapUnit(
        "Td", "Dolerite", "Paleocene", "#88A070", "Dykes.", 8, age_from="Paleocene", heading="Intrusive rocks"
    )
    project.apply("seed", [rows.unit_change(None, dyke)])


@right(RIGHT_COLUMN, "unit_unused", "undescribed")
def a_formation_that_only_its_members_stand_for(project: Project, random: Random) -> None:
    whole = MapUnit("Kf", "Flood Formation", "Early Cretaceous", "#C9D9A0", "", 3, rank="formation")
    project.apply("seed", [rows.unit_change(None, whole)])
    change_unit(project, "Kw", parent="Kf", rank="member")


@right(RIGHT_COLUMN, "pattern_unlike")
def the_pattern_of_a_rock_that_is_described(project: Project, random: Random) -> None:
    change_unit(project, "Kp", pattern="limestone")


@right(RIGHT_COLUMN, "row_order", sheet=INSETS)
def rows_in_the_order_of_ages(project: Project, random: Random) -> None:
    (part,) = parts_of(project, Explanation, INSETS)
    change_settings(project, part, edits={"order": ["unit Qal", "unit Qt", "kind lines contact", "unit Kp", "unit Kw"]})


@right(RIGHT_COLUMN, "dashes_unseen", sheet=None)
def a_short_piece_of_a_longer_line(project: Project, random: Random) -> None:
    place = free_place(project, random, largest_face(project, "Jh"), 120.0)
    first = shapely.LineString([(place.x - 90, place.y), (place.x, place.y)])
    second = shapely.LineString([(place.x, place.y), (place.x + 20, place.y + 3)])
    for line in (first, second):
        write(project, Feature("lines", line, "fault", certainty="inferred", capture_scale=project.scales.digitizing))
