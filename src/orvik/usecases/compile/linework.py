"""Areas of a project, or of a file that comes in, as linework and unit tags; a count first."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, cast, get_args

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import Objects, object_array
from orvik.core.drawing.validity import all_placed, checked
from orvik.core.errors import FeatureRefused
from orvik.core.faces.forming import faces_of, pieces_of
from orvik.core.faces.linework import Boundary, Linework, linework_of
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import BOUNDING, SHEET_BORDER, SHORE, UNIT_AREA, UNIT_TAG, USUAL
from orvik.core.geometry.shared_edges import ON_EDGE, with_shared_vertices
from orvik.core.ground.scale import on_ground, spaced
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.reader import Reader
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.compile.layers import refuse_locked
from orvik.usecases.compile.prepared import Prepared

# Gaps and overlaps that nobody sees on the sheet, in millimetres on it, are closed.
CLOSED_MM = 0.1
# So many gaps and overlaps that stay are said with their places.
LISTED = 20

Outer = Literal["lines", "border", "shore", "none"]
OUTER_WORDS: dict[Outer, str] = {
    "lines": "contacts",
    "border": "the sheet border",
    "shore": "the shoreline",
    "none": "left out",
}


@dataclass(frozen=True)
class LineworkChoices:
    """How areas become linework.

    Attributes
    ----------
    outer
        What their outer edge is.
    tolerance_mm
        How narrow gaps and overlaps are that are closed, in millimetres on the sheet.
    clip
        Whether lines and tags end at the sheet border.
    """

    outer: Outer = "lines"
    tolerance_mm: float = CLOSED_MM
    clip: bool = False

    def __post_init__(self) -> None:
        if self.outer not in get_args(Outer):
            raise FeatureRefused(f"The outer edge can be {', '.join(get_args(Outer))}; choose one of these.")
        if not 0 < self.tolerance_mm <= 5:
            raise FeatureRefused("Gaps are closed that are narrower than 5 mm on the sheet at the most; type a width.")


@dataclass(frozen=True)
class LineworkReport:
    """What areas would become: the lines and tags, and in words what was closed and what was not."""

    features: tuple[Feature, ...]
    areas: int
    made: Linework
    words: tuple[str, ...]

    @property
    def lines(self) -> int:
        return sum(f.table == "lines" for f in self.features)

    @property
    def tags(self) -> int:
        return sum(f.table == "points" for f in self.features)


def linework_report(
    project: Reader, areas: Sequence[Feature], others: Sequence[Feature], choices: LineworkChoices
) -> LineworkReport:
    """What areas would become as linework; nothing is kept.

    Parameters
    ----------
    areas
        Those of other kinds than unit areas are passed over.
    others
        Lines that come in with them, which may be boundaries already as those of the project may.

    Raises
    ------
    FeatureRefused
        There are no unit areas, or the outer edge cannot be what it is to be.
    """
    named = [a for a in areas if a.kind == UNIT_AREA and a.map_unit]
    # Another program may have left what is no area; the findings tell of it.
    units = [a for a in named if a.geometry.is_valid]
    if not units:
        raise FeatureRefused("There are no sound unit areas to make linework of.")
    tolerance = _tolerance(project, choices.tolerance_mm)
    bounding = [*_bounding(project.features("lines")), *_bounding(_lines(others))]
    polygons = [cast(shapely.Polygon, a.geometry) for a in units]
    made = linework_of(polygons, bounding, tolerance)
    features = [_contact(b, units) for b in made.boundaries if not b.outer]
    features += _outer(made, units, choices.outer)
    # As units will be formed; an outer edge that is left out is there in another way then.
    faces = faces_of(object_array([*bounding, *(b.line for b in made.boundaries)]), None)
    tags, said = tags_of_areas(faces, units, _tags_there(project), tolerance)
    features += tags
    if choices.clip:
        features = _clipped(project, features)
    words = [*_words(project, made, units, choices), *said]
    if len(units) < len(named):
        words.append(f"{_counted(len(named) - len(units), 'unsound area')} passed over; the findings say which.")
    return LineworkReport(tuple(features), len(units), made, tuple(words))


def linework_of_project(project: Reader, choices: LineworkChoices) -> LineworkReport:
    """The linework of the unit areas that a project has; raises FeatureRefused where it has none."""
    areas = project.whole("areas", project.features("areas").ids.tolist())
    return linework_report(project, list(areas.values()), [], choices)


def linework_changes(project: ReadProject, made: Sequence[Feature]) -> list[Change]:
    """The changes that keep linework; lines that are there get a vertex where new ones end on them.

    Raises
    ------
    FeatureRefused
        A line or a tag cannot be kept.
    """
    book, codes = symbol_book_of(project), set(project.units_by_code())
    placed = all_placed([feature.geometry for feature in made], project.crs)
    sound = [checked(feature, project.crs, book, codes, placed=placed) for feature in made]
    return [*feature_changes(project, project.srs_id, sound), *noded_changes(project, made)]


def noded_changes(project: ReadProject, made: Sequence[Feature]) -> list[Change]:
    """The changes that give lines of a project a vertex where new lines end on them."""
    return rows.feature_changes(noded_lines(project, made), project.srs_id)


def refuse_where_locked(project: Project) -> None:
    """Refuse to make lines and tags where their layers are locked."""
    for table in ("lines", "points"):
        refuse_locked(project.stack(), table)


def make_linework(project: Project, choices: LineworkChoices) -> tuple[Entry | None, LineworkReport]:
    """The linework of all unit areas of a project, in one entry; None where the areas have all of it already."""
    refuse_where_locked(project)
    report = linework_of_project(project, choices)
    changes = linework_changes(project, report.features) if report.features else []
    return (project.apply(f"linework of {report.areas} areas", changes) if changes else None), report


@dataclass(frozen=True)
class LineworkCount:
    """How much linework areas would become, and in words what was closed and what was not."""

    areas: int
    lines: int
    tags: int
    words: tuple[str, ...]


def count_linework(path: Path, choices: LineworkChoices) -> LineworkCount:
    """How much linework the areas of a project would become; runs in a worker. Raises FeatureRefused."""
    with opened_for_reading(path) as project:
        report = linework_of_project(project, choices)
    return LineworkCount(report.areas, report.lines, report.tags, report.words)


def prepare_linework(path: Path, choices: LineworkChoices) -> Prepared:
    """The linework of the areas of a project, ready to be kept; runs in a worker. Raises FeatureRefused."""
    with opened_for_reading(path) as project:
        report = linework_of_project(project, choices)
        if not report.features:
            raise FeatureRefused("The areas have all their linework and tags already.")
        changes = linework_changes(project, report.features)
        return Prepared.of(f"linework of {report.areas} areas", len(report.features), 0, changes, project.revision)


def tag_faces(project: Project) -> Entry | None:
    """A tag for each face of the linework that has none, of the unit of the area that lies there, in one entry."""
    refuse_where_locked(project)
    border = project.border()
    frame = shapely.Polygon(border.coords) if border is not None else None
    faces = faces_of(pieces_of(project.features("lines"), BOUNDING).lines, frame)
    areas = project.features("areas")
    units = [areas.feature(row) for row in range(len(areas)) if areas.columns["kind"][row] == UNIT_AREA]
    named = [area for area in units if area.map_unit and area.geometry.is_valid]
    tags, _ = tags_of_areas(faces, named, _tags_there(project), _tolerance(project, CLOSED_MM))
    if not tags:
        return None
    return project.apply(f"tag {len(tags)} faces", linework_changes(project, tags))


def noded_lines(project: Reader, made: Sequence[Feature]) -> list[Feature]:
    """Lines of a project with vertices where new lines end on them."""
    ends = [xy for f in made if f.table == "lines" for xy in (f.geometry.coords[0], f.geometry.coords[-1])]
    if not ends:
        return []
    held = project.features("lines")
    if not len(held):
        return []
    places: np.ndarray = np.unique(np.array(ends, dtype=float), axis=0)
    tree = shapely.STRtree(np.asarray(shapely.points(places), dtype=object))
    line, place = tree.query(held.geometries, predicate="dwithin", distance=ON_EDGE)
    out = []
    for row in np.unique(line).tolist():
        wanted = [(float(x), float(y)) for x, y in places[place[line == row]]]
        whole = project.feature("lines", int(held.ids[row]))
        out += with_shared_vertices(wanted, [whole])
    return out


def tags_of_areas(
    faces: Objects, areas: Sequence[Feature], there: Features, tolerance: float
) -> tuple[list[Feature], list[str]]:
    """A tag in each face that has none, of the unit of the area that lies there, and in words what speaks against it.

    What is noted of an area stands with the largest of its faces. Ground that two areas claim, or none, gets no tag.

    Parameters
    ----------
    tolerance
        In project units; a face that holds ground of others than its area, wider than this, is told.
    """
    if not len(faces):
        return [], []
    out: list[Feature] = []
    noted: set[int] = set()
    others: Counter[tuple[str, str]] = Counter()
    mixed: list[str] = []
    tagged = shapely.STRtree(there.geometries)
    places = shapely.point_on_surface(faces)
    lying: dict[int, list[int]] = defaultdict(list)
    for face, row in zip(*shapely.STRtree([a.geometry for a in areas]).query(places, predicate="within"), strict=True):
        lying[int(face)].append(int(row))
    for i in np.argsort(-shapely.area(faces), kind="stable").tolist():
        if len(lying[i]) != 1:
            continue
        (who,) = lying[i]
        area, face = areas[who], faces[i]
        held = tagged.query(face, predicate="contains").tolist()
        if held:
            codes = {str(there.columns["map_unit"][row]) for row in held} - {str(area.map_unit)}
            others.update((code, str(area.map_unit)) for code in sorted(codes))
            continue
        if _holds_others(face, area.geometry, tolerance):
            place = places[i]
            mixed.append(f"{spaced(place.x)} E {spaced(place.y)} N")
        note = area.note if who not in noted else ""
        out.append(
            Feature(
                "points",
                places[i],
                UNIT_TAG,
                map_unit=area.map_unit,
                questionable=area.questionable,
                capture_scale=area.capture_scale,
                source_id=area.source_id,
                note=note,
            )
        )
        noted.add(who)
    stay = "where the areas say"
    said = [f"{_counted(n, 'tag')} of {tag} {stay} {code}: they stay." for (tag, code), n in others.items()]
    if mixed:
        which = _counted(len(mixed), "face")
        said.append(f"Ground of several areas lies in {which}, the first at {mixed[0]}; look there.")
    return out, said


def _holds_others(face: shapely.Polygon, area: BaseGeometry, tolerance: float) -> bool:
    """Whether a face holds more than its area, by more than boundaries are moved."""
    if abs(face.area - area.area) <= 1e-9 * area.area:
        return False
    beside = shapely.difference(face, area)
    # Twice the area of a strip over its edge is its width.
    return any(2 * part.area > 2 * tolerance * part.length for part in shapely.get_parts(beside) if part.length)


def _tolerance(project: Reader, millimetres: float) -> float:
    """A length on the sheet in project units."""
    return on_ground(millimetres, project.scales.publication) / project.crs.metres_per_unit


def _lines(features: Sequence[Feature]) -> Features:
    """The lines among features that come in, with numbers for the while."""
    lines = [feature for feature in features if feature.table == "lines"]
    return Features.of("lines", [line.changed(id=number) for number, line in enumerate(lines, 1)])


def _bounding(lines: Features) -> list[shapely.LineString]:
    """The parts of lines on which units end, as forming takes them: without what is concealed."""
    return list(pieces_of(lines, BOUNDING).lines) if len(lines) else []


def _coarsest(boundary: Boundary, units: Sequence[Feature]) -> int | None:
    scales = [units[i].capture_scale for i in (boundary.left, boundary.right) if i >= 0]
    return max((scale for scale in scales if scale), default=None)


def _contact(boundary: Boundary, units: Sequence[Feature]) -> Feature:
    return Feature("lines", boundary.line, USUAL["lines"], capture_scale=_coarsest(boundary, units))


def _outer(made: Linework, units: Sequence[Feature], outer: Outer) -> list[Feature]:
    """The outer edge as what it is to be."""
    edges = [b for b in made.boundaries if b.outer]
    if outer == "none" or not edges:
        return []
    if outer == "lines":
        return [_contact(b, units) for b in edges]
    scale = max((s for b in edges if (s := _coarsest(b, units))), default=None)
    rings = shapely.get_parts(shapely.line_merge(shapely.multilinestrings([b.line for b in edges])))
    if outer == "shore":
        return [Feature("lines", ring, SHORE, capture_scale=scale) for ring in rings]
    if len(rings) != 1 or not rings[0].is_ring:
        raise FeatureRefused(
            f"The outer edge of these areas is {len(rings)} lines, and a sheet border is one that closes; "
            "choose another kind for it."
        )
    return [Feature("lines", rings[0], SHEET_BORDER, capture_scale=scale)]


def _counted(count: int, what: str) -> str:
    return f"1 {what}" if count == 1 else f"{spaced(count)} {what}s"


def _tags_there(project: Reader) -> Features:
    """The unit tags of a project."""
    points = project.features("points")
    return points.select(points.column("kind") == UNIT_TAG) if len(points) else points


def _clipped(project: Reader, features: Sequence[Feature]) -> list[Feature]:
    border = project.border()
    if border is None:
        raise FeatureRefused("There is no sheet border to end at; set it in Ground first, or leave the lines whole.")
    frame = shapely.Polygon(border.coords)
    shapely.prepare(frame)
    out: list[Feature] = []
    for feature in features:
        if feature.table == "points":
            out += [feature] if frame.contains(feature.geometry) else []
            continue
        parts = shapely.get_parts(shapely.line_merge(shapely.intersection(feature.geometry, frame)))
        out += [feature.changed(geometry=part) for part in parts if part.geom_type == "LineString" and part.length]
    return out


def _both(boundary: Boundary) -> bool:
    """Whether areas lie on both sides of a boundary."""
    return min(boundary.left, boundary.right) >= 0


def _words(project: Reader, made: Linework, units: Sequence[Feature], choices: LineworkChoices) -> list[str]:
    per = project.crs.metres_per_unit
    said = []
    lost, gained = (spaced(ground * per * per, 1) for ground in (made.lost, made.gained))
    if (lost, gained) != ("0.0", "0.0"):
        width = spaced(on_ground(choices.tolerance_mm, project.scales.publication), 1)
        said.append(
            f"Gaps and overlaps narrower than {width} m were closed: areas lose {lost} m² and gain {gained} m²."
        )
    if made.along:
        said.append(f"{spaced(made.along * per)} m of boundaries run along lines that are there already; these stay.")
    alike = sum(units[b.left].map_unit == units[b.right].map_unit for b in made.boundaries if _both(b))
    if alike:
        have = "1 contact has" if alike == 1 else f"{alike} contacts have"
        said.append(f"{have} one unit on both sides; delete those that are no boundary.")
    if made.vanished:
        names = ", ".join(sorted({str(units[i].map_unit) for i in made.vanished}))
        said.append(f"Of {_counted(len(made.vanished), 'area')} nothing is left: {names}.")
    for misfit in made.misfits[:LISTED]:
        names = " and ".join(dict.fromkeys(str(units[i].map_unit) for i in misfit.between)) or "nothing"
        x, y = misfit.at
        where = f"at {spaced(x)} E {spaced(y)} N"
        size = f"{spaced(misfit.area * per * per)} m²"
        if misfit.kind == "gap":
            said.append(f"A gap of {size} {where}, beside {names}, stays without a tag.")
        else:
            said.append(f"{names} overlap by {size} {where}; this ground stays without a tag.")
    if len(made.misfits) > LISTED:
        said.append(f"{len(made.misfits) - LISTED} more gaps and overlaps stay without a tag.")
    return said
