"""Errors in what texts say, and texts that look like such and are right."""

from __future__ import annotations

from dataclasses import replace

from orvik.core.ground.magnetic import declination
from orvik.core.sheet.page.day import parse_day
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.store.project import Project
from orvik.store.tables.imprint import imprint_change, imprint_of
from tests.proof.editor.seed_kind import (
    QUADRANGLE,
    Counter,
    Random,
    SeedKind,
    Told,
    any_of,
    change_settings,
    change_unit,
    labelled,
    misspelt,
    note,
    of_kinds,
    parts_of,
    right,
    unit_named,
)

TEXTS: list[SeedKind] = []
RIGHT_TEXTS: list[Counter] = []
UNITS = ("Kp", "Kw", "Jh", "Jc", "pCg")


def _declination() -> float:
    day = parse_day("2026-07-02")
    assert day is not None
    return declination(-14.751, 61.355, day).degrees


@of_kinds(TEXTS, QUADRANGLE, "typed_scale")
def a_typed_scale_that_is_another(project: Project, random: Random) -> Told:
    scale = any_of(random, ("50 000", "24 000", "100 000", "20 000"))
    part = note(project, f"Scale 1:{scale}")
    return Told((scale, "25 000"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_scale")
def a_typed_scale_with_a_slip(project: Project, random: Random) -> Told:
    scale = any_of(random, ("2 500", "250 000", "26 000", "52 000"))
    part = note(project, f"The traverses were plotted at 1:{scale} on the sheet.")
    return Told((scale, "25 000"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_system")
def a_typed_datum_that_is_another(project: Project, random: Random) -> Told:
    datum = any_of(random, ("ED50", "NAD27", "OSGB36", "ED 50", "NAD83"))
    part = note(project, f"Coordinates on {datum}, in metres.")
    return Told((datum, "WGS 84"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_system")
def a_typed_zone_that_is_another(project: Project, random: Random) -> Told:
    zone = any_of(random, (27, 29, 30, 31))
    part = note(project, f"UTM grid, zone {zone}.")
    return Told((str(zone), "28"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_declination")
def a_declination_to_the_other_side(project: Project, random: Random) -> Told:
    held = _declination()
    side = "east" if held < 0 else "west"
    part = note(project, f"Declination {abs(held):.1f}° {side} on 2 July 2026.")
    return Told((side, "west" if held < 0 else "east"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "impossible_date")
def a_day_that_cannot_be(project: Project, random: Random) -> Told:
    day = any_of(random, ("31 June 2024", "30 February 2025", "2025-02-29", "April 31, 2023", "31.11.2024"))
    part = note(project, f"Reviewed in the field on {day}.")
    return Told((day, "days"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_figure")
def another_edition(project: Project, random: Random) -> Told:
    edition = any_of(random, ("First edition", "Third edition", "1st edition"))
    part = note(project, f"{edition}, with corrections.")
    return Told((edition, "Second edition"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "misspelt")
def the_sheet_misspelt(project: Project, random: Random) -> Told:
    wrong = f"{misspelt(random, 'Harrack')} Head"
    part = note(project, f"Reached by boat from {wrong}.")
    return Told((wrong, "Harrack Head"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_code")
def a_code_that_is_another_unit_s(project: Project, random: Random) -> Told:
    one, two = random.permutation(UNITS[:4])[:2].tolist()
    part = note(project, f"Quarried in the {unit_named(project, one).name} ({two}) until 1950.")
    return Told((rf"\b{one}\b", rf"\b{two}\b"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_age")
def an_age_that_is_another_unit_s(project: Project, random: Random) -> Told:
    code = any_of(random, UNITS[:4])
    age = any_of(random, ("Devonian", "Late Triassic", "Permian", "Eocene"))
    part = note(project, f"The {unit_named(project, code).name} ({age}) dips gently.")
    return Told((age, unit_named(project, code).printed_age), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_figure")
def a_number_of_units_that_is_another(project: Project, random: Random) -> Told:
    count = any_of(random, ("five", "9", "twelve", "8"))
    part = note(project, f"The map shows {count} map units.")
    return Told((count, "7"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_figure")
def a_contour_interval_that_is_another(project: Project, random: Random) -> Told:
    metres = any_of(random, (5, 10, 20, 25, 100))
    part = note(project, f"Contour interval {metres} m.")
    return Told((rf"\b{metres} m", "50 m"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "late_date")
def the_year_of_an_older_edition(project: Project, random: Random) -> Told:
    year = int(random.integers(2015, 2026))
    change_settings(project, labelled(project, "By"), text=f"By {{authors}}, {year}")
    return Told((str(year), "2026"), parts=(labelled(project, "By").number,))


@of_kinds(TEXTS, QUADRANGLE, "typed_figure")
def another_number_in_the_series(project: Project, random: Random) -> Told:
    number = any_of(random, (20, 24, 25, 122))
    change_settings(project, labelled(project, "Series"), text=f"Survey of Quennet, quadrangle map {number}")
    return Told((str(number), "22"), parts=(labelled(project, "Series").number,))


@of_kinds(TEXTS, QUADRANGLE, "misspelt")
def a_row_of_the_explanation_misspelt(project: Project, random: Random) -> Told:
    (explanation,) = parts_of(project, Explanation)
    wrong = f"{misspelt(random, 'Harrack')} Sandstone"
    edits = {"kind lines contact": {"text": f"Drawn where the {wrong} ends."}}
    change_settings(project, explanation, edits=edits)
    return Told((wrong, "Harrack Sandstone"), parts=(explanation.number,))


@of_kinds(TEXTS, QUADRANGLE, "misspelt")
def a_description_that_misspells_another_unit(project: Project, random: Random) -> Told:
    of, code = any_of(random, (("Jc", "pCg"), ("Jh", "Jc"), ("Kw", "Jh"), ("Kp", "Kw")))
    place, rock = unit_named(project, code).name.split(" ")
    wrong = f"{place} {misspelt(random, rock)}"
    held = unit_named(project, of)
    change_unit(project, of, description=f"{held.description} Rests on {wrong}.")
    return Told((wrong, unit_named(project, code).name), units=(of,))


@of_kinds(TEXTS, QUADRANGLE, "impossible_date")
def years_that_run_backwards(project: Project, random: Random) -> Told:
    later = int(random.integers(2010, 2026))
    earlier = later - int(random.integers(1, 9))
    part = note(project, f"Mapped {later}–{earlier}.")
    return Told((str(later), str(earlier), "earlier"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "slip")
def a_word_twice(project: Project, random: Random) -> Told:
    word = any_of(random, ("the", "of", "and", "till"))
    part = note(project, f"Taken from {word} {word} field books.")
    return Told((f"{word} {word}", "twice"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "source_year")
def a_source_of_another_year(project: Project, random: Random) -> Told:
    year = any_of(random, (2009, 2018, 1919))
    part = note(project, f"Dykes after Tarn, thesis map, {year}.")
    return Told((str(year), "2019"), parts=(part.number,))


@of_kinds(TEXTS, QUADRANGLE, "slip")
def a_placeholder(project: Project, random: Random) -> Told:
    words = any_of(random, ("TODO", "xxx", "???", "TBD"))
    part = note(project, f"Ages from the laboratory: {words}")
    return Told(("TODO|xxx|\\?\\?|TBD",), parts=(part.number,))


# Texts that are right


@right(RIGHT_TEXTS, "typed_scale", sheet=QUADRANGLE)
def a_scale_of_a_source(project: Project, random: Random) -> None:
    note(project, "Drift simplified from a survey at a scale of 1:10 560; field sheets 1:10 000. Sections at 1:25 000.")


@right(RIGHT_TEXTS, "typed_system", sheet=QUADRANGLE)
def a_datum_that_was_converted(project: Project, random: Random) -> None:
    note(project, "Old field sheets were converted from ED50, UTM zone 28, to WGS84, EPSG:32628 (EPSG:4326).")


@right(RIGHT_TEXTS, "typed_declination", sheet=QUADRANGLE)
def a_declination_that_is_right(project: Project, random: Random) -> None:
    held = _declination()
    note(project, f"Magnetic declination {abs(held):.0f}° {'west' if held < 0 else 'east'} in 2026.")


@right(RIGHT_TEXTS, "impossible_date", "late_date", sheet=QUADRANGLE)
def dates_that_can_be(project: Project, random: Random) -> None:
    note(project, "Mapped 2019–2025, last on 29 February 2024, 1985 features, valid until 2040; heights of 2027 m.")


@right(RIGHT_TEXTS, "misspelt", sheet=QUADRANGLE)
def names_as_they_are(project: Project, random: Random) -> None:
    note(project, "Harrack Sandstones of H. Quill's section at Harrack Head; Wray and Gray; sands, tills, Carnlough.")


@right(RIGHT_TEXTS, "typed_age", "typed_code", sheet=QUADRANGLE)
def ages_of_others(project: Project, random: Random) -> None:
    note(
        project,
        "Clasts of Devonian granite in the Carn Conglomerate (Jc), Wray Siltstone (Early Cretaceous), iron (Fe).",
    )
    held = unit_named(project, "Kw")
    change_unit(project, "Kw", description=f"{held.description} Holds pebbles of Jurassic age and Permian spores.")


@right(RIGHT_TEXTS, "typed_figure", "backward_range", sheet=QUADRANGLE)
def figures_as_they_are(project: Project, random: Random) -> None:
    note(project, "Seven map units; contours every 50 m; second edition; on sheet no. 23 it thins from 40 to 20 m.")


@right(RIGHT_TEXTS, "slip", sheet=QUADRANGLE)
def words_that_may_stand_twice(project: Project, random: Random) -> None:
    note(project, "We saw that that had had its day: a) aa lava (as on sheet 11), 2) New New Town [sic].")


@right(RIGHT_TEXTS, "late_date", "source_year", sheet=QUADRANGLE)
def a_citation_of_another_work(project: Project, random: Random) -> None:
    project.apply("seed", [imprint_change(replace(imprint_of(project), base="island survey, 1999 to 2022"))])
    note(project, "After Tarn, thesis map, 2019, and H. Quill, field sheets, 2024.")
