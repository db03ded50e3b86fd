"""What can be undone and redone, asked of the end of the journal, against stacks that follow every entry."""

from __future__ import annotations

import sqlite3
import time
from pathlib import Path

import numpy as np
import pytest

from orvik.core.errors import NotFound
from orvik.store import history
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading


class Stacks:
    """The plain way: an edit goes onto one stack, undoing puts it onto the other, and a barrier empties both."""

    def __init__(self) -> None:
        self.undo: list[int] = []
        self.redo: list[int] = []

    def edit(self, number: int) -> None:
        self.undo.append(number)
        self.redo.clear()

    def back(self) -> None:
        self.redo.append(self.undo.pop())

    def again(self) -> None:
        self.undo.append(self.redo.pop())

    def barrier(self) -> None:
        self.undo.clear()
        self.redo.clear()


def tops(project: Project) -> tuple[int | None, int | None]:
    kept = project._history
    return (kept.undo_top.id if kept.undo_top else None, kept.redo_top.id if kept.redo_top else None)


@pytest.mark.parametrize("seed", range(6))
def test_any_order_of_edits_undo_redo_and_barriers(
    project: Project, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Opened anew after every tenth step; so few are read at a time that there is always more below."""
    monkeypatch.setattr(history, "AT_ONCE", 3)
    rng = np.random.default_rng(seed)
    path = project.path
    project.close()
    opened = Project.open(path)
    stacks = Stacks()
    while opened.undo_label is not None:
        opened.undo()
    opened.apply("edit", [Change("project", 1, {"name": "begun"})])
    stacks.edit(opened.revision)
    for step in range(120):
        what = rng.choice(["edit", "back", "again", "barrier"], p=[0.4, 0.35, 0.22, 0.03])
        if what == "edit":
            opened.apply(f"edit {step}", [Change("project", 1, {"name": f"name {step}"})])
            stacks.edit(opened.revision)
        elif what == "back" and stacks.undo:
            opened.undo()
            stacks.back()
        elif what == "again" and stacks.redo:
            opened.redo()
            stacks.again()
        elif what == "barrier":
            other = sqlite3.connect(path)
            other.execute("UPDATE project SET name = ?", (f"theirs {step}",))
            other.commit()
            other.close()
            assert opened.detect_external_write()
            stacks.barrier()
        if step % 10 == 9:
            opened.close()
            opened = Project.open(path)
        expected = (stacks.undo[-1] if stacks.undo else None, stacks.redo[-1] if stacks.redo else None)
        if "edit" not in str(opened.undo_label) and not stacks.undo:
            # What was there before the first step can be undone, too.
            assert tops(opened)[1] == expected[1]
            continue
        assert tops(opened) == expected, step
    while stacks.redo:
        assert tops(opened)[1] == stacks.redo[-1]
        opened.redo()
        stacks.again()
    while stacks.undo:
        assert tops(opened)[0] == stacks.undo[-1]
        opened.undo()
        stacks.back()
    opened.close()


def test_reading_a_project_reads_no_journal(project: Project) -> None:
    path = project.path
    project.close()
    asked: list[str] = []
    with opened_for_reading(path) as opened:
        opened._connection.set_trace_callback(asked.append)
        with opened.snapshot():
            assert opened.count("lines")
        assert not hasattr(opened, "apply")
    about = [sql for sql in asked if "journal" in sql]
    assert all("max(id)" in sql for sql in about), about


def test_geometry_stands_in_the_journal_once(project: Project) -> None:
    line = project.feature("lines", 1)
    entry = project.apply("note", [Change("lines", 1, {"note": "seen again"})])
    (text, blobs) = project._connection.execute(
        "SELECT changes, blobs FROM journal WHERE id = ?", (entry.id,)
    ).fetchone()
    assert len(blobs) == len(bytes(entry.changes[0].after["geom"]))
    assert len(text) < 1200
    project.undo()
    assert project.feature("lines", 1) == line
    project.redo()
    assert project.feature("lines", 1).note == "seen again"


def test_two_hundred_thousand_entries_open_at_once(project: Project, tmp_path: Path) -> None:
    """Counted by rows that are read, not by time."""
    path = project.path
    project.close()
    with sqlite3.connect(path) as file:
        file.executemany(
            "INSERT INTO journal (at, kind, label, changes) VALUES ('2026-01-01T00:00:00.000+00:00', 'edit', ?, '[]')",
            ((f"edit {i}",) for i in range(200_000)),
        )
    file.close()
    start = time.perf_counter()
    with opened_for_reading(path) as opened:
        assert opened.revision > 200_000
    with opened_for_writing(path) as opened:
        print(f"opened twice in {time.perf_counter() - start:.3f} s")
        assert opened.undo_label == "edit 199999"
        assert len(opened._history._undo) == history.AT_ONCE
        for _ in range(history.AT_ONCE + 5):
            opened.undo()
        assert opened.undo_label == f"edit {199_999 - history.AT_ONCE - 5}"
        assert opened.redo_label == f"edit {199_999 - history.AT_ONCE - 4}"
    with opened_for_writing(path) as opened:
        assert opened.redo_label == f"edit {199_999 - history.AT_ONCE - 4}"
        for _ in range(history.AT_ONCE + 5):
            opened.redo()
        with pytest.raises(NotFound):
            opened.redo()
