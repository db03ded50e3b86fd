"""Files that sheets use as they are kept: pictures, drawings and fonts."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from orvik.core.sheet.page.sheet_file import FileKind, KeptFile
from orvik.store.reader import Reader


def keep_files(writer: sqlite3.Connection, files: Sequence[KeptFile]) -> None:
    """Add files within the transaction at hand; what holds the same is there once."""
    for kept in files:
        writer.execute(
            "INSERT OR IGNORE INTO files (checksum, name, kind, data) VALUES (?, ?, ?, ?)",
            (kept.checksum, kept.name, kept.kind, kept.data),
        )


def kept_file(project: Reader, checksum: str) -> KeptFile | None:
    """A file by its checksum; None where it is not there, or is no longer what it was."""
    row = project.file_row(checksum)
    kept = KeptFile(str(row["name"]), row["kind"], bytes(row["data"])) if row is not None else None
    return kept if kept is not None and kept.checksum == checksum else None


def file_names(project: Reader, *kinds: FileKind) -> dict[str, str]:
    """What the files of some kinds are called, by their checksums."""
    return {row["checksum"]: str(row["name"]) for row in project.files_listed() if row["kind"] in kinds}
