"""Notebook tables: columns by many names, readings in many forms, doubles found."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.errors import FileRefused
from orvik.core.features.feature import Feature
from orvik.core.features.station_table import MOST_ROWS, Doubles, Station, Table, decoded, logged, read_table
from orvik.core.ground.crs import ProjectCrs


def read(crs: ProjectCrs, text: str, known: tuple[Station, ...] = ()) -> Table:
    return read_table(text, crs, known, 25.0)


def test_columns_by_their_names_and_separators(crs: ProjectCrs) -> None:
    for head, sep in (
        ("Station,Easting,Northing,Strike,Dip", ","),
        ("stop;X;Y;Azimuth;Inclination", ";"),
        ("id\teast\tnorth\tstrike\tdip", "\t"),
    ):
        table = read(crs, "\ufeff" + "\n".join([head, sep.join(["A1", "513000.5", "6802000", "350", "60"]), ""]))
        assert table.new == (Station("A1", 513_000.5, 6_802_000.0, "bedding", 350.0, 60.0),)


def test_degrees_dip_directions_and_readings_in_words(crs: ProjectCrs) -> None:
    text = "name,lon,lat,kind,dip direction,dip,notes\nB1,-14.75,61.35,Foliation,080,60,slaty\n"
    (station,) = read(crs, text).new
    longitude, latitude = crs.to_geographic(station.x, station.y)
    assert (float(longitude), float(latitude)) == pytest.approx((-14.75, 61.35))
    assert (station.kind, station.azimuth, station.inclination, station.note) == ("foliation", 350, 60, "slaty")
    text = (
        "name,x,y,type,reading\nC1,513000,6802000,bedding,N10W 60E\nC2,513100,6802000,lineation,120/30\n"
        "C3,513200,6802000,,\n"
    )
    stations = read(crs, text).new
    assert [s.reading for s in stations] == ["350/60", "120/30", ""]
    assert [s.kind for s in stations] == ["bedding", "lineation", "bedding"]


def test_rows_that_cannot_be_read_are_told_and_the_others_kept(crs: ProjectCrs) -> None:
    text = "name,x,y,strike,dip\nA,513000,6802000,350,60\nB,here,6802000,350,60\nC,513000,6802500,400,60\nD,9,9,1,2\n"
    table = read(crs, text)
    assert [s.name for s in table.new] == ["A"]
    assert [n for n, _ in table.refused] == [3, 4, 5]
    assert "not a direction" in table.refused[1][1]


def test_doubles_in_the_table_and_with_what_is_there(crs: ProjectCrs) -> None:
    known = (Station("201", 513_000.0, 6_802_000.0, "bedding", 350.0, 60.0, id=1),)
    text = (
        "name,x,y,strike,dip\n201,513000,6802000,350,60\nN7,513004,6802003,350,60\n202,514000,6802000,10,20\n"
        "202,514000,6802000,10,20\n203,513000,6802000,80,20\n"
    )
    table = read(crs, text, known)
    assert [s.name for s in table.new] == ["202", "203"]
    assert [s.name for s, _ in table.doubles] == ["201", "N7", "202"]
    assert "same reading as 201" in table.doubles[1][1]
    assert Doubles(known, 25.0).of(Station("204", 0, 0)) is None


@pytest.mark.parametrize("text", ["", "name,x,y\n", "a,b\n1,2\n", "x,z\n1,2\n"])
def test_what_is_no_table(crs: ProjectCrs, text: str) -> None:
    with pytest.raises(FileRefused):
        read(crs, text)


def test_what_logs_a_station() -> None:
    station = Station("201", 100, 100, "bedding", 359.0, 60.0, id=1)
    point = Feature("points", shapely.Point(110, 100), "bedding", id=9, azimuth=0.5, inclination=61.0)
    assert logged(station, [point], 25) == 9
    assert logged(station, [point.changed(kind="joint")], 25) is None
    assert logged(station, [point.changed(inclination=70.0)], 25) is None
    assert logged(station, [point.changed(geometry=shapely.Point(200, 100))], 25) is None
    # The one that was kept for it stays its own, wherever it was moved.
    own = Station("201", 100, 100, "bedding", 359.0, 60.0, id=1, point_id=9)
    assert logged(own, [point.changed(geometry=shapely.Point(200, 100), azimuth=10.0)], 25) == 9


@pytest.mark.parametrize(
    "columns",
    [
        "strike,dip,dip direction\n45,30,315",
        "strike,dip,dipdir\n45,30,NW",
        "strike,dip,dip quadrant\n45,30,NW",
        "strike,dip\nN45E,30 NW",
        "Strike (°),Dip (°),Dip dir.\n45.0,30,N45W",
        "strike,dip\n225,30",
    ],
)
def test_a_dip_direction_or_quadrant_says_to_which_side(crs: ProjectCrs, columns: str) -> None:
    """The same plane however its table states it; before, it was read as dipping to the other side."""
    head, row = columns.split("\n")
    (station,) = read(crs, f"name,x,y,{head}\nA,513000,6802000,{row}\n").new
    assert (station.azimuth, station.inclination) == (225.0, 30.0)


@pytest.mark.parametrize(
    ("columns", "why"),
    [
        ("strike,dip,dipdir\n45,30,45", "dips to 135 or 315"),
        ("strike,dip,quadrant\n45,30,NE", "dips to 135 or 315"),
        ("strike,dip,dipdir,quadrant\n45,30,135,NW", "dips to 135 or 315"),
        ("strike,dip\nN45E,30", "to which side"),
        ("strike,dip\n45,", "no dip"),
        ("strike,dip\n,30", "no strike"),
        ("dip,quadrant\n30,NE", "no strike"),
        ("strike,dip\nN10W40,30", "not a direction"),
        ("dipdir,dip\n400,30", "not a direction"),
        ("strike,dip\n45,steep", "not a dip"),
        ("reading,dipdir\n045/30,315", "two things"),
    ],
)
def test_what_contradicts_or_lacks_something_is_refused_by_row(crs: ProjectCrs, columns: str, why: str) -> None:
    head, row = columns.split("\n")
    table = read(crs, f"name,x,y,{head}\nA,513000,6802000,{row}\nB,514000,6802000\n")
    assert [s.name for s in table.new] == ["B"]
    ((number, sentence),) = table.refused
    assert number == 2
    assert why in sentence


@pytest.mark.parametrize(
    "word", ["xenolith", "schistosity", "axial plane", "crenulation lineation", "joint or cleavage"]
)
def test_a_kind_that_is_not_known_asks(crs: ProjectCrs, word: str) -> None:
    text = f"name,x,y,kind,strike,dip\nA,513000,6802000,{word},45,30\nB,513100,6802000,bedding,45,30\n"
    table = read(crs, text)
    assert ([s.name for s in table.new], table.asks) == (["B"], ((word, 1),))
    answered = read_table(text, crs, (), 25.0, {word: "foliation"})
    assert ([s.kind for s in answered.new], answered.asks) == (["foliation", "bedding"], ())
    assert [s.name for s in read_table(text, crs, (), 25.0, {word: "-"}).new] == ["B"]


def test_overturned_beds_stay_overturned(crs: ProjectCrs) -> None:
    text = "name,x,y,kind,strike,dip\n" + "".join(
        f"{i},{513000 + 100 * i},6802000,{word},45,30\n"
        for i, word in enumerate(["Bedding (overturned)", "overturned bedding", "Overturned"])
    )
    # A word in brackets is part of a kind, though it is none of a column's name.
    assert [s.kind for s in read(crs, text).new] == ["overturned_bedding"] * 3


@pytest.mark.parametrize(
    "text",
    [
        "name;Easting (m);Northing (m)\nA;513000,5;6802000,25\n",
        "name\tX\tY\rA\t513000.5\t6802000.25\r",
        "name|x|y\nA|513 000.5|6 802 000.25\n",
        "na\0me,x,y\nA,513000.5,6802000.25\n",
        'name,x,y\nA,"513.000,5","6.802.000,25"\n',
    ],
)
def test_tables_as_they_are_written_elsewhere(crs: ProjectCrs, text: str) -> None:
    (station,) = read(crs, text).new
    assert (station.x, station.y) == (513_000.5, 6_802_000.25)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252", "latin-1"])
def test_letters_in_any_encoding(encoding: str) -> None:
    assert decoded("Grès à chaux, Ærø".encode(encoding)) == "Grès à chaux, Ærø"


def test_doubles_are_found_without_comparing_all_with_all(crs: ProjectCrs) -> None:
    rows = [f"S{i},{510000 + 40 * (i % 100)},{6800000 + 40 * (i // 100)},{i % 360},45" for i in range(4000)]
    known = read(crs, "name,x,y,strike,dip\n" + "\n".join(rows)).new
    assert len(known) == 4000
    again = read(crs, "name,x,y,strike,dip\n" + "\n".join(rows), known)
    assert (len(again.new), len(again.doubles)) == (0, 4000)


@pytest.mark.parametrize(("count", "taken"), [(MOST_ROWS, True), (MOST_ROWS + 1, False)])
def test_a_table_is_so_long_and_no_longer(crs: ProjectCrs, count: int, taken: bool) -> None:
    table = "name,easting,northing,kind,strike,dip\n" + "".join(
        f"S{i},{512_000 + 10 * (i % 80)},{6_801_000 + 10 * (i // 80)},bedding,045,30\n" for i in range(count)
    )
    if taken:
        assert len(read_table(table, crs, [], 1.0).new) == MOST_ROWS
    else:
        with pytest.raises(FileRefused, match="has 5001 rows"):
            read_table(table, crs, [], 1.0)


@pytest.mark.parametrize("code", [*range(9), 11, 12, *range(14, 32), 127])
def test_no_control_character_comes_in_with_a_station(crs: ProjectCrs, code: int) -> None:
    """NUL among them, wherever it stands."""
    mark = chr(code)
    text = f"station,ea{mark}sting,northing,kind,strike,dip,note\n"
    text += f"A{mark}1,513{mark}000,6802000,bed{mark}ding,340,3{mark}0,a{mark}b\n"
    (station,) = read_table(text, crs, [], 10.0).new
    assert (station.name, station.x, station.kind, station.note) == ("A1", 513_000.0, "bedding", "ab")
    assert (station.azimuth, station.inclination) == (340.0, 30.0)
