"""Fields: names in braces that a text takes up from the project, such as ``{authors}`` or ``{contour interval}``."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np

from orvik.core.errors import OrvikError
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.day import day_words, parse_day
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.panels.map_context import Underlay
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.north_arrow.north_angles import norths_of
from orvik.core.sheet.parts.system_lines import captured_words
from orvik.core.sheet.parts.tint_bar import interval_words
from orvik.core.typesetting.spans import escaped

_FIELD = re.compile(r"\{([a-z]+(?: [a-z]+)*)\}")
# What an empty field leaves for the moment; it goes with the comma or the space that would part it from others.
_NOTHING = "\0"
_WITH_NOTHING = re.compile(rf",? {_NOTHING}|{_NOTHING},? |{_NOTHING}")


@dataclass(frozen=True)
class TextField:
    """What a field gives: ``words`` says it to whoever types, ``value`` is empty where there is nothing to say."""

    words: str
    value: Callable[[PageContext], str]


def filled(text: str, page: PageContext, marked: bool = False) -> str:
    """A text with its fields filled; a line whose fields are all empty is left out, and one that is with its comma.

    Parameters
    ----------
    marked
        Whether marks set styles in the text: none of a value's characters is one.
    """
    if "{" not in text:
        return text
    out = []
    for line in text.split("\n"):
        names = [name for name in _FIELD.findall(line) if name in FIELDS]
        values = {name: _value(name, page) for name in names}
        if names and not any(values.values()):
            continue
        out.append(_WITH_NOTHING.sub("", _FIELD.sub(partial(_put, held=values, marked=marked), line)))
    return "\n".join(out)


def _put(found: re.Match[str], held: Mapping[str, str], marked: bool) -> str:
    name = found.group(1)
    if name not in held:
        return found.group(0)
    return (escaped(held[name]) if marked else held[name]) or _NOTHING


def _value(name: str, page: PageContext) -> str:
    try:
        return FIELDS[name].value(page)
    except OrvikError:
        # What a panel cannot say of itself its own part says in words.
        return ""


def fields_in(text: str) -> Iterator[tuple[str, bool]]:
    """The names in braces in a text, and whether each is a field."""
    for name in dict.fromkeys(_FIELD.findall(text)):
        yield name, name in FIELDS


def empty_fields(text: str, page: PageContext) -> list[str]:
    """The fields of a text for which there is nothing to say."""
    return [name for name, known in fields_in(text) if known and not _value(name, page)]


# What a field says of what a published sheet must carry, and which entry of the imprint it then needs.
ESSENTIAL: Mapping[str, tuple[str, str]] = {
    "projection": ("Coordinate system and datum", ""),
    "scale": ("Representative fraction", ""),
    "authors": ("Author", "authors"),
    "date": ("Date", "day"),
    "year": ("Date", "day"),
}


def supplied_by_fields(text: str, imprint: Imprint) -> list[str]:
    """What a text gives by its fields of what a published sheet must carry."""
    named = [ESSENTIAL[name] for name, _ in fields_in(text) if name in ESSENTIAL]
    return [what for what, entry in named if not entry or getattr(imprint, entry)]


def largest_panel(page: PageContext) -> Panel | None:
    """The largest panel of a page: what it says of a map it says of this one."""
    return max(page.panels.values(), key=lambda panel: panel.part.width * panel.part.height, default=None)


def _day(typed: str) -> str:
    day = parse_day(typed)
    return day_words(day) if day is not None else ""


def _title(page: PageContext) -> str:
    return page.map.imprint.title or f"Geologic map of {page.map.project}"


def _scale(page: PageContext) -> str:
    panel = largest_panel(page)
    return f"1:{spaced(panel.scale)}" if panel is not None else ""


def _projection(page: PageContext) -> str:
    """Coordinate system, projection with its parameters, and datum: in full, as one sentence."""
    panel = largest_panel(page)
    if panel is None:
        return ""
    crs = panel.crs
    known = crs.text.startswith("EPSG:")
    name = f"{crs.name} ({crs.text})" if known else crs.name
    way = ", ".join(word for word in (crs.method, crs.parameters) if word)
    return "; ".join(word for word in (": ".join(word for word in (name, way) if word), f"datum {crs.datum}") if word)


def _digitized(page: PageContext) -> str:
    panel = largest_panel(page)
    if panel is None or panel.part.id is None:
        return ""
    return captured_words(page.shown(panel.part.id))


def _shown(page: PageContext) -> list[Underlay]:
    """The heights that the panel shows."""
    panel = largest_panel(page)
    opacities = panel.underlays if panel is not None else {}
    return [u for u in page.map.underlays if u.relief is not None and opacities.get(str(u.id), 0.0) > 0]


def _interval(page: PageContext) -> str:
    styles = [u.relief for u in reversed(_shown(page)) if u.relief and u.relief.contours]
    return interval_words(styles[0]) if styles and styles[0] else ""


def _heights(page: PageContext) -> str:
    return ", ".join(dict.fromkeys(u.datum for u in _shown(page) if u.datum))


def _declination(page: PageContext) -> str:
    panel = largest_panel(page)
    day = parse_day(page.map.imprint.day)
    if panel is None or day is None:
        return ""
    return "; ".join(norths_of(panel, day).lines()[1:3])


def _convergence(page: PageContext) -> str:
    panel = largest_panel(page)
    return norths_of(panel, None).lines()[0] if panel is not None else ""


def _zones(page: PageContext) -> str:
    """The zones of the UTM grid that a panel's ground lies in, by their numbers and bands."""
    panel = largest_panel(page)
    if panel is None or panel.ground is None:
        return ""
    west, south, east, north = panel.ground.bounds
    x, y = np.meshgrid(np.linspace(west, east, 5), np.linspace(south, north, 5))
    longitude, latitude = panel.crs.to_geographic(x.ravel(), y.ravel())
    zones = {grid_zone(float(a), float(b)) for a, b in zip(longitude, latitude, strict=True) if a == a and b == b}
    return ", ".join(sorted(zone for zone in zones if zone))


BANDS = "CDEFGHJKLMNPQRSTUVWX"


def grid_zone(longitude: float, latitude: float) -> str:
    """The grid zone of a place; empty beyond 84° north and 80° south, where the polar system begins.

    Zones of six degrees from 180° west, bands of eight from 80° south, the last of twelve; 32V is wider, and of 31X to
    37X only the odd ones are (NGA.STND.0037, Universal Grids and Grid Reference Systems, 2014; from memory).

    >>> grid_zone(-14.8, 61.3), grid_zone(5.3, 60.4), grid_zone(15.6, 78.2), grid_zone(0.0, 85.0)
    ('28V', '32V', '33X', '')
    """
    if not -80 <= latitude <= 84:
        return ""
    zone = int((longitude + 180) // 6) % 60 + 1
    band = BANDS[min(int((latitude + 80) // 8), len(BANDS) - 1)]
    if band == "V" and zone == 31 and longitude >= 3:
        zone = 32
    if band == "X" and 31 <= zone <= 37:
        zone = 31 if longitude < 9 else 33 if longitude < 21 else 35 if longitude < 33 else 37
    return f"{zone}{band}"


def shown_units(page: PageContext) -> int | None:
    """How many units the largest panel shows; None without one."""
    panel = largest_panel(page)
    if panel is None or panel.part.id is None:
        return None
    areas = page.shown(panel.part.id).features["areas"]
    held = {unit for unit in areas.columns["map_unit"] if unit in page.map.units}
    return len(held)


def _year(page: PageContext) -> str:
    return page.map.imprint.day[:4]


def _citation(page: PageContext) -> str:
    """As it is typed; else authors, year, title, edition, publisher, series with number, scale (common practice)."""
    imprint = page.map.imprint
    if imprint.citation:
        return imprint.citation
    if not imprint.authors:
        return ""
    head = f"{imprint.authors}, {_year(page)}" if imprint.day else imprint.authors
    series = " ".join(word for word in (imprint.series, imprint.number) if word)
    tail = ", ".join(word for word in (imprint.edition, imprint.publisher, series, f"scale {_scale(page)}") if word)
    return f"{head}, {_title(page)}: {tail}"


FIELDS: Mapping[str, TextField] = {
    "title": TextField("the title of the imprint, or after the project", _title),
    "subtitle": TextField("the subtitle", lambda page: page.map.imprint.subtitle),
    "project": TextField("the project's name", lambda page: page.map.project),
    "sheet": TextField("this sheet's name", lambda page: page.sheet.name),
    "scale": TextField("the scale of the largest panel", _scale),
    "authors": TextField("who made the map", lambda page: page.map.imprint.authors),
    "editor": TextField("who edited it", lambda page: page.map.imprint.editor),
    "date": TextField("its date", lambda page: _day(page.map.imprint.day)),
    "year": TextField("its year", _year),
    "edition": TextField("the edition", lambda page: page.map.imprint.edition),
    "publisher": TextField("the publisher", lambda page: page.map.imprint.publisher),
    "series": TextField("the series", lambda page: page.map.imprint.series),
    "number": TextField("its number in the series", lambda page: page.map.imprint.number),
    "identifier": TextField("the identifier", lambda page: page.map.imprint.identifier),
    "base": TextField("what the base map is", lambda page: page.map.imprint.base),
    "reviewers": TextField("who reviewed it", lambda page: page.map.imprint.reviewers),
    "approved by": TextField("who approved it", lambda page: page.map.imprint.approved_by),
    "approved on": TextField("when it was approved", lambda page: _day(page.map.imprint.approved_on)),
    "licence": TextField("the licence", lambda page: page.map.imprint.licence),
    "disclaimer": TextField("the disclaimer", lambda page: page.map.imprint.disclaimer),
    "citation": TextField("how the map is cited", _citation),
    "projection": TextField("coordinate system, projection and datum in full", _projection),
    "grid zones": TextField("the zones of the UTM grid", _zones),
    "heights from": TextField("what heights count from", _heights),
    "contour interval": TextField("how far contour lines are apart", _interval),
    "units": TextField("how many map units it shows", lambda page: str(shown_units(page) or "")),
    "convergence": TextField("grid north from true north", _convergence),
    "declination": TextField("the magnetic declination at the date", _declination),
    "digitized": TextField("at what scale the map was digitized", _digitized),
}
