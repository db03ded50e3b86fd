"""What one page has selected: its pen, what it is drawing and for what, and what its ring last showed."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

import shapely

from orvik.core.drawing.drawing import Drawing, Vertex
from orvik.core.errors import CHANGED_MEANWHILE, FeatureRefused, NotFound, Stale
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES, FeatureKey, Table
from orvik.core.geometry.curve import FLAT_MM
from orvik.core.geometry.snapping import SnapIndex, Switches, Target
from orvik.core.geometry.vertices import paths_of
from orvik.core.ground.scale import on_ground
from orvik.core.symbols.pen import Pen
from orvik.store.changeable import Changeable
from orvik.store.journal import Entry
from orvik.usecases.compile.features import FeatureEdit, carry_out_edit, keep_features, touching
from orvik.web.live.messages import Click, Selection
from orvik.web.session.space import Space
from orvik.web.session.workspace import Workspace

Answer = dict[str, Any]
# The ring that a page begins with: so large on the sheet, and never less than so many pixels.
RING_MM = 0.6
RING_PX = 8.0


@dataclass(frozen=True)
class Purpose:
    """What a line is being drawn for, if not for a feature of its own: to reshape, split or cut a selected feature."""

    what: str
    features: tuple[FeatureKey, ...]
    revision: int


@dataclass(frozen=True)
class Ring:
    """The ring as it was last shown: its number, what it holds, the revision that was true at, and where it was."""

    number: int = 0
    target: Target | None = None
    revision: int = 0
    place: tuple[float, float] = (0.0, 0.0)


@dataclass
class Holds:
    """What the ring of a window may hold, on the map and on its sections.

    Attributes
    ----------
    radius_m
        The ring's radius in metres.
    radius_px
        Or in screen pixels, which follow the scale of the view.
    least_px
        The fewest of these.
    tables
        Whose features it may hold.
    """

    radius_m: float
    radius_px: float | None = None
    least_px: float = RING_PX
    switches: Switches = field(default_factory=Switches)
    tables: frozenset[Table] = frozenset(TABLES)


class PageState:
    """One page's pen, drawing and ring, over the map of its project or one of its sections."""

    def __init__(self, workspace: Workspace, space: Space, holds: Holds | None = None) -> None:
        self.workspace = workspace
        self.space = space
        self.window_id = ""
        self.pen: Pen | None = None
        self.drawing: Drawing | None = None
        self.purpose: Purpose | None = None
        self.way = "straight"
        self.holds = holds or Holds(on_ground(RING_MM, space.project.scales.publication))
        # Directions on the grid, in degrees, that the next span keeps to.
        self.courses: tuple[float, ...] = ()
        self.ring = Ring()
        # Where an attitude that waits for its reading stands.
        self.waiting: Vertex | None = None
        # The station of the notebook that the reading which waits belongs to.
        self.station: int | None = None
        # First clicks of tools that take two.
        self.begun: tuple[str, tuple[float, float]] | None = None

    def follow_move(self) -> None:
        """Let go of what was being drawn: it stands in a coordinate system that is no more."""
        self.waiting = None
        self.drawing = self.fresh_drawing() if self.drawing else None

    @property
    def flat(self) -> float:
        """How far a chord may leave a curve, in project units."""
        return self.sheet_units(FLAT_MM)

    def sheet_units(self, millimetres: float) -> float:
        """Project units of a length on the sheet."""
        project = self.space.project
        return on_ground(millimetres, project.scales.publication) / project.crs.metres_per_unit

    def fresh_drawing(self) -> Drawing | None:
        """An empty drawing with the pen selected."""
        if self.pen is None or self.pen.table == "points":
            return None
        return Drawing(self.pen, tolerance=self.flat)

    def selected(self, message: Selection) -> list[Feature]:
        """The features selected that a message names.

        Raises
        ------
        FeatureRefused
            Nothing is selected.
        Stale
            One has changed since the page saw it.
        """
        if not message.features:
            raise FeatureRefused("Select a feature first.")
        project = self.space.project
        features = []
        for named in message.features:
            features.append(project.feature(*named.key))
            if project.changed_after(*named.key, message.revision):
                raise Stale(CHANGED_MEANWHILE)
        return features

    def touching(self, places: Iterable[tuple[float, float]], but: Iterable[Feature]) -> list[Feature]:
        """Features with an edge or a vertex at one of some places, in layers that may be touched."""
        space = self.space
        return touching(space.project, space.index, space.stack, places, but)

    async def keep_edit(self, edit: FeatureEdit) -> Entry:
        """Keep an edit by hand as one entry, if nothing that it speaks of changes meanwhile; see ``FeatureEdit``."""
        space = self.space
        return await space.carry_out(keep_features, space.index, edit, space.project.revision)

    async def carry(self, make: Callable[[Changeable, SnapIndex], FeatureEdit]) -> Entry:
        """Have an edit made and kept where project and index are at hand, so that nobody's pointer waits for it."""
        space = self.space
        return await space.carry_out(carry_out_edit, space.index, make, space.project.revision)

    def outlines(self, keys: Iterable[FeatureKey]) -> list[Answer]:
        """Features as the page shows them selected; those that are no longer there are left out."""
        out = []
        for table, number in keys:
            with contextlib.suppress(NotFound):
                out.append(outline(self.space.project.feature(table, number)))
        return out

    def kept_answer(self, entry: Entry, keys: Iterable[FeatureKey]) -> Answer:
        """What a page is told after an edit: the revision, and the features that are selected now."""
        return {"kept": entry.id, "hand": self.outlines(keys)}

    def vertex_at(self, click: Click) -> Vertex:
        """The vertex that a click means: what the ring showed, or the place itself.

        Raises
        ------
        Stale
            The ring has moved on, or what it held has changed.
        CoordinateRefused
            The place is none in the project's system.
        """
        project = self.space.project
        if click.ring is None:
            project.crs.check_place(*click.place)
            return Vertex(*click.place, click.scale, way=self.way)
        if click.ring != self.ring.number:
            raise Stale("The ring has moved on; click again.")
        target = self.ring.target
        if target is None:
            place = self.ring.place if self.courses else click.place
            project.crs.check_place(*place)
            return Vertex(*place, click.scale, way=self.way)
        if target.id and project.changed_after(target.table, target.id, self.ring.revision):
            raise Stale(f"{target.kind} {target.id} was changed in another window meanwhile; click again.")
        return Vertex(target.x, target.y, click.scale, target, self.way)


def new_ids(entry: Entry, table: Table) -> list[FeatureKey]:
    """The features of a table that an entry added."""
    return [(table, c.id) for c in entry.changes if c.table == table and c.before is None]


def outline(feature: Feature) -> Answer:
    """A selected feature: its paths, and which vertices can be taken hold of."""
    paths = [path.tolist() for path in paths_of(feature)]
    return {"table": feature.table, "id": feature.id, "paths": paths, "knots": list(feature.knots) or None}


def nodes_of(vertices: Iterable[Vertex]) -> list[tuple[float, float]]:
    """Places on edges of other features that must become vertices there, and vertices that must stay knots."""
    return [v.place for v in vertices if v.target is not None and v.target.id and v.target.table != "points"]


def point_geometry(vertex: Vertex) -> shapely.Point:
    """The geometry of a point feature at a vertex."""
    return shapely.Point(vertex.place)
