"""The names that a project has: of its units, its sheets and their neighbours, of places and of people."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from orvik.core.features.feature import Features
from orvik.core.features.kind import PLACE_NAME
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.texts.reading import KnownName
from orvik.core.joins.neighbour import Neighbour
from orvik.core.sheet.page.imprint import Imprint

# Names of places have up to so many words; longer texts on a map are remarks.
MOST_WORDS = 4
_BETWEEN_PEOPLE = re.compile(r"\s*(?:,|;|&|\band\b)\s*")


def names_of(
    units: Iterable[MapUnit],
    project: str,
    sheets: Sequence[str],
    neighbours: Iterable[Neighbour],
    imprint: Imprint,
    places: Iterable[str],
) -> tuple[KnownName, ...]:
    """All names, each once: the first that has it says what it is of."""
    found: dict[str, KnownName] = {}
    for what, name in _all(units, project, sheets, neighbours, imprint, places):
        plain = " ".join(name.split())
        if plain:
            found.setdefault(plain.casefold(), KnownName(what, plain))
    return tuple(found.values())


def _all(
    units: Iterable[MapUnit],
    project: str,
    sheets: Sequence[str],
    neighbours: Iterable[Neighbour],
    imprint: Imprint,
    places: Iterable[str],
) -> Iterator[tuple[str, str]]:
    for unit in units:
        yield f"unit {unit.code}", unit.name
    for sheet in sheets:
        yield "the name of a sheet", sheet
    yield "the name of the project", project
    for neighbour in neighbours:
        yield "a neighbouring sheet", neighbour.name
    for place in places:
        yield "a place on the map", place
    for what, people in (
        ("an author", imprint.authors),
        ("the editor", imprint.editor),
        ("a reviewer", imprint.reviewers),
        ("who approved it", imprint.approved_by),
    ):
        for person in _BETWEEN_PEOPLE.split(people):
            yield what, person
    yield "the publisher", imprint.publisher


def is_place(text: str) -> bool:
    """Whether a text over a map is the name of a place.

    >>> is_place("Sound of Wray"), is_place("Invented geology, drawn from a seed."), is_place("{title}")
    (True, False, False)
    """
    words = text.split()
    return bool(words) and len(words) <= MOST_WORDS and words[0][:1].isupper() and not re.search(r"[{}.:;\d]", text)


def named_places(points: Features) -> Iterator[str]:
    """What is noted of points that are names of places."""
    for kind, note in zip(points.columns["kind"], points.columns["note"], strict=True):
        if kind == PLACE_NAME and note and is_place(note):
            yield note
