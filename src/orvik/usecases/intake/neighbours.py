"""Neighbouring sheets: what one shows along the border is read from its project or its data file, and held here."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date
from pathlib import Path

import shapely
from shapely.geometry.base import BaseGeometry

from orvik.core.arrays import object_array
from orvik.core.errors import FileRefused, NeighbourRefused, NotFound
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.crs_change import densified
from orvik.core.ground.scale import on_ground, spaced
from orvik.core.joins.neighbour import (
    LONGEST_NAME,
    NOT_JOINED,
    ONE_BORDER_MM,
    STRIP_MM,
    Edge,
    Neighbour,
    edge_of,
    place_of,
)
from orvik.core.sheet.panels.reprojection import OFF_MM, Carrier
from orvik.exchange.features import vector
from orvik.exchange.mappings.columns import columns_of
from orvik.exchange.untrusted.parent import opened
from orvik.store.journal import Change, Entry
from orvik.store.opening import is_project
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.reader import Reader
from orvik.store.tables.neighbours import neighbour_change, neighbours
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.intake.import_mapping import ImportChoices, mapping_for
from orvik.usecases.intake.import_words import ambiguous_words

JOINED: tuple[Table, ...] = ("lines", "areas")
# What is compared across a border, by the names of attributes: what else a file could mean does not matter here.
COMPARED = frozenset({"kind", "map_unit", "certainty", "questionable"})


@dataclass(frozen=True)
class Found:
    """What a file shows along a border, what its sheet is called, and how many of its rows were left out."""

    name: str
    edge: Edge
    place: str
    left: int = 0


def read_neighbour(project_path: Path, file: Path) -> Found:
    """What a neighbouring project, or a data file of one, shows along the border of a project.

    Raises
    ------
    NeighbourRefused
        The project has no border, or the file lies away from it.
    FileRefused, ProjectRefused
        The file cannot be read, or it could mean more than one thing.
    """
    left = 0
    with opened_for_reading(project_path) as project:
        border = _border(project)
        sheet_mm, metres = on_ground(1.0, project.scales.publication), project.crs.metres_per_unit
        mm = sheet_mm / metres
        if is_project(file):
            with opened_for_reading(file) as other:
                name = other.name
                lines, areas, ring = _of_project(other, project.crs, border, mm)
        else:
            name = file.stem
            lines, areas, ring, left = _of_file(project, file)
    near = STRIP_MM * mm
    edge = edge_of(lines, areas, ring, border, near)
    whole = [f.geometry for f in (*lines, *areas)] or ([ring] if ring is not None else [])
    if not whole:
        raise NeighbourRefused(f"{file.name} holds no lines and areas that could meet the border.")
    ground = ring if ring is not None else shapely.box(*shapely.total_bounds(whole))
    off = ground.distance(border) * metres
    if off > ONE_BORDER_MM * sheet_mm:
        raise NeighbourRefused(f"{name} lies {spaced(off)} m from the border of this sheet; a neighbour touches it.")
    shared = ground.intersection(border).area
    if shared > 0.5 * min(ground.area, border.area):
        raise NeighbourRefused(f"{name} shows the ground of this sheet itself; a neighbouring sheet lies beside it.")
    return Found(name[:LONGEST_NAME], edge, place_of(border, ground), left)


def _border(project: Reader) -> shapely.Polygon:
    line = project.border()
    if line is None:
        raise NeighbourRefused("Set the sheet border first; neighbouring sheets meet it.")
    return shapely.Polygon(line)


def _of_project(
    other: ReadProject, crs: ProjectCrs, border: shapely.Polygon, mm: float
) -> tuple[list[Feature], list[Feature], shapely.Polygon | None]:
    """Lines, areas and the border of another project, in a system."""
    middle = border.centroid
    held = {table: other.features(table) for table in JOINED}
    ring = other.border()
    if other.crs.text == crs.text:
        return _all(held["lines"]), _all(held["areas"]), shapely.Polygon(ring) if ring is not None else None
    longitude, latitude = (float(v) for v in crs.to_geographic(middle.x, middle.y))
    there = tuple(float(v) for v in other.crs.from_geographic(longitude, latitude))
    carrier = Carrier(other.crs, crs, OFF_MM * mm, (there[0], there[1]))
    lines, areas = (_all(carrier.features(held[table]).features) for table in JOINED)
    own: BaseGeometry | None = None
    if ring is not None:
        (own,) = carrier.geometries(object_array([shapely.Polygon(densified(ring))]))
    return lines, areas, own if isinstance(own, shapely.Polygon) and not own.is_empty else None


def _all(features: Features) -> list[Feature]:
    return [features.feature(row) for row in range(len(features))]


def _of_file(project: Reader, file: Path) -> tuple[list[Feature], list[Feature], shapely.Polygon | None, int]:
    """Those of a file of features, whose fields mean what they seem to mean, and how many rows mean nothing."""
    layers = opened(file)
    guess = mapping_for(project, layers, columns_of(layers), ImportChoices())
    asks = {name: fields for name, fields in guess.asks.items() if name in COMPARED}
    if asks:
        words = ambiguous_words(asks)
        raise FileRefused(f"{file.name}: {words} Import it into a project of its own, and read that project here.")
    units = [unit for _, unit in project.units()]
    read = vector.read(file, project.crs, symbol_book_of(project), units, guess.mapping, layers, project.middle())
    found: dict[Table, list[Feature]] = {table: [f for f in read.features if f.table == table] for table in TABLES}
    rings = [f.geometry for f in found["lines"] if f.kind == SHEET_BORDER]
    own = shapely.Polygon(shapely.get_coordinates(rings[0])) if rings else None
    lines = [f for f in found["lines"] if f.kind not in NOT_JOINED]
    return lines, found["areas"], own, len(read.left)


def add_neighbour(project: Project, neighbour: Neighbour) -> Entry:
    """Keep a new neighbour; raises NeighbourRefused where one of its name is there already."""
    return _kept(project, f"add neighbouring sheet {neighbour.words}", neighbour)


def change_neighbour(project: Project, number: int, name: str, sheet_number: str, place: str) -> Entry | None:
    """Call a neighbour something else, or put it elsewhere; what was read of it stays. None where nothing is new.

    Raises
    ------
    NotFound
        It is gone.
    NeighbourRefused
        It cannot be called so.
    """
    held = neighbour_of(project, number)
    new = replace(held, name=name, sheet_number=sheet_number, place=place)
    return _kept(project, f"change neighbouring sheet {new.words}", new) if new != held else None


def join_neighbour(project: Project, found: Found, file: str, today: date) -> Entry:
    """Keep what was read of a neighbour; of one of the same name what was read before is replaced."""
    known = next((held for held in neighbours(project) if held.name == found.name), Neighbour(found.name))
    new = replace(known, place=found.place, file=file[:200], read=today.isoformat(), edge=found.edge)
    return _kept(project, f"read neighbouring sheet {new.words}", new)


def _kept(project: Project, label: str, neighbour: Neighbour) -> Entry:
    others = [other for other in neighbours(project) if other.id != neighbour.id]
    same = next((other for other in others if neighbour.name and other.name == neighbour.name), None)
    if same is not None:
        raise NeighbourRefused(f"{same.words} is a neighbouring sheet already; change that one, or its name.")
    return project.apply(label, [neighbour_change(neighbour)])


def remove_neighbour(project: Project, number: int) -> Entry:
    """Raises NotFound where it is gone."""
    words = neighbour_of(project, number).words
    return project.apply(f"remove neighbouring sheet {words}", [Change("neighbours", number, None)])


def neighbour_of(project: Reader, number: int) -> Neighbour:
    """A neighbour by its number; raises NotFound."""
    found = next((held for held in neighbours(project) if held.id == number), None)
    if found is None:
        raise NotFound("That neighbouring sheet is no longer in the project.")
    return found
