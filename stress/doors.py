"""Every door that takes a stranger's file, through a running application: refused in words or taken, and no page waits.

Archives, fonts, drawings as symbols and as parts, returned files, symbol books, projects that lie in the folder, and
tile services that are slow or send something else.
"""

from __future__ import annotations

import io
import json
import random
import re
import shutil
import sqlite3
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import numpy as np
from tests.browser.chromium import application

from orvik.core.lettering import FONTS
from orvik.demo.build import build
from orvik.store.project import Project
from orvik.usecases.export.archive import write_archive
from orvik.usecases.sheet.printing import sheet_pdf

SLUG = "isle-of-quennet"
# Of each door so many files that are changed at random beside those that mean harm.
CHANGED = 12
# The longest that an answer takes: a minute for a stranger's file, and what ending it takes.
SLOWEST_SECONDS = 75.0
# What a page of another project waits meanwhile at the 95th percentile.
PAGE_MS = 500.0
# What no sentence says: paths, classes, lists.
NEVER = re.compile(r"/tmp/|/root/|Traceback|Errno|[A-Z]\w+Error\b|&lt;class|\[&#39;")


@dataclass
class Tally:
    """What came of the files of one door."""

    answers: Counter[int] = field(default_factory=Counter)
    slowest: float = 0.0
    wrong: list[str] = field(default_factory=list)


def run() -> tuple[bool, list[str]]:
    """Knock at every door; pages are asked for all the while."""
    rng = random.Random(9)
    tallies: dict[str, Tally] = {}
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary) / "data"
        folder.mkdir()
        path = build(folder)
        write_archive(path, Path(temporary) / "whole.zip", "2026-07-02")
        archive, pdf = (Path(temporary) / "whole.zip").read_bytes(), sheet_pdf(path, 1, 30)
        strangers = _strangers(path)
        for name, data in strangers.items():
            (folder / f"{name}.gpkg").write_bytes(data)
        with application(folder) as (address, process), _slow_service() as slow:
            base = f"{address}/p/{SLUG}"
            doors: dict[str, tuple[str, dict[str, str], dict[str, bytes]]] = {
                "archives": (f"{address}/take-over", {}, _archives(archive, rng)),
                "fonts": (f"{base}/sheets/1/font", {}, _fonts(rng)),
                "symbols": (f"{base}/symbols/draw/{_a_symbol(address)}/svg", {}, _drawings(rng)),
                "drawings": (f"{base}/parts/{_a_picture(address)}/files/file", {}, _drawings(rng)),
                "returned": (f"{base}/exports/returned", {"sheet": "1"}, _returned(pdf, rng)),
                "symbol books": (f"{base}/symbols/book/preview", {}, _books(rng)),
            }
            with _pages(address) as waits:
                for door, (url, values, files) in doors.items():
                    tally = tallies.setdefault(door, Tally())
                    for name, data in files.items():
                        _knock(tally, url, values, name, data)
                tally = tallies.setdefault("strangers' projects", Tally())
                for name in strangers:
                    _knock(tally, f"{address}/p/{name}/compile", None, name, b"")
                tally = tallies.setdefault("slow services", Tally())
                for what in ("slow", "endless", "eps", "elsewhere", "huge"):
                    _knock(tally, f"{base}/services", {"address": f"{slow}/{what}/{{z}}/{{x}}/{{y}}"}, what, b"")
            alive = process.poll() is None
        project = Project.open(path)
        sound = project.faults() == []
        project.close()
        shutil.rmtree(path.with_suffix(".files"), ignore_errors=True)
    p95 = float(np.percentile(waits, 95)) if waits else float("inf")
    lines = [
        f"{door}: {sum(t.answers.values())} knocks, "
        f"{', '.join(f'{count} with {code}' for code, count in sorted(t.answers.items()))}; slowest {t.slowest:.1f} s"
        for door, t in tallies.items()
    ]
    lines.append(f"{len(waits)} pages meanwhile: median {np.median(waits):.0f} ms, 95th percentile {p95:.0f} ms")
    wrong = [f"{door}: {one}" for door, t in tallies.items() for one in t.wrong]
    slow_door = max(t.slowest for t in tallies.values()) > SLOWEST_SECONDS
    return alive and sound and not wrong and not slow_door and p95 < PAGE_MS, [*lines, *wrong[:10]]


def _knock(tally: Tally, url: str, values: Mapping[str, str] | None, name: str, data: bytes) -> None:
    """Send a file as a page does, or fetch a page where there is nothing to send."""
    begun = time.monotonic()
    body, kind = (None, "") if values is None else _multipart(values, name, data)
    request = urllib.request.Request(url, body, {"Content-Type": kind} if kind else {})
    try:
        with urllib.request.urlopen(request, timeout=SLOWEST_SECONDS + 30) as answer:
            code, text = answer.status, answer.read().decode("utf-8", "replace")
    except urllib.error.HTTPError as error:
        code, text = error.code, error.read().decode("utf-8", "replace")
    except OSError as error:
        code, text = 0, str(error)
    tally.answers[code] += 1
    tally.slowest = max(tally.slowest, time.monotonic() - begun)
    said = NEVER.search(text)
    if code >= 500 or not code or said:
        tally.wrong.append(f"{name} was answered with {code}{f' and “{said[0]}”' if said else ''}: {text[:120]!r}")


def _multipart(values: Mapping[str, str], name: str, data: bytes) -> tuple[bytes, str]:
    mark = uuid.uuid4().hex
    parts = [
        f'--{mark}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode()
        for key, value in values.items()
    ]
    if data or not values:
        head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
        parts.append(head + data + b"\r\n")
    return b"".join([*parts, f"--{mark}--\r\n".encode()]), f"multipart/form-data; boundary={mark}"


@contextmanager
def _pages(address: str) -> Iterator[list[float]]:
    """Asks for a page twice a second; how long each took, in milliseconds."""
    waits: list[float] = []
    over = threading.Event()

    def ask() -> None:
        while not over.wait(0.5):
            begun = time.perf_counter()
            with urllib.request.urlopen(f"{address}/p/{SLUG}/compile", timeout=60) as answer:
                answer.read()
            waits.append((time.perf_counter() - begun) * 1000)

    asking = threading.Thread(target=ask, daemon=True)
    asking.start()
    try:
        yield waits
    finally:
        over.set()
        asking.join(60)


def _changed(data: bytes, rng: random.Random, ending: str) -> dict[str, bytes]:
    """A file with some of its bytes changed, or cut."""
    out = {}
    for number in range(CHANGED):
        made = bytearray(data)
        for _ in range(rng.randint(1, 40)):
            made[rng.randrange(len(made))] = rng.randrange(256)
        out[f"changed-{number}.{ending}"] = bytes(made[: rng.randrange(len(made))] if number % 3 == 0 else made)
    return out


def _archives(whole: bytes, rng: random.Random) -> dict[str, bytes]:
    bomb = io.BytesIO()
    with (
        zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed,
        packed.open("archive.json", "w", force_zip64=True) as out,
    ):
        for _ in range(300):
            out.write(b" " * 1_000_000)
    many = io.BytesIO()
    with zipfile.ZipFile(many, "w") as packed:
        packed.writestr("archive.json", json.dumps({"form": 1, "file": "x.gpkg"}))
        packed.writestr("SHA256SUMS", f"{'0' * 64}  project/x\n" * 300_000)
    return {"bomb.zip": bomb.getvalue(), "many.zip": many.getvalue()} | _changed(whole, rng, "zip")


def _fonts(rng: random.Random) -> dict[str, bytes]:
    font = next(path for path in sorted(FONTS.iterdir()) if path.suffix == ".ttf").read_bytes()
    packed = zlib.compress(bytes(200_000_000), 9)
    # A WOFF whose one table unpacks to 200 MB (W3C, WOFF 1.0, 4).
    head = b"wOFF" + b"\x00\x01\x00\x00" + (44 + 20 + len(packed)).to_bytes(4, "big") + b"\x00\x01\x00\x00"
    head += (200_000_032).to_bytes(4, "big") + bytes(24)
    entry = b"glyf" + (64).to_bytes(4, "big") + len(packed).to_bytes(4, "big") + (200_000_000).to_bytes(4, "big")
    return {"bomb.woff": head + entry + bytes(4) + packed, "none.ttf": b"\x00\x01\x00\x00"} | _changed(font, rng, "ttf")


def _drawings(rng: random.Random) -> dict[str, bytes]:
    def svg(body: str) -> bytes:
        return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10">{body}</svg>'.encode()

    places = [f"{rng.uniform(0, 10):.3f} {rng.uniform(0, 10):.3f}" for _ in range(3000)]
    holes = "".join(f"M{i % 300 / 30:.3f} {i // 300 / 30:.3f}h.01v.01h-.01z" for i in range(30_000))
    sound = svg('<path d="M1 1h8v8h-8z" fill="#369"/><circle cx="5" cy="5" r="3"/>')
    return {
        "crossing.svg": svg(f'<path d="M{"L".join(places)}z"/>'),
        "holes.svg": svg(f'<path fill-rule="evenodd" d="M0 0h10v10h-10z{holes}"/>'),
        "arc.svg": svg('<path d="M0 0A1e-9 1e9 1e7 1 1 9 9"/>'),
        "dashes.svg": svg('<path d="M0 0L10 10" stroke="red" stroke-dasharray="1e-7"/>'),
        "uses.svg": svg('<g id="a"><use href="#a"/></g>'),
        "entity.svg": b'<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + svg("<text>&x;</text>"),
        "picture.svg": svg('<image href="http://127.0.0.1:9/x.png" width="9" height="9"/>'),
        "deep.svg": svg("<g>" * 20_000 + "</g>" * 20_000),
    } | _changed(sound, rng, "svg")


def _returned(pdf: bytes, rng: random.Random) -> dict[str, bytes]:
    loop = b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 1 0 R>>endobj\ntrailer<</Root 1 0 R>>"
    return {"loop.pdf": loop, "none.pdf": b"%PDF-1.7", "none.svg": b"<svg/>"} | _changed(pdf, rng, "pdf")


def _books(rng: random.Random) -> dict[str, bytes]:
    book = json.dumps({"version": 1, "symbols": [], "rules": [], "kinds": [], "emphases": []}).encode()
    return {
        "deep.json": b"[" * 200_000,
        "infinite.json": b'{"version": Infinity}',
        "long.json": b'{"version": 1' + b"0" * 5000 + b"}",
    } | _changed(book, rng, "json")


def _strangers(path: Path) -> dict[str, bytes]:
    """Projects that other programs have had a hand in; each would act by itself if it could."""
    made = {}
    for name, statements in {
        "trigger": ["CREATE TRIGGER x AFTER INSERT ON lines BEGIN DELETE FROM points; END"],
        "view": ["ALTER TABLE units RENAME TO held", "CREATE VIEW units AS SELECT * FROM held"],
        "index": ["DELETE FROM rtree_lines_geom"],
        "no-project": ["DELETE FROM project"],
        "odd-crs": ["UPDATE project SET crs = 'EPSG:999999'"],
        "odd-date": ["UPDATE journal SET at = 'yesterday'"],
        "no-units": ["DROP TABLE units"],
    }.items():
        with tempfile.TemporaryDirectory() as temporary:
            copy = Path(temporary) / "copy.gpkg"
            shutil.copy(path, copy)
            connection = sqlite3.connect(copy)
            connection.execute("PRAGMA journal_mode = DELETE")
            for statement in statements:
                connection.execute(statement)
            connection.commit()
            connection.close()
            made[name] = copy.read_bytes()
    whole = path.read_bytes()
    made["cut"] = whole[: len(whole) // 2]
    made["noise"] = whole[:100] + bytes(random.Random(4).randrange(256) for _ in range(50_000))
    return made


def _a_symbol(address: str) -> str:
    """The name of a new point stamp."""
    body = urllib.parse.urlencode({"family": "points", "title": "Knocked upon"}).encode()
    with urllib.request.urlopen(f"{address}/p/{SLUG}/symbols/draw", body, timeout=30) as answer:
        return str(answer.headers["HX-Redirect"]).rpartition("=")[2]


def _a_picture(address: str) -> int:
    """The number of a new part that shows a picture."""
    body = urllib.parse.urlencode({"kind": "picture"}).encode()
    with urllib.request.urlopen(f"{address}/p/{SLUG}/sheets/1/parts", body, timeout=30) as answer:
        return int(answer.headers["Orvik-Part"])


class _Slow(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        what = self.path.split("/")[1]
        try:
            if what == "elsewhere":
                self.send_response(302)
                self.send_header("Location", "http://127.0.0.1:9/x")
                self.end_headers()
                return
            self.send_response(200)
            self.send_header("Content-Type", "image/png")
            self.end_headers()
            if what == "eps":
                self.wfile.write(b"%!PS\n(x) run\n")
            for _ in range({"slow": 600, "endless": 6000, "huge": 4000}.get(what, 0)):
                self.wfile.write(bytes(100_000 if what == "huge" else 1))
                time.sleep(0.0 if what == "huge" else 0.5)
        except OSError:
            return

    def log_message(self, format: str, *args: object) -> None:
        return


@contextmanager
def _slow_service() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Slow)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        server.shutdown()
        server.server_close()
