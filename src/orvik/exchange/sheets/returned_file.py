"""Returned SVG and PDF files: where their texts stand on the page, in millimetres."""

from __future__ import annotations

import io
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element, ParseError

import defusedxml.ElementTree
import pikepdf
import pypdfium2
from defusedxml import DefusedXmlException
from PIL import Image
from svgelements import Matrix

from orvik.core.errors import FileRefused
from orvik.core.sheet.output.returned import PlacedText
from orvik.core.sheet.output.returned_paths import DrawnPath
from orvik.exchange.sheets.returned_ink import InkReader, is_hidden

LARGEST = 200_000_000
NAME = "{http://www.w3.org/2000/svg}"
# Millimetres of a unit of length (CSS Values 3, 5.2); a number alone is a pixel.
UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "px": 25.4 / 96, "": 25.4 / 96}


@dataclass(frozen=True)
class ReturnedSheet:
    """The texts of a file by their names, the names of its groups, and what is drawn in these."""

    texts: dict[str, PlacedText]
    groups: list[str]
    ink: dict[str, list[DrawnPath]] = field(default_factory=dict)


def read_svg(data: bytes, shown: str, ours: Iterable[str] | None = None) -> ReturnedSheet:
    """The named texts and groups of an SVG, and what it draws.

    Parameters
    ----------
    ours
        The groups that its paths are sorted into; all of its own without these.

    Raises
    ------
    FileRefused
        It is none, or too large.
    """
    _check_size(data, shown)
    try:
        root = defusedxml.ElementTree.fromstring(data)
    except (ParseError, DefusedXmlException, ValueError, RecursionError) as error:
        raise FileRefused(f"{shown} cannot be read as an SVG; save it as a plain one.") from error
    if root.tag != f"{NAME}svg":
        raise FileRefused(f"{shown} is not an SVG.")
    texts: dict[str, PlacedText] = {}
    groups: list[str] = []
    try:
        to_mm = _frame(root)
        for element, matrix in _walk(root, to_mm):
            name = element.get("id")
            if not name:
                continue
            if element.tag == f"{NAME}g":
                groups.append(name)
            elif element.tag == f"{NAME}text" or element.get("aria-label"):
                at = matrix.point_in_matrix_space(_begin(element))
                said = element.get("aria-label") or "".join(element.itertext())
                texts[name] = PlacedText(" ".join(said.split()), at.x, at.y)
        known = frozenset(groups if ours is None else ours)
        ink = InkReader(root, known, to_mm).read()
    except (ValueError, TypeError, IndexError, RecursionError, OverflowError) as error:
        raise FileRefused(f"{shown} moves or draws something in a way that cannot be read.") from error
    return ReturnedSheet(texts, groups, ink)


def _check_size(data: bytes, shown: str) -> None:
    if len(data) > LARGEST:
        raise FileRefused(f"{shown} has more than {LARGEST // 1_000_000} MB; a sheet is smaller.")


def _frame(root: Element) -> Matrix:
    """The way from the units of a drawing to millimetres of the page (SVG 1.1, 7.7 and 7.8)."""
    width, height = (_length(root.get(name)) for name in ("width", "height"))
    box = [float(v) for v in re.split(r"[\s,]+", (root.get("viewBox") or "").strip()) if v]
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        unit = next((one[1] for one in (width, height) if one is not None), UNITS[""])
        return Matrix(unit, 0, 0, unit, 0, 0)
    left, top, across, down = box
    if width is None and height is None:
        return Matrix(UNITS[""], 0, 0, UNITS[""], -left * UNITS[""], -top * UNITS[""])
    k = [one[0] * one[1] / side if one is not None else None for one, side in ((width, across), (height, down))]
    kx, ky = k[0] if k[0] is not None else k[1], k[1] if k[1] is not None else k[0]
    assert kx is not None
    assert ky is not None
    room = kx * across, ky * down
    manner = (root.get("preserveAspectRatio") or "xMidYMid meet").split()
    if manner[0] != "none":
        kx = ky = max(kx, ky) if manner[1:] == ["slice"] else min(kx, ky)
    shares = [{"Min": 0.0, "Mid": 0.5, "Max": 1.0}.get(manner[0][at : at + 3], 0.5) for at in (1, 5)]
    gaps = (room[0] - kx * across) * shares[0], (room[1] - ky * down) * shares[1]
    return Matrix(kx, 0, 0, ky, gaps[0] - left * kx, gaps[1] - top * ky)


def _length(text: str | None) -> tuple[float, float] | None:
    """A length, and the millimetres of its unit; None where it is none, as of a share of the window."""
    found = re.fullmatch(r"\s*\+?([\d.]+(?:[eE][+-]?\d+)?)\s*(\w*)\s*", text or "")
    if found is None or found[2] not in UNITS:
        return None
    return float(found[1]), UNITS[found[2]]


def _walk(element: Element, matrix: Matrix) -> Iterator[tuple[Element, Matrix]]:
    for child in element:
        if child.tag in (f"{NAME}defs", f"{NAME}symbol") or is_hidden(child):
            continue
        moved = child.get("transform")
        own = Matrix(moved) * matrix if moved else matrix
        yield child, own
        yield from _walk(child, own)


def _begin(element: Element) -> tuple[float, float]:
    """Where a text begins in its own frame: its first place, or that of its first line."""
    first = next((e for e in element.iter() if e.get("x") is not None or e.get("y") is not None), element)
    return _first(first.get("x")), _first(first.get("y"))


def _first(places: str | None) -> float:
    found = re.match(r"\s*(-?[\d.]+(?:[eE][+-]?\d+)?)", places or "")
    return float(found[1]) if found else 0.0


@dataclass(frozen=True)
class ReturnedPage:
    """The first page of a PDF, cut to its box and at its true size, as it is before it is turned.

    Attributes
    ----------
    texts
        Texts that stand on it once, by what they say.
    width, height
        Of what is shown, in millimetres.
    unit
        Millimetres of the unit of the page.
    cropped, turned
        Whether a box cuts the page, and by how many degrees clockwise it is shown turned.
    """

    texts: dict[str, PlacedText]
    width: float
    height: float
    unit: float
    cropped: bool = False
    turned: int = 0


def read_pdf(data: bytes, shown: str) -> ReturnedPage:
    """The first page of a PDF (ISO 32000-2, 14.11.2 for its boxes, table 31 for Rotate and UserUnit).

    Raises
    ------
    FileRefused
        It is none, or too large.
    """
    _check_size(data, shown)
    try:
        document = pypdfium2.PdfDocument(data)
        page = document[0]
        # PDFium does not tell the unit of a page.
        with pikepdf.open(io.BytesIO(data)) as opened:
            unit = float(opened.pages[0].get("/UserUnit", 1)) * 25.4 / 72
        media, crop = page.get_mediabox(), page.get_cropbox()
        box = (max(media[0], crop[0]), max(media[1], crop[1]), min(media[2], crop[2]), min(media[3], crop[3]))
        turned = page.get_rotation()
        text = page.get_textpage()
        found = []
        for i in range(text.count_rects()):
            left, bottom, right, top = text.get_rect(i)
            said = " ".join(text.get_text_bounded(left, bottom, right, top).split())
            found.append((said, (left - box[0]) * unit, (box[3] - bottom) * unit))
    except (pypdfium2.PdfiumError, pikepdf.PdfError, ValueError, TypeError) as error:
        raise FileRefused(f"{shown} cannot be read as a PDF.") from error
    counts = Counter(said for said, _, _ in found)
    texts = {said: PlacedText(said, x, y) for said, x, y in found if len(said) > 2 and counts[said] == 1}
    size = (box[2] - box[0]) * unit, (box[3] - box[1]) * unit
    return ReturnedPage(
        texts, *size, unit, cropped=any(abs(a - b) > 1 for a, b in zip(box, media, strict=True)), turned=turned
    )


def page_dots(data: bytes, dots_per_mm: float, unit: float) -> Image.Image:
    """The first page of a PDF as it is before it is turned, without its notes; ``unit`` is millimetres of its unit."""
    page = pypdfium2.PdfDocument(data)[0]
    page.set_rotation(0)
    # A hair smaller: a page of so many whole dots has no more of them where its box does not begin at nought.
    scale = dots_per_mm * unit * (1 - 1e-6)
    picture: Image.Image = page.render(scale=scale, may_draw_forms=False, draw_annots=False).to_pil()
    return picture.convert("RGB")
