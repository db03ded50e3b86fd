"""Days as they are typed and printed on sheets."""

from __future__ import annotations

from datetime import date

from orvik.core.errors import SheetRefused

MONTHS = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
]


def day_words(day: date) -> str:
    """A day as it is printed: ``2 July 2026``."""
    return f"{day.day} {MONTHS[day.month - 1]} {day.year}"


def parse_day(text: str) -> date | None:
    """A day as ``2026-07-02``; None for an empty text.

    Raises
    ------
    SheetRefused
        It is not a day.
    """
    if not text.strip():
        return None
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise SheetRefused(f"“{text.strip()[:20]}” is not a day; type it as 2026-07-02.") from None


def known_day(text: str) -> date | None:
    """A day as it is kept; None for what is none."""
    try:
        return parse_day(text)
    except SheetRefused:
        return None
