"""A proof goes out as a PDF whose notes readers answer, and what they have left in it is read back."""

from __future__ import annotations

import ctypes
import io
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pypdfium2.raw as pdfium
import pytest
from pikepdf import Array, Dictionary, Name, String

from orvik.core.errors import FileRefused
from orvik.core.findings.margin_note import LONGEST_TEXT
from orvik.core.sheet.output.annotation import ProofOf, our_name, read_name
from orvik.exchange.sheets.returned_annotations import KINDS, MOST_NOTES, read_annotations
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import Project, opened_for_writing
from orvik.store.tables.margin_notes import margin_notes
from orvik.usecases.proof.margin_notes import answer, note_of, pin_note
from orvik.usecases.proof.marked_proof import marked_proof
from orvik.usecases.proof.pins import spots_of
from orvik.usecases.proof.proof import all_findings
from orvik.usecases.proof.returned import PROOF_READ, compare_file
from orvik.usecases.proof.returned_notes import take_notes
from orvik.usecases.sheet.printing import sheet_pdf
from tests.examples import SEED

MM = 72 / 25.4


@contextmanager
def edited(data: bytes) -> Iterator[tuple[pikepdf.Pdf, Callable[[], bytes]]]:
    """A PDF to be edited as another program does, and what gives its bytes."""
    with pikepdf.open(io.BytesIO(data)) as pdf:

        def saved() -> bytes:
            out = io.BytesIO()
            pdf.save(out)
            return out.getvalue()

        yield pdf, saved


def put(pdf: pikepdf.Pdf, page: int, at: tuple[float, float], kind: str = "Text", **entries: object) -> pikepdf.Object:
    """Put an annotation about a place in millimetres from the upper left corner of a page."""
    held = pdf.pages[page]
    height = float(held.mediabox[3])
    x, y = at[0] * MM, height - at[1] * MM
    note = pdf.make_indirect(Dictionary(Type=Name.Annot, Subtype=Name(f"/{kind}")))
    for name, value in ({"Rect": Array([x - 5, y - 5, x + 5, y + 5])} | entries).items():
        note[f"/{name}"] = value
    if "/Annots" not in held.obj:
        held.obj.Annots = Array([])
    held.obj.Annots.append(note)
    return note


def named(pdf: pikepdf.Pdf, page: int, key: str) -> pikepdf.Object:
    """Our annotation of a note on a page."""
    for note in pdf.pages[page].obj.Annots:
        name = read_name(str(note.NM))
        if name is not None and name.key == key:
            return note
    raise AssertionError(key)


@pytest.fixture
def project(demo: Path) -> Iterator[Project]:
    with opened_for_writing(demo) as opened:
        yield opened


def taken(project: Project, sheet: int, data: bytes) -> int:
    """Read a file back, and take its notes; gives how many there were."""
    found = compare_file(project, sheet, data, "back.pdf")
    assert PROOF_READ in found.words
    take_notes(project, sheet, found.notes, "back.pdf")
    return len(found.notes)


def test_a_proof_is_answered_in_another_program_and_read_back(project: Project) -> None:
    sheet = project.sheets()[0].number
    pin_note(project, sheet, (40.0, 60.0), "Is this the old quarry?", "AM")
    (pinned,) = margin_notes(project)
    finding = all_findings(project, sheet)[0]
    answer(project, note_of(project, finding.key, finding.message, "AM"), "I have looked.", "AM")
    out = marked_proof(project.path, sheet)
    with edited(out.data) as (pdf, saved):
        # On the sheet and in the checklist: both know whose they are.
        first = named(pdf, 0, f"note {pinned.id}")
        put(pdf, 0, (40, 60), IRT=first, RT=Name.R, T=String("BR"), Contents=String("No, the new one."), NM="b1")
        row = named(pdf, 1, finding.key)
        mine = put(
            pdf, 1, (40, 60), IRT=row, T=String("BR"), Contents=String("Mended\rtoday."), M="D:20260703114500+02'00'"
        )
        put(pdf, 1, (40, 60), IRT=mine, T=String("CD"), Contents=String("Thanks — ñ ß 你"), NM="c1")
        put(pdf, 0, (120.0, 90.0), T=String("BR"), Contents=String("A spring stands here."), NM="b3")
        back = saved()
    assert taken(project, sheet, back) == 4
    notes = {note.id: note for note in margin_notes(project)}
    assert [(a.author, a.text) for a in notes[pinned.id].answers] == [("BR", "No, the new one.")]
    of_finding = next(note for note in notes.values() if note.key == finding.key)
    assert [(a.author, a.text) for a in of_finding.answers] == [
        ("AM", "I have looked."),
        ("BR", "Mended\ntoday."),
        ("CD", "Thanks — ñ ß 你"),
    ]
    assert of_finding.answers[1].made_at == "2026-07-03T09:45:00+00:00"
    (spring,) = (note for note in notes.values() if note.message == "A spring stands here.")
    assert spots_of(project, sheet, notes.values())[spring.id or 0] == pytest.approx((120.0, 90.0), abs=0.05)
    # Once more, nothing is taken twice; and one edit it was.
    assert taken(project, sheet, back) == 0
    project.undo()
    assert {note.id for note in margin_notes(project)} == {pinned.id, of_finding.id}
    # The next proof has the thread, and what comes back of that is known, too.
    project.redo()
    again = marked_proof(project.path, sheet)
    assert taken(project, sheet, again.data) == 0
    with edited(again.data) as (pdf, saved):
        reply = next(n for n in pdf.pages[0].obj.Annots if str(n.get("/Contents")) == "No, the new one.")
        put(pdf, 0, (1, 1), IRT=reply, T=String("AM"), Contents=String("So be it."))
        assert taken(project, sheet, saved()) == 1
    assert [a.text for a in next(n for n in margin_notes(project) if n.id == pinned.id).answers][-1] == "So be it."


def test_its_notes_are_annotations_that_another_library_reads_and_none_is_drawn(project: Project) -> None:
    sheet = project.sheets()[0].number
    pin_note(project, sheet, (40.0, 60.0), "Ünder the scarp — 岩?", "AM")
    data = marked_proof(project.path, sheet).data
    page = pypdfium2.PdfDocument(data)[0]
    count = pdfium.FPDFPage_GetAnnotCount(page)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        # No two on a page have one name (ISO 32000-2, table 166).
        names = [[str(note.NM) for note in held.obj.get("/Annots", [])] for held in pdf.pages]
    assert count == len(names[0])
    assert all(len(set(some)) == len(some) for some in names)
    said = set()
    for i in range(count):
        note = pdfium.FPDFPage_GetAnnot(page, i)
        assert pdfium.FPDFAnnot_GetSubtype(note) == pdfium.FPDF_ANNOT_SQUARE
        size = pdfium.FPDFAnnot_GetStringValue(note, b"Contents", None, 0)
        buffer = (ctypes.c_ushort * (size // 2))()
        pdfium.FPDFAnnot_GetStringValue(note, b"Contents", buffer, size)
        said.add(bytes(buffer).decode("utf-16-le").rstrip("\0"))
        pdfium.FPDFPage_CloseAnnot(note)
    assert "Ünder the scarp — 岩?" in said
    with_notes, without = (page.render(scale=1, draw_annots=on).to_numpy() for on in (True, False))
    assert np.array_equal(with_notes, without)


def test_marks_of_an_editor_on_the_plain_sheet_are_read_with_the_words_that_they_mark(project: Project) -> None:
    sheet = project.sheets()[0].number
    made = sheet_pdf(project.path, sheet, 20.0)
    page = pypdfium2.PdfDocument(made)[0].get_textpage()
    boxes = [(page.get_rect(i), page.get_text_bounded(*page.get_rect(i))) for i in range(page.count_rects())]
    (left, bottom, right, top), words = next((box, said) for box, said in boxes if len(said) > 12)
    with edited(made) as (pdf, saved):
        corners = Array([left, top, right, top, left, bottom, right, bottom])
        box = Array([left, bottom, right, top])
        for kind, said in (("StrikeOut", ""), ("Highlight", "Larger.")):
            note = put(pdf, 0, (1, 1), kind, Contents=String(said), T=String("BR"), QuadPoints=corners)
            note.Rect = box
        put(pdf, 0, (80.0, 50.0), "FreeText", RC=String("<body><p>North is <b>up</b> &amp; right</p></body>"))
        put(pdf, 0, (80.0, 50.0), "Ink", T=String("BR"))
        put(pdf, 0, (80.0, 50.0), "Link", Contents=String("no note"))
        put(pdf, 0, (80.0, 50.0), "Text", T=String("BR"))
        back = saved()
    found = compare_file(project, sheet, back, "back.pdf")
    assert PROOF_READ not in found.words
    assert "True to scale, and where it was." in found.words
    # What is only noted is not drawn otherwise.
    assert not any("drawn otherwise" in words for words in found.words)
    said = [note.text for note in found.notes]
    plain = " ".join(words.split())
    assert said == [
        f"struck out “{plain}”",
        f"highlighted “{plain}”: Larger.",
        "North is up & right",
        "drawn by hand, without words",
    ]
    assert [note.author for note in found.notes] == ["BR", "BR", "back.pdf", "BR"]


@pytest.mark.parametrize("way", ["scaled", "unit", "cropped", "turned"])
def test_a_note_stands_where_it_was_put_whatever_was_done_to_the_page(project: Project, way: str) -> None:
    sheet = project.sheets()[0].number
    rng = np.random.default_rng(SEED)
    at = tuple(float(v) for v in rng.uniform(30, 150, 2))
    with edited(sheet_pdf(project.path, sheet, 20.0)) as (pdf, saved):
        page = pdf.pages[0]
        put(pdf, 0, at, T=String("BR"), Contents=String("Here."))  # type: ignore[arg-type]
        width, height = (float(v) for v in list(page.mediabox)[2:])
        if way == "scaled":
            page.contents_add(b"0.5 0 0 0.5 0 0 cm", prepend=True)
            page.obj.MediaBox = Array([0, 0, width / 2, height / 2])
            note = page.obj.Annots[0]
            note.Rect = Array([float(v) / 2 for v in note.Rect])
        elif way == "unit":
            page.contents_add(b"0.5 0 0 0.5 0 0 cm", prepend=True)
            page.obj.MediaBox, page.obj.UserUnit = Array([0, 0, width / 2, height / 2]), 2
            note = page.obj.Annots[0]
            note.Rect = Array([float(v) / 2 for v in note.Rect])
        elif way == "cropped":
            page.obj.CropBox = Array([20, 30, width - 5, height - 40])
        else:
            page.obj.Rotate = 90
        back = saved()
    (note,) = compare_file(project, sheet, back, "back.pdf").notes
    assert note.spot == pytest.approx(at, abs=0.1)


def test_what_a_review_says_of_a_state_settles_what_was_pinned(project: Project) -> None:
    sheet = project.sheets()[0].number
    for i in range(3):
        pin_note(project, sheet, (40.0 + 10 * i, 60.0), f"Note {i}", "AM")
    held = margin_notes(project)
    with edited(marked_proof(project.path, sheet).data) as (pdf, saved):
        for note, state in zip(held, ("Completed", "Accepted", "Marked"), strict=True):
            root = named(pdf, 0, f"note {note.id}")
            model = "Marked" if state == "Marked" else "Review"
            put(pdf, 0, (1, 1), IRT=root, T=String("BR"), StateModel=String(model), State=String(state))
        # What was rewritten in the note itself is an answer, of whoever that was.
        named(pdf, 0, f"note {held[1].id}").Contents = String("Note 1, and it is wrong.")
        assert taken(project, sheet, saved()) == 3
    settled, accepted, marked = margin_notes(project)
    assert [n.state for n in (settled, accepted, marked)] == ["settled", "answered", "open"]
    assert [(a.author, a.text) for a in settled.answers] == [("BR", "completed")]
    assert sorted((a.author, a.text) for a in accepted.answers) == [
        ("BR", "accepted"),
        ("back.pdf", "Note 1, and it is wrong."),
    ]


def test_a_note_that_is_gone_and_a_proof_of_another_sheet(project: Project) -> None:
    one, other = (sheet.number for sheet in project.sheets()[:2])
    pin_note(project, one, (40.0, 60.0), "Wider?", "AM")
    (pinned,) = margin_notes(project)
    out = marked_proof(project.path, one).data
    with edited(out) as (pdf, saved):
        root = named(pdf, 0, f"note {pinned.id}")
        put(pdf, 0, (1, 1), IRT=root, T=String("BR"), Contents=String("Yes."))
        put(pdf, 0, (1, 1), IRT=root, T=String("CD"), Contents=String("No."))
        back = saved()
    project.undo()
    assert margin_notes(project) == []
    with pytest.raises(FileRefused, match=project.sheets()[0].name):
        compare_file(project, other, back, "back.pdf")
    # Another project has such a sheet, too.
    project_file = project.path.with_name("another.gpkg")
    create(project_file, "Another", project.crs, project.scales)
    with opened_for_writing(project_file) as another:
        another.apply("sheets", [rows.sheet_change(replace(sheet, id=None)) for sheet in project.sheets()])
        with pytest.raises(FileRefused, match="another project"):
            compare_file(another, another.sheets()[0].number, back, "back.pdf")
    assert taken(project, one, back) == 2
    (note,) = margin_notes(project)
    assert note.message == "Answers a note that is gone: Wider?"
    assert [a.text for a in note.answers] == ["Yes.", "No."]


def test_odd_annotations_are_read_or_refused_and_never_trusted(project: Project) -> None:
    sheet = project.sheets()[0].number
    with edited(marked_proof(project.path, sheet).data) as (pdf, saved):
        a = put(pdf, 0, (10, 10), T=String("A" * 500), Contents=String("round " * 2000), NM="a")
        b = put(pdf, 0, (10, 10), T=String("B\0\x07"), Contents=String("and round"), IRT=a)
        a.IRT = b
        c = put(pdf, 0, (10, 10), Contents=String("itself"))
        c.IRT = c
        put(
            pdf,
            0,
            (10, 10),
            Contents=String("strange"),
            NM=our_name(ProofOf(project.begun(), sheet), "'; DROP TABLE answers; --", "x"),
        )
        put(pdf, 0, (10, 10), Contents=String("no number"), NM=f"orvik/{10**30}/0/key")
        put(pdf, 0, (10, 10), Contents=Array([1, 2]), T=Dictionary(), M=String("D:20261399"), IRT=String("x"))
        put(pdf, 0, (10, 10), Contents=String("flat"), QuadPoints=Array([1, 2]), Rect=Array([0, 0]))
        pdf.pages[0].obj.Annots.append(
            Dictionary(Subtype=Name.Text, Contents=String("direct"), Rect=Array([0, 0, 1, 1]))
        )
        pdf.pages[0].obj.Annots.append(String("no annotation"))
        back = saved()
    assert taken(project, sheet, back) > 4
    for note in margin_notes(project):
        assert len(note.message) <= LONGEST_TEXT
        assert all(len(one.author) <= 60 and one.author.isprintable() for one in (note, *note.answers))
    assert any(note.key == "'; DROP TABLE answers; --" for note in margin_notes(project))
    assert taken(project, sheet, back) == 0
    with edited(back) as (pdf, saved):
        for _ in range(MOST_NOTES):
            put(pdf, 0, (10, 10), Contents=String("x"))
        with pytest.raises(FileRefused, match="no more than"):
            compare_file(project, sheet, saved(), "back.pdf")
    for data in (b"", b"%PDF-1.7", back[: len(back) // 3], b"%PDF-" + bytes(range(256)) * 40):
        with pytest.raises(FileRefused):
            read_annotations(data, "back.pdf")


def test_every_kind_of_markup_is_known_and_nothing_else() -> None:
    # ISO 32000-2, table 171: those marked as markup annotations, but for attachments, sounds, and what a Redact hides.
    markup = "Text FreeText Line Square Circle Polygon PolyLine Highlight Underline Squiggly StrikeOut Caret Stamp Ink"
    assert set(KINDS) == {f"/{kind}" for kind in markup.split()}
