"""SVG and PDF files that come back: where their texts stand on the page, in millimetres."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element, ParseError

import defusedxml.ElementTree
import pypdfium2
from defusedxml import DefusedXmlException
from svgelements import Matrix

from orvik.core.errors import FileRefused
from orvik.core.sheet.returned import PlacedText

LARGEST = 200_000_000
NAME = "{http://www.w3.org/2000/svg}"
# Millimetres of a unit of length (CSS Values 3, 5.2); a number alone is a pixel.
UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "px": 25.4 / 96, "": 25.4 / 96}


@dataclass(frozen=True)
class ReturnedSheet:
    """The texts of a file by their names, and the names of its groups."""

    texts: dict[str, PlacedText]
    groups: list[str]


def read_svg(data: bytes, shown: str) -> ReturnedSheet:
    """The named texts and groups of an SVG.

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
        raise FileRefused(f"{shown} is no SVG.")
    k, left, top = _frame(root)
    texts: dict[str, PlacedText] = {}
    groups: list[str] = []
    try:
        for element, matrix in _walk(root, Matrix()):
            name = element.get("id")
            if not name:
                continue
            if element.tag == f"{NAME}g":
                groups.append(name)
            elif element.tag == f"{NAME}text" or element.get("aria-label"):
                x, y = _begin(element)
                at = matrix.point_in_matrix_space((x, y))
                said = element.get("aria-label") or "".join(element.itertext())
                texts[name] = PlacedText(" ".join(said.split()), (at.x - left) * k, (at.y - top) * k)
    except (ValueError, TypeError, IndexError, RecursionError) as error:
        raise FileRefused(f"{shown} moves something in a way that cannot be read.") from error
    return ReturnedSheet(texts, groups)


def _check_size(data: bytes, shown: str) -> None:
    if len(data) > LARGEST:
        raise FileRefused(f"{shown} has more than {LARGEST // 1_000_000} MB; a sheet is smaller.")


def _frame(root: Element) -> tuple[float, float, float]:
    """Millimetres of a unit of the drawing, and where the page begins in these."""
    length = re.fullmatch(r"\s*([\d.eE+-]+)\s*(\w*)\s*", root.get("width") or "")
    box = [float(v) for v in re.split(r"[\s,]+", (root.get("viewBox") or "").strip()) if v]
    if len(box) != 4:
        return UNITS.get(length[2] if length else "", UNITS[""]), 0.0, 0.0
    if length is None or length[2] not in UNITS:
        return UNITS[""], box[0], box[1]
    return float(length[1]) * UNITS[length[2]] / box[2], box[0], box[1]


def _walk(element: Element, matrix: Matrix) -> Iterator[tuple[Element, Matrix]]:
    for child in element:
        if child.tag in (f"{NAME}defs", f"{NAME}symbol"):
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


def read_pdf(data: bytes, shown: str) -> dict[str, PlacedText]:
    """The texts of the first page of a PDF that stand on it once, by what they say.

    Raises
    ------
    FileRefused
        It is none, or too large.
    """
    _check_size(data, shown)
    try:
        page = pypdfium2.PdfDocument(data)[0]
        text = page.get_textpage()
        found = []
        for i in range(text.count_rects()):
            left, bottom, right, top = text.get_rect(i)
            said = " ".join(text.get_text_bounded(left, bottom, right, top).split())
            found.append((said, left / 72 * 25.4, (page.get_height() - bottom) / 72 * 25.4))
    except pypdfium2.PdfiumError as error:
        raise FileRefused(f"{shown} cannot be read as a PDF.") from error
    counts = Counter(said for said, _, _ in found)
    return {said: PlacedText(said, x, y) for said, x, y in found if len(said) > 2 and counts[said] == 1}
