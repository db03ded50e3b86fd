"""Measuring a PDF with PDFium's own parser, so that what is measured is what others read."""

from __future__ import annotations

import pypdfium2
import pypdfium2.raw as pdfium

MM = 72 / 25.4


def segments(data: bytes) -> list[list[tuple[float, float]]]:
    """Points of every path on a page in millimetres from the upper left, as PDFium reads them."""
    document = pypdfium2.PdfDocument(data)
    page = document[0]
    height = page.get_height()
    found = []
    for item in page.get_objects(max_depth=8):
        if item.type != pdfium.FPDF_PAGEOBJ_PATH:
            continue
        matrix = item.get_matrix()
        path = []
        for i in range(pdfium.FPDFPath_CountSegments(item.raw)):
            segment = pdfium.FPDFPath_GetPathSegment(item.raw, i)
            x, y = pdfium.c_float(), pdfium.c_float()
            pdfium.FPDFPathSegment_GetPoint(segment, x, y)
            px, py = matrix.on_point(x.value, y.value)
            path.append((px / MM, (height - py) / MM))
        found.append(path)
    return found
