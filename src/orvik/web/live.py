"""The live connection of a page: pointer and keys in, what the ring holds and what was kept out.

One message is answered by one message with the same number ``n``. A refusal is an answer too: it holds the
sentence under ``refused``. What each message does is told in the rooms beside this one: ``live_ring``,
``live_drawing``, ``live_attitudes``, ``live_hand``, ``live_changing``, ``live_areas`` and ``live_findings``.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import math
import re
from collections.abc import Awaitable, Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import shapely
from fastapi import WebSocket, WebSocketDisconnect

from ..core.curve import FLAT_MM
from ..core.edit import checked
from ..core.errors import OWN_FAULT, FeatureRefused, NotFound, OrvikError, Stale
from ..core.feature import TABLES, Feature, Table
from ..core.scale import LARGEST_DENOMINATOR, on_ground
from ..core.shared import with_shared_vertices
from ..core.signs.catalogue import Pen
from ..core.snap import Switches, Target
from ..core.stroke import Drawing, Vertex
from ..core.vertices import paths_of
from ..store.journal import Change, Entry
from ..store.keeping import feature_changes
from .workspace import CHANGED_MEANWHILE, Notice, Workspace

Answer = dict[str, Any]
Handler = Callable[["Live", Answer], Awaitable[Answer]]
LARGEST_MESSAGE = 256_000
# The ring that a page begins with: so large on the sheet, and never less than so many pixels.
RING_MM = 0.6
RING_PX = 8.0
# A page that has so many messages still to take, or so many bytes, has stopped taking them.
MOST_WAITING = 500
MOST_WAITING_BYTES = 64_000_000
LOG = logging.getLogger(__name__)


@dataclass(frozen=True)
class Purpose:
    """What a line is being drawn for, if not for a feature of its own: to reshape, split or cut a feature in hand."""

    what: str
    features: tuple[tuple[Table, int], ...]
    revision: int


class Live:
    """One page's connection: the pen in hand, the drawing, and what the ring last showed."""

    def __init__(self, socket: WebSocket, workspace: Workspace) -> None:
        self.socket = socket
        self.workspace = workspace
        self._outbox: asyncio.Queue[str | bytes] = asyncio.Queue()
        self._waiting = 0
        self._behind = asyncio.Event()
        self.seat = ""
        self.pen: Pen | None = None
        self.drawing: Drawing | None = None
        self.purpose: Purpose | None = None
        self.way = "straight"
        self.switches = Switches()
        self.snapping: frozenset[Table] = frozenset(TABLES)
        # The ring's radius in metres; or in screen pixels, which follow the scale of the view; or the fewest of these.
        self.radius_m = on_ground(RING_MM, workspace.project.scales.publication)
        self.radius_px: float | None = None
        self.least_px = RING_PX
        # Directions on the grid, in degrees, that the next span keeps to.
        self.courses: tuple[float, ...] = ()
        # The ring as last shown: its number, what it holds, where, and the revision it was true at.
        self.ring: tuple[int, Target | None, int] = (0, None, 0)
        self.ring_at: tuple[float, float] = (0.0, 0.0)
        # Where an attitude that waits for its reading stands, and the strike that was drawn for it.
        self.waiting: Vertex | None = None
        # The station of the notebook that the reading which waits belongs to.
        self.station: int | None = None
        # First clicks of tools that take two.
        self.begun: tuple[str, tuple[float, float]] | None = None

    async def run(self) -> None:
        """Answer until the page goes away, or falls so far behind that it must begin anew."""
        self.workspace.listen(self._notify)
        work = (self._send_all(), self._answer_all(), self._behind.wait())
        tasks = [asyncio.ensure_future(part) for part in work]
        try:
            await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            if self._behind.is_set():
                with contextlib.suppress(RuntimeError, OSError, TimeoutError):
                    await asyncio.wait_for(self.socket.close(1013), 1.0)
        finally:
            self.workspace.listeners.discard(self._notify)
            self.workspace.seats.discard(self.seat)
            for task in tasks:
                task.cancel()
                with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError, OSError):
                    await task

    async def _answer_all(self) -> None:
        self.send(self.workspace.state())
        with contextlib.suppress(WebSocketDisconnect):
            while True:
                received = await self.socket.receive()
                if received["type"] == "websocket.disconnect":
                    return
                await self._answer(received.get("text"))

    async def _send_all(self) -> None:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while True:
                message = await self._outbox.get()
                self._waiting -= len(message)
                if isinstance(message, bytes):
                    await self.socket.send_bytes(message)
                else:
                    await self.socket.send_text(message)

    def _post(self, message: str | bytes) -> None:
        """Put a message where it is sent from; a page that does not take its messages is let go, and loads again."""
        if self._outbox.qsize() >= MOST_WAITING or self._waiting > MOST_WAITING_BYTES:
            self._behind.set()
            return
        self._waiting += len(message)
        self._outbox.put_nowait(message)

    async def _answer(self, text: str | None) -> None:
        message = message_of(text)
        if message is None:
            # The page waits for an answer with its number, whatever else is wrong with the message.
            named = re.search(r'"n"\s*:\s*(\d{1,15})\b', (text or "")[:1000])
            self.send(
                {"n": int(named[1]) if named else None, "refused": "This message cannot be read; load the page again."}
            )
            return
        number = message.get("n")
        handler = handlers().get(str(message.get("do")))
        try:
            if handler is None:
                raise NotFound("The page asked for something that is not known; load it again.")
            answer = await handler(self, message)
        except OrvikError as refusal:
            answer = {"refused": refusal.sentence, "where": type(refusal).__name__}
        except (LookupError, TypeError, ValueError, OverflowError):
            answer = {"refused": "The page sent something that cannot be read; load it again."}
            LOG.warning("a message that cannot be read: %s", str(text)[:1000], exc_info=True)
        except Exception:
            # An edit is one transaction, so nothing is half-kept; the page and what it draws stay as they are.
            answer = {"refused": OWN_FAULT}
            LOG.exception("answering %s", str(text)[:1000])
        self.send({"n": number if isinstance(number, int | None) else None, **answer})

    def send(self, words: Answer) -> None:
        """Send words to the page."""
        self._post(json.dumps(words, separators=(",", ":"), ensure_ascii=True))

    def _notify(self, notice: Notice) -> None:
        if notice.words.get("do") == "closed":
            self._behind.set()
            return
        if notice.words.get("moved"):
            # What was being drawn stands in the system that is no more.
            self.waiting = None
            self.drawing = self.fresh() if self.drawing else None
        if notice.ink is not None:
            self._post(notice.ink)
        told = notice.words.get("do") == "findings" or "replaced" in notice.words
        self.send(notice.words if told else {**notice.words, "do": "changed"})

    # What the rooms share

    @property
    def flat(self) -> float:
        """How far a chord may leave a curve, in project units."""
        return self.sheet_units(FLAT_MM)

    def sheet_units(self, millimetres: float) -> float:
        """Project units of a length on the sheet."""
        project = self.workspace.project
        return on_ground(millimetres, project.scales.publication) / project.crs.metres_per_unit

    def fresh(self) -> Drawing | None:
        """An empty drawing with the pen in hand."""
        if self.pen is None or self.pen.table == "points":
            return None
        return Drawing(self.pen, tolerance=self.flat)

    def own(self, message: Answer) -> list[Feature]:
        """The features in hand that a message names.

        Raises
        ------
        FeatureRefused
            Nothing is in hand.
        Stale
            One has changed since the page saw it.
        """
        revision = whole_of(message["revision"])
        if not message["features"]:
            raise FeatureRefused("Take a feature in hand first.")
        features = []
        for named in message["features"]:
            table, number = feature_key(named)
            features.append(self.workspace.project.feature(table, number))
            if self.workspace.changed_since(table, number, revision):
                raise Stale(CHANGED_MEANWHILE)
        return features

    def beside(self, places: Iterable[tuple[float, float]], but: Iterable[Feature]) -> list[Feature]:
        """Features with an edge or a vertex at one of some places, in layers that may be touched."""
        workspace = self.workspace
        names = {(f.table, f.id) for f in but}
        keys = {key for x, y in places for key in workspace.index.touching(x, y)}
        return [
            workspace.project.feature(table, number)
            for table, number in sorted(keys)
            if (table, number) not in names and table != "points" and workspace.may_touch(table)
        ]

    async def keep(
        self,
        label: str,
        put: Sequence[Feature],
        gone: Sequence[tuple[Table, int]] = (),
        nodes: Sequence[tuple[float, float]] = (),
        also: Sequence[Change] = (),
    ) -> Entry:
        """Keep features as one entry.

        Parameters
        ----------
        nodes
            Places on the edges of other features, which get a vertex there in the same entry.
        also
            Changes of other tables in the same entry; ``Made(k)`` in them is the id of ``put[k]``.
        """
        workspace = self.workspace
        project = workspace.project
        seen = project.revision
        for table in {f.table for f in put} | {t for t, _ in gone}:
            workspace.refuse_locked(table)
        if nodes:
            put = [*put, *with_shared_vertices(nodes, self.beside(nodes, put))]
        codes = set(project.units_by_code())
        kept = [checked(f, project.crs, workspace.book, codes) for f in put]
        return await workspace.apply(label, feature_changes(project, project.srs_id, kept, gone, also), seen)

    def outlines(self, keys: Iterable[tuple[Table, int]]) -> list[Answer]:
        """Features as the page shows them in hand; those that are gone are left out."""
        out = []
        for table, number in keys:
            with contextlib.suppress(NotFound):
                out.append(outline(self.workspace.project.feature(table, number)))
        return out

    def kept_answer(self, entry: Entry, keys: Iterable[tuple[Table, int]]) -> Answer:
        """What a page is told after an edit: the revision, and the features that are in hand now."""
        return {"kept": entry.id, "hand": self.outlines(keys)}


def new_ids(entry: Entry, table: Table) -> list[tuple[Table, int]]:
    """The features of a table that an entry added."""
    return [(table, c.id) for c in entry.changes if c.table == table and c.before is None]


def outline(feature: Feature) -> Answer:
    """A feature in hand: its paths, and which vertices can be taken hold of."""
    paths = [path.tolist() for path in paths_of(feature)]
    return {"table": feature.table, "id": feature.id, "paths": paths, "knots": list(feature.knots) or None}


def handlers() -> dict[str, Handler]:
    """All messages and what answers them."""
    if not _HANDLERS:
        from . import (
            live_areas,
            live_attitudes,
            live_changing,
            live_drawing,
            live_findings,
            live_hand,
            live_ring,
        )

        rooms: tuple[Any, ...] = (
            live_ring,
            live_drawing,
            live_attitudes,
            live_hand,
            live_changing,
            live_areas,
            live_findings,
        )
        for room in rooms:
            _HANDLERS.update(room.HANDLERS)
    return _HANDLERS


_HANDLERS: dict[str, Handler] = {}


def message_of(text: str | None) -> Answer | None:
    """A message as it was sent; None for what is none, or no JSON that a page of ours sends."""
    if text is None or len(text) > LARGEST_MESSAGE:
        return None
    try:
        message = json.loads(text, parse_constant=_no_number, parse_int=_whole_number)
        if "\\ud" in text.lower():
            # Half of a letter can be kept nowhere.
            json.dumps(message, ensure_ascii=False).encode()
    except (ValueError, RecursionError):
        return None
    return message if isinstance(message, dict) else None


def _no_number(name: str) -> float:
    raise ValueError(f"{name} is no number")


def _whole_number(digits: str) -> int:
    if len(digits) > 18:
        raise ValueError("a number of so many digits")
    return int(digits)


async def serve(socket: WebSocket, workspace: Workspace) -> None:
    """Serve one page's live connection."""
    await socket.accept()
    await Live(socket, workspace).run()


def number_of(value: Any) -> float:
    """A number that a message holds; raises ValueError for what is none."""
    if isinstance(value, bool) or not isinstance(value, float | int | str) or len(str(value)) > 40:
        raise ValueError("not a number")
    number = float(value)
    if not math.isfinite(number):
        raise ValueError("not a number")
    return number


def whole_of(value: Any) -> int:
    """A whole number that a message holds, such as a revision or an id; raises ValueError for what is none."""
    number = number_of(value)
    if number != round(number) or abs(number) > 2**53:
        raise ValueError("not a whole number")
    return round(number)


def scale_of(message: Answer) -> int:
    """The scale denominator of the view that a message comes from."""
    return max(1, min(round(number_of(message["scale"])), LARGEST_DENOMINATOR))


def place_of(message: Answer) -> tuple[float, float]:
    """The place that a message names."""
    return number_of(message["x"]), number_of(message["y"])


def text_of(value: Any) -> str | None:
    """A text, or None for an empty one."""
    return str(value) if value else None


def feature_key(message: Answer) -> tuple[Table, int]:
    """The feature that a message names."""
    for table in TABLES:
        if table == message["table"]:
            return table, whole_of(message["id"])
    raise NotFound("That feature is no longer in the project.")


def vertex_of(live: Live, message: Answer) -> Vertex:
    """The vertex that a click means: what the ring showed, or the place itself."""
    x, y = place_of(message)
    scale = scale_of(message)
    number, target, revision = live.ring
    crs = live.workspace.project.crs
    if message.get("ring") is None:
        crs.check_place(x, y)
        return Vertex(x, y, scale, way=live.way)
    if message["ring"] != number:
        raise Stale("The ring has moved on; click again.")
    if target is None:
        x, y = live.ring_at if live.courses else (x, y)
        crs.check_place(x, y)
        return Vertex(x, y, scale, way=live.way)
    if target.id and live.workspace.changed_since(target.table, target.id, revision):
        raise Stale(f"{target.kind} {target.id} was changed in another window meanwhile; click again.")
    return Vertex(target.x, target.y, scale, target, live.way)


def nodes_of(vertices: Iterable[Vertex]) -> list[tuple[float, float]]:
    """Places on edges of other features that must become vertices there, and vertices that must stay knots."""
    return [v.place for v in vertices if v.target is not None and v.target.id and v.target.table != "points"]


def point_geometry(vertex: Vertex) -> shapely.Point:
    """The geometry of a point feature at a vertex."""
    return shapely.Point(vertex.place)
