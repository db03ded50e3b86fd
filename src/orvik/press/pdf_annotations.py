"""Notes of a PDF that its readers can answer: markup annotations (ISO 32000-2, 12.5.6.2 and 12.5.6.8)."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

import pikepdf
from pikepdf import Array, Dictionary, Name, String

from orvik.core.colour.hex import channels
from orvik.core.coordinates import PageBox
from orvik.core.sheet.output.annotation import Annotation

# It is neither enlarged nor turned with the page, and is printed nowhere: its mark is (table 167).
_FLAGS = 8 + 16


def annotate(pdf: pikepdf.Pdf, notes: Sequence[Annotation], heights: Sequence[float], points: float) -> None:
    """Add notes to the pages of a PDF.

    Parameters
    ----------
    heights
        Of its pages, in millimetres.
    points
        How many a millimetre has.
    """
    clear = _clear(pdf)
    for note in notes:
        page = pdf.pages[note.page]
        box = _box(note.box, heights[note.page], points)
        made = pdf.make_indirect(_annotation(note, box, clear))
        held = [made]
        for answer in note.answers:
            reply = _annotation(answer, box, clear)
            reply.IRT = made
            reply.RT = Name.R
            held.append(pdf.make_indirect(reply))
        if "/Annots" not in page.obj:
            page.obj.Annots = Array([])
        for one in held:
            page.obj.Annots.append(one)


def _annotation(note: Annotation, box: Array, clear: pikepdf.Object) -> Dictionary:
    day = _day(note.made_at)
    made = Dictionary(
        Type=Name.Annot,
        Subtype=Name.Square,
        Rect=box,
        NM=String(note.name),
        Contents=String(note.text),
        T=String(note.author),
        Subj=String(note.subject),
        C=Array([round(v, 4) for v in channels(note.colour)]),
        F=_FLAGS,
        BS=Dictionary(W=0),
        AP=Dictionary(N=clear),
    )
    if day:
        made.CreationDate = String(day)
        made.M = String(day)
    return made


def _clear(pdf: pikepdf.Pdf) -> pikepdf.Object:
    """An appearance that shows nothing: the ink of the page has the mark."""
    form = pdf.make_stream(b"")
    form.Type, form.Subtype = Name.XObject, Name.Form
    form.BBox = Array([0, 0, 1, 1])
    return form


def _box(box: PageBox, height: float, points: float) -> Array:
    left, top, width, high = box
    sides = (left, height - top - high, left + width, height - top)
    return Array([round(side * points, 4) for side in sides])


def _day(text: str) -> str:
    """A date of PDF (ISO 32000-2, 7.9.4); empty where a text is none."""
    try:
        there = datetime.fromisoformat(text)
    except ValueError:
        return ""
    return f"{(there if there.tzinfo else there.replace(tzinfo=UTC)).astimezone(UTC):D:%Y%m%d%H%M%SZ}"
