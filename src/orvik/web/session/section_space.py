"""A section of an open project, as pens and ring know it."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Callable, Sequence
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

import numpy as np
import shapely

from orvik.core.coordinates import GroundXY
from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.feature import Feature, Features
from orvik.core.features.table import TABLES, Table
from orvik.core.geometry.snapping import SnapIndex, Switches, Target
from orvik.core.ground.scale import spaced
from orvik.core.ink.primitives import Item
from orvik.core.structure.section.below import Below, refuse_kind
from orvik.core.structure.section.line_measures import LineMeasures, measures_of
from orvik.core.structure.section.meeting import MeetingPlace, meeting_places
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.store import rows
from orvik.store.geometry import decoded
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.sections import SectionProject
from orvik.usecases.compile.layers import Stack
from orvik.web.session.space import Space

P = ParamSpec("P")
T = TypeVar("T")
_HELD = Switches(vertex=False, edge=True, end=True)
# What the ring says of a place where a line of the map comes to the section.
CROSSING = "crossing"
# What lies less deep, in metres, is at the ground.
LEAST_DEPTH = 0.5


class SectionGround:
    """The ground and the frame of a section, and where lines of the map cross it."""

    def __init__(self, found: SectionOfMap) -> None:
        self.below = Below(found)
        self.places: Sequence[MeetingPlace] = meeting_places(found)
        self.trace: Sequence[Feature] = self.below.edges
        self._index = SnapIndex({"lines": Features.of("lines", self.trace)})

    def snap(self, x: float, y: float, radius: float) -> Target | None:
        """A crossing before the ground, whatever is nearer."""
        near = min(self.places, key=lambda one: math.dist(one.place, (x, y)), default=None)
        if near is not None and math.dist(near.place, (x, y)) <= radius:
            return Target(CROSSING, "lines", 0, near.label, *near.place)
        held = self._index.snap(x, y, radius, _HELD)
        return None if held is None else Target(held.what, held.table, 0, held.kind, held.x, held.y)


class SectionSpace:
    """What is drawn on one section of the map of an open project. All methods run on the event loop."""

    def __init__(self, project: Project, map_space: Space, line_id: int, found: SectionOfMap) -> None:
        self._map = map_space
        self.line_id = line_id
        self._project = SectionProject(project, line_id, lambda: self.ground.places)
        self._index = SnapIndex(self._project.all_features())
        self._window_ids: set[str] = set()
        self.take(found)

    def take(self, found: SectionOfMap) -> None:
        """Hold the section as the map has it now."""
        self.found = found
        self.ground = SectionGround(found)

    def follow(self, entry: Entry) -> None:
        """Follow an entry of the project that was written."""
        kept, deleted = [], []
        for change in self._project.shown(entry).changes:
            table = cast(Table, change.table)
            if change.after is None:
                deleted.append((table, change.id))
            else:
                row = cast(Any, change.after)
                kept.append(rows.feature(table, row, decoded(row["geom"])))
        if kept or deleted:
            self._index.update(kept, deleted)

    def take_all_anew(self) -> None:
        """Read again whatever another program has written."""
        self._index = SnapIndex(self._project.all_features())

    def close(self) -> None:
        """Let go of the file."""
        self._project.close()

    # What pens, ring and hand ask; see ``Space``

    @property
    def project(self) -> SectionProject:
        """Its features, read and changed."""
        return self._project

    @property
    def index(self) -> SnapIndex:
        """What the ring holds of its features."""
        return self._index

    @property
    def book(self) -> SymbolBook:
        """The symbol book of the project."""
        return self._map.book

    @property
    def stack(self) -> Stack:
        """A section has no layers that could be hidden or locked."""
        return {}

    @property
    def window_ids(self) -> set[str]:
        """Windows in which it is open."""
        return self._window_ids

    def tables_in_sight(self) -> frozenset[Table]:
        """All is seen."""
        return frozenset(TABLES)

    def beside(self, window_id: str) -> SectionGround:
        """The ground, the frame and the crossings, the same in every window."""
        return self.ground

    def refuse_pen(self, pen: Pen) -> None:
        """Raise FeatureRefused for a pen of what has no place below the ground."""
        refuse_kind(pen.table, pen.kind)

    def place_words(self, x: float, y: float) -> str:
        """How far along a place is, how high, and how deep below the ground."""
        profile = self.found.profile
        depth = float(np.interp(x, profile.along, profile.height)) - y
        words = f"{spaced(x)} m along, height {spaced(y)} m"
        return f"{words}, depth {spaced(depth)} m" if depth > LEAST_DEPTH else words

    def stepped(self, place: GroundXY, degrees: float, metres: float) -> GroundXY:
        """The place so far down a dip: 0 is level along the section, 90 straight down, 180 level back."""
        down = math.radians(degrees)
        return place[0] + metres * math.cos(down), place[1] - metres * math.sin(down)

    def dip_courses(self, place: GroundXY) -> tuple[tuple[float, ...], str]:
        """Both directions of the apparent dip of the reading that is carried nearest to a place."""
        near = min(self.found.readings, key=lambda r: math.dist((r.along, r.up), place), default=None)
        if near is None:
            raise FeatureRefused("No reading is carried onto this section; give readings a wider strip beside it.")
        course = (90.0 + near.apparent_dip) % 360
        return (course, (course + 180) % 360), f"{abs(near.apparent_dip):.0f}° apparent, as reading {near.point} dips"

    def measures(self, line: Feature) -> LineMeasures:
        """How a line of the section dips, and how thick what lies above it is."""
        lines = self._project.features("lines")
        others = [(int(i), g) for i, g in zip(lines.ids, lines.geometries, strict=True) if i != line.id]
        course = shapely.LineString(shapely.get_coordinates(line.geometry))
        return measures_of(course, others, self.found.readings)

    def dips_to(self, point: int) -> str:
        """Which way a reading of the map dips: `` to 118``; empty where it is gone."""
        with contextlib.suppress(NotFound):
            reading = self._map.project.feature("points", point)
            if reading.azimuth is not None:
                return f" to {round(reading.azimuth + 90) % 360:03d}"
        return ""

    def symbol_ink(self, point: Feature) -> list[Item]:
        """A section has no readings of its own."""
        raise FeatureRefused("Readings stand on the map; those beside a section are carried onto it from there.")

    async def write(self, work: Callable[[], T]) -> T:
        """Carry out something on the project file in the thread that writes."""
        return await self._map.write(work)

    async def carry_out(self, use_case: Callable[Concatenate[Any, P], T], /, *args: P.args, **options: P.kwargs) -> T:
        """Carry out a use case on what is drawn here; it makes one entry of the project at the most."""
        return await self._map.carry_out(lambda _: use_case(self._project, *args, **options))
