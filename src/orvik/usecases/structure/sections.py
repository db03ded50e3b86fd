"""Sections of a project: their lines on the map, what each crosses, and how it is drawn."""

from __future__ import annotations

import numpy as np
import shapely

from orvik.core.errors import NotFound, OrvikError
from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import SECTION_LINE, kind_of
from orvik.core.features.table import Table
from orvik.core.sheet.parts.section import part_height
from orvik.core.sheet.templates.survey import SECTION_SIZE
from orvik.core.structure.section.carried import StationReading, carried
from orvik.core.structure.section.crossings import crossings_of, stretches_of
from orvik.core.structure.section.profile import Profile, profile_of
from orvik.core.structure.section.section import Section, SectionOfMap
from orvik.core.structure.section.section_line import SectionLine
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.sections import section_change, sections
from orvik.usecases.ground.heights import GroundHeights, ground_heights

SEEN: tuple[Table, ...] = ("lines", "areas")
# Below this share of its length with heights, a section says so.
WHOLE = 0.999


def section_lines(project: Reader) -> list[Feature]:
    """The section lines of the map, in the order of their letters."""
    found = project.ids_where("lines", {"kind": SECTION_LINE}, 10_000)
    lines = project.whole("lines", found).values()
    return sorted(lines, key=lambda line: (letter_of(line), line.number))


def letter_of(line: Feature) -> str:
    """The letter at a section line's first end: what its note says first, or its number."""
    words = line.note.split()
    return words[0].rstrip("'′") if words else str(line.id)


def section_asked(project: Reader, line_id: int) -> Section:
    """What is asked of a section line; raises NotFound where there is none of that number."""
    line = project.feature("lines", line_id)
    if line.kind != SECTION_LINE:
        raise NotFound(f"{line.name.capitalize()} is no line of a section; draw one, or select it.")
    return next((one for one in sections(project) if one.line_id == line_id), Section(line_id))


def section_of_map(project: ReadProject, line_id: int, coarsest: float | None = None) -> SectionOfMap:
    """A section with the ground along it, what it crosses and what is carried onto it.

    Parameters
    ----------
    coarsest
        Heights as fine as this are enough, in units of the project's system.

    Raises
    ------
    NotFound
        There is no such section line.
    StructureRefused
        It has no length, or the project no heights.
    FileRefused
        A grid of heights is missing or altered.
    """
    asked = section_asked(project, line_id)
    drawn = project.feature("lines", line_id)
    metres = project.crs.metres_per_unit
    line = SectionLine.of(shapely.LineString(shapely.get_coordinates(drawn.geometry)), metres)
    heights = _heights_about(project, drawn, asked.corridor / metres, coarsest)
    features = {table: project.features_in(table, drawn.geometry.bounds) for table in SEEN}
    stretches = stretches_of(line, features["areas"], metres)
    crossings = crossings_of(line, features["lines"], stretches, metres)
    profile = profile_of(line, heights.grid, also=[crossing.along for crossing in crossings])
    beside = shapely.bounds(drawn.geometry) + (asked.corridor / metres) * np.array([-1.0, -1.0, 1.0, 1.0])
    west, south, east, north = beside.tolist()
    readings = project.readings((west, south, east, north))
    stations, without = _stations(project, readings, drawn, asked.corridor / metres, heights)
    on_it = carried(line, stations, asked.corridor, asked.axis)
    return SectionOfMap(
        asked,
        letter_of(drawn),
        line,
        profile,
        tuple(crossings),
        tuple(stretches),
        tuple(on_it),
        (*_doubts(line, profile, without), *heights.doubts),
        project.drawn_features(line_id),
        project.drawn_ends(line_id),
    )


def _heights_about(project: ReadProject, drawn: Feature, corridor: float, coarsest: float | None) -> GroundHeights:
    west, south, east, north = drawn.geometry.bounds
    return ground_heights(project, (west - corridor, south - corridor, east + corridor, north + corridor), coarsest)


def _stations(
    project: Reader, readings: Features, drawn: Feature, corridor: float, heights: GroundHeights
) -> tuple[list[StationReading], int]:
    """Planes that were read within a corridor, with the heights of their places; and how many have none."""
    columns = readings.columns
    near = shapely.dwithin(readings.geometries, drawn.geometry, corridor) if len(readings) else np.zeros(0, dtype=bool)
    wanted = [
        i
        for i in np.flatnonzero(near).tolist()
        if kind_of(columns["kind"][i]).reading == "plane"
        and columns["azimuth"][i] is not None
        and columns["inclination"][i] is not None
    ]
    if not wanted:
        return [], 0
    metres = project.crs.metres_per_unit
    xy = shapely.get_coordinates(readings.geometries[wanted])
    up = heights.grid.at(xy * metres)
    turn = np.atleast_1d(project.crs.convergence(xy[:, 0], xy[:, 1]))
    found = [
        StationReading(
            int(readings.ids[i]),
            str(columns["kind"][i]),
            (float(x * metres), float(y * metres), float(z)),
            Attitude(float(columns["azimuth"][i]), float(columns["inclination"][i])),
            float(convergence),
        )
        for i, (x, y), z, convergence in zip(wanted, xy.tolist(), up.tolist(), turn.tolist(), strict=True)
        if np.isfinite(z)
    ]
    return found, len(wanted) - len(found)


def _doubts(line: SectionLine, profile: Profile, without: int) -> tuple[str, ...]:
    said = []
    if profile.reach is None:
        said.append("No heights are known along this section; add a grid that reaches there.")
    elif profile.known_share < WHOLE:
        said.append(f"Heights are missing along {100 * (1 - profile.known_share):.0f} % of it.")
    if without:
        said.append(f"{without} of the readings beside it stand where no heights are known, and are left out.")
    if line.crosses_itself:
        said.append("This section crosses itself: what lies there is shown twice.")
    return tuple(said)


def ask_of_section(project: Project, asked: Section) -> Entry | None:
    """Keep what is asked of a section line; None where nothing is new.

    Raises
    ------
    NotFound
        There is no such section line.
    StructureRefused
        A figure is none that a section can have.
    """
    held = section_asked(project, asked.line_id)
    wanted = asked.checked()
    if wanted == held and held.id is not None:
        return None
    name = letter_of(project.feature("lines", asked.line_id))
    return project.apply(f"set section {name}–{name}′", [section_change(wanted, held.id)])


def section_of_letter(project: ReadProject, letter: str) -> SectionOfMap:
    """The section whose line has a letter.

    Raises
    ------
    NotFound
        No line has it; says which there are.
    StructureRefused, FileRefused
        As ``section_of_map``.
    """
    lines = section_lines(project)
    line = next((line for line in lines if letter_of(line) == letter), None)
    if line is None:
        known = ", ".join(letter_of(line) for line in lines)
        have = f"the map has {known}" if known else "the map has no section line yet"
        raise NotFound(f"No section line has the letter {letter or '—'}; {have}.")
    return section_of_map(project, line.number)


def section_heights(project: ReadProject) -> tuple[tuple[str, float], ...]:
    """The sections that can be drawn: the letter of each, and how high its part is at the publication scale, in mm."""
    out = []
    mm_per_metre = 1000.0 / project.scales.publication
    for line in section_lines(project):
        try:
            found = section_of_map(project, line.number)
        except OrvikError:
            continue
        out.append((letter_of(line), part_height(found, mm_per_metre, SECTION_SIZE)))
    return tuple(out)
