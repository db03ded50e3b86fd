"""The texts of a sheet, read against what the project and the sheet's panels know."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date
from functools import partial

import shapely

from orvik.core.coordinates import PageXY
from orvik.core.errors import OrvikError
from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet
from orvik.core.findings.texts.fractions import denominators_in
from orvik.core.findings.texts.known_names import is_place, named_places, names_of
from orvik.core.findings.texts.reading import Known, ReadText, read
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.sheet.page.day import known_day
from orvik.core.sheet.page.entries import Day, NameOf, Words
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fields import FIELDS, filled, largest_panel, shown_units
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.north_arrow.north_angles import norths_of
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.sheet.parts.text import RunningText

# Settings that are typed and are no text that a reader reads.
NOT_READ = frozenset({"name", "system", "letter", "kinds", "unit"})


@of_sheet
def texts_of_sheet(ground: SheetGround) -> list[Finding]:
    """What there is to say of all texts of a sheet."""
    return read(list(_texts(ground)), known_of(ground))


def _texts(ground: SheetGround) -> Iterator[ReadText]:
    for number, part in ground.parts.items():
        for name in read_entries(part):
            text = getattr(part.settings, name)
            if text.strip():
                spot = partial(_spot, ground, number)
                yield ReadText(part.label, text, number, name, "", part.settings.sets_text, part.locked, spot)
        if isinstance(part.settings, Explanation):
            for key, edit in part.settings.edits.rows.items():
                for words in edit.words.values():
                    yield ReadText(f"The row of {key.split(' ')[-1]} in {part.label}", words, number)


def read_entries(part: Part) -> list[str]:
    """The settings of a part that a reader reads."""
    declared = part.settings.entries()
    return [
        name
        for name, entry in declared.items()
        if isinstance(entry, Words) and not isinstance(entry, NameOf | Day) and name not in NOT_READ
    ]


def _spot(ground: SheetGround, number: int, words: str) -> PageXY:
    """Where words of a part stand on the page: the first line that has their first word, else the part's middle."""
    first = words.split()[0] if words.split() else words
    for found in ground.letters:
        if found.part == number and first in found.text.run.chars:
            return float(found.box.centroid.x), float(found.box.centroid.y)
    x, y = ground.parts[number].middle
    return min(max(x, 4.0), ground.page.sheet.width - 4.0), min(max(y, 4.0), ground.page.sheet.height - 4.0)


def known_of(ground: SheetGround) -> Known:
    """What texts of a sheet are read against."""
    page, imprint = ground.page, ground.page.map.imprint
    panel = largest_panel(page)
    credits = [words for origin in page.map.sources.values() for words in (origin.name, origin.credit) if words]
    return Known(
        units=page.map.units,
        imprint=imprint,
        names=names_of(
            page.map.units.values(), page.map.project, [page.sheet.name], page.map.neighbours, imprint, _places(ground)
        ),
        panel_scales=[round(panel.scale) for panel in _by_size(ground)],
        scales=_scales(ground, credits),
        systems=_systems(ground, panel),
        zones=_zones(ground),
        declination=partial(_declination, panel),
        convergence=_convergence(panel),
        intervals=[words] if (words := FIELDS["contour interval"].value(page)) else [],
        exaggerations=_exaggerations(ground),
        shown_units=shown_units(page),
        published=known_day(imprint.day),
        today=ground.today,
        neighbours={n.sheet_number: n.name for n in page.map.neighbours if n.sheet_number},
        credits=credits,
    )


def _places(ground: SheetGround) -> Iterator[str]:
    """Names of places: short texts over panels, and points of the map that are such names."""
    areas = [panel.page_area for panel in ground.page.panels.values()]
    for part in ground.parts.values():
        if isinstance(part.settings, RunningText) and is_place(part.settings.text):
            middle = shapely.Point(part.middle)
            if any(area.contains(middle) for area in areas):
                yield part.settings.text
    yield from named_places(ground.page.map.features["points"])


def _by_size(ground: SheetGround) -> list[Panel]:
    return sorted(ground.page.panels.values(), key=lambda panel: -panel.part.width * panel.part.height)


def _scales(ground: SheetGround, credits: list[str]) -> list[int]:
    scales, imprint = ground.page.map.scales, ground.page.map.imprint
    of_panels = [round(p.scale) for p in _by_size(ground)]
    of_project = [scales.publication, scales.digitizing, *scales.others]
    texts = [*credits, imprint.base, imprint.citation, *(u.name for u in ground.page.map.underlays)]
    # What a source or the digitizing is at is spoken of in many words.
    captured = {int(v) for v in ground.page.map.features["lines"].columns["capture_scale"] if v}
    listed = [*of_panels, *of_project, *(s for text in texts for s in denominators_in(text)), *captured]
    return list(dict.fromkeys(listed))


def _systems(ground: SheetGround, panel: Panel | None) -> list[ProjectCrs]:
    held = [p.crs for p in _by_size(ground)]
    for part in ground.parts.values():
        if isinstance(part.settings, Graticule) and part.settings.system:
            try:
                held.append(project_crs(part.settings.system))
            except OrvikError:
                continue
    return [*held, ground.page.map.crs] if panel is not None else []


def _zones(ground: SheetGround) -> frozenset[int]:
    zones = filled("{grid zones}", ground.page)
    return frozenset(int(zone.strip()[:-1]) for zone in zones.split(",") if zone.strip()[:-1].isdigit())


def _declination(panel: Panel | None, day: date) -> float | None:
    try:
        held = norths_of(panel, day).magnetic if panel is not None else None
    except OrvikError:
        return None
    return held.degrees if held is not None else None


def _convergence(panel: Panel | None) -> float | None:
    try:
        return norths_of(panel, None).convergence if panel is not None else None
    except OrvikError:
        return None


def _exaggerations(ground: SheetGround) -> Callable[[], frozenset[float]]:
    def held() -> frozenset[float]:
        out = set()
        for part in ground.parts.values():
            if isinstance(part.settings, CrossSection) and ground.page.map.section is not None:
                try:
                    out.add(ground.page.map.section(part.settings.letter.strip()).section.exaggeration)
                except OrvikError:
                    continue
        return frozenset(out)

    return held
