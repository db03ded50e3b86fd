"""The live connection of a page: pointer and keys in, what the ring holds and what was kept out.

One message is answered by one message with the same number ``n``. A refusal is an answer too: it holds the
sentence under ``refused``.
"""

from __future__ import annotations

import contextlib
import json
import math
from collections.abc import Awaitable, Callable
from typing import Any

import shapely
from fastapi import WebSocket, WebSocketDisconnect

from ..core.attitude import parse_reading
from ..core.coordinates import format_angle, format_grid
from ..core.crossings import nearest_crossing
from ..core.edit import checked
from ..core.errors import FeatureRefused, NotFound, OrvikError, Stale
from ..core.feature import TABLES, Feature, Table
from ..core.scale import on_sheet, spaced
from ..core.signs.catalogue import Pen
from ..core.snap import Switches, Target
from ..core.stroke import Drawing, Vertex
from ..store import rows
from ..store.journal import Change
from .inkwire import plain
from .workspace import Notice, Workspace

Answer = dict[str, Any]
LARGEST_MESSAGE = 64_000


class Live:
    """One page's connection: the pen in hand, the drawing, and what the ring last showed."""

    def __init__(self, socket: WebSocket, workspace: Workspace) -> None:
        self.socket = socket
        self.workspace = workspace
        self.pen: Pen | None = None
        self.drawing: Drawing | None = None
        self.switches = Switches()
        self.radius_m = 15.0
        # The ring as last shown: its number, what it holds, and the revision it was true at.
        self.ring: tuple[int, Target | None, int] = (0, None, 0)
        # Where an attitude that waits for its reading stands.
        self.waiting: Vertex | None = None
        self._handlers: dict[str, Callable[[Answer], Awaitable[Answer]]] = {
            "hover": self._hover,
            "aim": self._aim,
            "snap": self._snap_settings,
            "pen": self._take_pen,
            "press": self._press,
            "back": self._back,
            "finish": self._finish,
            "drop": self._drop,
            "reading": self._reading,
            "keep_reading": self._keep_reading,
            "pick": self._pick,
            "show": self._show,
            "delete": self._delete,
            "undo": self._undo,
            "redo": self._redo,
            "state": self._state,
        }

    async def run(self) -> None:
        """Answer until the page goes away."""
        self.workspace.listeners.add(self._notify)
        try:
            await self._send(self.workspace.state())
            while True:
                await self._answer(await self.socket.receive_text())
        except WebSocketDisconnect:
            pass
        finally:
            self.workspace.listeners.discard(self._notify)

    async def _answer(self, text: str) -> None:
        try:
            message = json.loads(text) if len(text) <= LARGEST_MESSAGE else None
        except ValueError:
            message = None
        if not isinstance(message, dict):
            await self._send({"n": None, "refused": "This message cannot be read."})
            return
        number = message.get("n")
        handler = self._handlers.get(str(message.get("do")))
        try:
            if handler is None:
                raise NotFound("The page asked for something that is not known; load it again.")
            answer = await handler(message)
        except OrvikError as refusal:
            answer = {"refused": refusal.sentence, "where": type(refusal).__name__}
        except (KeyError, TypeError, ValueError):
            answer = {"refused": "The page sent something that cannot be read; load it again."}
        await self._send({"n": number, **answer})

    async def _send(self, words: Answer) -> None:
        await self.socket.send_text(json.dumps(words, separators=(",", ":"), ensure_ascii=False))

    async def _notify(self, notice: Notice) -> None:
        if notice.words.get("moved"):
            # What was being drawn stands in the system that is no more.
            self.waiting = None
            self.drawing = Drawing(self.drawing.pen) if self.drawing else None
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            if notice.ink is not None:
                await self.socket.send_bytes(notice.ink)
            await self._send({**notice.words, "do": "changed"})

    # The ring

    async def _hover(self, message: Answer) -> Answer:
        x, y = _place(message)
        project = self.workspace.project
        radius = self.radius_m / project.crs.metres_per_unit
        target = None
        if self.pen is not None and not message.get("free"):
            target = self.workspace.index.snap(x, y, radius, self.switches, self.workspace.tables_in_sight())
            target = self._own_start(x, y, radius, target)
        self.ring = (self.ring[0] + 1, target, project.revision)
        at = (target.x, target.y) if target else (x, y)
        answer: Answer = {"ring": self.ring[0], "at": at, "place": self._place_words(*at)}
        scale = message.get("scale")
        if self.pen is not None and scale is not None:
            answer["coarse"] = float(scale) > project.scales.digitizing
        if target:
            answer["held"] = {"what": target.what, "label": target.label}
        if self.drawing and self.drawing.vertices:
            answer["drawing"] = self._drawing_words(at)
        return answer

    async def _aim(self, message: Answer) -> Answer:
        """The ground meant by a pointer that looks for a control point: a vertex, or a crossing of the grid."""
        x, y = _place(message)
        project = self.workspace.project
        radius = float(message["reach"])
        switches = Switches(vertex=True, edge=False, end=True)
        target = self.workspace.index.snap(x, y, radius, switches, self.workspace.tables_in_sight())
        crossing = nearest_crossing(project.crs, x, y, radius)
        if target is not None and (
            crossing is None
            or math.hypot(target.x - x, target.y - y) <= math.hypot(crossing.x - x, crossing.y - y)
        ):
            at, label = (target.x, target.y), target.label
        elif crossing is not None:
            at, label = (crossing.x, crossing.y), crossing.label
        else:
            at, label = (x, y), ""
        return {"at": at, "label": label, "place": self._place_words(*at)}

    def _own_start(self, x: float, y: float, radius: float, target: Target | None) -> Target | None:
        """The first vertex of what is being drawn is held too, so that figures can be closed."""
        if not (self.drawing and len(self.drawing.vertices) >= 3 and self.switches.end):
            return target
        first = self.drawing.vertices[0]
        reach = math.hypot(first.x - x, first.y - y)
        if reach <= radius and (target is None or reach <= math.hypot(target.x - x, target.y - y)):
            return Target("start", self.drawing.pen.table, 0, self.drawing.pen.kind, first.x, first.y)
        return target

    def _place_words(self, x: float, y: float) -> Answer:
        crs = self.workspace.project.crs
        longitude, latitude = crs.to_geographic(x, y)
        geographic = ""
        if math.isfinite(longitude) and math.isfinite(latitude):
            geographic = (
                f"{format_angle(float(latitude), 'latitude')} {format_angle(float(longitude), 'longitude')}"
            )
        return {"grid": format_grid(x, y), "geographic": geographic}

    async def _snap_settings(self, message: Answer) -> Answer:
        radius = float(message["radius"])
        if message.get("unit") == "mm":
            radius = radius * self.workspace.project.scales.publication / 1000
        if not 0 < radius <= 10_000:
            raise FeatureRefused("A ring needs a radius above nought and up to 10 km; type another.")
        self.radius_m = radius
        self.switches = Switches(bool(message["vertex"]), bool(message["edge"]), bool(message["end"]))
        sheet = on_sheet(radius, self.workspace.project.scales.publication)
        other = f"{_trimmed(radius)} m" if message.get("unit") == "mm" else f"{_trimmed(sheet)} mm"
        return {"radius": radius / self.workspace.project.crs.metres_per_unit, "words": f"= {other}"}

    # Drawing

    async def _take_pen(self, message: Answer) -> Answer:
        if self.drawing and self.drawing.vertices:
            raise FeatureRefused(
                "Finish with Enter or drop with Escape what is being drawn, then change pens."
            )
        name = message.get("name")
        pen = self.workspace.book.pen(str(name)) if name else None
        if pen is not None:
            self.workspace.refuse_locked(pen.table)
        self.pen, self.waiting = pen, None
        self.drawing = Drawing(pen) if pen is not None and pen.table != "points" else None
        return {"pen": pen.name if pen else None}

    async def _press(self, message: Answer) -> Answer:
        if self.pen is None:
            raise FeatureRefused("Take a pen from the tray first.")
        vertex = self._vertex(message)
        if self.pen.table == "points":
            if self.workspace.book.needs_reading(self.pen.table, self.pen.kind):
                self.waiting = vertex
                return {"waiting": vertex.place, **self._preview("000/45", vertex)}
            tag = Feature(
                "points", shapely.Point(vertex.place), self.pen.kind,
                map_unit=_text(message.get("unit")), capture_scale=vertex.capture_scale,
            )  # fmt: skip
            if not tag.map_unit:
                raise FeatureRefused("A unit tag needs a map unit; choose one in the slip first.")
            return await self._keep(tag, "add unit tag")
        if self.drawing is None:
            self.drawing = Drawing(self.pen)
        longer = self.drawing.pressed(vertex)
        closing = len(longer.vertices) > 3 and longer.vertices[-1].place == longer.vertices[0].place
        if longer.crosses() and not closing:
            raise FeatureRefused("That would make the line cross itself; click elsewhere.")
        self.drawing = longer
        return {"drawing": self._drawing_words(), "closed": closing}

    def _vertex(self, message: Answer) -> Vertex:
        x, y = _place(message)
        scale = max(1, round(float(message["scale"])))
        number, target, revision = self.ring
        if message.get("ring") is None:
            self.workspace.project.crs.check_place(x, y)
            return Vertex(x, y, scale)
        if message["ring"] != number:
            raise Stale("The ring has moved on; click again.")
        if target is None:
            self.workspace.project.crs.check_place(x, y)
            return Vertex(x, y, scale)
        if target.id and self.workspace.changed_since(target.table, target.id, revision):
            raise Stale(f"{target.kind} {target.id} was changed in another window meanwhile; click again.")
        return Vertex(target.x, target.y, scale, target)

    async def _back(self, message: Answer) -> Answer:
        if self.waiting is not None:
            self.waiting = None
            return {"drawing": None}
        if self.drawing is None or not self.drawing.vertices:
            raise FeatureRefused("There is no vertex to take back.")
        self.drawing = self.drawing.back()
        return {"drawing": self._drawing_words() if self.drawing.vertices else None}

    async def _finish(self, message: Answer) -> Answer:
        if self.drawing is None or not self.drawing.vertices:
            raise FeatureRefused("Nothing is being drawn.")
        unit = _text(message.get("unit"))
        feature = self.drawing.finished(unit)
        answer = await self._keep(feature, f"draw {feature.kind.replace('_', ' ')}")
        self.drawing = Drawing(self.drawing.pen)
        return answer

    async def _drop(self, message: Answer) -> Answer:
        self.waiting = None
        self.drawing = Drawing(self.pen) if self.pen is not None and self.pen.table != "points" else None
        return {"drawing": None}

    def _drawing_words(self, pointer: tuple[float, float] | None = None) -> Answer:
        drawing = self.drawing
        assert drawing is not None
        project = self.workspace.project
        metres = drawing.length(pointer) * project.crs.metres_per_unit
        return {
            "vertices": [v.place for v in drawing.vertices],
            "crosses": drawing.crosses(pointer),
            "count": f"{len(drawing.vertices)}",
            "length": f"{spaced(metres)} m",
            "sheet": f"{spaced(on_sheet(metres, project.scales.publication), 1)} mm",
            "sheet_mm": on_sheet(metres, project.scales.publication),
            "captured": f"1:{spaced(max(v.capture_scale for v in drawing.vertices))}",
        }

    # Attitudes

    def _preview(self, text: str, vertex: Vertex) -> Answer:
        """The sign as it would be kept, as ink, and the reading in words."""
        attitude = parse_reading(text)
        pen = self.pen
        assert pen is not None
        sign = Feature(
            "points", shapely.Point(vertex.place), pen.kind, id=0,
            azimuth=attitude.azimuth, inclination=attitude.inclination,
        )  # fmt: skip
        items = self.workspace.ink_of([sign])["attitudes"].items
        return {"sign": plain(items, vertex.place), "origin": vertex.place, "words": attitude.words}

    async def _reading(self, message: Answer) -> Answer:
        if self.waiting is None:
            raise FeatureRefused("Click where the reading was taken first.")
        return self._preview(str(message["text"]), self.waiting)

    async def _keep_reading(self, message: Answer) -> Answer:
        if self.waiting is None or self.pen is None:
            raise FeatureRefused("Click where the reading was taken first.")
        attitude = parse_reading(str(message["text"]))
        feature = Feature(
            "points", shapely.Point(self.waiting.place), self.pen.kind,
            azimuth=attitude.azimuth, inclination=attitude.inclination,
            capture_scale=self.waiting.capture_scale,
        )  # fmt: skip
        answer = await self._keep(feature, f"add {self.pen.kind} {attitude.text}")
        self.waiting = None
        return {**answer, "words": attitude.words}

    # What is in hand

    async def _pick(self, message: Answer) -> Answer:
        x, y = _place(message)
        found = self.workspace.index.pick(x, y, float(message["reach"]), self.workspace.tables_in_sight())
        return self._outline(*found) if found else {"picked": None}

    async def _show(self, message: Answer) -> Answer:
        table, feature_id = _feature_key(message)
        return self._outline(table, feature_id)

    def _outline(self, table: Table, feature_id: int) -> Answer:
        geometry = self.workspace.project.feature(table, feature_id).geometry
        rings = shapely.get_rings(geometry) if table == "areas" else [geometry]
        paths = [shapely.get_coordinates(ring).tolist() for ring in rings]
        return {"picked": {"table": table, "id": feature_id, "paths": paths}}

    async def _delete(self, message: Answer) -> Answer:
        table, feature_id = _feature_key(message)
        self.workspace.refuse_locked(table)
        feature = self.workspace.project.feature(table, feature_id)
        change = Change(table, feature_id, None)
        entry = await self.workspace.apply(f"delete {feature.name}", [change], int(message["revision"]))
        return {"kept": entry.id}

    async def _keep(self, feature: Feature, label: str) -> Answer:
        """Keep a new feature; a new border takes the place of the old one."""
        workspace = self.workspace
        workspace.refuse_locked(feature.table)
        project = workspace.project
        feature = checked(feature, project.crs, workspace.book, set(project.units_by_code()))
        changes = [rows.feature_change(feature, project.srs_id)]
        if feature.kind == "border":
            changes = [Change("lines", old, None) for old in project.border_ids()] + changes
        entry = await workspace.apply(label, changes)
        new = entry.changes[-1]
        return {"kept": entry.id, "feature": {"table": new.table, "id": new.id}}

    async def _undo(self, message: Answer) -> Answer:
        entry = await self.workspace.undo()
        return {"kept": entry.id}

    async def _redo(self, message: Answer) -> Answer:
        entry = await self.workspace.redo()
        return {"kept": entry.id}

    async def _state(self, message: Answer) -> Answer:
        await self.workspace.notice_outside()
        return self.workspace.state()


async def serve(socket: WebSocket, workspace: Workspace) -> None:
    """Serve one page's live connection."""
    await socket.accept()
    await Live(socket, workspace).run()


def _place(message: Answer) -> tuple[float, float]:
    x, y = float(message["x"]), float(message["y"])
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("not a place")
    return x, y


def _text(value: Any) -> str | None:
    return str(value) if value else None


def _feature_key(message: Answer) -> tuple[Table, int]:
    for table in TABLES:
        if table == message["table"]:
            return table, int(message["id"])
    raise NotFound("That feature is no longer in the project.")


def _trimmed(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
