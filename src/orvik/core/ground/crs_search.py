"""Finding a coordinate system by code or by words among all that PROJ's database carries."""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass
from functools import lru_cache

from pyproj.database import query_crs_info
from pyproj.enums import PJType

from orvik.core.errors import CrsRefused
from orvik.core.ground.crs import project_crs


@dataclass(frozen=True)
class CrsCandidate:
    """One found system: what a person needs to choose it, or why it cannot serve."""

    code: str
    name: str
    area: str
    bounds: tuple[float, float, float, float] | None
    unit: str
    refusal: str | None


@dataclass(frozen=True)
class Entry:
    """One system of the list, with what it is searched by."""

    code: str
    name: str
    area: str
    bounds: tuple[float, float, float, float] | None
    name_words: tuple[str, ...]
    area_words: tuple[str, ...]
    projected: bool

    @property
    def extent(self) -> float:
        """Size of the area of use in square degrees; the whole world where none is stated."""
        if self.bounds is None:
            return 64_800.0
        west, south, east, north = self.bounds
        return ((east - west) % 360) * (north - south)

    def holds(self, longitude: float, latitude: float) -> bool:
        """Whether the area of use holds a place."""
        if self.bounds is None:
            return False
        west, south, east, north = self.bounds
        inside = west <= longitude <= east if west <= east else longitude >= west or longitude <= east
        return inside and south <= latitude <= north


def covering(ground: tuple[float, float, float, float]) -> list[Entry]:
    """Projected systems whose area of use holds a ground (west, south, east and north in degrees)."""
    west, south, east, north = ground
    corners = [((x + 180) % 360 - 180, y) for x in (west, east) for y in (south, north)]
    return [e for e in _entries() if e.projected and all(e.holds(*corner) for corner in corners)]


def search(words: str, limit: int = 12, place: tuple[float, float] | None = None) -> list[CrsCandidate]:
    """Systems for a code or words, best first.

    Parameters
    ----------
    words
        A code (``32628`` or ``EPSG:32628``), a definition as WKT or PROJ string, or words, each of which must
        stand in the name or the area of use; the start of a word is enough.
    limit
        How many at the most.
    place
        Longitude and latitude in degrees; systems whose area of use holds it come first.

    Returns
    -------
    Candidates; those that cannot serve stand among them with the reason, after those that can.
    """
    if re.match(r"\s*(\+proj=|\w*CRS\[|PROJCS\[)", words):
        return [_defined(words.strip())]
    text = words.strip().lower()
    code = re.fullmatch(r"(?:epsg\s*[: ]\s*)?(\d{4,6})", text)
    entries = _entries()
    if code:
        found = [e for e in entries if e.code == code[1]]
        found += [e for e in entries if e.code.startswith(code[1]) and e.code != code[1]]
        ranked = found[: limit * 2]
    else:
        tokens = _words(text)
        if not tokens:
            return []
        scored = []
        for number, score in _scores(tokens).items():
            entry = entries[number]
            here = place is not None and entry.holds(*place)
            scored.append((not entry.projected, not here, -score, -round(entry.extent), entry))
        scored.sort(key=lambda row: (*row[:4], superseded(row[4].name), len(row[4].name), int(row[4].code)))
        ranked = [row[4] for row in scored[: limit * 2]]
    return sorted((_candidate(e) for e in ranked), key=lambda c: c.refusal is not None)[:limit]


def warm() -> None:
    """Read PROJ's list of systems once, so that the first search answers at once."""
    _vocabulary()


@lru_cache(maxsize=1)
def _entries() -> tuple[Entry, ...]:
    entries = []
    kinds = [PJType.PROJECTED_CRS, PJType.GEOGRAPHIC_2D_CRS]
    for info in query_crs_info(auth_name="EPSG", pj_types=kinds, allow_deprecated=False):
        area = info.area_of_use
        area_name = (area.name if area else None) or ""
        entries.append(
            Entry(
                code=info.code,
                name=info.name,
                area=area_name,
                bounds=(area.west, area.south, area.east, area.north) if area else None,
                name_words=_words(info.name.lower()),
                area_words=_words(area_name.lower()),
                projected=info.type is PJType.PROJECTED_CRS,
            )
        )
    return tuple(entries)


def _words(text: str) -> tuple[str, ...]:
    return tuple(re.findall(r"\d+(?:\.\d+)?[a-z]?|[^\W\d_]+", text))


def _named_first(area: str) -> tuple[str, ...]:
    """The country or countries that an area of use opens with; none where it opens with a zone or a list."""
    words = _words(re.split(r" - |\.|\(", area.lower())[0])
    return words if len(words) <= 4 else ()


@lru_cache(maxsize=1)
def _vocabulary() -> tuple[list[str], dict[str, dict[int, int]]]:
    """All words in order, and for each the entries that have it with what a hit there is worth."""
    postings: dict[str, dict[int, int]] = {}
    for number, entry in enumerate(_entries()):
        # A system made for a country names it first among its area of use; one that only reaches it, later.
        for words, worth in ((entry.area_words, 3), (_named_first(entry.area), 5), (entry.name_words, 6)):
            for word in words:
                postings.setdefault(word, {})[number] = worth
    return sorted(postings), postings


def _scores(tokens: tuple[str, ...]) -> dict[int, int]:
    """Entries that have every token, with their scores; the start of a word counts less than all of it."""
    words, postings = _vocabulary()
    total: dict[int, int] | None = None
    for token in tokens:
        hits: dict[int, int] = {}
        for i in range(bisect_left(words, token), len(words)):
            if not words[i].startswith(token):
                break
            part = words[i] != token
            for number, worth in postings[words[i]].items():
                hits[number] = max(hits.get(number, 0), worth - (2 if part else 0))
        total = hits if total is None else {n: total[n] + w for n, w in hits.items() if n in total}
    return total or {}


def superseded(name: str) -> int:
    """How far from the datums in present use a name is: 0 for those, 2 for what WGS 84 has replaced."""
    if name.endswith("(N-E)"):
        # The double of another system, with its axes the other way round.
        return 2
    if name.startswith(("WGS 84", "ETRS89", "NAD83(2011)", "GDA2020", "ISN2016")):
        return 0
    return 2 if name.startswith("WGS 72") else 1


def _candidate(entry: Entry) -> CrsCandidate:
    code = f"EPSG:{entry.code}"
    try:
        crs = project_crs(code)
        return CrsCandidate(code, entry.name, entry.area, entry.bounds, crs.unit, None)
    except CrsRefused as refusal:
        return CrsCandidate(code, entry.name, entry.area, entry.bounds, "", refusal.sentence)


def _defined(definition: str) -> CrsCandidate:
    """The system of a pasted definition; its code is the definition itself."""
    try:
        crs = project_crs(definition)
        return CrsCandidate(crs.text, crs.name, "By its definition", None, crs.unit, None)
    except CrsRefused as refusal:
        return CrsCandidate(definition, "Definition", "", None, "", refusal.sentence)
