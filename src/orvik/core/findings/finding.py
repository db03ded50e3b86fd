"""One finding, and the ground that the checks of the map look at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from orvik.core.arrays import Flags, Floats, Ints
from orvik.core.coordinates import GroundXY, PageXY
from orvik.core.faces.forming import Faces
from orvik.core.faces.points_in_areas import PointsInAreas
from orvik.core.faces.shared_rims import SharedRims
from orvik.core.features.feature import Features
from orvik.core.features.kind import kind_of, kind_words
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import FeatureKey, Table
from orvik.core.geometry.edges import Codes, edge_codes, vertex_codes
from orvik.core.geometry.holding import holders
from orvik.core.geometry.nodes import NODE
from orvik.core.ground.scale import Scales, area_words, figures, on_ground, on_sheet, spaced
from orvik.core.structure.map_heights import MapHeights

# A gap up to this on the sheet is a slip of the hand, and can be fixed.
NEAR_MM = 1.0


@dataclass(frozen=True)
class Fix:
    """What one click does about a finding.

    Attributes
    ----------
    kind
        On the map ``extend``, ``trim``, ``join``, ``cut``, ``cut_away``, ``delete``, ``tag``, ``give_way``,
        ``make_sound``, ``meet``, ``read_as`` or ``recode``; on a sheet ``row_out``, ``row_in``, ``add``,
        ``onto_page``, ``set``, ``print_layer`` or ``follow``; of a text of the project ``rewrite``.
    label
        The words on the button.
    place
        Where a vertex is to be, if the fix moves or adds one.
    end
        0 for the first vertex of the first feature, -1 for the last.
    unit
        The map unit that a tag says or an area gets, or whose text is written anew; None where it is to be chosen.
    along
        From where to where along the first feature is cut away, in project units.
    key
        The row of an explanation, the kind of a part to add, or a layer of a panel.
    values
        Settings, or a place, that the part gets, as they would be typed; texts that a unit or the imprint gets;
        a reading.
    """

    kind: str
    label: str
    place: GroundXY | None = None
    end: int | None = None
    unit: str | None = None
    along: tuple[float, float] | None = None
    key: str = ""
    values: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Finding:
    """What a check has to say. ``error`` must be fixed before a map is published; ``warning`` wants a look.

    Attributes
    ----------
    rule
        A name of ``rules.RULES``.
    at
        Its place on the ground, in the project's system; None where it has none.
    features, units, parts
        What it speaks of: features, codes of map units, numbers of parts of a sheet.
    spot
        Its place on the page in millimetres, of a finding of a sheet.
    about
        What tells it from others of the same rule on the same things.
    facts
        What it rests on that none of these hold: faces by ``checksum``, names, figures.
    beside
        Features that it was judged by, and does not speak of.
    shared
        What several findings of its rule say together, after how many they are; empty where each speaks for itself.
    subject
        What it speaks of, as a list of such findings names it: ``contact 118``.
    """

    rule: str
    severity: str
    message: str
    at: GroundXY | None
    features: tuple[FeatureKey, ...] = ()
    fix: Fix | None = None
    units: tuple[str, ...] = ()
    parts: tuple[int, ...] = ()
    spot: PageXY | None = None
    about: str = ""
    facts: tuple[str, ...] = ()
    beside: tuple[FeatureKey, ...] = ()
    shared: str = ""
    subject: str = ""

    @property
    def key(self) -> str:
        """The same for the same finding, however often it is checked."""
        names = [f"{table}{number}" for table, number in self.features]
        names += [f"unit {code}" for code in self.units] + [f"part{number}" for number in self.parts]
        place = self.about or (f"{self.at[0]:.2f},{self.at[1]:.2f}" if self.at is not None else "")
        return f"{self.rule}:{'-'.join(names)}:{place}"

    @property
    def json(self) -> dict[str, Any]:
        """As the command line gives it."""
        return {
            "rule": self.rule,
            "severity": self.severity,
            "message": self.message,
            "at": list(self.at) if self.at is not None else None,
            "features": [{"table": table, "id": number} for table, number in self.features],
            "units": list(self.units),
            "parts": list(self.parts),
            "spot": list(self.spot) if self.spot is not None else None,
            "fix": self.fix.label if self.fix else None,
        }


@dataclass(frozen=True)
class CheckInput:
    """What there is to check: linework, points and faces, and what the project says of scales and units."""

    lines: Features
    points: Features
    areas: Features
    faces: Faces
    units: Mapping[str, MapUnit]
    scales: Scales
    metres_per_unit: float
    bounding: frozenset[str]
    frame: shapely.Polygon | None = None
    kinds: Mapping[Table, frozenset[str]] = field(default_factory=dict)
    # None where the project has none.
    heights: MapHeights | None = None
    # Keeps what areas meet along their rims from one look to the next.
    rims: SharedRims = field(default_factory=SharedRims)
    # Keeps which points stand in which areas, likewise.
    holding: PointsInAreas = field(default_factory=PointsInAreas)

    def units_on_ground(self, sheet_mm: float) -> float:
        """Project units of a length on the sheet."""
        return on_ground(sheet_mm, self.scales.publication) / self.metres_per_unit

    def area_words(self, square_units: float) -> str:
        """Ground in words: ``1.3 km²``."""
        return area_words(square_units * self.metres_per_unit**2)

    def length_words(self, units: float) -> str:
        """A length on the ground and on the sheet, ``8 m (0.3 mm on the sheet)``; ``4 mm on the ground`` of a hair."""
        metres = units * self.metres_per_unit
        if metres < 0.1:
            return f"{figures(metres * 1000, 1) if metres > 0.001 else 'less than 1'} mm on the ground"
        ground = spaced(metres, 1 if metres < 10 else 0)
        return f"{ground} m ({figures(on_sheet(metres, self.scales.publication), 2)} mm on the sheet)"

    def is_bounding(self) -> Flags:
        """Which lines bound units or may: the concealed ones, too."""
        return np.array([k in self.bounding for k in self.lines.columns["kind"]], dtype=bool)

    @cached_property
    def line_tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.lines.geometries)

    @cached_property
    def point_tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.points.geometries)

    @cached_property
    def face_tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.faces.polygons)

    def edges_of_faces(self, rows: Ints) -> tuple[Codes, Floats, Ints]:
        """The edges of some faces, these to their left: numbers, where each begins, (n, 2), and the row of the face.

        An edge ends where the next row begins. The last row of each ring is none, and its number is nought.
        """
        rings, owner = shapely.get_rings(self.faces.polygons[rows], return_index=True)
        xy, ring = shapely.get_coordinates(rings, return_index=True)
        codes = vertex_codes(xy)
        edges = edge_codes(codes, np.roll(codes, -1))
        edges[np.append(ring[1:] != ring[:-1], True)[: len(edges)]] = 0
        return edges, xy, rows[owner[ring]]

    @cached_property
    def area_tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.areas.geometries)

    @cached_property
    def points_in_areas(self) -> tuple[Ints, Ints]:
        """Pairs of a point and an area that holds it, its edge included, by their rows; in the order of the points."""
        return self.holding.of(self.points.ids, self.points.geometries, self.areas.ids, self.areas.geometries)

    def units_at(self, xy: Floats) -> list[str]:
        """The codes of the units that some places, (n, 2), are of; empty where there is none.

        What linework and tags say comes before what areas say, which may not be formed yet.
        """
        out = [""] * len(xy)
        names = self.areas.columns["map_unit"]
        places = np.asarray(shapely.points(xy), dtype=object).reshape(-1)
        hits, areas = holders(places, self.area_tree)
        for hit, area in zip(hits.tolist(), areas.tolist(), strict=True):
            if names[area]:
                out[hit] = str(names[area])
        hits, faces = holders(places, self.face_tree)
        for hit, face in zip(hits.tolist(), faces.tolist(), strict=True):
            out[hit] = self.faces.unit(face) or out[hit]
        return out

    @cached_property
    def readings(self) -> Ints:
        """Rows of the points that are attitudes."""
        kinds = self.points.columns["kind"]
        return np.array([i for i, k in enumerate(kinds) if kind_of(k).inclined], dtype=np.int64)

    @cached_property
    def bedding(self) -> Ints:
        """Rows of the points that say how beds lie that are the right way up."""
        kinds, dips = self.points.columns["kind"], self.points.columns["inclination"]
        strikes = self.points.columns["azimuth"]
        rows = [i for i, k in enumerate(kinds) if kind_of(k).upright and dips[i] is not None and strikes[i] is not None]
        return np.array(rows, dtype=np.int64)

    @cached_property
    def bedding_tree(self) -> shapely.STRtree:
        return shapely.STRtree(self.points.geometries[self.bedding])

    def line_name(self, row: int) -> str:
        """``contact 118``."""
        return f"{kind_words(str(self.lines.columns['kind'][row]))} {self.lines.ids[row]}"

    def within_frame(self, xy: Floats) -> Flags:
        """Which places, (n, 2), are on the sheet; its border counts."""
        if self.frame is None:
            return np.ones(len(xy), dtype=bool)
        shapely.prepare(self.frame)
        return np.asarray(shapely.dwithin(self.frame, shapely.points(xy), NODE))
