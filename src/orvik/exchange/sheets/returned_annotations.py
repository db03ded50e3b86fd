"""The notes that readers have left in a PDF: its markup annotations (ISO 32000-2, 12.5.6), of whatever program."""

from __future__ import annotations

import html
import io
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta, timezone
from typing import Any

import pikepdf
import pypdfium2

from orvik.core.errors import FileRefused
from orvik.core.findings.acceptance import LONGEST_SIGNATURE
from orvik.core.findings.margin_note import LONGEST_TEXT
from orvik.core.sheet.output.annotation import ReturnedAnnotation, read_name
from orvik.exchange.sheets.returned_file import LARGEST

# Annotations that say something of a page (table 171), in words; links, forms and windows do not.
KINDS = {
    "/Text": "",
    "/FreeText": "",
    "/Caret": "to be put in here",
    "/Line": "a line drawn by hand",
    "/Square": "framed",
    "/Circle": "ringed",
    "/Polygon": "framed",
    "/PolyLine": "a line drawn by hand",
    "/Ink": "drawn by hand",
    "/Stamp": "stamped",
    "/Highlight": "highlighted",
    "/Underline": "underlined",
    "/Squiggly": "underlined",
    "/StrikeOut": "struck out",
}
_ON_TEXT = ("/Highlight", "/Underline", "/Squiggly", "/StrikeOut")
# More than these nobody has written by hand; our own are as many as a map has findings.
MOST_PAGES, MOST_NOTES, MOST_OF_ALL = 500, 2000, 200_000
_MADE = re.compile(r"D:(\d{4})(\d\d)?(\d\d)?(\d\d)?(\d\d)?(\d\d)?(?:([-+Z])(\d\d)?'?(\d\d)?'?)?")


def read_annotations(data: bytes, shown: str) -> list[ReturnedAnnotation]:
    """The notes of a PDF in the order of its pages.

    Raises
    ------
    FileRefused
        It is no PDF, too large, or has more pages or notes than anybody has written by hand.
    """
    if len(data) > LARGEST:
        raise FileRefused(f"{shown} has more than {LARGEST // 1_000_000} MB; a proof is smaller.")
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            if len(pdf.pages) > MOST_PAGES:
                raise FileRefused(f"{shown} has {len(pdf.pages)} pages; a proof has no more than {MOST_PAGES}.")
            found = list(_all(pdf))
            others = sum(read_name(_text(note.get("/NM"))) is None for _, note in found)
            if others > MOST_NOTES or len(found) > MOST_OF_ALL:
                raise FileRefused(f"{shown} has {others} notes; no more than {MOST_NOTES} are read of one file.")
            # What stands in the list itself, not in an object of its own, nothing can refer to.
            order = {key: i for i, (_, note) in enumerate(found) if (key := _identity(note))[0]}
            document = pypdfium2.PdfDocument(data)
            return [_read(pdf.pages[page].obj, document, page, note, order) for page, note in found]
    except (pikepdf.PdfError, pypdfium2.PdfiumError, ValueError, TypeError, KeyError, RecursionError) as error:
        raise FileRefused(f"{shown} cannot be read as a PDF.") from error


def _all(pdf: pikepdf.Pdf) -> Iterator[tuple[int, Any]]:
    """The markup annotations of all pages, each with its page, from 0."""
    for number, page in enumerate(pdf.pages):
        listed = page.obj.get("/Annots")
        if not isinstance(listed, pikepdf.Array):
            continue
        for note in listed:
            if isinstance(note, pikepdf.Dictionary) and str(note.get("/Subtype", "")) in KINDS:
                yield number, note


def _identity(note: Any) -> tuple[int, int]:
    return (int(note.objgen[0]), int(note.objgen[1]))


def _read(
    page: Any, document: pypdfium2.PdfDocument, number: int, note: Any, order: dict[tuple[int, int], int]
) -> ReturnedAnnotation:
    kind = str(note.get("/Subtype"))
    asked = note.get("/IRT")
    answered = order.get(_identity(asked)) if isinstance(asked, pikepdf.Dictionary) else None
    left, top, unit = _page_corner(page)
    x0, y0, x1, y1 = _rectangle(note)
    return ReturnedAnnotation(
        number,
        (((x0 + x1) / 2 - left) * unit, (top - (y0 + y1) / 2) * unit),
        _words(note)[:LONGEST_TEXT],
        KINDS[kind],
        _under(document[number], note)[:200] if kind in _ON_TEXT else "",
        " ".join(_text(note.get("/T")).split())[:LONGEST_SIGNATURE],
        _day(_text(note.get("/M")) or _text(note.get("/CreationDate"))),
        _text(note.get("/NM"))[:LONGEST_TEXT],
        answered,
        _text(note.get("/State"))[:40],
    )


def _page_corner(page: Any) -> tuple[float, float, float]:
    """The left and upper sides of what is shown of a page in its own units, and millimetres of such a unit."""
    media = _sides(_inherited(page, "/MediaBox"), (0.0, 0.0, 612.0, 792.0))
    crop = _sides(_inherited(page, "/CropBox"), media)
    return max(media[0], crop[0]), min(media[3], crop[3]), float(page.get("/UserUnit", 1)) * 25.4 / 72


def _inherited(page: Any, name: str) -> Any:
    """An entry of a page, or of the nodes above it (table 31); as deep as trees of pages are."""
    for _ in range(50):
        if name in page:
            return page[name]
        page = page.get("/Parent")
        if not isinstance(page, pikepdf.Dictionary):
            return None
    return None


def _rectangle(note: Any) -> tuple[float, float, float, float]:
    return _sides(note.get("/Rect"), (0.0, 0.0, 0.0, 0.0))


def _sides(box: Any, otherwise: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """The sides of a rectangle, whose corners may be any two opposite ones (7.9.5)."""
    if not isinstance(box, pikepdf.Array) or len(box) != 4:
        return otherwise
    a, b, c, d = (float(v) for v in box)
    return min(a, c), min(b, d), max(a, c), max(b, d)


def _words(note: Any) -> str:
    """What it says: plainly, or in the rich text of programs that write nothing else."""
    plain = _text(note.get("/Contents"))
    if not plain.strip():
        rich = note.get("/RC")
        held = rich.read_bytes().decode(errors="replace") if isinstance(rich, pikepdf.Stream) else _text(rich)
        plain = html.unescape(re.sub(r"<[^>]{0,2000}>", " ", held[: 20 * LONGEST_TEXT]))
    lines = (" ".join(line.split()) for line in re.split(r"[\r\n]+", plain))
    return "\n".join(line for line in lines if line)


def _under(page: pypdfium2.PdfPage, note: Any) -> str:
    """The words that the corners of a mark hold (QuadPoints, table 182)."""
    corners = note.get("/QuadPoints")
    if not isinstance(corners, pikepdf.Array) or len(corners) < 8 or len(corners) > 8 * 200:
        return ""
    values = [float(v) for v in corners]
    text, said = page.get_textpage(), []
    for i in range(0, len(values) - 7, 8):
        xs, ys = values[i : i + 8 : 2], values[i + 1 : i + 8 : 2]
        # Letters of the line beside it reach into it by a little.
        lift = (max(ys) - min(ys)) * 0.2
        said.append(text.get_text_bounded(min(xs), min(ys) + lift, max(xs), max(ys) - lift))
    return " ".join(" ".join(said).split())


def _text(value: Any) -> str:
    if not isinstance(value, pikepdf.String | pikepdf.Name | str):
        return ""
    return "".join(c for c in str(value) if c.isspace() or c.isprintable())


def _day(text: str) -> str:
    """A date of PDF (7.9.4) as ISO 8601; empty for what is none."""
    found = _MADE.match(text)
    if found is None:
        return ""
    parts = [int(found[i] or (1 if i in (2, 3) else 0)) for i in range(1, 7)]
    away = timedelta(hours=int(found[8] or 0), minutes=int(found[9] or 0))
    try:
        zone = timezone(-away if found[7] == "-" else away)
        there = datetime(parts[0], parts[1], parts[2], parts[3], parts[4], min(parts[5], 59), tzinfo=zone)
        return there.astimezone(UTC).isoformat(timespec="seconds")
    except (ValueError, OverflowError):
        return ""
