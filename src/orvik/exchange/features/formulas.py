"""Cells that programs for tables would carry out as formulas, and how they are kept from it."""

from __future__ import annotations

_BEGINNINGS = tuple("=+-@\t\r")


def guarded(text: str) -> str:
    """A text as a cell of a table: one that begins like a formula has an apostrophe before it.

    >>> guarded("=1+1"), guarded("Qal"), guarded("'tis")
    ("'=1+1", 'Qal', "'tis")
    """
    return f"'{text}" if text.startswith(_BEGINNINGS) else text


def unguarded(text: str) -> str:
    """The text of a cell that was guarded.

    >>> unguarded("'=1+1"), unguarded("'tis")
    ('=1+1', "'tis")
    """
    return text[1:] if text[:1] == "'" and text[1:].startswith(_BEGINNINGS) else text
