"""What of the map a section crosses: lines at places, units and overlays over stretches."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats, Ints, Objects
from orvik.core.features.feature import Features
from orvik.core.features.kind import SHORE, UNIT_AREA, kind_of, kind_words
from orvik.core.structure.section.section_line import SectionLine

# A unit begins or ends at a crossing within so many metres of it.
BESIDE = 1.0
# Segments of lines that are looked at together, at the most about.
TOGETHER = 500_000
# Crossings closer than this in metres are one: where a line meets a bend, or two legs.
SAME = 1e-3


@dataclass(frozen=True)
class Crossing:
    """Where a line of the map crosses a section.

    Attributes
    ----------
    line
        Its number.
    kind, certainty
        Of the line there.
    along
        In metres from the first end of the section.
    direction
        Which way the line runs there, on the grid in degrees.
    before, behind
        Codes of the units on its two sides as one goes along; empty where there are none.
    """

    line: int
    kind: str
    certainty: str
    along: float
    direction: float
    before: str = ""
    behind: str = ""

    @property
    def label(self) -> str:
        """``Kw | Jh`` for what parts units, ``fault 51`` for others."""
        if kind_of(self.kind).parts_units and self.before and self.behind and self.before != self.behind:
            return f"{self.before} | {self.behind}"
        return f"{kind_words(self.kind)} {self.line}"


@dataclass(frozen=True)
class Stretch:
    """An area of the map along a section: from where to where in metres, and of what unit or kind."""

    area: int
    kind: str
    unit: str
    begins: float
    ends: float


def is_crossed(kind: str) -> bool:
    """Whether a section tells of lines of a kind: of what goes on below the ground, and not of what only lies on it."""
    meaning = kind_of(kind)
    below = meaning.bounds_units or meaning.runs_through or meaning.plunges or meaning.in_rock or bool(meaning.margin)
    return below and meaning.graded and kind != SHORE


def crossings_of(line: SectionLine, lines: Features, stretches: list[Stretch], metres: float) -> list[Crossing]:
    """Where lines cross a section, in its order.

    Parameters
    ----------
    lines
        Of the map, in its own units.
    stretches
        Of the same section, which say what units lie before and behind.
    metres
        In a unit of the map's system.
    """
    rows = np.flatnonzero([is_crossed(kind) for kind in lines.columns["kind"]])
    geometries: Objects = lines.geometries[rows]
    legs = line.legs
    scaled = shapely.transform(geometries, lambda xy: xy * metres)
    leg, row = shapely.STRtree(scaled).query(legs, predicate="intersects")
    places, of = _places(np.asarray(shapely.intersection(legs[leg], scaled[row]), dtype=object))
    alongs = line.along(places, leg[of])
    segments, directions = _segments_at(scaled[row[of]], places)
    found: list[Crossing] = []
    columns = lines.columns
    told = zip(rows[row[of]].tolist(), alongs.tolist(), segments.tolist(), directions.tolist(), strict=True)
    for i, along, segment, direction in told:
        before, behind = _units_about(stretches, along)
        certainty = _certainty_of(lines, i, segment)
        found.append(Crossing(int(lines.ids[i]), str(columns["kind"][i]), certainty, along, direction, before, behind))
    found.sort(key=lambda crossing: (crossing.along, crossing.line))
    return [c for k, c in enumerate(found) if not any(_same(c, other) for other in found[max(k - 4, 0) : k])]


def _same(one: Crossing, other: Crossing) -> bool:
    return one.line == other.line and abs(one.along - other.along) < SAME


def _places(met: Objects) -> tuple[Floats, Ints]:
    """Where lines meet, and which of them: points, and both ends of what they share."""
    parts, of = shapely.get_parts(met, return_index=True)
    xy, part = shapely.get_coordinates(parts, return_index=True)
    new = np.concatenate([[True], np.diff(part) > 0]) if len(part) else np.zeros(0, dtype=bool)
    last = np.concatenate([new[1:], [True]]) if len(part) else new
    ends = new | last
    return xy[ends], of[part[ends]]


def _segments_at(lines: Objects, places: Floats) -> tuple[Ints, Floats]:
    """Which segment of each line its place lies on, and which way that runs, on the grid in degrees."""
    counts = shapely.get_num_coordinates(lines) - 1
    segments, directions = np.zeros(len(lines), dtype=np.int64), np.zeros(len(lines))
    # So many of them that their segments are not too many to be looked at together.
    groups = np.cumsum(counts) // TOGETHER
    for group in np.unique(groups).tolist():
        mine = np.flatnonzero(groups == group)
        xy, of = shapely.get_coordinates(lines[mine], return_index=True)
        begins = np.flatnonzero(of[:-1] == of[1:])
        step, owner = xy[begins + 1] - xy[begins], of[begins]
        off = places[mine][owner] - xy[begins]
        share = np.clip((off * step).sum(axis=1) / np.maximum((step * step).sum(axis=1), 1e-12), 0.0, 1.0)
        away = np.hypot(*(off - share[:, None] * step).T)
        order = np.lexsort((away, owner))
        best = order[np.concatenate([[True], np.diff(owner[order]) > 0])]
        firsts = np.concatenate([[0], np.cumsum(counts[mine])[:-1]])
        segments[mine] = best - firsts
        directions[mine] = np.degrees(np.arctan2(*step[best].T)) % 360
    return segments, directions


def _certainty_of(lines: Features, row: int, segment: int) -> str:
    """The certainty of a segment of a line: that of its stretch, or the line's own."""
    for stretch in lines.columns["stretches"][row]:
        if stretch.side == "line" and stretch.first <= segment < stretch.last:
            return str(stretch.certainty)
    return str(lines.columns["certainty"][row])


def _units_about(stretches: list[Stretch], along: float) -> tuple[str, str]:
    units = [s for s in stretches if s.unit]
    before = next((s.unit for s in units if abs(s.ends - along) < BESIDE), "")
    behind = next((s.unit for s in units if abs(s.begins - along) < BESIDE), "")
    inside = next((s.unit for s in units if s.begins + BESIDE <= along <= s.ends - BESIDE), "")
    return before or inside, behind or inside


def stretches_of(line: SectionLine, areas: Features, metres: float) -> list[Stretch]:
    """Areas along a section, in its order; two of one area that meet at a bend are one."""
    if not len(areas):
        return []
    scaled = shapely.transform(areas.geometries, lambda xy: xy * metres)
    legs = line.legs
    leg, row = shapely.STRtree(scaled).query(legs, predicate="intersects")
    held: dict[int, list[tuple[float, float]]] = {}
    for number, one in zip(leg.tolist(), row.tolist(), strict=True):
        for part in shapely.get_parts(shapely.intersection(legs[number], scaled[one])):
            xy = shapely.get_coordinates(part)
            if len(xy) > 1:
                ends = line.along(xy[[0, -1]], np.array([number, number]))
                held.setdefault(one, []).append((float(ends.min()), float(ends.max())))
    found = []
    for one, parts in held.items():
        kind, unit = str(areas.columns["kind"][one]), areas.columns["map_unit"][one]
        code = str(unit or "") if kind == UNIT_AREA else ""
        found += [Stretch(int(areas.ids[one]), kind, code, *reach) for reach in _joined(sorted(parts))]
    return sorted(found, key=lambda stretch: (stretch.begins, stretch.ends, stretch.area))


def _joined(parts: list[tuple[float, float]]) -> list[tuple[float, float]]:
    out: list[tuple[float, float]] = []
    for begins, ends in parts:
        if out and begins - out[-1][1] < SAME:
            out[-1] = (out[-1][0], max(out[-1][1], ends))
        elif ends - begins > SAME:
            out.append((begins, ends))
    return out
