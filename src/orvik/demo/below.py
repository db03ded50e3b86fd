"""What lies below the section lines of the invented ground: the model, cut by each section, drawn as by hand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Floats
from orvik.core.drawing.validity import checked
from orvik.core.faces.forming import Faces
from orvik.core.features.feature import Feature
from orvik.core.features.kind import UNIT_TAG
from orvik.core.features.stretch import Stretch
from orvik.core.structure.plane import zero_lines
from orvik.core.structure.section.below import Below
from orvik.core.structure.section.crossings import Crossing
from orvik.core.structure.section.meeting import MeetingPlace, meeting_places
from orvik.core.structure.section.section import SectionOfMap
from orvik.demo.island import Island
from orvik.demo.rock import Sheet, in_strike
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.sections import SectionProject
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.structure.section_drawing import form_section, section_survey
from orvik.usecases.structure.sections import section_lines, section_of_map

# The model is looked at so closely, in metres along and up.
ACROSS, UPWARDS = 10.0, 6.0
# How far a line may leave the model, and the shortest that is drawn.
FLAT, SHORTEST = 0.5, 12.0
# What comes to the ground within so many metres of where the map has it comes there.
REACH = 45.0
# An end so near to a line, in metres, is on it.
JOINS = 0.05
# What lay above the ground is drawn so high, in metres; and how deep nobody doubts what lies below.
LOST, SURE = 260.0, 220.0
# How thick the drift is where it is thickest, as a share of how wide it is, and at the most, in metres.
DRIFT_SHARE, DRIFT = 0.03, 16.0
COVER = ("Qt", "Qal")


def draw_sections(project: Project, ground: Island) -> None:
    """Draw all sections of the map, and form their units."""
    for line in section_lines(project):
        found = section_of_map(project, line.number)
        places = meeting_places(found)
        space = SectionProject(project, line.number, lambda there=places: there)  # type: ignore[misc]
        try:
            book, codes = symbol_book_of(project), set(project.units_by_code())
            model = _Model(found, ground, places)
            drawn = [checked(f, space.crs, book, codes) for f in model.lines()]
            space.apply(f"draw section {found.title}", rows.feature_changes(drawn, space.srs_id))
            tags = [checked(f, space.crs, book, codes) for f in model.tags(section_survey(space, found).faces)]
            if tags:
                space.apply(f"tag section {found.title}", rows.feature_changes(tags, space.srs_id))
            form_section(space, found)
        finally:
            space.close()


@dataclass(frozen=True, eq=False)
class _Model:
    """The model in the plane of one section."""

    found: SectionOfMap
    ground: Island
    places: list[MeetingPlace]

    @cached_property
    def below(self) -> Below:
        return Below(self.found)

    @cached_property
    def axes(self) -> tuple[Floats, Floats]:
        """Distances along and heights that the model is looked at."""
        long, low, high = self.found.line.length, self.found.base, self.found.top + LOST
        along = np.linspace(0.0, long, round(long / ACROSS) + 1)
        return along, np.linspace(low, high, round((high - low) / UPWARDS) + 1)

    @cached_property
    def grid(self) -> tuple[Floats, Floats]:
        """The places of these (n, m, 2) and their heights (n, m)."""
        along, up = self.axes
        shape = (len(up), len(along))
        xy = np.broadcast_to(self.found.line.at(along), (*shape, 2))
        return xy, np.broadcast_to(up[:, None], shape)

    @cached_property
    def frame(self) -> shapely.Polygon:
        along, up = self.axes
        west, south, east, north = (float(v) for v in (along[0], up[0], along[-1], up[-1]))
        return shapely.Polygon([(west, south), (east, south), (east, north), (west, north)])

    def traces(self, values: Floats) -> list[shapely.LineString]:
        found = zero_lines(*self.axes, values)
        return [shapely.simplify(shapely.LineString(xy), FLAT) for xy in found]

    @cached_property
    def faults(self) -> list[BaseGeometry]:
        xy, z = self.grid
        u, v = in_strike(xy)
        return [shapely.union_all(self.traces(fault.beyond(u, v, z))) for fault in self.ground.rock.faults]

    @cached_property
    def blocks(self) -> list[tuple[int, shapely.Polygon]]:
        """The parts of the section between the faults, each with the number of its block."""
        edges = shapely.union_all([self.frame.exterior, *self.faults])
        out = []
        for part in shapely.get_parts(shapely.polygonize([*shapely.get_parts(edges)])):
            place = shapely.point_on_surface(part)
            at = self.found.line.at(np.array([place.x]))
            out.append((int(self.ground.rock.block(at, np.array([place.y]))[0]), part))
        return out

    @cached_property
    def drift(self) -> list[shapely.LineString]:
        """The foot of the drift between where the map has its edges, a shallow trough."""
        out = []
        for begins, ends in _joined([(s.begins, s.ends) for s in self.found.stretches if s.unit in COVER]):
            deep = min(DRIFT, DRIFT_SHARE * (ends - begins))
            along = self.below.ground[:, 0]
            along = np.concatenate([[begins], along[(along > begins + 0.5) & (along < ends - 0.5)], [ends]])
            share = (along - begins) / (ends - begins)
            up = np.interp(along, *self.below.ground.T) - deep * np.sqrt(np.clip(np.sin(np.pi * share), 0, 1))
            out.append(shapely.LineString(np.round(np.column_stack([along, up]), 3)))
        return out

    @cached_property
    def covered(self) -> BaseGeometry:
        """The drift itself."""
        lenses = []
        for foot in self.drift:
            xy = shapely.get_coordinates(foot)
            along = np.unique(np.concatenate([xy[:, 0], self.below.ground[:, 0]]))
            along = along[(along >= xy[0, 0]) & (along <= xy[-1, 0])]
            top = np.column_stack([along, np.interp(along, *self.below.ground.T)])
            lenses.append(shapely.make_valid(shapely.Polygon(np.vstack([xy, top[::-1]]))))
        return shapely.union_all(lenses)

    def lines(self) -> list[Feature]:
        """All lines of the section, below the ground and above it."""
        ends = [self._feature(self._to_crossings(foot, "contact"), "contact", "approximate") for foot in self.drift]
        for course in self.faults:
            ends += self._drawn(course, self._kind_of_fault(course))
        xy, z = self.grid
        out: list[Feature] = []
        for block, part in self.blocks:
            above = self.ground.rock.above_base(xy, z, block)
            for _, foot in self.ground.rock.floors:
                course = shapely.intersection(shapely.union_all(self.traces(above - foot)), part)
                out += self._drawn(course, "contact")
        for crossing in self.found.crossings:
            sheet = self._sheet_at(crossing)
            if sheet is not None:
                out += self._sheet(sheet, crossing)
        met = {place.place for place in self.places}
        out = [_onto(line, ends, met) for line in out]
        return [*(_with_ends_of(line, out) for line in ends), *out]

    def tags(self, faces: Faces) -> list[Feature]:
        """A tag of the model's own unit in each face of which the map does not say what it is."""
        out = []
        for face, units in zip(faces.polygons, faces.units, strict=True):
            if units:
                continue
            place = shapely.point_on_surface(face)
            at = self.found.line.at(np.array([place.x]))
            unit = str(self.ground.rock.unit(at, np.array([place.y]))[0])
            out.append(Feature("points", place, UNIT_TAG, map_unit=unit))
        return out

    def _kind_of_fault(self, course: BaseGeometry) -> str:
        near = self._near(course, ("fault", "normal_fault"))
        return near.kind if near is not None else "fault"

    def _near(self, course: BaseGeometry, kinds: tuple[str, ...]) -> Crossing | None:
        """The crossing of some kinds nearest to a course, within reach of it."""
        there = [c for c in self.found.crossings if c.kind in kinds]
        ups = self.found.profile.at(np.array([c.along for c in there])) if there else ()
        away = [course.distance(shapely.Point(c.along, up)) for c, up in zip(there, ups, strict=True)]
        best = int(np.argmin(away)) if away else -1
        return there[best] if away and away[best] < REACH else None

    def _sheet_at(self, crossing: Crossing) -> Sheet | None:
        """The dyke that crosses there."""
        if crossing.kind != "dyke":
            return None
        place = self.found.line.at(np.array([crossing.along]))
        up = self.found.profile.at(np.array([crossing.along]))
        dykes = self.ground.rock.dykes
        away = [abs(float(dyke.above(place, up)[0])) for dyke in dykes]
        return dykes[int(np.argmin(away))] if min(away) < REACH else None

    def _sheet(self, sheet: Sheet, crossing: Crossing) -> list[Feature]:
        xy, z = self.grid
        courses = self.traces(sheet.above(xy, z))
        up = float(self.found.profile.at(np.array([crossing.along]))[0])
        near = [line for line in courses if line.distance(shapely.Point(crossing.along, up)) < REACH]
        return [f for line in near[:1] for f in self._drawn(line, crossing.kind, above=False)]

    def _drawn(self, course: BaseGeometry, kind: str, above: bool = True) -> list[Feature]:
        """A course below the ground and the drift, and above it; its ends at the ground are where the map has them."""
        rock = shapely.difference(self.below.whole, self.covered)
        parts = [(part, True) for part in _parts(shapely.intersection(course, rock))]
        if above:
            lost = shapely.difference(course, self.below.whole)
            parts += [(part, False) for part in _parts(lost)]
        out = []
        for part, sure in parts:
            line = self._to_crossings(part, kind)
            if line.is_simple and line.length > SHORTEST:
                out.append(self._feature(line, kind, "certain" if sure else "inferred", deep=sure))
        return out

    def _feature(self, line: shapely.LineString, kind: str, certainty: str, deep: bool = False) -> Feature:
        xy = shapely.get_coordinates(line)
        if deep and xy[0, 1] < xy[-1, 1]:
            xy = xy[::-1]
        depth = np.interp(xy[:, 0], *self.below.ground.T) - xy[:, 1]
        first = int(np.argmax(depth > SURE)) if deep and (depth[1:] > SURE).any() else 0
        stretches = (Stretch(first, len(xy) - 1, "inferred"),) if 0 < first < len(xy) - 1 else ()
        return Feature("lines", shapely.LineString(xy), kind, certainty=certainty, stretches=stretches)

    def _to_crossings(self, line: shapely.LineString, kind: str) -> shapely.LineString:
        """A line whose ends at the ground are where a line of its kind crosses."""
        xy = shapely.get_coordinates(line).copy()
        kinds = {c.line: c.kind for c in self.found.crossings}
        there = [place for place in self.places if kinds[place.line] == kind]
        for end in (0, -1):
            up = float(np.interp(xy[end, 0], *self.below.ground.T))
            if abs(up - xy[end, 1]) > 0.05 or not there:
                continue
            near = min(there, key=lambda one: float(np.hypot(*np.subtract(one.place, xy[end]))))
            away = float(np.hypot(*np.subtract(near.place, xy[end])))
            if away < JOINS:
                xy[end] = near.place
            elif away < REACH:
                xy = _led_to(xy, end, near.place)
        return shapely.LineString(xy)


def _led_to(xy: Floats, end: int, place: tuple[float, float]) -> Floats:
    """A line with an end elsewhere; what is further from it than a few metres stays."""
    line = shapely.LineString(xy if end == 0 else xy[::-1])
    held = line.interpolate(min(SHORTEST, line.length / 2))
    rest = shapely.get_coordinates(line)
    rest = rest[np.array([line.project(shapely.Point(p)) for p in rest]) > min(SHORTEST, line.length / 2) + 0.5]
    led = np.vstack([[place], [(held.x, held.y)], rest])
    return led if end == 0 else led[::-1]


def _onto(line: Feature, others: list[Feature], met: set[tuple[float, float]]) -> Feature:
    """A line whose ends go along with the lines that they were on, unless they meet the map."""
    xy = shapely.get_coordinates(line.geometry).copy()
    for end in (0, -1):
        place = shapely.Point(xy[end])
        if (place.x, place.y) in met:
            continue
        near = min((other.geometry for other in others), key=place.distance, default=None)
        if near is not None and JOINS < near.distance(place) < SHORTEST / 2:
            foot = near.interpolate(near.project(place))
            xy[end] = (foot.x, foot.y)
    return line.changed(geometry=shapely.LineString(xy))


def _with_ends_of(line: Feature, others: list[Feature]) -> Feature:
    """A line with vertices where others end on it."""
    ends = shapely.multipoints([xy for f in others for xy in shapely.get_coordinates(f.geometry)[[0, -1]]])
    near = shapely.intersection(ends, line.geometry.buffer(JOINS))
    met = shapely.snap(line.geometry, near, JOINS)
    if line.stretches:
        # The same places are in doubt as before.
        xy, first = shapely.get_coordinates(met), shapely.get_coordinates(line.geometry)[line.stretches[0].first]
        begins = int(np.hypot(*(xy - first).T).argmin())
        return line.changed(geometry=met, stretches=(Stretch(begins, len(xy) - 1, line.stretches[0].certainty),))
    return line.changed(geometry=met)


def _parts(course: BaseGeometry) -> list[shapely.LineString]:
    lines = [part for part in shapely.get_parts(course) if isinstance(part, shapely.LineString) and part.length > 0]
    if not lines:
        return []
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines)))
    return [part for part in merged if part.length > SHORTEST]


def _joined(parts: list[tuple[float, float]]) -> list[tuple[float, float]]:
    out: list[tuple[float, float]] = []
    for begins, ends in sorted(parts):
        if out and begins - out[-1][1] < 1.0:
            out[-1] = (out[-1][0], max(out[-1][1], ends))
        else:
            out.append((begins, ends))
    return out
