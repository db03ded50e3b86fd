"""Archives of every odd shape: taken over whole, or refused in a sentence without a trace; nothing is left behind."""

from __future__ import annotations

import hashlib
import io
import json
import random
import re
import struct
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
import shapely

from orvik.core.errors import OrvikError
from orvik.core.features.feature import Feature
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.project import opened_for_writing
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.archive import open_archive, write_archive

Held = dict[str, bytes]


@pytest.fixture(scope="module")
def archive(tmp_path_factory: pytest.TempPathFactory) -> bytes:
    folder = tmp_path_factory.mktemp("over")
    create(folder / "small.gpkg", "Small", project_crs("EPSG:32628"), Scales(25_000, 6_250))
    with opened_for_writing(folder / "small.gpkg") as project:
        line = Feature("lines", shapely.LineString([(511_000, 6_801_000), (512_000, 6_802_500)]), "contact")
        project.apply("draw", [rows.feature_change(line, project.srs_id)])
    write_archive(folder / "small.gpkg", folder / "small.zip", "2026-07-02")
    return (folder / "small.zip").read_bytes()


def held(archive: bytes) -> Held:
    with zipfile.ZipFile(io.BytesIO(archive)) as packed:
        return {name: packed.read(name) for name in packed.namelist()}


def packed(files: Held, method: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as made:
        for name, data in files.items():
            made.writestr(name, data)
    return out.getvalue()


def with_sums(files: Held) -> Held:
    lines = [f"{hashlib.sha256(data).hexdigest()}  {name}\n" for name, data in files.items() if name != "SHA256SUMS"]
    return files | {"SHA256SUMS": "".join(lines).encode()}


def described(files: Held, **values: object) -> Held:
    return with_sums(files | {"archive.json": json.dumps(json.loads(files["archive.json"]) | values).encode()})


def flagged(archive: bytes, flag: int = 0, method: int | None = None) -> bytes:
    """The same with a flag, or with a method of packing, in all its headers."""
    data = bytearray(archive)
    for mark, flags, packing in ((b"PK\x03\x04", 6, 8), (b"PK\x01\x02", 8, 10)):
        for found in re.finditer(re.escape(mark), archive):
            at = found.start()
            data[at + flags] |= flag
            if method is not None:
                data[at + packing : at + packing + 2] = struct.pack("<H", method)
    return bytes(data)


def broken_stream(archive: bytes) -> bytes:
    data = bytearray(archive)
    at = archive.index(b".gpkg") + 400
    data[at : at + 60] = bytes(60)
    return bytes(data)


def project_name(files: Held) -> str:
    return next(name for name in files if name.endswith(".gpkg"))


SHAPES: dict[str, Callable[[bytes], bytes]] = {
    "empty": lambda a: b"",
    "not an archive": lambda a: b"a map",
    "cut in the middle": lambda a: a[: len(a) // 2],
    "cut at the end": lambda a: a[:-30],
    "locked by a password": lambda a: flagged(a, 1),
    "packed by an unknown method": lambda a: flagged(a, method=97),
    "says that it is packed otherwise": lambda a: flagged(a, method=14),
    "broken within": broken_stream,
    "with bytes before it": lambda a: b"#!/bin/sh\n" + a,
    "stored": lambda a: packed(held(a), zipfile.ZIP_STORED),
    "packed by bzip2": lambda a: packed(held(a), zipfile.ZIP_BZIP2),
    "description that is none": lambda a: packed(held(a) | {"archive.json": b"{"}),
    "description of depths": lambda a: packed(held(a) | {"archive.json": b"[" * 100_000}),
    "description in no encoding": lambda a: packed(held(a) | {"archive.json": b"\xff\xfe\x00"}),
    "form that is not a number": lambda a: packed(described(held(a), form="1")),
    "later form": lambda a: packed(described(held(a), form=10**9)),
    "file without a name": lambda a: packed(described(held(a), file=".gpkg")),
    "file with a path": lambda a: packed(described(held(a), file="../x.gpkg")),
    "file that is a list": lambda a: packed(described(held(a), file=["small.gpkg"])),
    "file with a nought in its name": lambda a: packed(described(held(a), file="a\0b.gpkg")),
    "file with a very long name": lambda a: packed(described(held(a), file="x" * 4000 + ".gpkg")),
    "sums in no encoding": lambda a: packed(held(a) | {"SHA256SUMS": b"\xff\xff  project/x\n"}),
    "sums of a folder": lambda a: packed(held(a) | {"SHA256SUMS": f"{'0' * 64}  project/\n".encode()}),
    "sums of what is not there": lambda a: packed(held(a) | {"SHA256SUMS": f"{'0' * 64}  project/y.gpkg\n".encode()}),
    "without sums": lambda a: packed({n: d for n, d in held(a).items() if n != "SHA256SUMS"}),
    "absolute": lambda a: packed(with_sums(held(a) | {"project//etc/x": b"1"})),
    "a file in the place of a folder": lambda a: packed(
        with_sums({"project/small.files": b"1", **held(a), "project/small.files/x": b"2"})
    ),
    "the project twice": lambda a: packed(with_sums(held(a) | {"project/other.gpkg": held(a)[project_name(held(a))]})),
}
# Nothing of these is wrong; what is more in them is left where it is.
SOUND = {"absolute", "with bytes before it", "stored", "packed by bzip2", "the project twice"}


def check_sentence(sentence: str) -> None:
    assert sentence.endswith(".")
    assert not re.search(r"/tmp|Errno|Error|Traceback|\[|\{|'", sentence), sentence


@pytest.mark.parametrize("shape", SHAPES)
def test_an_odd_archive_is_taken_whole_or_refused_in_words(archive: bytes, tmp_path: Path, shape: str) -> None:
    file, folder = tmp_path / "odd.zip", tmp_path / "data"
    file.write_bytes(SHAPES[shape](archive))
    if shape in SOUND:
        with opened_for_reading(open_archive(file, folder)) as project:
            assert len(project.features("lines"))
        return
    with pytest.raises(OrvikError) as refused:
        open_archive(file, folder)
    check_sentence(refused.value.sentence)
    assert not folder.exists() or list(folder.iterdir()) == []


def test_any_bytes_changed(archive: bytes, tmp_path: Path) -> None:
    rng = random.Random(3)
    taken = 0
    for number in range(60):
        data = bytearray(archive)
        for _ in range(rng.randint(1, 12)):
            data[rng.randrange(len(data))] = rng.randrange(256)
        file, folder = tmp_path / f"{number}.zip", tmp_path / f"data-{number}"
        file.write_bytes(data)
        try:
            open_archive(file, folder)
            taken += 1
        except OrvikError as refusal:
            check_sentence(refusal.sentence)
            assert not folder.exists() or list(folder.iterdir()) == []
    assert taken < 60
