"""A page as a picture file: drawn by PDFium in strips, so that memory stays bounded however large it is."""

from __future__ import annotations

import io
import math
import struct
import warnings
import zlib
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import pypdfium2
import pypdfium2.raw as pdfium

from orvik.core.arrays import Bytes
from orvik.core.errors import FileRefused, SheetRefused
from orvik.core.ink.affine import Affine
from orvik.core.progress import Tell, tell_nobody
from orvik.whole_file import whole_file

LEAST_DPI, MOST_DPI = 10.0, 1200.0
# Dots that are drawn at a time: so few that a page of a hand tells how far it is.
STRIP_DOTS = 3_000_000
# JPEG counts a side in sixteen bits (ITU-T T.81, B.2.2).
JPEG_SIDE = 65_535
JPEG_QUALITY = 92
INCH = 0.0254


@dataclass(frozen=True)
class Georeference:
    """Where dots of a page lie: the way from a dot (x, y from the upper left) to the ground, and its system as WKT."""

    to_ground: Affine
    wkt: str


class PageDots:
    """The first page of a PDF in dots.

    Raises
    ------
    SheetRefused
        So few or so many dots per inch make no useful picture.
    """

    def __init__(self, pdf: bytes, dpi: float, tell: Tell = tell_nobody) -> None:
        if not LEAST_DPI <= dpi <= MOST_DPI:
            raise SheetRefused(f"{dpi:g} dots per inch make no useful picture; choose {LEAST_DPI:g} to {MOST_DPI:g}.")
        self.dpi = dpi
        self._tell = tell
        self._document = pypdfium2.PdfDocument(pdf)
        self._page = self._document[0]
        across, down = self._page.get_width(), self._page.get_height()
        # Parts of a dot at the edge are kept, so that the scale is exact.
        self.width, self.height = (max(1, math.ceil(round(side / 72 * dpi, 6))) for side in (across, down))

    @property
    def rows_at_a_time(self) -> int:
        """How many rows a strip has."""
        return int(max(1, min(self.height, STRIP_DOTS // self.width)))

    def strips(self) -> Iterator[tuple[int, Bytes]]:
        """The first row of each strip, and its dots (rows, columns, 3), from the top."""
        tops = range(0, self.height, self.rows_at_a_time)
        for number, top in enumerate(tops):
            self._tell(number / len(tops), f"strip {number + 1} of {len(tops)}")
            yield top, self._drawn(top, min(self.rows_at_a_time, self.height - top))

    def _drawn(self, top: int, rows: int) -> Bytes:
        bitmap = pypdfium2.PdfBitmap.new_native(self.width, rows, pdfium.FPDFBitmap_BGR)
        bitmap.fill_rect((255, 255, 255, 255), 0, 0, self.width, rows)
        # Moved up by whole dots: strips meet, which pieces of the page in points do not.
        scale = self.dpi / 72
        way = pdfium.FS_MATRIX(scale, 0, 0, scale, 0, -top)
        seen = pdfium.FS_RECTF(0, 0, self.width, rows)
        pdfium.FPDF_RenderPageBitmapWithMatrix(bitmap, self._page, way, seen, pdfium.FPDF_ANNOT)
        return np.ascontiguousarray(bitmap.to_numpy()[:, :, ::-1])


def write_picture(
    pdf: bytes, target: Path, dpi: float, ground: Georeference | None = None, tell: Tell = tell_nobody
) -> None:
    """Write the first page of a PDF as PNG, TIFF or JPEG, by the ending of its name; all state their resolution.

    Parameters
    ----------
    ground
        What a TIFF tells of its ground.

    Raises
    ------
    SheetRefused
        A resolution that makes no picture, or a side that JPEG cannot count.
    FileRefused
        It cannot be written; nothing is left of it.
    """
    import rasterio
    import rasterio.shutil

    page = PageDots(pdf, dpi, tell)
    if target.suffix.lower() == ".jpg" and max(page.width, page.height) > JPEG_SIDE:
        raise SheetRefused(
            f"At {dpi:g} dots per inch this page is {page.width} × {page.height} dots, and JPEG knows no side of more "
            f"than {JPEG_SIDE}; choose fewer, or PNG or TIFF."
        )
    try:
        with whole_file(target, target.suffix) as made:
            if target.suffix.lower() == ".png":
                with made.open("wb") as out:
                    _write_png(page, out)
            elif target.suffix.lower() == ".jpg":
                _write_jpeg(page, made)
            else:
                _write_tiff(page, made, ground)
    except (OSError, rasterio.errors.RasterioError) as error:
        raise FileRefused(f"{target.name} cannot be written ({error}); choose another place.") from error


def page_dots(pdf: bytes, dpi: float) -> Bytes:
    """The first page of a PDF in dots (rows, columns, 3); raises SheetRefused as ``write_picture`` does."""
    return np.concatenate([dots for _, dots in PageDots(pdf, dpi).strips()])


def page_png(pdf: bytes, dpi: float) -> bytes:
    """The first page of a PDF as a PNG in memory, for a screen; raises SheetRefused as ``write_picture`` does."""
    out = io.BytesIO()
    _write_png(PageDots(pdf, dpi), out)
    return out.getvalue()


def _write_png(page: PageDots, out: BinaryIO) -> None:
    """PNG as ISO/IEC 15948 has it, its rows as differences from those above."""
    out.write(b"\x89PNG\r\n\x1a\n")
    _chunk(out, b"IHDR", struct.pack(">IIBBBBB", page.width, page.height, 8, 2, 0, 0, 0))
    per_metre = round(page.dpi / INCH)
    _chunk(out, b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    packer = zlib.compressobj(6)
    above = np.zeros((1, page.width, 3), dtype=np.uint8)
    for _, dots in page.strips():
        rows = dots - np.concatenate([above, dots[:-1]])
        above = dots[-1:].copy()
        kinds = np.full((len(rows), 1), 2, dtype=np.uint8)
        packed = packer.compress(np.hstack([kinds, rows.reshape(len(rows), -1)]).tobytes())
        if packed:
            _chunk(out, b"IDAT", packed)
    _chunk(out, b"IDAT", packer.flush())
    _chunk(out, b"IEND", b"")


def _chunk(out: BinaryIO, kind: bytes, data: bytes) -> None:
    out.write(struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data)))


def _write_tiff(page: PageDots, target: Path, ground: Georeference | None) -> None:
    import rasterio
    import rasterio.shutil
    from rasterio.errors import NotGeoreferencedWarning
    from rasterio.transform import Affine as Transform

    options = {} if ground is None else {"crs": ground.wkt, "transform": Transform(*ground.to_ground)}
    with ExitStack() as held:
        # A page without ground is not a mistake.
        held.enter_context(warnings.catch_warnings())
        warnings.simplefilter("ignore", NotGeoreferencedWarning)
        out = held.enter_context(_tiff(page, target, options))
        out.update_tags(TIFFTAG_XRESOLUTION=page.dpi, TIFFTAG_YRESOLUTION=page.dpi, TIFFTAG_RESOLUTIONUNIT=2)
        for top, dots in page.strips():
            window = rasterio.windows.Window(0, top, page.width, len(dots))
            out.write(np.moveaxis(dots, -1, 0), window=window)


def _tiff(page: PageDots, target: Path, options: dict[str, Any]) -> Any:
    import rasterio
    import rasterio.shutil

    return rasterio.open(
        target,
        "w",
        driver="GTiff",
        width=page.width,
        height=page.height,
        count=3,
        dtype="uint8",
        photometric="RGB",
        compress="deflate",
        predictor=2,
        bigtiff="IF_SAFER",
        **options,
    )


def _write_jpeg(page: PageDots, target: Path) -> None:
    """By way of a TIFF, which can be written and read in strips."""
    import rasterio
    import rasterio.shutil
    from rasterio.errors import NotGeoreferencedWarning

    between = target.with_suffix(".tif")
    _write_tiff(page, between, None)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", NotGeoreferencedWarning)
        rasterio.shutil.copy(between, target, driver="JPEG", QUALITY=JPEG_QUALITY, WRITE_EXIF_METADATA="NO")
    with target.open("r+b") as out:
        # The resolution in the first segment (JFIF 1.02): dots per inch, across and down.
        head = out.read(20)
        if head[6:11] == b"JFIF\0":
            out.seek(13)
            out.write(struct.pack(">BHH", 1, round(page.dpi), round(page.dpi)))
