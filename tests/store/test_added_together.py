"""Rows that are added together stand as rows that were added one by one."""

from __future__ import annotations

import random
import shutil
import sqlite3
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import ProjectRefused
from orvik.store import journal
from orvik.store.geometry import encoded
from orvik.store.journal import Change, Made
from orvik.store.project import Project, opened_for_writing
from tests.examples import SEED


def any_changes(project: Project, draw: random.Random) -> list[Change]:
    """Runs of rows with the same columns or others, with numbers of rows before them, and rows that go again."""
    out: list[Change] = []
    sources: list[int] = []
    points: list[int] = []
    for _ in range(draw.randint(2, 12)):
        what = draw.random()
        if what < 0.3:
            for _ in range(draw.randint(1, 5)):
                sources.append(len(out))
                named = {"kind": "imported", "name": f"File {len(out)}", "crs": "EPSG:4326"}
                out.append(Change("sources", None, named))
        elif what < 0.8:
            for _ in range(draw.randint(1, 30)):
                at = shapely.Point(draw.uniform(510_000, 511_000), draw.uniform(6_800_000, 6_801_000))
                values = {"geom": encoded(at, project.srs_id), "kind": "bedding", "azimuth": draw.uniform(0, 360)}
                if draw.random() < 0.2:
                    values["note"] = draw.choice(["", "seen from afar", "ö"])
                if sources and draw.random() < 0.7:
                    values["source_id"] = Made(draw.choice(sources))
                points.append(len(out))
                out.append(Change("points", None, values))
        elif points:
            gone = points.pop(draw.randrange(len(points)))
            out.append(Change("points", Made(gone), draw.choice([None, {"note": "moved"}])))
    return out


@pytest.mark.parametrize("seed", range(SEED, SEED + 12))
def test_together_as_one_by_one(project: Project, tmp_path: Path, seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    changes = any_changes(project, random.Random(seed))
    project.close()
    written = []
    for name, together in (("one", 1), ("together", 7), ("all", 200)):
        path = Path(shutil.copy(project.path, tmp_path / f"{name}.gpkg"))
        monkeypatch.setattr(journal, "TOGETHER", together)
        with opened_for_writing(path) as copy:
            entry = copy.apply("many", changes)
        with sqlite3.connect(path) as file:
            rows = [file.execute(f"SELECT * FROM {table} ORDER BY id").fetchall() for table in ("points", "sources")]
            numbers = file.execute("SELECT name, seq FROM sqlite_sequence ORDER BY name").fetchall()
            boxes = file.execute("SELECT * FROM rtree_points_geom ORDER BY id").fetchall()
        written.append((rows, numbers, boxes, entry.changes))
    assert written[0][3]
    assert written[0] == written[1] == written[2]


def test_a_row_that_names_one_of_its_own_run_is_added_after_it(project: Project) -> None:
    units = [Change("sources", None, {"kind": "imported", "name": "A", "crs": ""}) for _ in range(3)]
    named = [
        Change("sources", None, {"kind": "imported", "name": "B", "crs": "", "file": Made(place)}) for place in (0, 3)
    ]
    entry = project.apply("a chain", [*units, *named])
    ids = [change.id for change in entry.changes]
    assert [change.after["file"] for change in entry.changes[3:] if change.after] == [str(ids[0]), str(ids[3])]


@pytest.mark.parametrize("count", [1, 3])
def test_a_table_whose_numbers_are_used_up_is_refused_in_words(project: Project, count: int) -> None:
    project.close()
    with sqlite3.connect(project.path) as file:
        file.execute("UPDATE sqlite_sequence SET seq = 9223372036854775807 WHERE name = 'points'")
    at = encoded(shapely.Point(510_500, 6_800_500), project.srs_id)
    with opened_for_writing(project.path) as full:
        before = full.count("points")
        with pytest.raises(ProjectRefused, match="cannot be written"):
            full.apply("more", [Change("points", None, {"geom": at, "kind": "bedding"})] * count)
        assert full.count("points") == before
