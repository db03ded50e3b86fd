"""Margin notes pinned, answered, given to somebody, settled: each an edit that can be undone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime

from orvik.core.coordinates import PageXY
from orvik.core.errors import FindingRefused, NotFound
from orvik.core.findings.listing import ListedNote
from orvik.core.findings.margin_note import Answer, MarginNote
from orvik.core.findings.taken_proof import TakenProof, told_as
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.margin_notes import answer_change, margin_notes, note_change, proof_change
from orvik.usecases.proof.pins import pin_at


def now() -> str:
    """The present as notes have it, ISO 8601, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


def pin_note(project: Project, sheet_id: int, spot: PageXY, text: str, signed: str, given_to: str = "") -> Entry:
    """Pin a note to what lies at a place of a sheet.

    Parameters
    ----------
    spot
        Millimetres from the upper left corner of the sheet.

    Raises
    ------
    FindingRefused
        It says nothing, nobody has signed, or the place is not on the sheet.
    """
    sheet = project.sheet(sheet_id)
    if not (0 <= spot[0] <= sheet.width and 0 <= spot[1] <= sheet.height):
        raise FindingRefused("That is beside the sheet; pin the note to a place on it.")
    pin = pin_at(project, sheet_id, spot)
    made = MarginNote(plain(text), _name(signed), now(), sheet=sheet_id, pin=pin, given_to=_name(given_to))
    return project.apply("pin a note", [note_change(made)])


def answer(project: Project, note: MarginNote, text: str, signed: str, given_to: str | None = None) -> Entry | None:
    """Answer a note, give it to somebody, or both; None where neither is said.

    Parameters
    ----------
    note
        As the project has it, or as ``note_of`` makes it for a finding.
    given_to
        Who is to do something about it; None for whoever has it.

    Raises
    ------
    FindingRefused
        Nobody has signed.
    """
    given = note.given_to if given_to is None else _name(given_to)
    said = plain(text)
    if not said and given == note.given_to:
        return None
    changes: list[Change] = []
    if note.id is None or given != note.given_to:
        changes.append(note_change(replace(note, given_to=given)))
    if said:
        made = Answer(said, _name(signed), now())
        changes.append(answer_change(note.id if note.id is not None else Made(0), made))
    words = "answer a note" if said else f"give a note to {given}" if given else "give a note to nobody"
    return project.apply(words, changes)


def answer_listed(project: Project, listed: ListedNote, text: str, signed: str, given_to: str) -> Entry | None:
    """Answer a note as it is listed, of a finding or pinned by hand; as ``answer``, of the note as it is by now."""
    if listed.finding is not None:
        held = note_of(project, listed.thread_key, listed.message, signed)
    else:
        held = note_by_number(project, (listed.written.id if listed.written is not None else None) or 0)
    return answer(project, held, text, signed, given_to)


def settle(project: Project, note_id: int, settled: bool) -> Entry | None:
    """Say that nothing is left to be done about a pinned note, or that something is; None where it is so already."""
    note = note_by_number(project, note_id)
    if note.settled == settled:
        return None
    return project.apply("settle a note" if settled else "reopen a note", [note_change(replace(note, settled=settled))])


def remove(project: Project, note_id: int) -> Entry:
    """Take a note away with what was answered to it; raises NotFound where it is gone."""
    note_by_number(project, note_id)
    return project.apply("remove a note", [Change("margin_notes", note_id, None)])


def note_by_number(project: Reader, note_id: int) -> MarginNote:
    """A note as the project has it; raises NotFound."""
    found = next((note for note in margin_notes(project) if note.id == note_id), None)
    if found is None:
        raise NotFound("That note is no longer there; look at the list as it is now.")
    return found


def note_of(project: Reader, key: str, message: str, signed: str) -> MarginNote:
    """The note of a finding: as the project has it, or a new one.

    Parameters
    ----------
    key, message
        Of the finding, or of all that say the same.
    """
    held = next((note for note in margin_notes(project) if note.key == key), None)
    return held or MarginNote(message, _name(signed), now(), key)


def take_proof(project: Project, sheet_id: int, keys: Sequence[str], signed: str) -> Entry:
    """Note that a proof of a sheet was taken, and what it told.

    Parameters
    ----------
    keys
        Of its findings, and ``note`` with the number of each note.
    """
    made = TakenProof(_name(signed), now(), frozenset(told_as(key) for key in keys))
    return project.apply(f"take a proof of {project.sheet(sheet_id).name}"[:200], [proof_change(sheet_id, made)])


def plain(text: str) -> str:
    """A text as it is kept: without what is no letter, its lines trimmed."""
    letters = "".join(c for c in text.replace("\r", "\n") if c.isspace() or c.isprintable())
    return "\n".join(line for line in (" ".join(part.split()) for part in letters.split("\n")) if line)


def _name(text: str) -> str:
    return " ".join(text.split())
