"""Files that a page sends: looked at and thrown away, or laid aside until a person has decided."""

from __future__ import annotations

import asyncio
import re
import shutil
import tempfile
import time
import uuid
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import UploadFile

from orvik.core.errors import FileRefused, NotFound
from orvik.exchange.untrusted.parent import PARTS

ASIDE = ".import_features"
# What was laid aside and never decided on is thrown away after a day.
OLDEST_SECONDS = 86_400
# File systems take 255 bytes; copies add a little of their own.
LONGEST_NAME = 150


# Parts of a shapefile that say nothing by themselves.
BESIDE_SHAPES = frozenset(PARTS[".shp"]) - {".shp"}


@asynccontextmanager
async def uploaded(files: list[UploadFile]) -> AsyncIterator[list[Path]]:
    """Uploads as files of their own names, for as long as they are looked at."""
    with tempfile.TemporaryDirectory() as temporary:
        paths = []
        for file in files:
            target = Path(temporary) / name_of(file)
            with target.open("wb") as out:
                await asyncio.to_thread(shutil.copyfileobj, file.file, out)
            paths.append(target)
        yield paths


async def laid_aside(projects: Path, file: UploadFile, beside: Sequence[UploadFile] = ()) -> tuple[str, Path]:
    """Keep an upload until it is decided on; gives a token for it and its path.

    Parameters
    ----------
    beside
        Files that belong to it and are called as it is, as those of a shapefile.
    """
    name = name_of(file)
    aside = projects / ASIDE
    aside.mkdir(exist_ok=True)
    for old in aside.iterdir():
        if time.time() - old.stat().st_mtime > OLDEST_SECONDS:
            shutil.rmtree(old, ignore_errors=True)
    token = uuid.uuid4().hex
    (aside / token).mkdir()
    target = aside / token / name
    try:
        for one in (file, *beside):
            with target.with_suffix(Path(name_of(one)).suffix).open("wb") as out:
                await asyncio.to_thread(shutil.copyfileobj, one.file, out)
    except OSError:
        shutil.rmtree(target.parent, ignore_errors=True)
        raise
    return token, target


def with_parts(files: Sequence[UploadFile]) -> list[tuple[UploadFile, list[UploadFile]]]:
    """Files that are chosen together, each with those that are parts of it."""
    stems = {Path(name_of(file)).stem for file in files if Path(name_of(file)).suffix.lower() == ".shp"}

    def is_part(file: UploadFile) -> bool:
        name = Path(name_of(file))
        return name.stem in stems and name.suffix.lower() in BESIDE_SHAPES

    return [
        (file, [one for one in files if is_part(one) and Path(name_of(one)).stem == Path(name_of(file)).stem])
        for file in files
        if not is_part(file)
    ]


def name_of(file: UploadFile) -> str:
    """The name of an upload as a file here can have it: no path, no control characters, and not too long.

    Files of one shapefile keep one name before their endings.

    Raises
    ------
    FileRefused
        There is no file.
    """
    given = (file.filename or "").replace("\\", "/").rsplit("/", 1)[-1]
    plain = "".join(c for c in given if c.isprintable()).strip().lstrip(".")
    plain = plain.encode("utf-8", "ignore").decode()
    if not plain:
        raise FileRefused("Choose a file first.")
    path = Path(plain)
    stem, ending = path.stem, path.suffix[:20]
    while len(stem.encode()) > LONGEST_NAME:
        stem = stem[:-1]
    return f"{stem}{ending}"


def aside(projects: Path, token: str) -> Path:
    """The file that a token stands for; raises NotFound."""
    folder = projects / ASIDE / token
    if not re.fullmatch(r"[0-9a-f]{32}", token) or not folder.is_dir():
        raise NotFound("That file is no longer here; choose it again.")
    return min(folder.iterdir(), key=lambda file: file.suffix.lower() in BESIDE_SHAPES)


def thrown_away(projects: Path, token: str) -> None:
    """Forget a file that was laid aside."""
    shutil.rmtree(aside(projects, token).parent, ignore_errors=True)
