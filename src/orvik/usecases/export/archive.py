"""A project as one archive to hand over: the file, its pictures, its sheets, its symbol book, the fonts, checksums."""

from __future__ import annotations

import hashlib
import json
import lzma
import os
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Callable
from contextlib import closing
from datetime import date
from pathlib import Path

from orvik.core.errors import FileRefused, ProjectRefused
from orvik.core.lettering import FONTS
from orvik.core.progress import Tell, part_of, tell_nobody
from orvik.core.sheet.output.export_settings import ExportSettings, file_names
from orvik.exchange.rasters import raster
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.export.export_sheets import export
from orvik.usecases.symbols.shared_books import book_of
from orvik.whole_file import file_asked_for

# What an archive holds beside the project: the first is what it is known by.
ABOUT, SUMS, README, BOOK = "archive.json", "SHA256SUMS", "README.md", "symbol-book.json"
FORM = 1
# An archive of a project with pictures is large; one that unpacks to more than this is none of ours.
# The largest that the description of an archive and its list of checksums are, in bytes.
LARGEST_ABOUT, LARGEST_SUMS = 1_000_000, 20_000_000
LARGEST = 200_000_000_000
# What reading an archive ends in that is broken, locked by a password, packed by a method that is not known here, or
# whose description is none.
BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    RuntimeError,
    NotImplementedError,
    RecursionError,
    KeyError,
    ValueError,
    EOFError,
)
WORDS = """# {name}

A geologic map project, archived by Orvik on {day}.

- `project/{file}`: the project, a GeoPackage (OGC 12-128r18); any program that reads that format can open it.
- `project/{folder}/`: the pictures and grids that lie below the map, as they were imported.
- `sheets/`: the sheets as PDF.
- `symbol-book.json`: the symbols that are the project's own.
- `fonts/`: the typefaces of the sheets, with their licences.
- `SHA256SUMS`: the checksum of every file, to be checked with `sha256sum --check SHA256SUMS`.

To go on working: `orvik open-archive ARCHIVE.zip --to FOLDER`, or unpack it and put what is in `project` into the
folder of projects.
"""


def write_archive(path: Path, target: Path, day: str, tell: Tell = tell_nobody) -> int:
    """Write the archive of a project; it appears only when it is whole. Gives the number of files in it.

    Parameters
    ----------
    day
        That it is handed over, ISO 8601.

    Raises
    ------
    OrvikError
        A sheet cannot be composed, or the archive cannot be written.
    """
    with file_asked_for(target) as part, tempfile.TemporaryDirectory(dir=target.parent, prefix=".out-") as temporary:
        root = Path(temporary)
        _gather(path, root, day, part_of(tell, 0.0, 0.8))
        files = sorted(file for file in root.rglob("*") if file.is_file())
        sums = "".join(f"{_checksum(file)}  {file.relative_to(root).as_posix()}\n" for file in files)
        (root / SUMS).write_text(sums, encoding="utf-8")
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            for i, file in enumerate([*files, root / SUMS]):
                tell(0.8 + 0.2 * i / len(files), f"packing {file.name}")
                archive.write(file, file.relative_to(root).as_posix())
        return len(files) + 1


def _gather(path: Path, root: Path, day: str, tell: Tell) -> None:
    (root / "project").mkdir()
    (root / "sheets").mkdir()
    copy = root / "project" / path.name
    with (
        closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as source,
        closing(sqlite3.connect(copy)) as out,
    ):
        source.backup(out)
        # The copy stands alone, without a log beside it.
        out.execute("PRAGMA journal_mode=DELETE")
    folder = raster.files_folder(path)
    if folder.is_dir():
        shutil.copytree(folder, root / "project" / folder.name)
    shutil.copytree(FONTS, root / "fonts")
    with opened_for_reading(path) as project:
        _sheets(project, root / "sheets", tell)
        (root / BOOK).write_text(book_of(project).text, encoding="utf-8")
        about = {"form": FORM, "name": project.name, "file": path.name, "revision": project.revision, "day": day}
        (root / ABOUT).write_text(json.dumps(about, ensure_ascii=False, indent=1), encoding="utf-8")
        words = WORDS.format(name=project.name, day=day, file=path.name, folder=folder.name)
        (root / README).write_text(words, encoding="utf-8")


def _sheets(project: ReadProject, folder: Path, tell: Tell) -> None:
    sheets = project.sheets()
    names = file_names("{number} {sheet}", project.name, sheets, date.today())
    for i, (sheet, name) in enumerate(zip(sheets, names, strict=True)):
        mine = part_of(tell, i / len(sheets), (i + 1) / len(sheets))
        export(project, sheet, folder / f"{name}.pdf", ExportSettings(), mine)


def open_archive(archive: Path, folder: Path, named: Callable[[str], str] = str) -> Path:
    """Unpack the project of an archive into a folder of projects; gives its file.

    Parameters
    ----------
    named
        What the file is called here, without its ending, by what it is called in the archive.

    Raises
    ------
    FileRefused
        It is not an archive of a project, or a file in it is not what it was.
    ProjectRefused
        There is a project of that name already.
    """
    try:
        with zipfile.ZipFile(archive) as packed:
            return _unpacked(packed, archive.name, folder, named)
    except OSError as error:
        raise FileRefused(
            f"{archive.name} cannot be opened: {(error.strerror or 'it cannot be read').lower()}."
        ) from error
    except BROKEN as error:
        raise FileRefused(f"{archive.name} cannot be read as an archive of a project; have it sent again.") from error


def _unpacked(packed: zipfile.ZipFile, shown: str, folder: Path, named: Callable[[str], str]) -> Path:
    about = json.loads(_small(packed, ABOUT, LARGEST_ABOUT))
    if not isinstance(about, dict) or not isinstance(about.get("form"), int) or "file" not in about:
        raise FileRefused(f"{shown} does not say what project it holds; it is not an archive of a project.")
    name = str(about["file"])
    if about["form"] > FORM:
        raise FileRefused(f"{shown} was made by a later Orvik; open it with that one.")
    if Path(name).name != name or not name.endswith(".gpkg"):
        raise FileRefused(f"{shown} names no project file; it is damaged.")
    if sum(info.file_size for info in packed.infolist()) > LARGEST:
        raise FileRefused(f"{shown} unpacks to more than any project has; it is damaged.")
    target = folder / f"{named(Path(name).stem)}.gpkg"
    files = raster.files_folder(target)
    if target.exists() or files.exists():
        raise ProjectRefused(f"There is a project {target.name} in {folder.name} already; move it away first.")
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".taking-over-") as temporary:
        root = Path(temporary)
        for line in _small(packed, SUMS, LARGEST_SUMS).decode().splitlines():
            checksum, _, inner = line.partition("  ")
            if not inner.startswith("project/"):
                continue
            # Only names that stay within the folder are unpacked.
            place = (root / inner).resolve()
            if root.resolve() not in place.parents:
                raise FileRefused(f"{shown} holds a file that lies outside it; it is not opened.")
            place.parent.mkdir(parents=True, exist_ok=True)
            with packed.open(inner) as source, place.open("wb") as out:
                shutil.copyfileobj(source, out)
            if _checksum(place) != checksum:
                raise FileRefused(f"{inner} in {shown} is not what it was when it was packed; have it sent again.")
        made = root / "project" / name
        if not made.is_file():
            raise FileRefused(f"{shown} holds no project file {name}; it is damaged.")
        # Whatever is wrong with it is said before anything has its place here.
        with opened_for_reading(made):
            pass
        packed_files = raster.files_folder(made)
        try:
            if packed_files.is_dir():
                shutil.move(packed_files, files)
            os.replace(made, target)
        except OSError:
            shutil.rmtree(files, ignore_errors=True)
            raise
    return target


def _small(packed: zipfile.ZipFile, name: str, most: int) -> bytes:
    """A file of an archive that is read as a whole; raises FileRefused for one that is larger than it ever is."""
    with packed.open(name) as opened:
        data = opened.read(most + 1)
    if len(data) > most:
        raise FileRefused(f"{name} of this archive is larger than it ever is; the archive is damaged.")
    return data


def _checksum(file: Path) -> str:
    with file.open("rb") as opened:
        return hashlib.file_digest(opened, "sha256").hexdigest()
