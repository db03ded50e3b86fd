"""Opens a feature file through GDAL, in a process of its own that has nothing to lose and nowhere to go.

Run as ``python -m orvik.exchange.untrusted.child FILE OUT LIMITS``, where ``FILE`` lies alone in a folder of its own.
GDAL opens files by their content, so a file of any name may be a virtual one that reads other files or fetches from the
network. The parent has switched off all drivers but those of the file's ending; here the network goes, too.
"""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import resource
import sys
import warnings
from pathlib import Path
from typing import Any

CLONE_NEWUSER, CLONE_NEWNET = 0x10000000, 0x40000000
MEMORY_BYTES = 4 * 1024**3
OUTPUT_BYTES = 2 * 1024**3


class Refused(Exception):
    """What is wrong with the file, in a sentence without its name."""


def main(file: Path, out: Path, limits: dict[str, Any]) -> None:
    """Write what the file holds, or why it is refused."""
    _shut_in(limits["seconds"])
    try:
        head, geometries = _read(file, limits)
    except Refused as refusal:
        head, geometries = {"refused": str(refusal)}, []
    except MemoryError:
        head, geometries = {"refused": "needs more memory than a map of features does"}, []
    text = json.dumps(head, default=str).encode()
    with out.open("wb") as target:
        target.write(len(text).to_bytes(8, "little"))
        target.write(text)
        for wkb in geometries:
            target.write(wkb)


def _shut_in(seconds: int) -> None:
    """No more memory, time and output than the limits; no network where the system lets it be given up."""
    libc = ctypes.CDLL(None, use_errno=True)
    if libc.unshare(CLONE_NEWNET) != 0:
        libc.unshare(CLONE_NEWUSER | CLONE_NEWNET)
    for what, most in (
        (resource.RLIMIT_AS, MEMORY_BYTES),
        (resource.RLIMIT_CPU, seconds),
        (resource.RLIMIT_FSIZE, OUTPUT_BYTES),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_NOFILE, 256),
    ):
        with contextlib.suppress(ValueError, OSError):
            resource.setrlimit(what, (most, most))


def _read(file: Path, limits: dict[str, Any]) -> tuple[dict[str, Any], list[bytes]]:
    import pyogrio
    import shapely

    options = {"WRITE_GFS": "NO"} if file.suffix.lower() == ".gml" else {}
    try:
        names = [str(name) for name, _ in pyogrio.list_layers(file)]
    except Exception as error:
        raise Refused(f"cannot be read as features ({_short(error)})") from error
    if len(names) > limits["layers"]:
        raise Refused(f"has {len(names)} layers; at most {limits['layers']} are read")
    layers: list[dict[str, Any]] = []
    beside: dict[str, list[dict[str, Any]]] = {}
    geometries: list[bytes] = []
    features = vertices = 0
    for name in names:
        notes = set()
        try:
            with warnings.catch_warnings(record=True) as caught:
                warnings.simplefilter("always")
                meta, _, wkb, fields = pyogrio.raw.read(
                    file, layer=name, max_features=limits["features"] + 1, **options
                )
        except Exception as error:
            raise Refused(f"cannot be read as features ({_short(error)})") from error
        whole = [str(kind).startswith("OFTInteger") for kind in meta.get("ogr_types", ())] or [False] * len(fields)
        if meta["geometry_type"] is None and (limits["beside"] is None or name in limits["beside"]):
            columns = [_plain(values, integer) for values, integer in zip(fields, whole, strict=True)]
            names_of = [str(n) for n in meta["fields"]]
            beside[name] = [dict(zip(names_of, row, strict=True)) for row in zip(*columns, strict=True)]
        if wkb is None or not len(wkb) or meta["geometry_type"] is None:
            continue
        features += len(wkb)
        if features > limits["features"]:
            raise Refused(f"has more than {limits['features']:,} features; import it in parts")
        if len(meta["fields"]) > limits["columns"]:
            raise Refused(f"has {len(meta['fields'])} fields; at most {limits['columns']} are read")
        shapes = shapely.from_wkb(wkb, on_invalid="ignore")
        vertices += int(shapely.get_num_coordinates(shapes).sum())
        if vertices > limits["vertices"]:
            raise Refused(f"has more than {limits['vertices']:,} vertices; import it in parts, or simplify it first")
        if any("easured" in str(w.message) for w in caught) or "M" in str(meta["geometry_type"]).replace("Multi", ""):
            notes.add("M")
        if shapely.has_z(shapes).any():
            notes.add("Z")
        flat = shapely.to_wkb(shapely.force_2d(shapes))
        pieces = [piece if piece is not None else b"" for piece in flat]
        geometries += pieces
        columns = [_plain(values, integer) for values, integer in zip(fields, whole, strict=True)]
        layers.append(
            {
                "name": name,
                "crs": meta["crs"] or "",
                "columns": [str(n) for n in meta["fields"]],
                "values": columns,
                "lengths": [len(piece) for piece in pieces],
                "unsound": [i for i, (a, b) in enumerate(zip(wkb, shapes, strict=True)) if a is not None and b is None],
                "notes": sorted(notes),
            }
        )
    return {"layers": layers, "beside": beside}, geometries


def _plain(values: Any, whole: bool) -> list[Any]:
    """A column as JSON has it; whole numbers stay whole where some are missing."""
    out = []
    for value in values:
        plain = value.item() if hasattr(value, "item") and getattr(value, "ndim", 0) == 0 else value
        if isinstance(plain, float):
            plain = None if plain != plain else int(plain) if whole and plain.is_integer() else plain
        elif plain is not None and not isinstance(plain, str | int | bool):
            plain = None if str(plain) == "NaT" else str(plain)
        out.append(plain)
    return out


def _short(error: Exception) -> str:
    """What GDAL said, without the folder that the file lies in."""
    text = str(error).splitlines()[0] if str(error) else type(error).__name__
    return text.replace(f"{Path(sys.argv[1]).parent}{os.sep}", "")[:120]


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), json.loads(sys.argv[3]))
