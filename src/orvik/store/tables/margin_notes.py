"""Margin notes, their answers, and what proofs told, as they are kept."""

from __future__ import annotations

import json
import math
import sqlite3
from dataclasses import replace

from orvik.core.errors import FindingRefused
from orvik.core.findings.margin_note import PINNED_TO, Answer, MarginNote, Pin
from orvik.core.findings.taken_proof import TakenProof
from orvik.store import rows
from orvik.store.journal import Change, Made
from orvik.store.reader import Fault, Reader


def margin_notes(project: Reader) -> list[MarginNote]:
    """What hands have left, each note with its answers; rows that hold nothing of the sort are left out."""
    answers: dict[int, list[Answer]] = {}
    for row in project.answers():
        if not rows.refusals(_answer, row):
            answers.setdefault(int(row["note_id"]), []).append(_answer(row))
    found = [_note(row) for row in project.margin_notes() if not rows.refusals(_note, row)]
    return [replace(note, answers=tuple(answers.get(note.id or 0, ()))) for note in found]


def row_faults(project: Reader) -> list[Fault]:
    """Rows that hold no note or answer, each with what is wrong with it."""
    found = [Fault("margin_notes", r["id"], why) for r in project.margin_notes() for why in rows.refusals(_note, r)]
    return found + [Fault("answers", r["id"], why) for r in project.answers() for why in rows.refusals(_answer, r)]


def note_change(made: MarginNote) -> Change:
    """The change that keeps a note, without its answers."""
    pin = made.pin
    values = {
        "sheet_id": made.sheet,
        "key": made.key,
        "message": made.message,
        "author": made.author,
        "made_at": made.made_at,
        "given_to": made.given_to,
        "settled": int(made.settled),
        "pinned_to": pin.to if pin is not None else "",
        "x": pin.x if pin is not None else None,
        "y": pin.y if pin is not None else None,
        "part": pin.part if pin is not None else None,
        "origin": made.origin,
    }
    return Change("margin_notes", made.id, values)


def answer_change(note: int | Made, made: Answer) -> Change:
    """The change that adds an answer to a note."""
    values = {"note_id": note, "author": made.author, "made_at": made.made_at}
    return Change("answers", None, values | {"text": made.text, "origin": made.origin})


def latest_proof(project: Reader, sheet_id: int) -> TakenProof | None:
    """The latest proof of a sheet; None where none was taken, or none can be read."""
    found = [row for row in project.proof_rows(sheet_id) if not rows.refusals(_proof, row)]
    return _proof(found[-1]) if found else None


def proof_change(sheet_id: int, made: TakenProof) -> Change:
    """The change that keeps what a proof told."""
    told = json.dumps(sorted(made.told))
    return Change("proofs", None, {"sheet_id": sheet_id, "author": made.author, "made_at": made.made_at, "told": told})


def _note(row: sqlite3.Row) -> MarginNote:
    pin = None
    if row["pinned_to"]:
        if row["pinned_to"] not in PINNED_TO or (row["pinned_to"] == "part") != (row["part"] is not None):
            raise FindingRefused("It is pinned to nothing that there is.")
        pin = Pin(row["pinned_to"], float(row["x"]), float(row["y"]), row["part"])
        if not (math.isfinite(pin.x) and math.isfinite(pin.y)):
            raise FindingRefused("It is pinned to nowhere.")
    return MarginNote(
        str(row["message"]),
        str(row["author"]),
        str(row["made_at"]),
        str(row["key"]),
        row["sheet_id"],
        pin,
        str(row["given_to"]),
        bool(row["settled"]),
        str(row["origin"]),
        id=int(row["id"]),
    )


def _answer(row: sqlite3.Row) -> Answer:
    return Answer(str(row["text"]), str(row["author"]), str(row["made_at"]), str(row["origin"]), int(row["id"]))


def _proof(row: sqlite3.Row) -> TakenProof:
    told = json.loads(row["told"])
    if not isinstance(told, list) or not all(isinstance(one, str) for one in told):
        raise FindingRefused("It does not say what it told.")
    return TakenProof(str(row["author"]), str(row["made_at"]), frozenset(told))
