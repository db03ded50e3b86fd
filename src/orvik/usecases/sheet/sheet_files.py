"""What the files of a project's sheets show."""

from __future__ import annotations

from orvik.core.lettering import OWN, is_known, lend
from orvik.core.sheet.page.sheet_file import Drawn, Files
from orvik.exchange.sheets.sheet_files import shown
from orvik.store.files import file_names, kept_file
from orvik.store.reader import Reader


def lend_fonts(project: Reader) -> None:
    """Make the fonts of a project known to whoever sets text here; each is read once."""
    for checksum in file_names(project, "font"):
        kept = None if is_known(f"{OWN}{checksum}") else kept_file(project, checksum)
        if kept is not None:
            lend(checksum, kept.data)


def files_of(project: Reader, most: int | None = None) -> Files:
    """What the files of a project show; pictures with no more dots a side than ``most``."""

    def found(checksum: str) -> Drawn | None:
        kept = kept_file(project, checksum)
        return shown(kept, most) if kept is not None and kept.kind != "font" else None

    return found
