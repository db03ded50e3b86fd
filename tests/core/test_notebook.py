"""Notebook tables: columns by many names, readings in many forms, doubles found."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.crs import ProjectCrs
from orvik.core.errors import FileRefused
from orvik.core.feature import Feature
from orvik.core.notebook import Station, Table, double_of, logged, read_table


def read(crs: ProjectCrs, text: str, known: tuple[Station, ...] = ()) -> Table:
    return read_table(text, crs, known, 25.0)


def test_columns_by_their_names_and_separators(crs: ProjectCrs) -> None:
    for head, sep in (("Station,Easting,Northing,Strike,Dip", ","), ("stop;X;Y;Azimuth;Inclination", ";"), ("id\teast\tnorth\tstrike\tdip", "\t")):
        table = read(crs, "\ufeff" + "\n".join([head, sep.join(["A1", "513000.5", "6802000", "350", "60"]), ""]))
        assert table.new == (Station("A1", 513_000.5, 6_802_000.0, "bedding", 350.0, 60.0),)


def test_degrees_dip_directions_and_readings_in_words(crs: ProjectCrs) -> None:
    text = "name,lon,lat,kind,dip direction,dip,notes\nB1,-14.75,61.35,Cleavage,080,60,slaty\n"
    (station,) = read(crs, text).new
    longitude, latitude = crs.to_geographic(station.x, station.y)
    assert (float(longitude), float(latitude)) == pytest.approx((-14.75, 61.35))
    assert (station.kind, station.azimuth, station.inclination, station.note) == ("foliation", 350, 60, "slaty")
    text = "name,x,y,type,reading\nC1,513000,6802000,bedding,N10W 60E\nC2,513100,6802000,lineation,120/30\nC3,513200,6802000,,\n"
    stations = read(crs, text).new
    assert [s.reading for s in stations] == ["350/60", "120/30", ""]
    assert [s.kind for s in stations] == ["bedding", "lineation", "bedding"]


def test_rows_that_cannot_be_read_are_told_and_the_others_kept(crs: ProjectCrs) -> None:
    text = "name,x,y,strike,dip\nA,513000,6802000,350,60\nB,here,6802000,350,60\nC,513000,6802500,400,60\nD,9,9,1,2\n"
    table = read(crs, text)
    assert [s.name for s in table.new] == ["A"]
    assert [n for n, _ in table.refused] == [3, 4, 5]
    assert "no direction" in table.refused[1][1]


def test_doubles_in_the_table_and_with_what_is_there(crs: ProjectCrs) -> None:
    known = (Station("201", 513_000.0, 6_802_000.0, "bedding", 350.0, 60.0, id=1),)
    text = "name,x,y,strike,dip\n201,513000,6802000,350,60\nN7,513004,6802003,350,60\n202,514000,6802000,10,20\n202,514000,6802000,10,20\n203,513000,6802000,80,20\n"
    table = read(crs, text, known)
    assert [s.name for s in table.new] == ["202", "203"]
    assert [s.name for s, _ in table.doubles] == ["201", "N7", "202"]
    assert "same reading as 201" in table.doubles[1][1]
    assert double_of(Station("204", 0, 0), known, 25.0) is None


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
