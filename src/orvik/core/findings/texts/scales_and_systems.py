"""Scales, coordinate systems, datums, zones and declinations that are typed, against those of the map."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date
from functools import lru_cache

import pyproj
from pyproj.enums import PJType

from orvik.core.findings.finding import Finding
from orvik.core.findings.nearness import slips_apart
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.dates import day_in
from orvik.core.findings.texts.fractions import FRACTION, denominator_of
from orvik.core.findings.texts.reading import Known, ReadText, of_text, quoted
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import spaced

rule(
    "typed_scale",
    "error",
    "texts",
    "A text says another scale than its panel has",
    why="who measures by it is wrong",
)
rule(
    "typed_system",
    "error",
    "texts",
    "A text says another coordinate system, datum or zone than the map has",
    why="who takes coordinates from it lands elsewhere",
)
rule(
    "typed_declination",
    "error",
    "texts",
    "A text says another declination or convergence than the place and day have",
    why="who walks by it goes astray",
)

_OF_MAP = re.compile(r"\b(?:scale|map at|printed at|published at|sheet at|map is at)\b[^.]{0,25}$", re.IGNORECASE)
_EPSG = re.compile(r"\bEPSG\s?[: ]\s?(\d{4,6})\b")
_ZONE = re.compile(
    r"\b(?:UTM|grid|MGRS|Gauss|Mercator)\b[^.\n]{0,30}?\bzone\s?(\d{1,2})\s?([NS]\b)?|^\s*zone\s?(\d{1,2})\s?([NS]\b)?",
    re.IGNORECASE,
)
_ZONE_OF_NAME = re.compile(r"\bzone (\d{1,2})([NS])?\b")
_ANGLE = re.compile(
    r"\b(declination|convergence)\b[^\d\n.;]{0,40}?(\d{1,3}(?:[.,]\d+)?)\s?°\s?(?:(\d{1,2})\s?[′'’])?"
    r"(?:\s?(east|west|E|W)\b)?(?:\s(?:of true north)?(?:\s?(?:in|on|at|for)\s(?:[A-Z]\w+\s)?\d{4}|"
    r"\s?(?:in|on|at|for)\s\d{1,2}\s[A-Z]\w+\s\d{4}))?",
    re.IGNORECASE,
)
# A scale below this is a ratio of something else.
LEAST_SCALE = 100


@of_text
def typed_scales(text: ReadText, known: Known) -> list[Finding]:
    """Fractions that are none of those that the sheet, the project or a source has, and are said of this map."""
    out = []
    for found in FRACTION.finditer(text.text):
        denominator = denominator_of(found)
        digits = str(denominator)
        before = text.sentence_before(found.start())
        said = (_OF_MAP.search(before) or text.text.strip() == found.group(0)) and not text.of_sources(found.start())
        # What is said to be the scale of the map is that of a panel; else many scales may be spoken of.
        held = known.panel_scales if said else known.scales
        if denominator < LEAST_SCALE or denominator in held or not known.panel_scales:
            continue
        near = [scale for scale in known.panel_scales if _alike(digits, str(scale))]
        if not near and not said:
            continue
        right = near[0] if near else known.panel_scales[0]
        said_so = f"{text.what} says {quoted(found.group(0))}"
        message = f"{said_so}; the map is at 1:{spaced(right)}, and a reader measures by what is typed."
        is_sheet = right == known.panel_scales[0] and text.takes_fields
        instead = "{scale}" if is_sheet else f"1:{spaced(right)}"
        label = "Make it a field" if is_sheet else f"Write 1:{spaced(right)}"
        out.append(text.finding("typed_scale", message, found, instead, label, "error", (str(right),)))
    return out


def _alike(one: str, other: str) -> bool:
    """Whether one denominator may be the other with a slip: a digit more, less, changed, or two exchanged."""
    return one != other and (one.rstrip("0") == other.rstrip("0") or slips_apart(one, other) == 1)


@of_text
def typed_systems(text: ReadText, known: Known) -> list[Finding]:
    """Codes, datums and zones that are none of the map's."""
    if not known.systems:
        return []
    system = known.systems[0]
    return [
        *_codes(text, known, system),
        *_datums(text, known, system),
        *_zones(text, known, system),
    ]


def _codes(text: ReadText, known: Known, system: ProjectCrs) -> Iterator[Finding]:
    held = {code for other in known.systems for code in (other.text, other.geographic_code)}
    for found in _EPSG.finditer(text.text):
        code = f"EPSG:{found.group(1)}"
        name = _system_names().get(code)
        if code in held or name is None or text.of_sources(found.start()):
            continue
        message = f"{text.what} says {code} ({name}); the map is in {system.label} ({system.name})."
        instead = system.text if system.text.startswith("EPSG:") else None
        yield text.finding("typed_system", message, found, instead, f"Write {instead}", "error", (system.text,))


def _datums(text: ReadText, known: Known, system: ProjectCrs) -> Iterator[Finding]:
    held = {_close(name) for other in known.systems for name in (other.geographic_name, other.datum)}
    for found in _datum_pattern().finditer(text.text):
        words = found.group("plain") or found.group("named") or found.group("before")
        span = next(found.span(group) for group in ("plain", "named", "before") if found.group(group))
        close = _close(words)
        if any(close == other or other.startswith(close) for other in held) or text.of_sources(span[0]):
            continue
        message = f"{text.what} says the datum {quoted(words)}; the map is on {system.geographic_name}."
        yield text.finding(
            "typed_system",
            message,
            span,
            system.geographic_name,
            f"Write {system.geographic_name}",
            "error",
            (system.geographic_name,),
        )


def _zones(text: ReadText, known: Known, system: ProjectCrs) -> Iterator[Finding]:
    named = [match for other in known.systems if (match := _ZONE_OF_NAME.search(other.name))]
    zones = known.zones | {int(match.group(1)) for match in named}
    sides = {match.group(2) for match in named if match.group(2)}
    for found in _ZONE.finditer(text.text):
        number, side = found.group(1) or found.group(3), (found.group(2) or found.group(4) or "").upper()
        wrong_side = bool(side and sides and side not in sides)
        if not zones or (int(number) in zones and not wrong_side) or text.of_sources(found.start()):
            continue
        zone = f"{named[0].group(1)}{named[0].group(2) or ''}" if named else str(min(zones))
        span = found.span(1) if found.group(1) else found.span(3)
        if side:
            span = (span[0], found.end())
        message = f"{text.what} says zone {number}{side}; the map lies in zone {zone}."
        yield text.finding(
            "typed_system", message, span, zone if side else zone.rstrip("NS"), f"Write zone {zone}", "error", (zone,)
        )


@lru_cache(maxsize=1)
def _system_names() -> dict[str, str]:
    """All projected and geographic systems of the database by their codes."""
    kinds = [PJType.PROJECTED_CRS, PJType.GEOGRAPHIC_2D_CRS, PJType.GEOGRAPHIC_3D_CRS, PJType.GEOCENTRIC_CRS]
    listed = pyproj.database.query_crs_info("EPSG", kinds, allow_deprecated=True)
    return {f"EPSG:{info.code}": info.name for info in listed}


@lru_cache(maxsize=1)
def _datum_pattern() -> re.Pattern[str]:
    """Names of datums: those with a figure stand by themselves, the others beside the word."""
    listed = pyproj.database.query_crs_info("EPSG", [PJType.GEOGRAPHIC_2D_CRS], allow_deprecated=True)
    names = {info.name for info in listed}
    years = sorted((n for n in names if re.search(r"[A-Za-z]", n) and re.search(r"\d", n)), key=len, reverse=True)
    words = sorted((n for n in names if not re.search(r"\d", n)), key=len, reverse=True)
    plain, named = ("|".join(_spelt(name) for name in some) for some in (years, words))
    return re.compile(
        rf"(?<![\w])(?P<plain>{plain})(?![\w(])|\bdatum:?\s(?P<named>{named})\b|\b(?P<before>{named})\sdatum\b"
    )


def _spelt(name: str) -> str:
    """A pattern for a name with or without the spaces in it; letters and figures may stand apart: ``WGS 84``."""
    apart = re.sub(r"(?<=[A-Za-z])(?=\d)|\s+|-", " ", name)
    return r"[\s-]?".join(re.escape(piece) for piece in apart.split(" "))


def _close(name: str) -> str:
    plain = re.sub(r"\bensemble\b|\bdatum\b", "", name, flags=re.IGNORECASE)
    return re.sub(r"[^a-z0-9()]", "", plain.lower())


@of_text
def typed_angles(text: ReadText, known: Known) -> list[Finding]:
    """Declinations and convergences that the middle of the map does not have on the day that is said of them."""
    out = []
    for found in _ANGLE.finditer(text.text):
        what = found.group(1).lower()
        typed = float(found.group(2).replace(",", ".")) + float(found.group(3) or 0) / 60
        side = (found.group(4) or "").lower()[:1]
        held, loose = _angle(what, text, found, known)
        if held is None or abs(typed) > 180:
            continue
        signed = -typed if side == "w" else typed
        off = abs(signed - held) if side else abs(typed - abs(held))
        if off <= _step(found) + loose:
            continue
        minutes = round(abs(held) * 60)
        right = f"{minutes // 60}°{minutes % 60:02d}′ {'west' if held < 0 else 'east'}"
        message = f"{text.what} says {quoted(found.group(0))}; the {what} at the middle of the map is {right}."
        field = text.takes_fields and (what == "convergence" or day_in(found.group(0)) in (None, known.published))
        instead = f"{{{what}}}" if field else None
        out.append(text.finding("typed_declination", message, found, instead, "Make it a field", "error", (right,)))
    return out


def _angle(what: str, text: ReadText, found: re.Match[str], known: Known) -> tuple[float | None, float]:
    """What the angle is, and how many degrees it may be off beside its rounding: it changes with the years."""
    if what == "convergence":
        return known.convergence, 0.02
    sentence = text.sentence_before(found.start()) + text.text[found.start() : found.end() + 30]
    day: date | None = day_in(sentence)
    loose = 0.05 if day is not None else 0.3
    try:
        return known.declination(day or known.published or known.today), loose
    except ValueError:
        return None, loose


def _step(found: re.Match[str]) -> float:
    """Three quarters of the last figure that is typed, in degrees."""
    if found.group(3):
        return 0.75 / 60
    decimals = len(re.split("[.,]", found.group(2))[1]) if re.search("[.,]", found.group(2)) else 0
    return float(0.75 * 10.0**-decimals)
