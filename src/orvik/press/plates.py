"""The plates of a press as pictures, and how much ink they lay over one another."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import pypdfium2
from PIL import Image

from orvik.core.arrays import Bytes, Floats
from orvik.core.sheet.output.export_settings import PLATES
from orvik.press.inks import PlateInks, PressInks
from orvik.press.pdf import Page, pages_pdf
from orvik.press.pdf_standard import About

# So many dots of one place are looked at together: a single one is the edge of a line.
TOGETHER = 3


@dataclass(frozen=True)
class MostInk:
    """Where the most ink lies: per cent of all four together, and millimetres from the page's upper left corner."""

    per_cent: float
    x: float
    y: float


def plate(page: Page, press: PressInks, number: int, dpi: float) -> Bytes:
    """What one plate prints, (h, w): 0 for bare paper, 255 for all that an ink can cover."""
    data = pages_pdf([page], About("plate"), inks=PlateInks(press, number))
    shown = pypdfium2.PdfDocument(data)[0].render(scale=dpi / 72, may_draw_forms=False, grayscale=True)
    return np.asarray(255 - np.asarray(shown.to_pil().convert("L")))


def plates(page: Page, press: PressInks, dpi: float) -> list[Bytes]:
    """All four, in the order of ``PLATES``."""
    return [plate(page, press, number, dpi) for number in range(len(PLATES))]


def total(held: list[Bytes]) -> Floats:
    """The ink of all plates at each dot, in per cent."""
    return np.asarray(sum(one.astype(np.float64) for one in held) / 2.55)


def most_ink(held: list[Bytes], dpi: float) -> MostInk:
    """Where the most ink lies that covers more than a dot."""
    from scipy.ndimage import minimum_filter

    lowest = minimum_filter(total(held), TOGETHER)
    row, column = np.unravel_index(int(lowest.argmax()), lowest.shape)
    k = 25.4 / dpi
    return MostInk(float(lowest[row, column]), float((column + 0.5) * k), float((row + 0.5) * k))


def plate_png(shown: Bytes) -> bytes:
    """A plate as it is looked at: ink dark on white."""
    out = io.BytesIO()
    Image.fromarray(255 - shown).save(out, "PNG", compress_level=3)
    return out.getvalue()
