"""What the demo says of its map around it: its imprint, its neighbours by name, and what it was compiled from."""

from __future__ import annotations

from shapely.geometry.base import BaseGeometry

from orvik.core.joins.neighbour import Neighbour
from orvik.core.pictures.source import IMPORTED, Source
from orvik.core.sheet.page.imprint import Imprint
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.tables.imprint import imprint_change
from orvik.store.tables.neighbours import neighbour_change

# What the map was compiled from; the underlays are the sources before them.
FIRST_ORIGIN = 4
ORIGINS = (
    ("Field sheets", "Quill, field sheets 1 to 3, 1:10\u2009000, 2024"),
    ("Thesis map", "Tarn, thesis map, 1:12\u2009500, 2019"),
    ("Aerial pictures", "Island survey, aerial pictures, 1:12\u2009500, 2022"),
)
NEIGHBOURS = (
    ("Sund", "11", "nw"),
    ("Sule Bay", "12", "n"),
    ("North Stack", "13", "ne"),
    ("Wray", "21", "w"),
    ("The Skerries", "23", "e"),
    ("Tolla", "31", "sw"),
    ("Carn Sound", "32", "s"),
    ("Outer Stills", "33", "se"),
)
IMPRINT = Imprint(
    title="Geologic map of Harrack Head",
    subtitle="Isle of Quennet, with two sections",
    authors="H. Quill and M. Tarn",
    editor="S. Brae",
    day="2026-07-02",
    edition="Second edition",
    publisher="Survey of Quennet",
    series="Survey of Quennet, quadrangle map",
    number="22",
    identifier="QS-22-2026",
    base="island survey, heights on a 5 m grid, 2022",
    reviewers="S. Brae and O. Linklet",
    approved_by="T. Gannet",
    approved_on="2026-07-20",
    licence="Licence: CC BY 4.0",
    disclaimer="Invented geology, drawn from a fixed random seed; not for navigation.",
)


def name_origins(project: Project) -> None:
    """What the map was compiled from, beside its underlays."""
    named = [
        rows.source_change(Source(IMPORTED, name, credit=credit, position=FIRST_ORIGIN + i))
        for i, (name, credit) in enumerate(ORIGINS)
    ]
    project.apply("name three sources", named)


def origin_of(geometry: BaseGeometry) -> int:
    """The number of the source of a feature: the south from pictures, the north from sheets and a thesis."""
    west, south, east, north = BORDER
    x, y = (geometry.centroid.x - west) / (east - west), (geometry.centroid.y - south) / (north - south)
    return FIRST_ORIGIN + (2 if y < 0.42 + 0.16 * abs(x - 0.45) else 0 if x < 0.52 else 1)


def name_around(project: Project) -> None:
    """What is said of the map around it, and its neighbours by name."""
    project.apply("name the neighbouring sheets", [neighbour_change(Neighbour(*named)) for named in NEIGHBOURS])
    project.apply("set the imprint of the map", [imprint_change(IMPRINT)])
