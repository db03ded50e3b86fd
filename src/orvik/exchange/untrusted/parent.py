"""Opening feature files that somebody else has written: which endings are read, and how nothing else is.

GDAL works in a child process that knows only the drivers of the file's ending, in a folder where the file lies
alone, without network, and with limits on time, memory and size. What it found comes back as plain numbers.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import lru_cache
from pathlib import Path, PurePosixPath
from typing import Any

import shapely

from orvik.core.errors import FileRefused
from orvik.exchange.untrusted import point_table

# Endings that are read, with the drivers that may read them.
DRIVERS: dict[str, tuple[str, ...]] = {
    ".gpkg": ("GPKG",),
    ".geojson": ("GeoJSON",),
    ".json": ("GeoJSON",),
    ".geojsonl": ("GeoJSONSeq",),
    ".shp": ("ESRI Shapefile",),
    ".fgb": ("FlatGeobuf",),
    ".kml": ("LIBKML", "KML"),
    ".gml": ("GML",),
    ".dxf": ("DXF",),
    ".gpx": ("GPX",),
}
TABLES = (".csv", ".tsv", ".txt")
# Tables without geometry that are read beside the layers of a file: what ours say of their units and custom kinds.
BESIDE = ("units", "kinds")
# Layers that files of ours have of the map, and those of its sections.
TABLES_OF_MAP = ("lines", "areas", "points")
BELOW = ("sections", "section_lines", "section_areas", "section_points")
# Beside a shapefile lie files that are part of it.
PARTS = {".shp": (".shp", ".shx", ".dbf", ".prj", ".cpg")}
LIMITS = {"features": 200_000, "vertices": 4_000_000, "columns": 500, "layers": 60, "seconds": 60}
UNPACKED_BYTES = 1_000_000_000
UNPACKED_FILES = 200
TABLE_BYTES = 50_000_000


@dataclass(frozen=True)
class Layer:
    """One layer of a file as it is: its own system may not be stated.

    ``unsound`` holds the rows whose geometry cannot be one, such as a line of one vertex; ``notes`` says what was
    dropped: ``Z`` heights, ``M`` measures.
    """

    name: str
    geometries: Any
    columns: list[str]
    values: list[dict[str, Any]]
    crs: str
    unsound: frozenset[int] = frozenset()
    notes: tuple[str, ...] = ()
    driver: str = field(default="")
    # Tables without geometry that lie beside it, by name: those of ``BESIDE``.
    beside: dict[str, list[dict[str, Any]]] = field(default_factory=dict)


def rows_in(path: Path) -> list[dict[str, Any]]:
    """The rows of a file without their places: those of its layers, and of its tables that have none.

    Raises
    ------
    FileRefused
        As ``opened`` does, or there are no rows.
    """
    layers, beside = _read(path, None)
    rows = [row for layer in layers for row in layer.values]
    rows += [row for table in beside.values() for row in table]
    if not rows:
        raise FileRefused(f"{path.name} holds no rows.")
    return rows


def opened(path: Path) -> list[Layer]:
    """The layers of a file that hold features.

    Raises
    ------
    FileRefused
        Unreadable, empty, of an ending that is not read, or past a limit.
    """
    layers, _ = _read(path, BESIDE)
    if not layers:
        raise FileRefused(f"{path.name} holds no features.")
    return _of_the_ground(layers)


def _of_the_ground(layers: list[Layer]) -> list[Layer]:
    """Layers without those of ours that lie below the ground, and the sections, whose lines are among the lines."""
    if not any(layer.name in TABLES_OF_MAP for layer in layers):
        return layers
    ground = [layer for layer in layers if layer.name not in BELOW]
    if len(ground) == len(layers):
        return layers
    return [replace(ground[0], notes=(*ground[0].notes, "sections")), *ground[1:]]


# Tables without geometry, by name.
Beside = dict[str, list[dict[str, Any]]]


def _read(path: Path, wanted: tuple[str, ...] | None) -> tuple[list[Layer], Beside]:
    """The layers of a file, and its tables without geometry of these names; of all where None is said."""
    if not path.is_file():
        raise FileRefused(f"There is no file {path.name}.")
    ending = path.suffix.lower()
    with tempfile.TemporaryDirectory(prefix="orvik-open-") as temporary:
        if ending == ".zip":
            files = _unpacked(path, Path(temporary))
        elif ending in TABLES or ending in DRIVERS:
            files = [_alone(path, Path(temporary))]
        else:
            known = ", ".join((*DRIVERS, ".csv", ".zip"))
            raise FileRefused(
                f"{path.name} has no file extension of a feature file; those that are read end in {known}."
            )
        read = [_one(file, path.name, wanted) for file in files]
    beside: Beside = {}
    for _, tables in read:
        beside |= tables
    return [layer for layers, _ in read for layer in layers], beside


def _one(file: Path, shown: str, wanted: tuple[str, ...] | None) -> tuple[list[Layer], Beside]:
    ending = file.suffix.lower()
    if ending in TABLES:
        if file.stat().st_size > TABLE_BYTES:
            raise FileRefused(f"{shown} is a table of more than {TABLE_BYTES // 1_000_000} MB; import it in parts.")
        table = point_table.read(file.read_bytes(), shown, LIMITS["features"])
        return [Layer(file.stem, table.geometries, table.columns, table.values, "", table.unsound)], {}
    return _by_gdal(file, shown, wanted)


def _alone(path: Path, folder: Path) -> Path:
    """A copy of a file, and of the parts that belong to it, in a folder where nothing else lies."""
    for part in PARTS.get(path.suffix.lower(), (path.suffix,)):
        for beside in path.parent.glob(f"{_escaped(path.stem)}.*"):
            if beside.suffix.lower() == part.lower() and beside.is_file():
                shutil.copyfile(beside, folder / f"features{part.lower()}")
    return folder / f"features{path.suffix.lower()}"


def _escaped(stem: str) -> str:
    return "".join(f"[{c}]" if c in "*?[" else c for c in stem)


def _unpacked(path: Path, folder: Path) -> list[Path]:
    """The feature files of an archive, in whatever folder of it they lie."""
    try:
        with zipfile.ZipFile(path) as archive:
            members = [m for m in archive.infolist() if not m.is_dir() and not m.filename.startswith("__MACOSX/")]
            if len(members) > UNPACKED_FILES or sum(m.file_size for m in members) > UNPACKED_BYTES:
                raise FileRefused(
                    f"{path.name} unpacks to more than {UNPACKED_FILES} files or {UNPACKED_BYTES // 10**9} GB; "
                    "take out what is needed."
                )
            for number, (member, target) in enumerate(_places(members, folder)):
                left = UNPACKED_BYTES
                with archive.open(member) as source, target.open("wb") as out:
                    while block := source.read(1 << 20):
                        left -= len(block)
                        if left < 0:
                            raise FileRefused(f"{path.name} unpacks to more than it says; it may be made to do harm.")
                        out.write(block)
                if number > UNPACKED_FILES:
                    break
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError) as error:
        raise FileRefused(f"{path.name} cannot be unpacked; it may be damaged or locked.") from error
    return sorted(f for f in folder.rglob("*") if f.suffix.lower() in (*DRIVERS, *TABLES) and f.is_file())


def _places(members: list[zipfile.ZipInfo], folder: Path) -> Iterator[tuple[zipfile.ZipInfo, Path]]:
    """Where the members of an archive go: each folder of it in one of ours, whatever its name says."""
    numbers: dict[str, int] = {}
    for member in members:
        inside = PurePosixPath(member.filename.replace("\\", "/"))
        number = numbers.setdefault(str(inside.parent), len(numbers))
        (folder / str(number)).mkdir(exist_ok=True)
        name = inside.name.lstrip(".")[-100:] or "member"
        yield member, folder / str(number) / f"{Path(name).stem}{Path(name).suffix.lower()}"


def _by_gdal(file: Path, shown: str, wanted: tuple[str, ...] | None) -> tuple[list[Layer], Beside]:
    with tempfile.TemporaryDirectory(prefix="orvik-out-") as outside:
        out = Path(outside) / "found"
        command = [
            sys.executable,
            "-I",
            "-m",
            "orvik.exchange.untrusted.child",
            str(file),
            str(out),
            json.dumps({**LIMITS, "beside": wanted}),
        ]
        try:
            done = subprocess.run(
                command,
                env=_environment(file.suffix.lower()),
                cwd=outside,
                capture_output=True,
                timeout=LIMITS["seconds"],
                check=False,
                stdin=subprocess.DEVNULL,
            )
        except subprocess.TimeoutExpired:
            raise FileRefused(f"{shown} takes longer than {LIMITS['seconds']} s to read; import it in parts.") from None
        if done.returncode != 0 or not out.is_file():
            raise FileRefused(
                f"{shown} cannot be read as features; it is damaged, or larger than this machine can hold."
            )
        data = out.read_bytes()
    size = int.from_bytes(data[:8], "little")
    head = json.loads(data[8 : 8 + size])
    if "refused" in head:
        raise FileRefused(f"{shown} {head['refused']}.")
    layers, at = [], 8 + size
    for layer in head["layers"]:
        pieces: list[bytes | None] = []
        for length in layer["lengths"]:
            pieces.append(data[at : at + length] if length else None)
            at += length
        rows = [dict(zip(layer["columns"], row, strict=True)) for row in zip(*layer["values"], strict=True)]
        rows = rows or [{} for _ in pieces]
        layers.append(
            Layer(
                layer["name"],
                shapely.from_wkb(pieces),
                layer["columns"],
                rows,
                layer["crs"],
                frozenset(layer["unsound"]),
                tuple(layer["notes"]),
                file.suffix.lower(),
                head["beside"],
            )
        )
    return layers, head["beside"]


@lru_cache(maxsize=1)
def _known_drivers() -> tuple[str, ...]:
    """All drivers of the child's GDAL; asked of another child, so that this process has no GDAL in it."""
    code = "import json, pyogrio; print(json.dumps(list(pyogrio.list_drivers())))"
    done = subprocess.run([sys.executable, "-I", "-c", code], capture_output=True, text=True, check=True)
    return tuple(json.loads(done.stdout))


def _environment(ending: str) -> dict[str, str]:
    """What the child knows: no driver but those of the ending, no way to the network, no files beside the file."""
    skipped = ",".join(name for name in _known_drivers() if name not in DRIVERS[ending])
    kept = {name: os.environ[name] for name in ("PATH", "LD_LIBRARY_PATH", "OPENBLAS_CORETYPE") if name in os.environ}
    return kept | {
        "GDAL_SKIP": skipped,
        "OGR_SKIP": skipped,
        "GDAL_DRIVER_PATH": "disable",
        "GDAL_HTTP_PROXY": "127.0.0.1:1",
        "http_proxy": "127.0.0.1:1",
        "https_proxy": "127.0.0.1:1",
        "ALL_PROXY": "127.0.0.1:1",
        "GDAL_HTTP_TIMEOUT": "1",
        "GDAL_HTTP_MAX_RETRY": "0",
        "CPL_VSIL_CURL_ALLOWED_EXTENSIONS": ".none",
        "GML_SKIP_RESOLVE_ELEMS": "ALL",
        "GML_DOWNLOAD_SCHEMA": "NO",
        "GML_DOWNLOAD_WFS_SCHEMA": "NO",
        "SHAPE_RESTORE_SHX": "YES",
        "GDAL_PAM_ENABLED": "NO",
        "OGR_SQLITE_LOAD_EXTENSIONS": "",
        "LANG": "C.UTF-8",
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "PROJ_NETWORK": "OFF",
    }
