"""A project file that is replaced, deleted or copied over while open, or after a crash, is never mixed with another."""

from __future__ import annotations

import json
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
from orvik.store.read_project import ReadProject
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


def renewed_elsewhere(path: Path, copy: Path, edit: Callable[[Project], None], at_rest: bool = True) -> None:
    """A copy that has gone on elsewhere."""
    copy.parent.mkdir()
    copied(path, copy)
    opened = Project.open(copy)
    edit(opened)
    if at_rest:
        opened.close()


def toggled(project: Project) -> None:
    """Something that is kept and not journalled."""
    project.set_layer("units", rows.LayerState(shown=False))


EDITS: dict[str, Callable[[Project], None]] = {
    "newer": lambda project: [drawn(project, 514_000 + 10 * i) for i in range(9)].clear(),
    "as new": lambda project: drawn(project, 514_000),
    "not journalled": toggled,
}


@pytest.mark.parametrize("name", EDITS)
@pytest.mark.parametrize("rested", [True, False])
@pytest.mark.parametrize("same_length", [True, False])
def test_a_copy_that_went_on_elsewhere_never_meets_the_log(
    project: Project, tmp_path: Path, name: str, rested: bool, same_length: bool
) -> None:
    """``cp`` over the open file: newer, as old, of one length, with edits in the log and at rest."""
    drawn(project, 512_000)
    assert project.checkpoint()
    copy = tmp_path / "elsewhere" / "copy.gpkg"
    renewed_elsewhere(project.path, copy, EDITS[name])
    if not rested:
        drawn(project, 512_500)
    data = copy.read_bytes()
    if same_length:
        # A page more or less of nothing: SQLite takes the length from its own header.
        data += b"\0" * max(0, project.path.stat().st_size - len(data))
    project.path.write_bytes(data)
    lines = sound(copy)
    with pytest.raises(ProjectRefused, match="replaced by another file"):
        drawn(project, 512_900)
    project.close()
    assert project.path.read_bytes() == data
    assert sound(project.path) == lines
    aside = list(project.path.parent.glob("*.edits-set-aside.*.json"))
    assert len(aside) == (0 if rested else 1)
    if aside:
        (entry,) = json.loads(aside[0].read_text())
        assert entry["label"] == "draw"
        assert entry["changes"][0]["values"]["geom"].startswith("LINESTRING (512500 ")
    again = Project.open(project.path)
    assert again.count("lines") == lines
    again.close()


def test_a_copy_made_at_rest_and_put_back_is_the_file(project: Project, tmp_path: Path) -> None:
    drawn(project, 512_000)
    assert project.checkpoint()
    backup = tmp_path / "backup.gpkg"
    shutil.copyfile(project.path, backup)
    copied_over(backup, project.path)
    drawn(project, 512_100)
    project.close()
    assert sound(project.path) == 4


@pytest.mark.parametrize("cut", ["before", "after"])
def test_a_newer_copy_over_a_crashed_file_never_meets_its_log(project: Project, tmp_path: Path, cut: str) -> None:
    """A crash before the log has moved, and one in which its token is in the log already."""
    drawn(project, 512_000)
    assert project.checkpoint()
    copy = tmp_path / "elsewhere" / "copy.gpkg"
    renewed_elsewhere(project.path, copy, EDITS["newer"])
    drawn(project, 512_100)
    if cut == "after":
        assert project._watch
        assert project._writer
        project._watch.expect("in the log")
        identity.renew(project._writer, "in the log")
    left = crash(project, tmp_path / "crashed")
    mine = crash(project, tmp_path / "as it was")
    again = Project.open(mine)
    assert again.count("lines") == 4
    again.close()
    copied_over(copy, left)
    lines = sound(copy)
    again = Project.open(left)
    assert again.count("lines") == lines
    again.close()
    assert sound(left) == lines
    assert [p for p in left.parent.iterdir() if "log-of-another-file" in p.name]


def test_another_program_that_moves_the_log_is_no_stranger(project: Project) -> None:
    """One that writes by SQLite's ways beside us, and moves the log into the file."""
    drawn(project, 512_000)
    for number in range(3):
        connection = sqlite3.connect(project.path)
        connection.execute("UPDATE project SET name = ?", (f"Name {number}",))
        connection.commit()
        connection.execute("PRAGMA wal_checkpoint(PASSIVE)")
        connection.close()
        drawn(project, 512_100 + number)
    beside = Project.open(project.path)
    drawn(beside, 513_000)
    beside.close()
    drawn(project, 513_500)
    assert project.checkpoint()
    drawn(project, 513_600)
    project.close()
    assert sound(project.path) == 9


def test_the_log_moves_into_the_file_while_people_work(project: Project, tmp_path: Path) -> None:
    """With edits all the time and a reader now and then: the log stays short, and a copy of the file alone is sound."""
    longest = 0
    for i in range(60):
        drawn(project, 512_000 + i)
        if i % 10 == 5:
            reader = ReadProject.open(project.path)
            with reader.snapshot():
                reader.count("lines")
                drawn(project, 514_000 + i)
                project.checkpoint(working=True)
                # What is looked at is not taken away.
                assert reader.count("lines") == 2 + i + 1 + i // 10
            reader.close()
        project.checkpoint(working=True)
        longest = max(longest, project.log_bytes())
        alone = tmp_path / "alone.gpkg"
        shutil.copyfile(project.path, alone)
        assert sound(alone) >= 3 + i
    assert longest < 2_000_000
    project.close()
    assert sound(project.path) == 2 + 66


@pytest.mark.parametrize("end", ["closed", "killed"])
@pytest.mark.parametrize("times", [1, 2, 5])
def test_a_log_that_a_reader_holds_up_loses_nothing(project: Project, tmp_path: Path, times: int, end: str) -> None:
    """Moves that are held up again and again: the file stays as it was, and is known all the same."""
    reader = ReadProject.open(project.path)
    with reader.snapshot():
        reader.count("lines")
        for i in range(times):
            drawn(project, 512_000 + i)
            project.checkpoint(working=True)
            project.checkpoint()
        drawn(project, 513_000)
        if end == "killed":
            left = crash(project, tmp_path / "crashed")
            again = Project.open(left)
            assert again.count("lines") == 3 + times
            again.close()
            assert sound(left) == 3 + times
            assert not [p for p in left.parent.iterdir() if "another-file" in p.name]
    if end == "closed":
        reader.close()
        project.close()
        assert sound(project.path) == 3 + times
        assert not [p for p in project.path.parent.iterdir() if "another-file" in p.name or "set-aside" in p.name]
        return
    reader.close()


def test_held_up_while_it_is_closed_nothing_is_lost(project: Project) -> None:
    reader = ReadProject.open(project.path)
    with reader.snapshot():
        reader.count("lines")
        for i in range(4):
            drawn(project, 512_000 + i)
            project.checkpoint(working=True)
        project.close()
    reader.close()
    again = Project.open(project.path)
    assert again.count("lines") == 6
    again.close()
    assert sound(project.path) == 6
