"""Which table makes what stale that an open project holds in memory."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Final

# What panels show; what is printed; the symbol book; all ground ink at once, so that pages fetch it anew.
MAP, PRINTED, BOOK, INK = "map", "printed", "book", "ink"
_DRAWN = frozenset({MAP, PRINTED})
MAKES_STALE: Final[Mapping[str, frozenset[str]]] = {
    "lines": _DRAWN,
    "areas": _DRAWN,
    "points": _DRAWN,
    "sources": _DRAWN,
    "views": _DRAWN,
    # The index of neighbouring sheets and the edges of panels name them.
    "neighbours": frozenset({PRINTED}),
    "section_settings": _DRAWN,
    # What is drawn on sections is printed with them, and no panel shows it.
    "section_lines": frozenset({PRINTED}),
    "section_areas": frozenset({PRINTED}),
    "section_points": frozenset({PRINTED}),
    "stations": _DRAWN,
    "emphases": _DRAWN,
    "templates": _DRAWN,
    # What a sheet follows is offered beside it, and printed nowhere.
    "followed_templates": frozenset(),
    "label_moves": _DRAWN,
    "label_rules": _DRAWN,
    "units": _DRAWN | {INK},
    "pens": _DRAWN | {BOOK},
    "kinds": _DRAWN | {BOOK, INK},
    "symbols": _DRAWN | {BOOK, INK},
    "symbol_rules": _DRAWN | {BOOK, INK},
    # Its publication scale decides which symbol holds where one does so on condition.
    "project": _DRAWN | {BOOK, INK},
    "sheets": frozenset({PRINTED}),
    "parts": frozenset({PRINTED}),
    # What files mean, and what hands say of findings, changes nothing that is printed.
    "mappings": frozenset(),
    "acceptances": frozenset(),
    "margin_notes": frozenset(),
    "answers": frozenset(),
    "proofs": frozenset(),
    "turned_off_rules": frozenset(),
}


def stale_after(tables: Iterable[str]) -> frozenset[str]:
    """What a change of these tables makes stale.

    >>> sorted(stale_after(["parts", "pens"]))
    ['book', 'map', 'printed']
    """
    return frozenset().union(*(MAKES_STALE[table] for table in tables))
