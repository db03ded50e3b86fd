"""Underlays from a tile service: a real HTTP client with time-outs, retries and a cache beside the project.

Tiles are 256 pixels square in the scheme that OGC 17-083r4 (Two Dimensional Tile Matrix Set) calls
WebMercatorQuad: level z has 2**z tiles a side, from the north-west corner.
"""

from __future__ import annotations

import hashlib
import io
import math
import re
import threading
import time
from collections.abc import Callable
from functools import lru_cache, partial
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import urljoin, urlsplit

import numpy as np
import pyproj
from PIL import Image

from orvik.core.arrays import Bytes, Floats
from orvik.core.errors import FileRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.pictures.ground_view import GroundView
from orvik.exchange.rasters import warp
from orvik.whole_file import write_whole

if TYPE_CHECKING:
    import urllib3

SYSTEM = "EPSG:3857"
TILE = 256
# Half the side of the world in metres of the projection.
HALF = 20_037_508.342789244
LARGEST_LEVEL = 19
# A view never asks for more tiles than this; it takes a coarser level instead.
MOST_TILES = 80
CONNECT_SECONDS, READ_SECONDS = 2.0, 6.0
TRIED_AGAIN = (500, 502, 503, 504)
LARGEST_BYTES = 4_000_000
# So long a view or a first look waits for a service in all.
TOTAL_SECONDS = 15.0
# Formats that services send tiles in: any other might start a program that draws it.
FORMATS = ("PNG", "JPEG", "WEBP", "GIF")
LARGEST_SIDE = 2048
REDIRECTS = (301, 302, 303, 307, 308, 310)
MOST_STEPS = 3
NOT_ASKED = "Nothing has been asked of {where} yet, since this project comes from elsewhere; allow it in Ground."


@lru_cache
def _pool() -> urllib3.PoolManager:
    """Connections to services, made when one is asked for the first time."""
    import urllib3

    return urllib3.PoolManager(
        num_pools=4,
        maxsize=4,
        headers={"User-Agent": "Orvik"},
        timeout=urllib3.Timeout(connect=CONNECT_SECONDS, read=READ_SECONDS),
    )


def checked_address(address: str) -> str:
    """An address with {z}, {x} and {y} in it.

    Raises
    ------
    FileRefused
        Not an http address, or a placeholder is missing.
    """
    text = address.strip()
    if not re.match(r"https?://[^/\s]+/", text):
        shown = re.sub(r"//[^/@\s]*@", "//", text)[:60]
        raise FileRefused(f"“{shown}” is not the address of a service; it begins with http:// or https://.")
    missing = [p for p in ("{z}", "{x}", "{y}") if p not in text]
    if missing:
        raise FileRefused(f"The address lacks {', '.join(missing)}, which stand for level, column and row of a tile.")
    return text


def view(address: str, cache: Path, asked: GroundView, may_ask: bool = True) -> bytes | None:
    """A service's map as PNG with transparency, warped to the ground that is asked for.

    Parameters
    ----------
    address
        With {z}, {x} and {y}.
    cache
        A folder for tiles; those that are there are not asked for again.
    may_ask
        Whether the service may be asked; without it only tiles of the cache are shown.

    Raises
    ------
    FileRefused
        The service is away, or answers with something else than tiles, and no tile is in the cache.
    """
    columns, rows, level = _places(asked)
    known = np.isfinite(columns) & np.isfinite(rows)
    side = TILE * 2**level
    known &= (columns >= 0) & (columns < side) & (rows >= 0) & (rows < side)
    if not known.any():
        return None
    left, right = int(columns[known].min()) // TILE, int(columns[known].max()) // TILE
    top, bottom = int(rows[known].min()) // TILE, int(rows[known].max()) // TILE
    mosaic = np.zeros((4, (bottom - top + 1) * TILE, (right - left + 1) * TILE), dtype=np.uint8)
    folder = cache / hashlib.sha256(address.encode()).hexdigest()[:16]
    trouble = None if may_ask else FileRefused(NOT_ASKED.format(where=_where(address)))
    shown = 0
    ends = time.monotonic() + TOTAL_SECONDS
    for row in range(top, bottom + 1):
        for column in range(left, right + 1):
            try:
                tile = _tile(address, folder, level, column, row, asks=trouble is None, ends=ends)
            except FileRefused as refusal:
                # One time-out is enough: what is in the cache is shown, the rest stays empty.
                trouble = refusal
                continue
            if tile is not None:
                shown += 1
                y, x = (row - top) * TILE, (column - left) * TILE
                mosaic[:, y : y + TILE, x : x + TILE] = tile
    if not shown:
        if trouble is not None:
            raise trouble
        return None
    pixels = warp.bilinear(mosaic, columns - left * TILE, rows - top * TILE, known)
    return warp.png_of(pixels)


def probe(address: str, crs: ProjectCrs, x: float, y: float) -> None:
    """Ask for one tile at a place, to hear whether the service is there; raises FileRefused."""
    columns, rows, level = _places(GroundView.of_window(crs, (x - 500, y - 500, x + 500, y + 500), 64, 64))
    ends = time.monotonic() + TOTAL_SECONDS
    _fetched(address, level, int(columns[32, 32]) // TILE, int(rows[32, 32]) // TILE, ends)


def _places(asked: GroundView) -> tuple[Floats, Floats, int]:
    """Pixels of the service's map at the middle of every pixel of a view, and the level they count on."""
    to_tiles = pyproj.Transformer.from_crs(asked.crs.text, SYSTEM, always_xy=True)

    def ground(x: Floats, y: Floats) -> Floats:
        mx, my = to_tiles.transform(x, y)
        return np.column_stack([mx, my])

    columns, rows = warp.spread_over(asked, ground)
    width, height = asked.width, asked.height
    middle, beside = (height // 2, width // 2), (height // 2, min(width // 2 + 1, width - 1))
    step = float(np.hypot(columns[beside] - columns[middle], rows[beside] - rows[middle])) or 1.0
    level = max(0, min(LARGEST_LEVEL, math.ceil(math.log2(2 * HALF / TILE / step) - 0.3)))
    while level > 0 and width * height * (step * TILE * 2**level / (2 * HALF)) ** 2 / TILE**2 > MOST_TILES:
        level -= 1
    k = TILE * 2**level / (2 * HALF)
    return (columns + HALF) * k, (HALF - rows) * k, level


def _tile(address: str, folder: Path, level: int, column: int, row: int, asks: bool, ends: float) -> Bytes | None:
    file = folder / str(level) / f"{column}-{row}.png"
    if file.is_file():
        data = file.read_bytes()
    elif asks:
        data = _fetched(address, level, column, row, ends)
        file.parent.mkdir(parents=True, exist_ok=True)
        write_whole(file, data)
    else:
        return None
    if not data:
        return None
    image = _opened(data)
    if image is None:
        # What lies in the cache may have come with the project.
        return None
    image = image.convert("RGBA").resize((TILE, TILE))
    return np.moveaxis(np.asarray(image), -1, 0)


def _fetched(address: str, level: int, column: int, row: int, ends: float) -> bytes:
    """The bytes of a tile; empty where the service has none there, or when its time is over."""
    from urllib3.exceptions import HTTPError

    if time.monotonic() > ends:
        raise FileRefused("The service is too slow; what it has sent so far is shown.")
    url = address.replace("{z}", str(level)).replace("{x}", str(column)).replace("{y}", str(row))
    where = _where(url)
    try:
        status, data = _in_time(partial(_asked, url, where, ends), ends)
    except TimeoutError:
        raise FileRefused(f"The service {where} is too slow; look at its address.") from None
    except HTTPError:
        raise FileRefused(f"The service {where} does not answer; start it, or look at its address.") from None
    if status in (204, 404):
        return b""
    if status in REDIRECTS:
        raise FileRefused(f"The service {where} sends on to another place; give the address of that one.")
    if status != 200:
        raise FileRefused(f"The service {where} answers with status {status}; try again later.")
    if _opened(data) is None:
        raise FileRefused(f"The service {where} does not answer with tiles; look at its address.")
    return data


def _asked(url: str, where: str, ends: float) -> tuple[int, bytes]:
    """The status and the bytes of an answer; one that leads to another host is not followed."""
    from urllib3 import Retry

    retries = Retry(total=2, backoff_factor=0.2, status_forcelist=TRIED_AGAIN, raise_on_status=False)
    for _ in range(MOST_STEPS):
        answer = _pool().request("GET", url, retries=retries, redirect=False, preload_content=False)
        data = b""
        # A service may send a byte now and then for ever.
        while block := answer.read1(65_536):
            data += block
            if len(data) > LARGEST_BYTES or time.monotonic() > ends:
                answer.close()
                raise FileRefused(f"The service {where} is too slow, or sends more than a tile; look at its address.")
        answer.release_conn()
        onward = urljoin(url, answer.headers.get("Location", "")) if answer.status in REDIRECTS else ""
        here, there = urlsplit(url), urlsplit(onward)
        if not onward or (here.scheme, here.netloc) != (there.scheme, there.netloc):
            return answer.status, data
        url = onward
    return 310, b""


def _in_time(work: Callable[[], tuple[int, bytes]], ends: float) -> tuple[int, bytes]:
    """What some work gives before its time is over; raises TimeoutError. It is left to itself then."""
    found: list[tuple[int, bytes]] = []
    failed: list[Exception] = []

    def carried_out() -> None:
        try:
            found.append(work())
        except Exception as error:
            failed.append(error)

    thread = threading.Thread(target=carried_out, daemon=True)
    thread.start()
    thread.join(max(0.1, ends - time.monotonic()))
    if failed:
        raise failed[0]
    if not found:
        raise TimeoutError
    return found[0]


def _where(address: str) -> str:
    """Host and port of an address; never the name and the password that may stand before them."""
    return urlsplit(address).netloc.rpartition("@")[2]


def _opened(data: bytes) -> Image.Image | None:
    """A tile: a picture of one of a few formats and of a sensible size; None for anything else."""
    try:
        image = Image.open(io.BytesIO(data), formats=FORMATS)
        if max(image.size) > LARGEST_SIDE:
            return None
        image.load()
    except Exception:
        return None
    return image
