"""A project file that is replaced, deleted or copied over while open, or after a crash, is never mixed with another."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import ProjectRefused
from orvik.core.features.feature import Feature
from orvik.store import identity, rows
from orvik.store.project import Project
from tests.store.content import copied


def drawn(project: Project, x: float) -> None:
    line = Feature("lines", shapely.LineString([(x, 6_803_000), (x + 500, 6_803_500)]), "contact")
    project.apply("draw", [rows.feature_change(line, project.srs_id)])


def sound(path: Path) -> int:
    """The number of lines in a file that passes SQLite's own check."""
    connection = sqlite3.connect(path)
    try:
        assert connection.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        return int(connection.execute("SELECT count(*) FROM lines").fetchone()[0])
    finally:
        connection.close()


@pytest.fixture
def other(project: Project, tmp_path: Path) -> Path:
    """Another project, in a file that stands alone: the same one with four more lines."""
    path = tmp_path / "elsewhere" / "other.gpkg"
    path.parent.mkdir()
    copied(project.path, path)
    opened = Project.open(path)
    for i in range(4):
        drawn(opened, 513_000 + 10 * i)
    opened.close()
    return path


def moved_over(other: Path, path: Path) -> None:
    os.replace(other, path)


def copied_over(other: Path, path: Path) -> None:
    path.write_bytes(other.read_bytes())


def deleted(other: Path, path: Path) -> None:
    path.unlink()


@pytest.mark.parametrize("how", [moved_over, deleted])
def test_a_file_that_is_no_longer_the_one_is_not_written(
    project: Project, other: Path, how: Callable[[Path, Path], None]
) -> None:
    drawn(project, 512_000)
    how(other, project.path)
    before = project.path.read_bytes() if project.path.exists() else None
    with pytest.raises(ProjectRefused, match="while it was open"):
        drawn(project, 512_100)
    with pytest.raises(ProjectRefused, match="while it was open"):
        project.undo()
    project.close()
    assert (project.path.read_bytes() if project.path.exists() else None) == before
    assert not identity.log_of(project.path).exists()
    if before:
        again = Project.open(project.path)
        assert again.count("lines") == 6
        again.close()


def test_a_younger_copy_over_the_open_file_stays_as_it_is(project: Project, tmp_path: Path) -> None:
    old = tmp_path / "backup.gpkg"
    copied(project.path, old)
    for i in range(3):
        drawn(project, 512_000 + 10 * i)
    assert project.checkpoint()
    drawn(project, 512_900)
    copied_over(old, project.path)
    with pytest.raises(ProjectRefused, match="replaced by another file"):
        drawn(project, 512_950)
    project.close()
    assert project.path.read_bytes() == old.read_bytes()
    assert sound(project.path) == 2


def crash(project: Project, folder: Path) -> Path:
    """The files as a dead application leaves them: the log still beside the file."""
    folder.mkdir()
    for path in (project.path, identity.log_of(project.path), identity.mark_of(project.path)):
        shutil.copyfile(path, folder / path.name)
    return folder / project.path.name


def test_a_crash_leaves_a_log_that_is_taken_up(project: Project, tmp_path: Path) -> None:
    drawn(project, 512_000)
    left = crash(project, tmp_path / "crashed")
    again = Project.open(left)
    assert again.count("lines") == 3
    again.close()
    assert sound(left) == 3


@pytest.mark.parametrize("which", ["an earlier backup", "another project"])
def test_a_file_put_over_a_crashed_one_never_meets_its_log(
    project: Project, other: Path, tmp_path: Path, which: str
) -> None:
    backup = other
    if which == "an earlier backup":
        backup = tmp_path / "backup.gpkg"
        copied(project.path, backup)
    drawn(project, 512_000)
    assert project.checkpoint()
    drawn(project, 512_010)
    left = crash(project, tmp_path / "crashed")
    if which == "another project":
        # One that was begun at another time has another first entry.
        connection = sqlite3.connect(backup)
        connection.execute("UPDATE journal SET at = '2020-01-01T00:00:00+00:00' WHERE id = 1")
        connection.commit()
        connection.close()
    lines = sound(backup)
    copied_over(backup, left)
    again = Project.open(left)
    assert again.count("lines") == lines
    again.close()
    assert sound(left) == lines
    # Nothing is thrown away: the log lies aside under a name of its own.
    assert [p for p in left.parent.iterdir() if "log-of-another-file" in p.name]


def test_two_applications_never_hold_one_project(project: Project) -> None:
    first = identity.locked(project.path)
    assert first is not None
    with pytest.raises(ProjectRefused, match="open in another Orvik"):
        identity.locked(project.path)
    first.close()
    second = identity.locked(project.path)
    assert second is not None
    second.close()


def test_the_file_stands_alone_at_rest(project: Project, tmp_path: Path) -> None:
    drawn(project, 512_000)
    assert project.checkpoint()
    alone = tmp_path / "mailed.gpkg"
    shutil.copyfile(project.path, alone)
    assert sound(alone) == 3
