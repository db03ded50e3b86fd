"""A third of the kinds of seeds: written down before any of the rules that they are found by, and left as they were.

The hundred kinds were listed first; every third one of the list stands here.
"""

from __future__ import annotations

import io

import numpy as np
import shapely
from PIL import Image

from orvik.core.features.feature import Feature
from orvik.core.geometry.vertices import with_vertex
from orvik.core.ground.magnetic import declination
from orvik.core.labels.label_move import LabelMove
from orvik.core.labels.label_request import LabelKey
from orvik.core.pictures.source import IMPORTED, Source
from orvik.core.sheet.page.day import parse_day
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.picture import PictureOf
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.tables.labels import move_change
from orvik.usecases.compile.forming import form_units
from tests.proof.editor.seed_kind import (
    INSETS,
    QUADRANGLE,
    Random,
    SeedKind,
    Told,
    any_of,
    beds,
    change_place,
    change_settings,
    change_unit,
    free_place,
    ground_of_unit,
    key_of,
    labelled,
    largest_face,
    misspelt,
    note,
    of_kinds,
    parts_of,
    put_part,
    unit_named,
    write,
)
from tests.proof.seeds import contact, every, first, keep

HELD_OUT: list[SeedKind] = []


# Texts


@of_kinds(HELD_OUT, QUADRANGLE)
def a_typed_system_that_is_another(project: Project, random: Random) -> Told:
    code = any_of(random, (32627, 32629, 3857, 25828, 4326))
    part = note(project, f"Coordinates in EPSG:{code}.")
    return Told((str(code), "32628"), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_typed_declination_that_is_another(project: Project, random: Random) -> Told:
    longitude, latitude = project.crs.to_geographic(513_250.0, 6_802_500.0)
    day = parse_day("2026-07-02")
    assert day is not None
    held = declination(float(longitude), float(latitude), day).degrees
    typed = round(abs(held) + float(random.uniform(2, 9)))
    side = "west" if held < 0 else "east"
    part = note(project, f"Magnetic declination {typed}° {side} in July 2026.")
    return Told((rf"\b{typed}°", rf"\b{int(abs(held))}(°|\.)", "declination"), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_date_after_the_map_was_published(project: Project, random: Random) -> Told:
    year = int(random.integers(2027, 2033))
    part = note(project, f"Field work in the summer of {year}.")
    return Told((str(year), "2026"), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_unit_misspelt_in_a_note(project: Project, random: Random) -> Told:
    unit = unit_named(project, any_of(random, ("Kp", "Kw", "Jh", "Jc", "pCg")))
    place, rock = unit.name.split(" ")
    wrong = f"{misspelt(random, place)} {rock}" if random.random() < 0.5 else f"{place} {misspelt(random, rock)}"
    part = note(project, f"Springs rise where the {wrong} meets the till.")
    return Told((wrong, unit.name), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def an_author_misspelt(project: Project, random: Random) -> Told:
    name = any_of(random, ("Quill", "Tarn", "Brae", "Linklet", "Gannet"))
    wrong = misspelt(random, name)
    initial = {"Quill": "H.", "Tarn": "M.", "Brae": "S.", "Linklet": "O.", "Gannet": "T."}[name]
    part = note(project, f"Drawn from field sheets of {initial} {wrong}.")
    return Told((wrong, name), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_place_misspelt(project: Project, random: Random) -> Told:
    place = any_of(random, ("Harrack Head", "Bay of Sule", "The Skerries", "Sound of Wray"))
    *others, last = place.split(" ")
    wrong = " ".join([*others, misspelt(random, last)])
    part = note(project, f"Soundings off {wrong} are from a chart.")
    return Told((wrong.removeprefix("The "), place), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_title_that_names_the_sheet_wrongly(project: Project, random: Random) -> Told:
    (title,) = parts_of(project, Title)
    wrong = f"{misspelt(random, 'Harrack')} Head"
    change_settings(project, title, text=f"Geologic map of {wrong}")
    return Told((wrong, "Harrack Head"), parts=(title.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def an_exaggeration_that_the_sections_do_not_have(project: Project, random: Random) -> Told:
    times = any_of(random, (2, 3, 4, 5))
    part = note(project, f"Vertical exaggeration of the sections: {times} times.")
    return Told((rf"\b{times}\b", "exaggerat"), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_neighbouring_sheet_misspelt(project: Project, random: Random) -> Told:
    name = any_of(random, ("North Stack", "Carn Sound", "Outer Stills"))
    one, two = name.split(" ")
    wrong = f"{one} {misspelt(random, two)}"
    part = note(project, f"The fault goes on to the sheet {wrong}.")
    return Told((wrong, name), parts=(part.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_thickness_from_more_to_less(project: Project, random: Random) -> Told:
    code = any_of(random, ("Qal", "Qt", "Kp", "Kw", "Jh", "Jc"))
    less = int(random.integers(10, 60))
    more = less + int(random.integers(20, 200))
    held = unit_named(project, code)
    change_unit(project, code, description=f"{held.description} Thickness {more} to {less} m.")
    return Told((f"{more} to {less}", rf"\b{code}\b|{held.name}"), units=(code,))


# Parts against panels


@of_kinds(HELD_OUT, INSETS)
def a_north_arrow_of_another_panel(project: Project, random: Random) -> Told:
    (arrow,) = parts_of(project, NorthArrow, INSETS)
    other = any_of(random, [p for p in parts_of(project, MapPanel, INSETS) if p.label != "Main map"])
    change_settings(project, arrow, panel=other.number)
    return Told(("north arrow", "Main map", other.label), parts=(arrow.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_panel_that_cuts_the_border(project: Project, random: Random) -> Told:
    (panel,) = parts_of(project, MapPanel)
    off = float(random.uniform(300, 2000))
    turn = float(random.uniform(0, 2 * np.pi))
    x, y = panel.settings.centre  # type: ignore[attr-defined]
    centre = (x + off * np.cos(turn), y + off * np.sin(turn))
    change_settings(project, panel, centre=centre)
    return Told(("border", r"\d"), parts=(panel.number,))


@of_kinds(HELD_OUT, INSETS)
def an_inset_without_its_footprint(project: Project, random: Random) -> Told:
    inset = labelled(project, "Head of the burn", INSETS)
    change_settings(project, inset, footprints=())
    return Told(("Head of the burn", "footprint|where it lies"), parts=(inset.number,))


def _picture(project: Project, name: str, grey: tuple[int, int], random: Random) -> KeptFile:
    dots = random.integers(grey[0], grey[1], (600, 800, 3)).astype(np.uint8)
    held = io.BytesIO()
    Image.fromarray(dots).save(held, "PNG")
    return KeptFile(name, "picture", held.getvalue())


@of_kinds(HELD_OUT, QUADRANGLE)
def a_text_under_a_picture(project: Project, random: Random) -> Told:
    text = any_of(random, [p for p in parts_of(project, RunningText) if p.width > 100])
    kept = _picture(project, "view.png", (120, 200), random)
    share = float(random.uniform(0.2, 0.6))
    at = (text.x, text.y - 1, max(text.width * share, 20.0), text.height + 2)
    settings = PictureOf(name="View", file=kept.checksum, fit="fill")
    part = Part(settings, *at, sheet_id=project.sheets()[QUADRANGLE].number, position=120)
    project.apply("seed", [rows.part_change(part)], files=[kept])
    return Told((text.label, "View"), parts=(text.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def letters_on_a_dark_picture(project: Project, random: Random) -> Told:
    kept = _picture(project, "dark.png", (20, 90), random)
    sheet = project.sheets()[QUADRANGLE].number
    below = Part(PictureOf(name="Night", file=kept.checksum, fit="fill"), 23, 412, 280, 14, sheet_id=sheet, position=98)
    project.apply("seed", [rows.part_change(below)], files=[kept])
    text = note(project, "Seen from the sea at dusk.")
    return Told(("stand", r"\d[.]\d"), parts=(text.number,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_code_dragged_onto_another(project: Project, random: Random) -> Told:
    pairs = []
    areas = [a for a in every(project, "areas", kind="unit_area") if a.geometry.area > 250_000]
    for i, one in enumerate(areas):
        for two in areas[i + 1 :]:
            if one.map_unit != two.map_unit and one.geometry.distance(two.geometry) < 1:
                pairs.append((one, two))
    one, two = any_of(random, pairs)
    place = shapely.point_on_surface(two.geometry.buffer(-20))
    moves = [
        LabelMove(LabelKey("areas", one.id), at=(place.x, place.y)),
        LabelMove(LabelKey("areas", two.id), at=(place.x + float(random.uniform(-12, 12)), place.y)),
    ]
    project.apply("seed", [move_change(None, move) for move in moves])
    return Told((rf"\b{one.map_unit}\b|p.g", rf"\b{two.map_unit}\b|p.g"), features=(key_of(one), key_of(two)))


@of_kinds(HELD_OUT, QUADRANGLE)
def edges_that_nearly_agree(project: Project, random: Random) -> Told:
    number = project.sheets()[QUADRANGLE].number
    column = [p for p in project.parts(number) if abs(p.x - 323.0) < 1e-6]
    part = any_of(random, column)
    off = round(float(random.uniform(0.3, 0.9)), 1)
    change_place(project, part, x=part.x + off)
    return Told((rf"{off:.1f} mm", "edge|margin|align"), parts=(part.number,))


@of_kinds(HELD_OUT, INSETS)
def a_section_whose_line_its_panel_lacks(project: Project, random: Random) -> Told:
    inset = labelled(project, "Head of the burn", INSETS)
    settings = CrossSection(name="Section", panel=inset.number, letter=any_of(random, ("A", "B")))
    part = put_part(project, settings, (22.0, 345.0, 352.0, 72.0), INSETS)
    return Told((r"\b[AB]\b", "Head of the burn"), parts=(part.number,))


# The column and the symbols


@of_kinds(HELD_OUT, QUADRANGLE)
def two_units_of_one_name(project: Project, random: Random) -> Told:
    one, two = random.permutation(["Kp", "Kw", "Jh", "Jc"])[:2].tolist()
    name = unit_named(project, one).name
    change_unit(project, two, name=name)
    return Told((rf"\b{one}\b", rf"\b{two}\b", name), units=(one, two))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_unit_without_description(project: Project, random: Random) -> Told:
    assert parts_of(project, Description)
    code = any_of(random, ("Qal", "Qt", "Kp", "Kw", "Jh", "Jc", "pCg"))
    change_unit(project, code, description="")
    return Told((rf"\b{code}\b|{unit_named(project, code).name}", "descri"), units=(code,))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_line_too_short_to_tell_its_dashes(project: Project, random: Random) -> Told:
    place = free_place(project, random, largest_face(project, any_of(random, ("Jh", "pCg", "Kw"))), 60.0)
    turn, half = float(random.uniform(0, np.pi)), float(random.uniform(10, 17))
    dx, dy = half * np.cos(turn), half * np.sin(turn)
    line = shapely.LineString([(place.x - dx, place.y - dy), (place.x + dx, place.y + dy)])
    certainty = any_of(random, ("inferred", "approximate"))
    fault = Feature("lines", line, "fault", certainty=certainty, capture_scale=project.scales.digitizing)
    return Told((r"\d mm", certainty), features=(write(project, fault),))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_member_of_another_age_than_its_formation(project: Project, random: Random) -> Told:
    member, formation = any_of(random, (("Kw", "Jh"), ("Kp", "Jc"), ("Kw", "Jc"), ("Jh", "pCg")))
    change_unit(project, member, parent=formation, rank="member")
    names = [rf"\b{code}\b|{unit_named(project, code).name}" for code in (member, formation)]
    return Told(tuple(names), units=(member, formation))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_description_of_another_age(project: Project, random: Random) -> Told:
    code = any_of(random, ("Kp", "Kw", "Jh", "Jc"))
    age = any_of(random, ("Devonian", "Permian", "Cambrian", "Miocene"))
    held = unit_named(project, code)
    change_unit(project, code, description=f"{held.description} Of {age} age.")
    return Told((age, held.printed_age), units=(code,))


# The geology


@of_kinds(HELD_OUT)
def an_offset_that_jumps(project: Project, random: Random) -> Told:
    faults = [f for kind in ("fault", "normal_fault") for f in every(project, "lines", kind=kind)]
    fault = max(faults, key=lambda f: float(f.geometry.length))
    ends = []
    for line in every(project, "lines", kind="contact"):
        for end in (0, -1):
            place = shapely.Point(line.geometry.coords[end])
            if fault.geometry.distance(place) < 1e-6 and not line.geometry.is_closed and line.certainty != "concealed":
                ends.append((line, end, float(fault.geometry.project(place))))
    along = np.array(sorted(at for _, _, at in ends))
    room = []
    for line, end, at in ends:
        others = along[np.abs(along - at) > 1.0]
        for way in (-1, 1):
            free = min((way * (o - at) for o in others if way * (o - at) > 0), default=0.0)
            if free > 330:
                room.append((line, end, at, way, free))
    line, end, at, way, free = any_of(random, room)
    moved = fault.geometry.interpolate(at + way * float(random.uniform(180, min(free - 120, 400))))
    xy = [tuple(c) for c in line.geometry.coords]
    keep_from = 3 if len(xy) > 8 else 1
    xy = [(moved.x, moved.y), *xy[keep_from:]] if end == 0 else [*xy[:-keep_from], (moved.x, moved.y)]
    keep(project, line.changed(geometry=shapely.LineString(xy)), with_vertex(fault, (moved.x, moved.y)))
    form_units(project)
    return Told((r"\d mm", "offset|displace"), features=(key_of(line), key_of(fault)))


@of_kinds(HELD_OUT)
def concealed_linework_without_cover(project: Project, random: Random) -> Told:
    place = free_place(project, random, largest_face(project, any_of(random, ("Jh", "pCg", "Kw"))), 90.0)
    turn = float(random.uniform(0, np.pi))
    dx, dy = 80 * np.cos(turn), 80 * np.sin(turn)
    line = shapely.LineString([(place.x - dx, place.y - dy), (place.x + dx, place.y + dy)])
    fault = Feature("lines", line, "fault", certainty="concealed", capture_scale=project.scales.digitizing)
    return Told(("concealed", r"\b(Jh|pCg|Kw)\b|Harrack|Gneiss|Wray"), features=(write(project, fault),))


@of_kinds(HELD_OUT)
def a_downthrown_side_against_the_ages(project: Project, random: Random) -> Told:
    fault = first(project, "lines", kind="normal_fault", certainty="certain")
    longest = max(every(project, "lines", kind="normal_fault"), key=lambda f: float(f.geometry.length))
    fault = any_of(random, (fault, longest))
    keep(project, fault.changed(geometry=shapely.reverse(fault.geometry), stretches=()))
    return Told(("side|block", "older|younger"), features=(key_of(fault),))


@of_kinds(HELD_OUT)
def an_anticline_in_beds_that_all_dip_one_way(project: Project, random: Random) -> Told:
    kind = any_of(random, ("anticline", "syncline"))
    fold = first(project, "lines", kind="anticline")
    all_beds = beds(project)
    xy = np.array([(f.geometry.x, f.geometry.y) for f in all_beds])
    down = np.radians([(f.azimuth or 0.0) + 90 for f in all_beds])
    ways = np.column_stack([np.sin(down), np.cos(down)])
    places = []
    for i, bed in enumerate(all_beds):
        near = np.hypot(*(xy - xy[i]).T) < 900
        alike = near.sum() >= 5 and (ways[near] @ ways[i] > np.cos(np.radians(30))).all()
        if alike and bed.geometry.distance(fold.geometry) > 900:
            places.append(i)
    i = any_of(random, places)
    strike = np.radians(all_beds[i].azimuth or 0.0)
    dx, dy = 400 * np.sin(strike), 400 * np.cos(strike)
    x, y = xy[i] + 15 * ways[i]
    line = shapely.LineString([(x - dx, y - dy), (x + dx, y + dy)])
    drawn = Feature("lines", line, kind, certainty="approximate", capture_scale=project.scales.digitizing)
    return Told((kind, "dip"), features=(write(project, drawn),))


@of_kinds(HELD_OUT)
def a_dip_direction_typed_as_strike(project: Project, random: Random) -> Told:
    around = [f.geometry for f in beds(project)]
    tree = shapely.STRtree(around)
    many = [f for f in beds(project) if len(tree.query(f.geometry, predicate="dwithin", distance=600)) >= 6]
    bed = any_of(random, many)
    keep(project, bed.changed(azimuth=((bed.azimuth or 0.0) + 90.0) % 360))
    return Told(("strike", "90|dip direction|direction of dip"), features=(key_of(bed),))


@of_kinds(HELD_OUT)
def a_reading_in_the_sea(project: Project, random: Random) -> Told:
    land = ground_of_unit(project, "Qal", "Qt", "Kp", "Kw", "Jh", "Jc", "pCg")
    border = shapely.Polygon(first(project, "lines", kind="border").geometry)
    sea = border.buffer(-100).difference(land.buffer(150))
    bed = any_of(random, beds(project))
    keep(project, bed.changed(geometry=free_place(project, random, sea, 40.0)))
    return Told(("water|sea|no unit|off the land",), features=(key_of(bed),))


@of_kinds(HELD_OUT)
def a_fault_plane_off_its_fault(project: Project, random: Random) -> Told:
    plane = first(project, "points", kind="fault_plane")
    place = free_place(project, random, largest_face(project, any_of(random, ("Jh", "pCg"))), 150.0)
    keep(project, plane.changed(geometry=place))
    return Told(("fault", r"\d mm|no fault"), features=(key_of(plane),))


@of_kinds(HELD_OUT)
def a_fold_axis_across_its_trace(project: Project, random: Random) -> Told:
    fold = first(project, "lines", kind=any_of(random, ("anticline", "syncline")))
    at = float(random.uniform(0.35, 0.65))
    place = fold.geometry.interpolate(at, normalized=True)
    ahead = fold.geometry.interpolate(at + 0.05, normalized=True)
    trend = np.degrees(np.arctan2(ahead.x - place.x, ahead.y - place.y)) + float(random.uniform(65, 115))
    axis = Feature(
        "points",
        shapely.Point(place.x + 20, place.y + 20),
        "fold_axis",
        azimuth=float(round(trend) % 360),
        inclination=float(random.integers(5, 25)),
        capture_scale=project.scales.digitizing,
    )
    return Told(("axis|trend", r"\d°"), features=(write(project, axis),))


# The sources


@of_kinds(HELD_OUT)
def a_line_copied_from_a_coarser_source(project: Project, random: Random) -> Told:
    scale = any_of(random, ("50 000", "100 000", "250 000"))
    credit = f"Old survey, 1:{scale}, 1931"
    project.apply("seed", [rows.source_change(Source(IMPORTED, "Old survey", credit=credit, position=9))])
    number = max(source.id or 0 for source in project.sources())
    line = contact(project) if random.random() < 0.5 else first(project, "lines", kind="fault", certainty="certain")
    keep(project, line.changed(source_id=number))
    return Told((scale, r"25 000|6 250"), features=(key_of(line),))


@of_kinds(HELD_OUT, QUADRANGLE)
def a_source_that_no_feature_names(project: Project, random: Random) -> Told:
    name = any_of(random, ("Well logs", "Mine plans", "Soil survey"))
    project.apply("seed", [rows.source_change(Source(IMPORTED, name, credit=f"{name}, 1990", position=9))])
    return Told((name, "no feature|nothing|not used|unused"))


@of_kinds(HELD_OUT)
def a_feature_off_its_source(project: Project, random: Random) -> Told:
    scan = next(source for source in project.sources() if source.fit)
    far = [
        line
        for line in every(project, "lines", kind="contact")
        if line.geometry.distance(shapely.box(512_000, 6_801_500, 514_700, 6_805_000)) > 200
    ]
    line = any_of(random, far)
    keep(project, line.changed(source_id=scan.id))
    return Told((scan.name, r"\d"), features=(key_of(line),))
