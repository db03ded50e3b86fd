"""Readings as geologists write them: a table of notations with their meaning, and of what is refused and why.

Common practice, no source; the right-hand rule: a plane dips to the right of its strike.
"""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.errors import ReadingRefused
from orvik.core.features.kind import KINDS, kind_of
from orvik.core.features.reading import parse_bearing, parse_dip, parse_reading, parse_strike

# Each line: strike and dip as they are kept, then notations that mean it, parted by two spaces or more.
PLANES = """
350/60   350/60  350 60  350,60  350;60  350-60  350°/60°  350º/60º  350˚ 60˚  350 / 60  350/60E  350/60NE  350 60 E
350/60   N10W 60E  N10W60E  N10W/60E  N10°W 60°E  N 10 W 60 NE  n10w 60ne  S10E 60E  S10E/60NE  N10W, 60 E  N10W-60E
350/60   350/60 to E  350/60 to the NE  strike 350 dip 60  Strike 350, dip 60 E  60→080  60->080  60 => 080  60 > 080
350/60   60 to 080  dips 60 towards 080  60→N80E  170/60E  170/60NE  ３５０／６０  Ｎ１０Ｗ６０Ｅ  350:60  350|60
045/30   045/30SE  045/30  45/30  045-30  045–30  045 30 SE  045/30 SE
045/30   N45E 30SE  N45E30SE  N45E/30S  N45E/30E  NE 30 SE
045/30   NE-SW 30 SE  SW-NE/30SE  S45W 30SE  225/30SE  30→135  30→SE  30→S45E  dip 30 to SE  045,30  045/30 dipping SE
225/30   045/30NW  N45E 30NW  NE 30 NW  225/30  NE-SW/30 NW  30→315  30→NW  045/30N  045/30W  S45W 30W
270/30   E-W 30N  EW 30N  E-W/30N  E W 30 N  W-E 30N  090/30N  90/30 N  N90E 30N  S90W 30 N  30→N  30→000  30→360
090/30   E-W 30S  EW 30 S  090/30  90/30  270/30S  30→180  30→S  WE 30S
180/30   N-S/30W  NS 30W  S-N 30 W  180/30  000/30W  N-S 30 NW  0/30W  30→270  360/30W  N0E 30W
000/60   NS 60E  N-S 60 E  000/60  0/60  360/60  180/60E  60→090  60→E  N0W 60 E
045/90   N45E vert  N45E vertical  N45E V  N45E/90  045/90  045 vert
045/90   045/vertical  NE vert  NE-SW 90  045/90SE  NE upright
000/0    horizontal  horiz  horiz.  flat  level  H  000/0  0/0  N-S 0  360/0
012.5/30.5  012.5/30.5  12,5/30,5  12.5 30.5  N12.5E 30.5 SE  30.5→102.5
085/80   085/80  85/80  N85E 80S  N85E80SE  80→175  265/80S
005/66   005/66  5/66  5 66  N5E 66E  N5E 66SE  66→095
112.5/20  ESE 20 SSW  112.5/20  WNW 20 S
"""
LINES = """
120/30   120/30  120 30  30→120  30->120  S60E 30  S60E/30  S60E 30 SE
120/30   N60W 30 SE  30→S60E  120-30  300/30SE  trend 120 plunge 30
060/20   N60E 20  060/20  60/20  20→060  N60E 20 NE  20→N60E
045/20   NE-SW 20 NE  NE 20
000/90   000/90
"""


def notations(table: str) -> list[tuple[str, str]]:
    out = []
    for row in table.strip().splitlines():
        meaning, *written = [piece for piece in row.split("  ") if piece.strip()]
        out += [(meaning.strip(), text.strip()) for text in written]
    return out


def test_there_are_enough_of_them() -> None:
    assert len(notations(PLANES)) + len(notations(LINES)) >= 150


@pytest.mark.parametrize(("meaning", "text"), notations(PLANES))
def test_planes(meaning: str, text: str) -> None:
    assert parse_reading(text).text == meaning


@pytest.mark.parametrize(("meaning", "text"), notations(LINES))
def test_lines(meaning: str, text: str) -> None:
    assert parse_reading(text, kind="lineation").text == meaning


@pytest.mark.parametrize(
    ("text", "hint"),
    [
        ("N10W 60N", "dips to E or W"),
        ("045/30NE", "dips to SE or NW"),
        ("045/30SW", "dips to SE or NW"),
        ("E-W 30E", "contradicts itself"),
        ("N45E 30 NE", "contradicts itself"),
        ("N10W 60", "add E or W"),
        ("E-W 30", "add S or N"),
        ("NE 40", "add SE or NW"),
        ("60/080", "60→080"),
        ("60/120", "60→120"),
        ("30-120", "30→120"),
        ("N10W", "lacks a dip"),
        ("vert", "lacks a strike"),
        ("vertical", "lacks a strike"),
        ("N95W 60E", "at most 90"),
        ("400/30", "not a direction"),
        ("350/95", "not possible"),
        ("350/-60", "not a reading"),
        ("-10/30", "not a reading"),
        ("045/30/60", "not a reading"),
        ("abc", "not a reading"),
        ("", "Type a reading"),
        ("350", "not a reading"),
        ("350/", "not a reading"),
        ("/60", "not a reading"),
        ("04530", "not a reading"),
        ("1e2/30", "not a reading"),
        ("nan/30", "not a reading"),
        ("045,5,30", "two things"),
        ("5/066", "5→066"),
        ("30→400", "not a direction"),
        ("95→080", "not possible"),
        ("N10W 60 X", "not a reading"),
        ("9" * 5000 + "/30", "not a reading"),
        ("60 NE", "not a reading"),
        ("045/30 or 40", "not a reading"),
    ],
)
def test_what_is_refused_says_what_could_be_meant(text: str, hint: str) -> None:
    with pytest.raises(ReadingRefused, match=hint):
        parse_reading(text)


def test_a_line_whose_end_is_not_said_is_asked_for() -> None:
    with pytest.raises(ReadingRefused, match="add NE or SW"):
        parse_reading("NE-SW 20", kind="lineation")
    with pytest.raises(ReadingRefused, match="does not plunge"):
        parse_reading("N60E 20 NW", kind="lineation")


def test_the_first_figure_may_be_the_dip_direction() -> None:
    assert parse_reading("080/60", dip_direction=True).text == "350/60"
    assert parse_reading("080/60E", dip_direction=True).text == "350/60"
    assert parse_reading("N10W 60E", dip_direction=True).text == "350/60"
    with pytest.raises(ReadingRefused, match="says twice"):
        parse_reading("080/60W", dip_direction=True)


def test_every_plane_is_read_the_same_in_every_notation() -> None:
    """Random planes, written in eight ways and read back."""
    rng = np.random.default_rng(3)
    for _ in range(2000):
        strike, dip = int(rng.integers(0, 360)), int(rng.integers(1, 90))
        down = (strike + 90) % 360
        side = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")[round(down / 45) % 8]
        quadrant, turn = _quadrant(strike)
        back, back_turn = _quadrant((strike + 180) % 360)
        for text in (
            f"{strike:03d}/{dip}",
            f"{strike:03d}/{dip}{side}",
            f"{(strike + 180) % 360:03d}/{dip}{side}",
            f"{dip}→{down:03d}",
            f"{quadrant[0]}{turn}{quadrant[1]} {dip}{side}",
            f"{back[0]}{back_turn}{back[1]}{dip}{side}",
        ):
            read = parse_reading(text)
            assert (read.azimuth, read.inclination) == (strike, dip), text


def _quadrant(azimuth: int) -> tuple[str, int]:
    if azimuth <= 90:
        return "NE", azimuth
    if azimuth <= 180:
        return "SE", 180 - azimuth
    if azimuth <= 270:
        return "SW", azimuth - 180
    return "NW", 360 - azimuth


DIRECTIONS_ALONE = sorted(name for name, kind in KINDS.items() if kind.reading in ("strike", "trend"))


@pytest.mark.parametrize("kind", DIRECTIONS_ALONE)
@pytest.mark.parametrize("dip_direction", [False, True])
def test_a_direction_alone_is_that_of_the_reading_with_a_dip(kind: str, dip_direction: bool) -> None:
    """All round the compass: what is read without a dip points where the same reading with one points."""
    with_dip = "lineation" if kind_of(kind).linear else "bedding"
    for degrees in range(0, 360, 5):
        text = f"{degrees:03d}"
        found = parse_reading(text, dip_direction, kind)
        whole = parse_reading(f"{text}/45", dip_direction, with_dip)
        assert found.azimuth == whole.azimuth, text
        assert found.inclination is None
        if kind_of(kind).linear:
            assert found.azimuth == degrees
            continue
        # By the right-hand rule the plane dips a quarter turn clockwise of its strike.
        assert found.azimuth == ((degrees - 90) % 360 if dip_direction else degrees)
        down = (degrees + 90) % 360
        side = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")[round(down / 45) % 8]
        assert parse_reading(f"{text}{side}", False, kind).azimuth == degrees
        opposite = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")[(round(down / 45) + 4) % 8]
        assert parse_reading(f"{text}{opposite}", False, kind).azimuth == (degrees + 180) % 360


POINTS = ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")


def between(one: float, other: float) -> float:
    """The angle between two directions, by their vectors."""
    a, b = np.radians([one, other])
    return float(np.degrees(np.arccos(np.clip(np.cos(a) * np.cos(b) + np.sin(a) * np.sin(b), -1, 1))))


@pytest.mark.parametrize("kind", ["bedding", "lineation"])
def test_letters_decide_between_the_two_sides_all_round_the_compass(kind: str) -> None:
    """A point of the compass names a quarter of it: what lies within 45 degrees goes there, else nothing does."""
    turned = 0 if kind == "lineation" else 90
    for degrees in range(0, 360, 3):
        for i, point in enumerate(POINTS):
            ways = [d for d in (degrees, (degrees + 180) % 360) if between(d + turned, 22.5 * i) <= 45 + 1e-6]
            for text in (f"{degrees:03d}/40{point}", f"{degrees:03d} 40 to the {point}"):
                if ways:
                    read = parse_reading(text, kind=kind)
                    assert (read.azimuth, read.inclination, read.linear) == (ways[0], 40, kind == "lineation"), text
                else:
                    with pytest.raises(ReadingRefused, match="contradicts itself"):
                        parse_reading(text, kind=kind)


@pytest.mark.parametrize("point", POINTS)
def test_a_dip_towards_a_point_of_the_compass(point: str) -> None:
    direction = 22.5 * POINTS.index(point)
    assert parse_reading(f"30→{point}").azimuth == (direction - 90) % 360
    assert parse_reading(f"30→{point}", kind="lineation").azimuth == direction
    assert parse_reading(f"30 to {point}").inclination == 30
    for degrees in range(0, 360, 7):
        if between(direction, degrees) <= 45:
            read = parse_reading(f"{degrees:03d}/30{point}", dip_direction=True)
            assert read.azimuth == (degrees - 90) % 360
        elif abs(between(direction, degrees) - 45) > 1e-6:
            with pytest.raises(ReadingRefused, match="says twice"):
                parse_reading(f"{degrees:03d}/30{point}", dip_direction=True)


def test_planes_that_dip_to_no_side_keep_the_strike_that_was_written() -> None:
    assert parse_reading("045/90").text == "045/90"
    assert parse_reading("225/90").text == "225/90"
    # Letters turn it round where they say a side, and contradict nothing where they do not.
    assert parse_reading("225/90SE").text == "045/90"
    assert parse_reading("225/90NE").text == "225/90"
    assert parse_reading("045/0NW").text == "225/0"
    assert parse_reading("E-W vert").text == "090/90"
    assert parse_reading("NE-SW 20 SW", kind="lineation").text == "225/20"
    assert parse_reading("N-S 90", kind="lineation").text == "000/90"
    assert parse_reading("N-S 0", kind="lineation").text == "000/0"


@pytest.mark.parametrize(
    ("text", "value", "is_side"),
    [("315", 315, False), ("360", 0, False), ("0", 0, False), ("N10W", 350, False), ("S10W", 190, False)]
    + [("S90E", 90, False), ("N90W", 270, False), ("nw", 315, True), ("sse", 157.5, True), ("12,5°", 12.5, False)],
)
def test_bearings(text: str, value: float, is_side: bool) -> None:
    assert parse_bearing(text) == (value, is_side)


@pytest.mark.parametrize(
    ("text", "value", "counts"),
    [("E-W", 90, False), ("W-E", 90, False), ("N-S", 0, False), ("S-N", 0, False), ("EW", 90, False)]
    + [("NE-SW", 45, False), ("SW-NE", 45, False), ("NW-SE", 135, False), ("SE-NW", 135, False)]
    + [("N10W", 350, False), ("190", 190, True), ("NE", 45, False), ("360", 0, True)],
)
def test_strikes(text: str, value: float, counts: bool) -> None:
    assert parse_strike(text) == (value, counts)


@pytest.mark.parametrize(
    ("text", "dip", "side"),
    [("30", 30, ""), ("30 SE", 30, "SE"), ("30SSE", 30, "SSE"), ("vert", 90, ""), ("V", 90, ""), ("flat", 0, "")]
    + [("30 to the N", 30, "N"), ("12.5/W", 12.5, "W"), ("dips 45 E", 45, "E"), ("horiz.", 0, "")],
)
def test_dips(text: str, dip: float, side: str) -> None:
    assert parse_dip(text) == (dip, side)


def test_neither_bearing_strike_nor_dip() -> None:
    for text in ("", "x", "N91W", "361", "30 60", "NE SW"):
        with pytest.raises(ReadingRefused):
            parse_bearing(text)
        with pytest.raises(ReadingRefused):
            parse_strike(text)
    for text in ("", "SE 30", "30/60", "-3", "30 X"):
        with pytest.raises(ReadingRefused):
            parse_dip(text)


def test_two_meanings_are_told_with_the_way_to_write_each() -> None:
    with pytest.raises(
        ReadingRefused,
        match=r"dip 60 towards 080, which is written 60→080, or strike 060 and 80, which is written 060/80;",
    ):
        parse_reading("60/080")
    with pytest.raises(
        ReadingRefused, match=r"plunge 5 towards 090, which is written 5→090, or trend 005 and 90, which"
    ):
        parse_reading("5/090", kind="lineation")
    # No plane dips by more than 90: then there is one meaning alone.
    with pytest.raises(ReadingRefused, match=r"dip 60 towards 091, which is written 60→091; type"):
        parse_reading("60/091")
    assert parse_reading("060/080").text == "060/80"
