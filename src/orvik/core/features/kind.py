"""Kinds of feature: what each means for the rules of the map. They stand in a data file; no rule names one."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from orvik.core.features.table import Table
from orvik.core.wording import with_article

Role = Literal[
    "",
    "sheet_border",
    "shore",
    "unit_area",
    "unit_tag",
    "overturned",
    "axis_of_folds",
    "section_line",
    "named_place",
]


@dataclass(frozen=True)
class Kind:
    """What a kind of feature means; of one that nothing is known of no more than that it may be more or less certain.

    Attributes
    ----------
    title
        What the standard symbol book calls it; empty where that is its name.
    role
        What a rule of its own speaks of: the ``sheet_border``, the ``shore``, a ``unit_area``, a ``unit_tag``,
        beds that are ``overturned``, the ``axis_of_folds`` of a girdle,
        the ``section_line`` that a cross-section runs along, the ``named_place`` of a name on the map.
    usual
        Whether features of its table are of it that say nothing else.
    bounds_units, parts_units
        Whether map units end on it, and whether those on its two sides should differ.
    takes_unit
        Whether it belongs to a map unit.
    margin
        The kind of its two margins, where it may be a band; empty where it may not.
    may_end_open, runs_through
        Whether it may end where nothing else is, and whether it may run over lines that bound units.
    in_rock
        Whether it goes on below the ground, beside what bounds units, faults, bands and folds.
    graded
        Whether it is placed with a certainty.
    closed
        Whether its line comes back to where it began.
    reading
        ``plane``, ``line``, ``strike`` or ``trend`` for one of which only the direction is read, or empty for a
        kind that has no reading.
    plunges
        Whether it is a line that may have a trend and a plunge.
    upright
        Whether it says how beds lie that are the right way up.
    of_fault
        Whether it says how the plane of a fault lies that it stands on.
    right_side
        Of a fault: whether the block to the right of its line went ``down`` or ``up``; empty where it does not say.
    slip
        Of a fault: whether the far block went to the ``right`` or to the ``left``; empty where it does not say.
    core
        Of a fold: whether its core is ``older`` or ``younger`` than its limbs; empty where it does not say.
    limbs
        Of a fold: whether they dip ``away`` from its line or ``towards`` it; empty where it does not say.
    in_plane
        Of a line that is read: whether it lies in a plane that is read beside it.
    hides_rock
        Of an area: whether no rock is seen in it.
    words
        What notebooks call it, in small letters and figures.
    """

    name: str
    title: str = ""
    table: Table | None = None
    role: Role = ""
    usual: bool = False
    bounds_units: bool = False
    parts_units: bool = False
    takes_unit: bool = False
    margin: str = ""
    may_end_open: bool = False
    runs_through: bool = False
    in_rock: bool = False
    graded: bool = False
    closed: bool = False
    reading: Literal["", "plane", "strike", "line", "trend"] = ""
    plunges: bool = False
    upright: bool = False
    of_fault: bool = False
    right_side: Literal["", "down", "up"] = ""
    slip: Literal["", "right", "left"] = ""
    core: Literal["", "older", "younger"] = ""
    limbs: Literal["", "away", "towards"] = ""
    in_plane: bool = False
    hides_rock: bool = False
    words: tuple[str, ...] = ()

    @property
    def is_fold(self) -> bool:
        """Whether it is the line of a fold."""
        return bool(self.core or self.limbs)

    @property
    def linear(self) -> bool:
        """Whether its reading is a line's trend and plunge, not a plane's strike and dip."""
        return self.reading in ("line", "trend") or self.plunges

    @property
    def first_reading(self) -> str:
        """What a symbol shows that waits for its reading."""
        return "000/45" if self.inclined else "000"

    @property
    def reading_example(self) -> str:
        """How a reading may be typed."""
        return {"plane": "350/60", "line": "120/30", "strike": "045 or 045SE", "trend": "120 or N60E"}.get(
            self.reading, "120/30"
        )

    @property
    def reading_words(self) -> str:
        """What a reading is called."""
        return {"plane": "Strike / dip", "line": "Trend / plunge", "strike": "Strike", "trend": "Direction"}.get(
            self.reading, "Trend / plunge"
        )

    @property
    def inclined(self) -> bool:
        """Whether it is nothing without a dip or a plunge."""
        return self.reading in ("plane", "line")


def _read(path: Path) -> Mapping[str, Kind]:
    rows: dict[str, dict[str, Any]] = tomllib.loads(path.read_text(encoding="utf-8"))
    for row in rows.values():
        row["words"] = tuple(row.get("words", ()))
    return {name: Kind(name, **row) for name, row in rows.items()}


KINDS: Mapping[str, Kind] = _read(Path(__file__).with_name("kinds.toml"))


def kind_of(name: str) -> Kind:
    """What a kind means.

    >>> kind_of("fault").may_end_open, kind_of("contact").may_end_open
    (True, False)
    """
    return KINDS.get(name) or Kind(name, graded=True)


def kind_words(name: str) -> str:
    """What a kind is called within a sentence.

    >>> kind_words("thrust"), kind_words("oil_well"), kind_words("hot_spring")
    ('thrust fault', 'drill hole, oil', 'hot spring')
    """
    title = KINDS[name].title if name in KINDS else ""
    return title[:1].lower() + title[1:] if title else name.replace("_", " ")


def a_kind(name: str) -> str:
    """A feature of a kind, with its article.

    >>> a_kind("contact"), a_kind("anticline"), a_kind("unit_area")
    ('a contact', 'an anticline', 'a unit area')
    """
    return with_article(kind_words(name))


def _with_role(role: Role) -> str:
    (found,) = (kind.name for kind in KINDS.values() if kind.role == role)
    return found


SHEET_BORDER, SHORE = _with_role("sheet_border"), _with_role("shore")
UNIT_AREA, UNIT_TAG = _with_role("unit_area"), _with_role("unit_tag")
OVERTURNED = _with_role("overturned")
AXIS_OF_FOLDS = _with_role("axis_of_folds")
SECTION_LINE = _with_role("section_line")
PLACE_NAME = _with_role("named_place")
# What a feature of each table is that says no kind.
USUAL: Mapping[Table, str] = {kind.table: kind.name for kind in KINDS.values() if kind.usual and kind.table}
# What a reading is of that says no kind: how beds lie (common practice).
USUAL_READING = next(kind.name for kind in KINDS.values() if kind.upright)
# What notebooks may hold: every kind that has a word for itself.
NOTED = tuple(sorted(kind.name for kind in KINDS.values() if kind.words))
BOUNDING = frozenset(kind.name for kind in KINDS.values() if kind.bounds_units)
