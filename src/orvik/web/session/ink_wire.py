"""Ink for the canvas: a short JSON head, then plain number arrays from a local origin."""

from __future__ import annotations

import json
import unicodedata
from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from orvik.core.arrays import Anything
from orvik.core.coordinates import GroundXY
from orvik.core.ink.paths import MITRE, Paths
from orvik.core.ink.primitives import (
    HALO,
    LEADER,
    Fill,
    Group,
    Item,
    LineStyle,
    Marks,
    Ornaments,
    Pattern,
    Picture,
    Stamp,
    Stroke,
    Text,
)
from orvik.core.lettering import font_face


class _Blob:
    """Arrays one after the other, each on a boundary of four bytes, named by offset and count."""

    def __init__(self) -> None:
        self.chunks: list[bytes] = []
        self.size = 0

    def add_file(self, data: bytes) -> list[Any]:
        """A file as it is, named by offset and length."""
        where = ["b", self.size, len(data)]
        whole = data + b"\0" * (-len(data) % 4)
        self.chunks.append(whole)
        self.size += len(whole)
        return where

    def add(self, values: Anything, kind: str) -> list[Any]:
        data = np.ascontiguousarray(values, dtype={"f": "<f4", "u": "<u4"}[kind]).tobytes()
        where = [kind, self.size, len(data) // 4]
        self.chunks.append(data)
        self.size += len(data)
        return where


def packed(
    layers: Mapping[str, Group], origin: GroundXY, revision: int, replaces: Iterable[int] | None = None
) -> bytes:
    """Layers of ground ink as one binary message.

    Parameters
    ----------
    layers
        Groups by layer name, as portrayal gives them.
    origin
        Coordinates are sent relative to this, so that single precision is a millimetre or better
        within some ten kilometres.
    revision
        The revision that the ink shows.
    replaces
        For a change: keys of features whose earlier ink is no longer true. None for all ink.
    """
    blob = _Blob()
    head = {
        "revision": revision,
        "origin": list(origin),
        "replaces": None if replaces is None else list(replaces),
        "layers": [{"name": name, "items": _items(group.items, origin, blob)} for name, group in layers.items()],
    }
    text = json.dumps(head, separators=(",", ":")).encode()
    text += b" " * (-(len(text) + 4) % 4)
    return len(text).to_bytes(4, "little") + text + b"".join(blob.chunks)


def as_json(items: Iterable[Item], origin: GroundXY) -> list[dict[str, Any]]:
    """A few items as JSON with lists in place of arrays, for previews and swatches on the canvas."""
    return _items(items, origin, None)


def _items(items: Iterable[Item], origin: GroundXY, blob: _Blob | None) -> list[dict[str, Any]]:
    def store(values: Any, kind: str) -> list[Any]:
        array = np.asarray(values)
        return blob.add(array, kind) if blob is not None else array.ravel().tolist()

    out: list[dict[str, Any]] = []
    texts: list[Text] = []

    def end_texts() -> None:
        if texts:
            out.append(_texts(texts, origin, store))
            texts.clear()

    for item in items:
        if isinstance(item, Text):
            texts.append(item)
            continue
        # What lies upon letters is painted after them.
        end_texts()
        if isinstance(item, Stroke):
            out.append({"t": "stroke", **_style(item.style), **_paths(item.paths, origin, store)})
        elif isinstance(item, Fill):
            out.append(
                {
                    "t": "fill",
                    "colour": item.colour,
                    "spread": item.spread,
                    "parts": store(item.parts, "u"),
                    **_paths(item.paths, origin, store),
                }
            )
        elif isinstance(item, Marks):
            out.append(
                {
                    "t": "marks",
                    "stamp": _stamp(item.stamp),
                    "at": store(item.at - np.array(origin), "f"),
                    "angles": store(item.angles, "f"),
                }
            )
        elif isinstance(item, Ornaments):
            out.append(
                {
                    "t": "ornaments",
                    "stamp": _stamp(item.stamp),
                    "at": store(item.at - np.array(origin), "f"),
                    "angles": store(item.angles, "f"),
                    "largest": store(np.minimum(item.largest, 3e38), "f"),
                }
            )
        elif isinstance(item, Pattern):
            tile = item.tile
            out.append(
                {
                    "t": "pattern",
                    "tile": {
                        "width": tile.width,
                        "height": tile.height,
                        "pieces": _stamp(Stamp(tile.name, tile.items)),
                    },
                    "anchor": (np.array(item.anchor) - np.array(origin)).tolist(),
                    "parts": store(item.parts, "u"),
                    **_paths(item.paths, origin, store),
                }
            )
        elif isinstance(item, Group):
            clip = {} if item.clip is None else {"clip": _paths(item.clip, origin, store)}
            out.append(
                {
                    "t": "group",
                    "name": item.name,
                    "items": _items(item.items, origin, blob),
                    "opacity": item.opacity,
                    "multiply": item.multiply,
                    **clip,
                }
            )
            continue
        elif isinstance(item, Picture) and blob is not None:
            out.append({"t": "picture", "png": blob.add_file(item.png), "place": item.place})
            continue
        else:
            raise TypeError(f"the canvas has no {type(item).__name__}")
        if item.keys is not None:
            out[-1]["keys"] = store(item.keys, "u")
    end_texts()
    return out


def _texts(texts: list[Text], origin: GroundXY, store: Any) -> dict[str, Any]:
    runs: dict[Any, int] = {}
    colours: dict[Any, int] = {}
    which = [runs.setdefault(t.run, len(runs)) for t in texts]
    looks = [colours.setdefault((t.colour, t.halo), len(colours)) for t in texts]
    return {
        "t": "texts",
        "runs": [{"size": r.size, "pieces": [_letters(*piece) for piece in r.pieces()]} for r in runs],
        "colours": [list(c) for c in colours],
        "run": store(which, "u"),
        "colour": store(looks, "u"),
        "at": store(np.array([t.at for t in texts]) - np.array(origin), "f"),
        "offset": store(np.array([t.offset for t in texts]), "f"),
        "angles": store([t.angle for t in texts], "f"),
        "largest": store([t.largest if t.largest is not None else 3e38 for t in texts], "f"),
        "keys": store([t.key or 0 for t in texts], "u"),
        # A leader that has no length is none.
        "leader": store([t.leader or (0.0, 0.0) for t in texts], "f"),
        "leaderWidth": LEADER,
        "haloWidth": HALO,
        "faces": {font: _face(font) for font in sorted({font for r in runs for font, _, _ in r.pieces()})},
    }


def _face(font: str) -> list[str]:
    """How a canvas calls a font: slant and weight, and its family."""
    family, weight, slant = font_face(font)
    return [f"{slant} {weight}", family]


def _letters(font: str, chars: str, x: tuple[float, ...]) -> dict[str, Any]:
    """Letters with their marks, which a canvas must set together, and where each stands."""
    letters: list[str] = []
    places: list[float] = []
    for char, place in zip(chars, x, strict=True):
        if letters and unicodedata.combining(char):
            letters[-1] += char
        else:
            letters.append(char)
            places.append(place)
    return {"font": font, "chars": letters, "x": places}


def _paths(paths: Paths, origin: GroundXY, store: Any) -> dict[str, Any]:
    return {"xy": store(paths.xy - np.array(origin), "f"), "starts": store(paths.starts, "u")}


def _style(style: LineStyle) -> dict[str, Any]:
    return {
        "width": style.width,
        "colour": style.colour,
        "dash": list(style.dash),
        "cap": style.cap,
        "join": style.join,
        "offset": style.offset,
        "mitre": MITRE,
    }


def _stamp(stamp: Stamp) -> list[dict[str, Any]]:
    return _items(stamp.items, (0.0, 0.0), None)
