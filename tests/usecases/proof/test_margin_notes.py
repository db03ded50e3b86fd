"""Notes pinned to a sheet stay with what they are pinned to; each is one edit, which can be undone."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from orvik.core.errors import FindingRefused, NotFound
from orvik.core.findings.margin_note import MarginNote
from orvik.core.ground.crs import project_crs
from orvik.core.ink.affine import apply
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.margin_notes import latest_proof, margin_notes, note_change
from orvik.usecases.compile.survey import all_faults
from orvik.usecases.project.relocation import relocation
from orvik.usecases.proof.margin_notes import answer, note_of, pin_note, remove, settle, take_proof
from orvik.usecases.proof.pins import spots_of
from orvik.usecases.sheet.sheets import remove_sheet
from tests.store.content import content


def largest_panel(project: Project, sheet: int):  # type: ignore[no-untyped-def]
    parts = [part for part in project.parts(sheet) if isinstance(part.settings, MapPanel)]
    return max(parts, key=lambda part: part.width * part.height)


def spot(project: Project, sheet: int, note: MarginNote) -> tuple[float, float] | None:
    return spots_of(project, sheet, margin_notes(project)).get(note.id or 0)


def test_a_pin_on_ground_stays_there_wherever_the_panel_goes(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        part = largest_panel(project, sheet)
        at = (part.x + part.width * 0.37, part.y + part.height * 0.61)
        pin_note(project, sheet, at, "  The fan reaches further down. ", "AM", "BR")
        (note,) = margin_notes(project)
        assert (note.message, note.author, note.given_to, note.state) == (
            "The fan reaches further down.",
            "AM",
            "BR",
            "open",
        )
        assert note.pin is not None
        assert note.pin.to == "ground"
        assert spot(project, sheet, note) == pytest.approx(at, abs=1e-6)
        # The panel is moved, turned and shows other ground: the note is where PROJ and the panel put its place.
        settings = part.settings
        centre = settings.centre[0] + 300.0, settings.centre[1] - 200.0
        moved = part.changed(x=part.x + 4.0, settings=settings.changed({"rotation": 12.0, "centre": centre}))
        project.apply("move a panel", [rows.part_change(moved)])
        panel = panel_of(moved, project.crs, project.border())
        there = apply(panel.to_page, np.array([(note.pin.x, note.pin.y)]))[0]
        assert spot(project, sheet, note) == pytest.approx(tuple(there), abs=1e-6)
        # In another system it is on the same ground: the feature beside it goes along.
        target = project_crs("EPSG:3057")
        project.apply("move", relocation(project, target).changes)
        (again,) = margin_notes(project)
        assert again.pin is not None
        assert abs(again.pin.x - note.pin.x) > 1000
        assert spot(project, sheet, again) is not None
        project.undo()
        assert margin_notes(project) == [note]


def test_a_pin_on_a_part_goes_with_it_and_on_the_page_stays(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        panel = largest_panel(project, sheet)
        part = next(
            p
            for p in reversed(project.parts(sheet))
            if not p.settings.lies_on_panel and not isinstance(p.settings, MapPanel) and p.x > panel.x + panel.width
        )
        at = part.x + 1.0, part.y + 2.0
        pin_note(project, sheet, at, "In italics?", "AM")
        pin_note(project, sheet, (0.5, 0.5), "The margin is narrow.", "AM")
        on_part, on_page = margin_notes(project)
        assert on_part.pin is not None
        assert (on_part.pin.to, on_part.pin.part) == ("part", part.id)
        assert on_page.pin is not None
        assert on_page.pin.to == "page"
        project.apply("move a part", [rows.part_change(part.changed(x=part.x - 5.0, y=part.y + 3.0))])
        assert spot(project, sheet, on_part) == pytest.approx((at[0] - 5.0, at[1] + 3.0))
        assert spot(project, sheet, on_page) == pytest.approx((0.5, 0.5))
        # The part goes, and the note is there without a place; undone, it has it again.
        project.apply("remove a part", [Change("parts", part.id, None)])
        assert spot(project, sheet, on_part) is None
        assert len(margin_notes(project)) == 2
        project.undo()
        assert spot(project, sheet, on_part) is not None


def test_a_note_is_answered_given_settled_and_removed_each_as_one_entry(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        pin_note(project, sheet, (0.5, 0.5), "One\r\n\r\n  two ", "AM")
        (note,) = margin_notes(project)
        assert note.message == "One\ntwo"
        assert answer(project, note, "", "") is None
        before = project.revision
        answer(project, note, "Done in the field.", "BR", "CD")
        assert project.revision == before + 1
        (note,) = margin_notes(project)
        assert (note.state, note.given_to, [a.text for a in note.answers]) == ("answered", "CD", ["Done in the field."])
        # Given on without a word, it needs no signature; a word does.
        assert answer(project, note, "", "", "") is not None
        with pytest.raises(FindingRefused):
            answer(project, note, "Yes.", " ")
        assert settle(project, note.id or 0, True) is not None
        assert settle(project, note.id or 0, True) is None
        assert margin_notes(project)[0].state == "settled"
        remove(project, note.id or 0)
        assert margin_notes(project) == []
        assert project.answers() == []
        with pytest.raises(NotFound):
            settle(project, note.id or 0, False)
        project.undo()
        assert [a.text for a in margin_notes(project)[0].answers] == ["Done in the field."]


def test_what_is_said_of_a_finding_is_one_note_of_its_own(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        for who in ("AM", "BR"):
            answer(project, note_of(project, "dangle:lines3:", "Contact 3 ends.", who), f"{who} was there.", who)
        (note,) = margin_notes(project)
        assert (note.key, note.message, note.sheet) == ("dangle:lines3:", "Contact 3 ends.", None)
        assert [a.author for a in note.answers] == ["AM", "BR"]


def test_notes_and_proofs_go_with_their_sheet_and_come_back(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        pin_note(project, sheet, (5.0, 5.0), "Here.", "AM")
        answer(project, margin_notes(project)[0], "There.", "BR")
        take_proof(project, sheet, ["dangle:lines3:"], "AM")
        held = content(demo)
        remove_sheet(project, sheet)
        assert margin_notes(project) == []
        assert latest_proof(project, sheet) is None
        project.undo()
        now = content(demo)
        assert all(now[table] == held[table] for table in ("margin_notes", "answers", "proofs", "parts", "sheets"))
        last = latest_proof(project, sheet)
        assert last is not None
        assert last.knows(["dangle:lines3:"])
        assert not last.knows(["dangle:lines3:", "dangle:lines4:"])


@pytest.mark.parametrize("at", [(-1.0, 5.0), (5.0, 1e6), (float("nan"), 5.0)])
def test_a_pin_beside_the_sheet_is_refused(demo: Path, at: tuple[float, float]) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        with pytest.raises(FindingRefused):
            pin_note(project, sheet, at, "Here.", "AM")


def test_rows_that_another_program_has_spoilt_are_told_and_left_out(demo: Path) -> None:
    with opened_for_writing(demo) as project:
        sheet = project.sheets()[0].number
        pin_note(project, sheet, (5.0, 5.0), "Here.", "AM")
        (note,) = margin_notes(project)
        answer(project, note, "There.", "BR")
        project.apply("pin", [note_change(replace(note, id=None))])
    with closing(sqlite3.connect(demo)) as other, other:
        other.execute("UPDATE margin_notes SET made_at = 'yesterday' WHERE id = ?", (note.id,))
        other.execute("INSERT INTO answers (note_id, author, made_at, text) VALUES (2, '', 'now', '')")
        other.execute("INSERT INTO proofs (sheet_id, author, made_at, told) VALUES (?, '', 'now', '{}')", (sheet,))
    with opened_for_reading(demo) as project:
        (kept,) = margin_notes(project)
        assert kept.id != note.id
        assert {fault.table for fault in all_faults(project, project.all_features())} >= {"margin_notes", "answers"}
        assert latest_proof(project, sheet) is None
