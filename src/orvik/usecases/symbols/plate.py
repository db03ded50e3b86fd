"""The plate of a symbol book as a file."""

from __future__ import annotations

from pathlib import Path

from orvik.core.errors import FileRefused
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.plate import plate
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.press.pdf import Page, pages_pdf
from orvik.press.pdf_standard import About
from orvik.store.read_project import opened_for_reading
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.whole_file import write_asked_for


def write_plate(project: Path | None, target: Path) -> int:
    """Write every symbol and pattern at true size to a PDF; gives the number of its pages.

    Parameters
    ----------
    project
        A project whose symbol book it is; None for the one that ships with Orvik.

    Raises
    ------
    FileRefused
        Another ending than .pdf, or a folder that cannot be written.
    """
    if target.suffix.lower() != ".pdf":
        raise FileRefused(f"A plate is written as a PDF, not as {target.name}; use the file extension .pdf.")
    book = _book(project)
    write_asked_for(target, plate_pdf(book))
    return len(plate(book))


def plate_pdf(book: SymbolBook) -> bytes:
    """The plate of a symbol book as it is printed."""
    return pages_pdf([Page(page.items, page.width, page.height) for page in plate(book)], About("Plate of symbols"))


def _book(project: Path | None) -> SymbolBook:
    if project is None:
        return standard()
    with opened_for_reading(project) as opened:
        return symbol_book_of(opened)
