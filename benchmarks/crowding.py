"""The ring while others keep the application busy: 100 000 points imported and tabled, a notebook of 5 000 rows."""

from __future__ import annotations

import re
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from tests.browser.chromium import application
from tests.web.pages import Sent
from tests.web.wire import Wire, wire

from benchmarks import data
from benchmarks.yardstick import Row, limit_row, seconds

POINTS, STATIONS, SIDE = 100_000, 5_000, 4_000.0
BOUNDARY = "a-part-of-a-form"


def run() -> Iterator[Row]:
    """95th percentile of the ring's answers, and the longest, while each of these is under way."""
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / "busy.gpkg"
        data.project(path, 2_000, 20, 0, 40, 0, SIDE)
        with application(path.parent) as (address, _), wire(address, "busy") as page:
            place = f"{address}/p/busy"
            yield from _beside(page, "100 000 points are brought in", lambda: _brought_in(place))
            yield from _tabled(page, place)
            yield from _beside(page, "a notebook of 5 000 rows is looked at and kept", lambda: _notebook(place))


def _beside(page: Wire, what: str, work: Callable[[], None]) -> Iterator[Row]:
    rng = np.random.default_rng(6)
    page.ask(do="pen", name="contact-certain")
    start = time.perf_counter()
    taken = []
    with ThreadPoolExecutor(1) as others:
        busy = others.submit(work)
        while not busy.done():
            x, y = (data.CORNER + rng.uniform(0, SIDE, 2)).tolist()
            asked = time.perf_counter()
            page.ask(do="hover", x=x, y=y)
            taken.append(1000 * (time.perf_counter() - asked))
            time.sleep(0.004)
        busy.result()
    seconds = time.perf_counter() - start
    yield limit_row(f"The ring while {what}, 95th percentile", float(np.percentile(taken, 95)), 20)
    yield Row("the longest of them, and the whole work", f"{max(taken):.0f} ms, {seconds:.1f} s", "", None)


# What the table is asked for, and how long the answer may take in milliseconds.
ASKED = (("its first rows", "", 300), ("sorted by kind", "?sort=kind", 500), ("those that say “5”", "?find=5", 500))


def _tabled(page: Wire, place: str) -> Iterator[Row]:
    """100 000 points as a table: until the first rows stand, and the ring beside it."""
    _rows(place, "?kind=bedding")

    def often() -> None:
        for _ in range(5):
            for _, query, _ in ASKED:
                _rows(place, query)

    for what, query, most in ASKED:
        taken = seconds(lambda query=query: _rows(place, query), 5)  # type: ignore[misc]
        yield limit_row(f"{POINTS} points as a table, {what}", 1000 * taken, most)
    yield from _beside(page, "that table is filtered and sorted", often)


def _rows(place: str, query: str) -> None:
    table = _answer(urllib.request.Request(f"{place}/table/points{query}"))
    listing = re.search(r'data-listing="(\d+)"', table)
    assert listing, table[:500]
    assert "<tr" in _answer(urllib.request.Request(f"{place}/table/points/rows?listing={listing[1]}&count=40"))


def _brought_in(place: str) -> None:
    rng = np.random.default_rng(7)
    xy = data.CORNER + rng.uniform(0, SIDE, (POINTS, 2))
    figures = rng.integers(0, (360, 91), (POINTS, 2))
    table = "easting,northing,strike,dip\n" + "".join(
        f"{x:.2f},{y:.2f},{s:03d},{d:02d}\n" for (x, y), (s, d) in zip(xy.tolist(), figures.tolist(), strict=True)
    )
    shown = _sent(f"{place}/import", "file", "points.csv", table)
    token = re.search(r"import/([0-9a-f]{32})/keep", shown)
    assert token, shown[:500]
    sent = Sent(shown).values | {"stated": "EPSG:32628", "kind-points": "bedding"}
    kept = posted(f"{place}/import/{token[1]}/keep", sent)
    assert f"{POINTS}" in re.sub(r"\D", "", kept), kept[:500]


def _notebook(place: str) -> None:
    rng = np.random.default_rng(8)
    xy = data.CORNER + rng.uniform(0, SIDE, (STATIONS, 2))
    table = "name,easting,northing,kind,strike,dip\n" + "".join(
        f"S{i},{x:.1f},{y:.1f},bedding,{i % 360:03d},{i % 90:02d}\n" for i, (x, y) in enumerate(xy.tolist())
    )
    _sent(f"{place}/notebook/preview", "table", "stations.csv", table)
    posted(f"{place}/notebook/keep", {"text": table, "name": "stations.csv"})


def _sent(address: str, field: str, name: str, text: str) -> str:
    body = (
        f'--{BOUNDARY}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n'
        f"Content-Type: text/csv\r\n\r\n{text}\r\n--{BOUNDARY}--\r\n"
    )
    kind = {"Content-Type": f"multipart/form-data; boundary={BOUNDARY}"}
    return _answer(urllib.request.Request(address, body.encode(), kind))


def posted(address: str, fields: dict[str, str]) -> str:
    return _answer(urllib.request.Request(address, urllib.parse.urlencode(fields).encode()))


def _answer(request: urllib.request.Request) -> str:
    try:
        with urllib.request.urlopen(request, timeout=300) as answer:
            onward = answer.headers.get("HX-Redirect")
            if onward:
                host = f"http://{request.host}"
                return _answer(urllib.request.Request(host + onward))
            return str(answer.read().decode())
    except urllib.error.HTTPError as error:
        raise RuntimeError(error.read().decode()) from error
