"""Readings alone are those of all points that have an azimuth, also where another program has left what is no point."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import shapely

from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.store.creation import create
from orvik.store.geometry import add_functions
from orvik.store.read_project import opened_for_reading


def test_they_are_the_points_with_an_azimuth(demo: Path) -> None:
    for broken in (False, True):
        if broken:
            with closing(sqlite3.connect(demo)) as other:
                add_functions(other)
                other.execute(
                    "UPDATE points SET kind = '' WHERE id = (SELECT min(id) FROM points WHERE azimuth IS NOT NULL)"
                )
                other.commit()
        with opened_for_reading(demo) as project:
            every, found = project.features("points"), project.readings()
        wanted = [i for i, azimuth in enumerate(every.columns["azimuth"]) if azimuth is not None]
        assert found.ids.tolist() == every.ids[wanted].tolist()
        assert shapely.equals_exact(found.geometries, every.geometries[wanted]).all()
        for name in ("kind", "map_unit", "azimuth", "inclination"):
            assert found.columns[name] == [every.columns[name][i] for i in wanted]


def test_without_readings_there_are_none(tmp_path: Path) -> None:
    create(tmp_path / "empty.gpkg", "Empty", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with opened_for_reading(tmp_path / "empty.gpkg") as project:
        assert len(project.readings()) == 0
