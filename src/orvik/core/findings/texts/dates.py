"""Dates that are typed: those that cannot be, that run backwards, or that lie after the map was published."""

from __future__ import annotations

import re
from calendar import monthrange
from datetime import date

from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, ReadText, of_text, quoted
from orvik.core.sheet.page.day import MONTHS, day_words

rule(
    "impossible_date",
    "error",
    "texts",
    "A text has a date that cannot be, or years that run backwards",
    why="there is no such day",
)
rule(
    "source_year",
    "warning",
    "texts",
    "A text names a source with another year than its credit has",
    why="readers look for a work of another year",
)
rule(
    "late_date",
    "warning",
    "texts",
    "A text has a year that is not that of the map, or lies after it",
    why="readers take the map for another edition",
)

_MONTH = "|".join(f"{month[:3]}(?:{month[3:]})?" for month in MONTHS)
_DAY = re.compile(
    rf"\b(?:(?P<d>\d{{1,2}})(?:st|nd|rd|th)?\s(?P<m>{_MONTH})\.?,?\s(?P<y>\d{{4}})"
    rf"|(?P<m2>{_MONTH})\.?\s(?P<d2>\d{{1,2}})(?:st|nd|rd|th)?,\s(?P<y2>\d{{4}})"
    r"|(?P<y3>\d{4})-(?P<n3>\d{2})-(?P<d3>\d{2})|(?P<d4>\d{1,2})\.(?P<n4>\d{1,2})\.(?P<y4>\d{4}))\b"
)
_MONTH_YEAR = re.compile(rf"\b({_MONTH})\.?\s(\d{{4}})\b")
# A year stands alone: not in a scale, a code or a length.
_YEAR = re.compile(
    r"(?<![\d:.,/–-])(?<!EPSG )\b((?:1[6-9]|20|21)\d\d)\b"
    r"(?!\s?(?:m|km|cm|mm|ft|feet|metres|meters|Ma|ka|°|%|units|features|stations|readings|samples)\b)(?![\d:.,]\d|\s\d{3}\b)"
)
_YEARS = re.compile(r"(?<![\d:])\b((?:1[6-9]|20)\d\d)\s?(?:to|until|–|-)\s?((?:1[6-9]|20)\d\d)\b(?!-\d)")
# After these words a year may lie ahead.
_AHEAD = re.compile(
    r"\b(?:until|valid|planned|next|scheduled|forthcoming|in preparation|expected|to be)\b[^.\n]*$", re.IGNORECASE
)
_OF_MAP = re.compile(
    r"(?:^|\n)[*_ ]*(?:by|compiled by|geology by|mapped by|map by|©|\(c\)|copyright|published(?: in| by)?|"
    r"printed(?: in)?)[^.\n:;]*?$",
    re.IGNORECASE,
)


def _month(name: str) -> int:
    return next(i for i, month in enumerate(MONTHS, 1) if month.startswith(name[:3]))


def _parts(found: re.Match[str]) -> tuple[int, int, int]:
    """Year, month and day of a date as it is typed."""
    if found["y"]:
        return int(found["y"]), _month(found["m"]), int(found["d"])
    if found["y2"]:
        return int(found["y2"]), _month(found["m2"]), int(found["d2"])
    if found["y3"]:
        return int(found["y3"]), int(found["n3"]), int(found["d3"])
    return int(found["y4"]), int(found["n4"]), int(found["d4"])


def day_in(words: str) -> date | None:
    """The day that words name; of a month alone its middle, of a year alone its middle; None where they name none."""
    found = _DAY.search(words)
    if found is not None:
        year, month, day = _parts(found)
        try:
            return date(year, month, day)
        except ValueError:
            return None
    month_of = _MONTH_YEAR.search(words)
    if month_of is not None:
        return date(int(month_of.group(2)), _month(month_of.group(1)), 15)
    year_of = _YEAR.search(words)
    return date(int(year_of.group(1)), 7, 1) if year_of is not None else None


@of_text
def impossible_dates(text: ReadText, known: Known) -> list[Finding]:
    """Days that no calendar has, and spans of years whose later one comes first."""
    out = []
    for found in _DAY.finditer(text.text):
        year, month, day = _parts(found)
        if not 1 <= month <= 12:
            message = f"{text.what} has the date {quoted(found.group(0))}; a year has 12 months."
        elif not 1 <= day <= monthrange(max(year, 1), month)[1]:
            message = (
                f"{text.what} has the date {quoted(found.group(0))}; {MONTHS[month - 1]} {year} has "
                f"{monthrange(max(year, 1), month)[1]} days."
            )
        else:
            continue
        out.append(text.finding("impossible_date", message, found, severity="error"))
    for found in _YEARS.finditer(text.text):
        one, two = found.group(1), found.group(2)
        if int(one) > int(two):
            message = f"{text.what} says {quoted(found.group(0))}; the earlier year comes first."
            turned = found.group(0).replace(one, "\0").replace(two, one).replace("\0", two)
            out.append(text.finding("impossible_date", message, found, turned, f"Write {turned}", "error"))
    return out


@of_text
def late_dates(text: ReadText, known: Known) -> list[Finding]:
    """Years after that of the map; beside "by" and "published", years that are not that of the map."""
    held = known.published
    latest = held.year if held is not None else known.today.year
    out = []
    for found in _YEAR.finditer(text.text):
        year = int(found.group(1))
        before = text.sentence_before(found.start())
        line = text.text[text.text.rfind("\n", 0, found.start()) + 1 : found.start()]
        later = text.text[found.end() : found.end() + 12]
        if year > latest and not _AHEAD.search(before):
            of = f"the map is of {latest}" if held is not None else f"this is {latest}"
            message = f"{text.what} speaks of {year}; {of}."
        elif (
            held is not None
            and year != held.year
            and _OF_MAP.search(line)
            and not re.match(r"\s?(?:to|until|–|-|and|,)\s?\d{4}", later)
            and not re.search(r"\d{4}\D{0,6}$", line)
            and not text.of_sources(found.start())
            and text.entry == "text"
        ):
            message = f"{text.what} says {year}; the map is of {held.year} ({day_words(held)})."
        else:
            continue
        field = held is not None and text.takes_fields and _OF_MAP.search(line) is not None
        instead = "{year}" if field else None
        out.append(text.finding("late_date", message, found, instead, "Make it a field", facts=(str(latest),)))
    return out


@of_text
def source_years(text: ReadText, known: Known) -> list[Finding]:
    """Sources that are named as they are credited, but for their year."""
    out = []
    for credit in known.credits:
        pieces = [piece.strip() for piece in credit.split(",")]
        years = [piece for piece in pieces if re.fullmatch(r"(?:1[6-9]|20)\d\d", piece)]
        named = [re.escape(piece) for piece in pieces[:2] if not re.search(r"\d", piece)]
        if len(years) != 1 or len(named) < 2:
            continue
        pattern = re.compile(rf"\b{named[0]}\b,?\s{named[1]}\b[^.;\n]{{0,40}}?\b((?:1[6-9]|20)\d\d)\b", re.IGNORECASE)
        for found in pattern.finditer(text.text):
            if found.group(1) != years[0]:
                message = f"{text.what} says {quoted(found.group(0))}; the source is credited as of {years[0]}."
                label = f"Write {years[0]}"
                out.append(text.finding("source_year", message, found.span(1), years[0], label, facts=(credit,)))
    return out
