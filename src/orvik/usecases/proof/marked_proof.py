"""The proof of a sheet on paper: the sheet with numbered marks, and a checklist to sign, as one PDF.

Its notes are annotations, too, so that whoever reads it can answer them in the file and send that back.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from orvik.core.coordinates import PageBox
from orvik.core.findings.checklist import PAGE, Checklist, checklist
from orvik.core.findings.listing import ListedNote, keys_of, left_over, listed
from orvik.core.findings.marks import RING, colour_of, marks_ink
from orvik.core.sheet.output.annotation import Annotation, ProofOf, our_name
from orvik.core.sheet.page.day import day_words
from orvik.press import pdf
from orvik.press.pdf_standard import About
from orvik.store.read_project import LONG_SNAPSHOT_SECONDS, opened_for_reading
from orvik.store.tables.margin_notes import latest_proof, margin_notes
from orvik.usecases.proof.accepting import judged_findings
from orvik.usecases.proof.pins import spots_of
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.sheet.composing import PRINT_DPI, composed

# Who says what a rule has found.
RULE = "Orvik"


@dataclass(frozen=True)
class MarkedProof:
    """A proof as a PDF, and the keys of all that it tells."""

    data: bytes
    keys: tuple[str, ...]


def marked_proof(path: Path, sheet_id: int) -> MarkedProof:
    """The PDF of a sheet's proof; raises OrvikError where the sheet cannot be composed."""
    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        judged = judged_findings(project, all_findings(project, sheet_id))
        held = margin_notes(project)
        spots = spots_of(project, sheet_id, held)
        notes = listed(judged, held, sheet_id, spots, latest_proof(project, sheet_id))
        made = composed(project, sheet_id, PRINT_DPI)
        sheet = made.sheet
        title = f"Proof of {sheet.name}, {project.name}"
        said = f"revision {project.revision}, {day_words(date.today())}"
        listing = checklist(title, said, judged, notes, left_over(judged, held, sheet_id))
        marked = pdf.Page([*made.groups, marks_ink(notes, sheet)], sheet.width, sheet.height)
        pages = [marked, *(pdf.Page(items, *PAGE) for items in listing.pages)]
        of = ProofOf(project.begun(), sheet_id)
        annotations = [one for note in notes for one in _annotations(note, of, listing)]
        data = pdf.pages_pdf(pages, About(title, subject=said), notes=annotations)
        return MarkedProof(data, tuple(key for note in notes for key in keys_of(note)))


def _annotations(note: ListedNote, of: ProofOf, listing: Checklist) -> Iterator[Annotation]:
    """A note as annotations: of each of its marks, and of its row in the checklist."""
    for which, spot in enumerate(note.spots):
        if spot is not None:
            yield _annotation(note, of, 0, (spot[0] - RING, spot[1] - RING, 2 * RING, 2 * RING), which)
    page, box = listing.rows[note.number]
    yield _annotation(note, of, page + 1, box)


def _annotation(note: ListedNote, of: ProofOf, page: int, box: PageBox, which: int = 0) -> Annotation:
    subject, colour = f"Note {note.number}", colour_of(note)
    written = note.written

    def one(key: str, text: str, author: str, made_at: str) -> Annotation:
        return Annotation(page, box, our_name(of, key, text, which), text, author, subject, made_at, colour)

    answers = tuple(one(f"answer {a.id}", a.text, a.author, a.made_at) for a in (written.answers if written else ()))
    by_hand = written is not None and not note.findings
    author, made_at = (written.author, written.made_at) if written is not None and by_hand else (RULE, "")
    first = one(note.thread_key, note.message, author, made_at)
    return Annotation(page, box, first.name, first.text, author, subject, made_at, colour, answers)
