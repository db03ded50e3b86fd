"""PDF to pictures, through PDFium: what is seen is what is printed."""

from __future__ import annotations

import io

import pypdfium2
from PIL import Image

from orvik.core.errors import SheetRefused

LARGEST_PIXELS = 400_000_000


def page_image(pdf: bytes, dpi: float) -> Image.Image:
    """The first page of a PDF as a picture.

    Raises
    ------
    SheetRefused
        A resolution that makes no picture, or one too large to hold.
    """
    if not 10 <= dpi <= 2400:
        raise SheetRefused(f"{dpi:g} dots per inch make no useful picture; choose 10 to 2400.")
    document = pypdfium2.PdfDocument(pdf)
    page = document[0]
    pixels = page.get_width() * page.get_height() * (dpi / 72) ** 2
    if pixels > LARGEST_PIXELS:
        raise SheetRefused(f"At {dpi:g} dots per inch this page has {pixels / 1e6:.0f} million dots; choose fewer.")
    image: Image.Image = page.render(scale=dpi / 72).to_pil().convert("RGB")
    return image


def page_png(pdf: bytes, dpi: float) -> bytes:
    """The first page of a PDF as a PNG file that states its resolution."""
    out = io.BytesIO()
    page_image(pdf, dpi).save(out, "PNG", dpi=(dpi, dpi))
    return out.getvalue()
