"""What the checks find, where, and what they leave alone."""

from __future__ import annotations

import pytest
import shapely
import shapely.affinity

from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.findings.finding import Finding
from orvik.core.findings.survey import SurveyContext
from tests.core.pieces import SETTING, UNITS, area, border, line, survey, tag

SQUARE = border(0, 0, 1000, 1000)
NORTH, SOUTH = tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp")
ACROSS = line(2, [(0, 500), (400, 520), (1000, 500)])
SOUND = (SQUARE, ACROSS, NORTH, SOUTH)


def found(*features: Feature, setting: SurveyContext = SETTING) -> list[Finding]:
    return survey(*features, setting=setting).findings


def only(findings: list[Finding], rule: str) -> Finding:
    (one,) = [f for f in findings if f.rule == rule]
    return one


def test_a_sound_map_has_none() -> None:
    assert found(*SOUND) == []


def test_a_contact_that_stops_short_is_led_on_straight() -> None:
    # 12 m before the border, on a course of 45 degrees.
    short = line(3, [(600, 511.6), (700, 600), (988, 888)])
    told = found(*SOUND, short.changed(geometry=shapely.LineString([(400, 520), (700, 600), (988, 888)])))
    finding = only(told, "dangle")
    assert finding.severity == "error"
    assert "short of sheet border 1" in finding.message
    assert finding.at == (988, 888)
    assert finding.fix is not None
    assert (finding.fix.kind, finding.fix.end) == ("extend", -1)
    assert finding.fix.place == pytest.approx((1000, 900))
    assert finding.features == (("lines", 3), ("lines", 1))


def test_a_contact_that_runs_past_is_trimmed_to_where_they_cross() -> None:
    past = line(3, [(400, 520), (500, 800), (600, 1010)])
    # Past the border itself is off the sheet, and no finding.
    assert not [f for f in found(*SOUND, past) if f.rule == "dangle"]
    past = line(3, [(600, 1000), (500, 700), (700, 503)])
    finding = only(found(*SOUND, past), "dangle")
    assert finding.fix is not None
    assert finding.fix.kind == "trim"
    x, y = finding.fix.place or (0, 0)
    assert shapely.distance(ACROSS.geometry, shapely.Point(x, y)) < 1e-9
    assert not [f for f in found(*SOUND, past) if f.rule == "crossing"]


def test_two_ends_that_nearly_meet_are_joined() -> None:
    one, two = line(2, [(0, 500), (490, 500)]), line(3, [(500, 503), (1000, 500)])
    told = [f for f in found(SQUARE, one, two, NORTH) if f.rule == "dangle"]
    assert {f.fix.kind for f in told if f.fix} == {"join"}
    assert {f.fix.place for f in told if f.fix} == {(500, 503), (490, 500)}


def test_an_end_in_the_open_has_no_fix() -> None:
    finding = only(found(*SOUND, line(3, [(400, 520), (500, 750)])), "dangle")
    assert finding.fix is None
    assert "in the open" in finding.message


@pytest.mark.parametrize(
    "fault",
    [
        line(3, [(300, 700), (600, 800)], "fault"),
        line(3, [(300, 300), (600, 800)], "fault"),
        line(3, [(-50, 200), (1050, 300)], "fault"),
    ],
)
def test_a_fault_may_end_in_a_unit_or_run_through_it(fault: Feature) -> None:
    rules = {f.rule for f in found(*SOUND, fault)}
    assert not rules & {"dangle", "near_miss", "crossing"}


def test_a_fault_that_misses_by_a_hair_is_told() -> None:
    fault = line(3, [(400, 800), (400, 524)], "fault")
    finding = only(found(*SOUND, fault), "near_miss")
    assert finding.severity == "warning"
    assert finding.fix is not None
    # The vertex that is there is taken to the last bit.
    assert finding.fix.place == (400, 520)


def test_ends_below_a_cover_and_at_concealed_lines_are_none() -> None:
    hidden = line(3, [(400, 520), (450, 600), (500, 750)], stretches=(Stretch(1, 2, "concealed"),))
    assert not [f for f in found(*SOUND, hidden) if f.rule == "dangle"]
    under = line(4, [(300, 800), (600, 800)], certainty="concealed")
    meets = line(3, [(400, 520), (450, 800)])
    assert not [f for f in found(*SOUND, under, meets) if f.rule == "dangle"]


def test_a_band_is_met_at_its_margin() -> None:
    from orvik.core.features.band import Band

    dyke = line(4, [(0, 800), (1000, 800)], "dyke", band=Band(40.0))
    assert not [f for f in found(*SOUND, dyke, line(3, [(400, 520), (400, 780)])) if f.rule == "dangle"]
    assert [f for f in found(*SOUND, dyke, line(3, [(400, 520), (400, 700)])) if f.rule == "dangle"]


def test_faces_with_no_tag_or_with_two() -> None:
    told = found(SQUARE, ACROSS, NORTH)
    finding = only(told, "untagged")
    assert shapely.Polygon([(0, 0), (1000, 0), (1000, 500), (400, 520), (0, 500)]).contains(shapely.Point(finding.at))
    assert finding.fix is not None
    assert finding.fix.kind == "tag"
    two = only(found(*SOUND, tag(3, 700, 100, "Jh")), "two_tags")
    assert two.features == (("points", 2), ("points", 3))
    # Two tags of one unit agree.
    assert found(*SOUND, tag(3, 700, 100, "Kp")) == []


def test_the_sea_needs_no_tag_but_an_island_does() -> None:
    shore = line(3, [(0, 200), (500, 260), (1000, 200)], "shoreline")
    sea_below = (SQUARE, shore, tag(1, 500, 900, "Qt"))
    assert found(*sea_below) == []
    island = line(4, [(400, 100), (450, 100), (450, 150), (400, 100)], "shoreline")
    assert only(found(*sea_below, island), "untagged")


def test_slivers_by_width_and_by_area_on_the_sheet() -> None:
    """0.3 mm at 1:25 000 are 7.5 m."""
    beside = line(3, [(0, 505), (400, 525), (1000, 505)])
    assert "wide" in only([f for f in found(*SOUND, beside) if f.rule != "doubled"], "sliver").message
    wider = line(3, [(0, 520), (400, 540), (1000, 520)])
    assert not [f for f in found(*SOUND, wider, tag(3, 500, 525, "Jh")) if f.rule == "sliver"]
    finer = SurveyContext(UNITS, SETTING.scales.__class__(5_000, 1_000), 1.0, SETTING.bounding)
    assert not [f for f in found(*SOUND, beside, tag(3, 500, 518, "Jh"), setting=finer) if f.rule == "sliver"]


def test_the_same_unit_on_both_sides() -> None:
    finding = only(found(SQUARE, ACROSS, NORTH, tag(2, 500, 100, "Qt")), "same_unit")
    assert "Qt lies on both sides of contact 2" in finding.message
    fault = ACROSS.changed(kind="fault")
    assert not [f for f in found(SQUARE, fault, NORTH, tag(2, 500, 100, "Qt")) if f.rule == "same_unit"]


def bedding(number: int, x: float, y: float, strike: float, dip: float, kind: str = "bedding") -> Feature:
    return Feature("points", shapely.Point(x, y), kind, id=number, azimuth=strike, inclination=dip)


def test_beds_that_dip_towards_the_older_unit() -> None:
    """Kp (2nd in the column) lies south of Jh (4th); beds dip north, so Jh would lie upon Kp."""
    base = (SQUARE, ACROSS, tag(1, 500, 900, "Jh"), tag(2, 500, 100, "Kp"))
    north = (bedding(11, 500, 650, 270, 30), bedding(12, 500, 400, 275, 40))
    finding = only(found(*base, *north), "order")
    assert "from the younger Kp to the older Jh" in finding.message
    # Dipping south they are in order; on one side alone, or overturned, they say nothing.
    south = (bedding(11, 500, 650, 90, 30), bedding(12, 500, 400, 95, 40))
    assert found(*base, *south) == []
    assert found(*base, north[0]) == []
    turned = tuple(f.changed(kind="overturned_bedding") for f in north)
    assert found(*base, *turned) == []
    # Across the strike they are an angular unconformity, which the trade knows.
    across = (bedding(11, 500, 650, 180, 30), bedding(12, 500, 400, 185, 40))
    assert found(*base, *across) == []


def test_tags_off_the_sheet_and_lines_drawn_too_coarsely() -> None:
    told = found(*SOUND, tag(3, 1200, 500, "Jh"))
    assert only(told, "outside").features == (("points", 3),)
    coarse = only(found(SQUARE, ACROSS.changed(capture_scale=25_000), NORTH, SOUTH), "coarse")
    assert "1:25 000" in coarse.message.replace("\u2009", " ")
    assert found(SQUARE, ACROSS.changed(capture_scale=6_250), NORTH, SOUTH) == []
    # The border is typed; where the view stood when it was says nothing.
    assert found(SQUARE.changed(capture_scale=100_000), ACROSS, NORTH, SOUTH) == []
    assert only(found(*SOUND, area(1, shapely.box(0, 0, 9, 9), "Kp", capture_scale=9_000)), "coarse")


def test_doubled_and_crossing_lines() -> None:
    twin = line(3, [(0, 501), (400, 521), (1000, 501)])
    doubled = only(found(*SOUND, twin), "doubled")
    assert doubled.fix is not None
    assert doubled.fix.kind == "delete"
    part = line(3, [(100, 505), (400, 520), (700, 510)])
    assert only(found(*SOUND, part), "doubled").features[0] == ("lines", 3)
    crossing = line(3, [(500, 0), (520, 1000)])
    finding = only(found(*SOUND, crossing), "crossing")
    assert finding.fix is not None
    assert finding.fix.kind == "cut"
    at = shapely.Point(finding.at)
    assert max(at.distance(ACROSS.geometry), at.distance(crossing.geometry)) < 1e-9
    # With a vertex in common they are meant to.
    meant = line(3, [(400, 0), (400, 520), (420, 1000)])
    assert not [f for f in found(*SOUND, meant) if f.rule == "crossing"]


def test_findings_are_in_order_and_keep_their_key() -> None:
    told = found(SQUARE, ACROSS.changed(capture_scale=25_000), NORTH, line(3, [(400, 520), (500, 750)]))
    assert [f.severity for f in told] == sorted(f.severity for f in told)
    assert [f.key for f in told] == [
        f.key for f in found(SQUARE, ACROSS.changed(capture_scale=25_000), NORTH, line(3, [(400, 520), (500, 750)]))
    ]
    assert set(told[0].json) == {"rule", "severity", "message", "at", "features", "units", "parts", "spot", "fix"}


def test_areas_that_lie_over_one_another() -> None:
    west, east = area(1, shapely.box(0, 0, 500, 1000), "Kp"), area(2, shapely.box(500, 0, 1000, 1000), "Jh")
    assert found(west, east) == []
    over = area(3, shapely.box(450, 400, 600, 500), "Qt")
    told = [f for f in found(west, east, over) if f.rule == "overlap"]
    assert [f.features for f in told] == [(("areas", 3), ("areas", 1)), (("areas", 3), ("areas", 2))]
    assert told[0].severity == "error"
    assert "5\u2009000 m²" in told[0].message
    # Custom kinds may lie over units as they like.
    assert found(west, over.changed(kind="peat")) == []


def test_areas_that_are_faces_as_they_stand_are_looked_at_where_one_lies_over_them() -> None:
    """The same pairs as shapely's overlaps and containments, among faces, copies of faces and areas across them."""
    faces = survey(*SOUND).faces.polygons
    standing = [area(i, polygon, "Kp") for i, polygon in enumerate(faces, 1)]
    more = [
        [],
        [area(90, faces[0], "Jh")],
        [area(90, shapely.box(300, 300, 700, 700), "Jh")],
        [area(90, shapely.affinity.translate(faces[0], 3.0, 0.0), "Jh")],
    ]
    for others in more:
        areas = [*standing, *others]
        told = {tuple(sorted(i for _, i in f.features)) for f in found(*SOUND, *areas) if f.rule == "overlap"}
        pairs = {
            (a.id, b.id)
            for a in areas
            for b in areas
            if (a.id or 0) < (b.id or 0) and shapely.intersection(a.geometry, b.geometry).area > 1.0
        }
        assert told == pairs


def test_overlaps_follow_the_areas_that_change() -> None:
    west, over = area(1, shapely.box(0, 0, 500, 1000), "Kp"), area(3, shapely.box(450, 400, 600, 500), "Qt")
    made = survey(west, over)
    assert [f.rule for f in made.findings] == ["overlap"]
    made.update([over.changed(geometry=shapely.box(500, 400, 600, 500))])
    assert made.findings == []
    made.update([area(4, shapely.box(0, 0, 100, 100), "Jh")])
    assert [f.features for f in made.findings] == [(("areas", 4), ("areas", 1))]
    made.update([], [("areas", 1)])
    assert made.findings == []
