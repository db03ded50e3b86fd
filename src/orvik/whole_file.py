"""Files that appear under their name only when they are whole."""

from __future__ import annotations

import contextlib
import os
import secrets
from collections.abc import Iterator
from pathlib import Path

from orvik.core.errors import FileRefused


@contextlib.contextmanager
def whole_file(target: Path, extension: str = "") -> Iterator[Path]:
    """A place beside ``target`` to write a file to, which takes the target's name when the block ends without an error.

    However it ends, nothing else is left beside the target. The place has a name that nobody else has, so that two
    who write the same file at once do not write into each other's.

    Parameters
    ----------
    target
        What the file will be called; a file of that name is replaced.
    extension
        What the place's name ends in, for writers that go by it.

    Raises
    ------
    OSError
        The file cannot be written; what stood under its name still stands.
    """
    part = target.with_name(f".{secrets.token_hex(6)}.part{extension}")
    try:
        yield part
        os.replace(part, target)
    finally:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def write_whole(target: Path, data: bytes) -> None:
    """Write a file whole or not at all; raises OSError as ``whole_file`` does."""
    with whole_file(target) as part:
        part.write_bytes(data)


@contextlib.contextmanager
def file_asked_for(target: Path, extension: str = "") -> Iterator[Path]:
    """As ``whole_file``, of a file whose place somebody has chosen.

    Raises
    ------
    FileRefused
        It cannot be written; says why.
    """
    try:
        with whole_file(target, extension) as part:
            yield part
    except OSError as error:
        raise FileRefused(f"{target.name} cannot be written ({error.strerror}); choose another place.") from error


def write_asked_for(target: Path, data: bytes) -> None:
    """Write a file whose place somebody has chosen; raises FileRefused as ``file_asked_for`` does."""
    with file_asked_for(target) as part:
        part.write_bytes(data)
