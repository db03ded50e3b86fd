"""Notes of a returned PDF: read, told apart from those that are known, and taken in as one edit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.coordinates import PageXY
from orvik.core.errors import FileRefused
from orvik.core.findings.margin_note import LONGEST_TEXT, Answer, MarginNote
from orvik.core.ink.affine import Affine, apply, inverse
from orvik.core.sheet.output.annotation import ProofOf, ReturnedAnnotation, read_name
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.margin_notes import answer_change, margin_notes, note_change
from orvik.usecases.proof.margin_notes import now, plain
from orvik.usecases.proof.pins import pin_at

# States of a review (ISO 32000-2, table 174) after which nothing is left to be done, and those that say nothing.
SETTLED = frozenset({"Completed", "Rejected", "Cancelled"})
SAYS_NOTHING = frozenset({"None", "Marked", "Unmarked"})


@dataclass(frozen=True)
class FoundNote:
    """A note of a returned file that the project has not.

    Attributes
    ----------
    origin
        The checksum of its annotation.
    text, author, made_at
        What it says, who has written it, and when, ISO 8601.
    key
        Of the finding that it answers, or ``note`` or ``answer`` with a number; empty for what answers nothing of ours.
    said
        What it answers, as that stands in the file.
    answers
        The origin of another note of the file, which it answers; empty for none.
    spot
        Its place on the sheet in millimetres; None where it is on another page or beside the sheet.
    settles
        Whether it says that nothing is left to be done.
    """

    origin: str
    text: str
    author: str
    made_at: str
    key: str = ""
    said: str = ""
    answers: str = ""
    spot: PageXY | None = None
    settles: bool = False

    @property
    def words(self) -> str:
        """It in a line, as a list of what was found has it."""
        to = f"answers “{self.said[:80]}”: " if self.key else ""
        return f"{self.author}: {to}{self.text}"


def is_proof(found: Sequence[ReturnedAnnotation]) -> bool:
    """Whether a PDF is one of our proofs: it has notes that we have put there."""
    return any(read_name(one.name) is not None for one in found)


def notes_in(
    project: Reader, sheet_id: int, found: Sequence[ReturnedAnnotation], shown: str, way: Affine | None
) -> list[FoundNote]:
    """What readers have written into a PDF of a sheet, without what the project has already.

    Parameters
    ----------
    way
        From millimetres of the sheet to those of the first page of the file; None where nobody knows.

    Raises
    ------
    FileRefused
        It is a proof of another sheet, or of another project.
    """
    names = [read_name(one.name) for one in found]
    ours = [name for name in names if name is not None]
    mine = ProofOf(project.begun(), sheet_id).name
    if ours and all(name.of != mine for name in ours):
        others = {ProofOf(project.begun(), s.number).name: s.name for s in project.sheets()}
        other = others.get(ours[0].of, "")
        which = f"the sheet {other}; open that in Proof" if other else "another project, or of a sheet that is gone"
        raise FileRefused(f"{shown} is a proof of {which}.")
    known = {origin for note in margin_notes(project) for origin in note.origins}
    sheet = project.sheet(sheet_id)
    back = inverse(way) if way is not None else None
    out: list[FoundNote] = []
    for i, one in enumerate(found):
        name = names[i]
        if one.origin in known or one.state in SAYS_NOTHING or (name is not None and name.says(one.text)):
            continue
        root = i if name is not None else _root(found, names, i)
        named = names[root]
        if named is not None and named.of != mine:
            continue
        text = _said(one)
        if not text:
            continue
        # Who rewrites a note of ours leaves our name on it.
        author = one.author if name is None and one.author else shown[:60]
        made = FoundNote(one.origin, text[:LONGEST_TEXT], author, one.made_at or now())
        if named is not None:
            made = replace(made, key=named.key, said=found[root].text, settles=one.state in SETTLED)
        elif root != i:
            made = replace(made, answers=found[root].origin, settles=one.state in SETTLED)
        elif one.page == 0 and back is not None:
            x, y = (float(v) for v in apply(back, np.array([one.at]))[0])
            inside = 0 <= x <= sheet.width and 0 <= y <= sheet.height
            made = replace(made, spot=(x, y) if inside else None)
        out.append(made)
    return out


def _root(found: Sequence[ReturnedAnnotation], names: Sequence[object], at: int) -> int:
    """What an annotation answers at last: one of ours, or one that answers nothing."""
    seen = {at}
    while names[at] is None:
        above = found[at].answer_to
        if above is None or above in seen:
            return at
        seen.add(above)
        at = above
    return at


def _said(one: ReturnedAnnotation) -> str:
    """What an annotation says, with what it marks; empty for one that says nothing."""
    text = plain(one.text)
    if one.under:
        return f"{one.kind} “{one.under}”{f': {text}' if text else ''}"
    if not text and one.state:
        return one.state.lower()
    return text or (f"{one.kind}, without words" if one.kind else "")


def take_notes(project: Project, sheet_id: int, found: Sequence[FoundNote], shown: str) -> Entry | None:
    """Take notes of a returned file into the project, as one entry; None where all are there already."""
    project.sheet(sheet_id)
    held = margin_notes(project)
    known = {origin for note in held for origin in note.origins}
    new = [one for one in found if one.origin not in known]
    if not new:
        return None
    changes: list[Change] = []
    rows: dict[str, int | Made] = {}
    for one in new:
        if not one.key and not one.answers:
            pin = pin_at(project, sheet_id, one.spot) if one.spot is not None else None
            changes.append(
                note_change(MarginNote(one.text, one.author, one.made_at, sheet=sheet_id, pin=pin, origin=one.origin))
            )
            rows[one.origin] = Made(len(changes) - 1)
    # What answers a note that was taken in before finds it by where that came from.
    rows |= {note.origin: note.id for note in held if note.origin and note.id is not None and note.origin not in rows}
    for one in (one for one in new if one.key or one.answers):
        row, note = _answered(held, one, rows)
        if row is None:
            key = "" if _numbered(one.key) or one.answers else one.key
            message = (one.said or one.text) if key else f"Answers a note that is gone: {one.said}"[:LONGEST_TEXT]
            made = MarginNote(message, one.author, one.made_at, key, None if key else sheet_id)
            changes.append(note_change(made))
            row = rows[one.key or one.answers] = Made(len(changes) - 1)
        changes.append(answer_change(row, Answer(one.text, one.author, one.made_at, one.origin)))
        if one.settles and note is not None and not note.key:
            changes.append(note_change(replace(note, settled=True)))
    count = f"{len(new)} note{'s' if len(new) > 1 else ''}"
    return project.apply(f"take in {count} of {shown[:60]}", changes)


def _answered(
    held: Sequence[MarginNote], one: FoundNote, rows: dict[str, int | Made]
) -> tuple[int | Made | None, MarginNote | None]:
    """The row of the note that is answered, and the note, where the project has it."""
    what = one.key or one.answers
    number = _numbered(one.key)
    for note in held:
        if note.id is None:
            continue
        answers = {answer.id for answer in note.answers}
        if number is None:
            mine = (bool(one.key) and note.key == one.key) or (bool(one.answers) and note.origin == one.answers)
        else:
            mine = note.id == number[1] if number[0] == "note" else number[1] in answers
        if mine:
            return note.id, note
    return rows.get(what), None


def _numbered(key: str) -> tuple[str, int] | None:
    """``note 4`` and ``answer 12``, which are no keys of findings; None for those."""
    what, _, number = key.partition(" ")
    if what in ("note", "answer") and number.isascii() and number.isdecimal() and len(number) <= 12:
        return what, int(number)
    return None
