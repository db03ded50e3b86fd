"""The texts that a project holds beside its sheets: the descriptions of its units, and its imprint."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.texts.reading import ReadText
from orvik.core.sheet.page.entries import Day, FileOf, Words
from orvik.core.sheet.page.imprint import Imprint

# Names of people and of the map's own series are what others are compared with.
_NAMES = frozenset(
    {"authors", "editor", "reviewers", "approved_by", "publisher", "series", "number", "identifier", "edition"}
)


def texts_of_project(units: Mapping[str, MapUnit], imprint: Imprint) -> Iterator[ReadText]:
    """Each text with what it is called."""
    for unit in units.values():
        if unit.description.strip():
            yield ReadText(f"The description of {unit.code}", unit.description, 0, "description", unit.code)
    for name, entry in imprint.entries().items():
        text = getattr(imprint, name)
        if isinstance(entry, Words) and not isinstance(entry, Day | FileOf) and name not in _NAMES and text.strip():
            yield ReadText(f"The {entry.label.lower().split(',')[0]} of the imprint", text, 0, name)
