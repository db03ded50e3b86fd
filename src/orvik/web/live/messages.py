"""The messages that a page sends over its live connection, each with its fields and what they may hold.

One message is answered by one message with the same number ``n``. A refusal is an answer too: it holds the sentence
under ``refused``.
"""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, Field

from orvik.core.features.table import FeatureKey, Table
from orvik.core.ground.scale import LARGEST_DENOMINATOR

LARGEST_MESSAGE = 256_000
MOST_PLACES = 20_000


def _scale(value: object) -> int:
    number = float(value) if isinstance(value, int | float | str) else math.nan
    if not math.isfinite(number):
        raise ValueError("not a number")
    return max(1, min(round(number), LARGEST_DENOMINATOR))


Number = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(ge=-(2**53), le=2**53)]
# The denominator of the scale of the view that a message comes from.
Scale = Annotated[int, BeforeValidator(_scale)]
Text = Annotated[str, Field(max_length=100_000)]
NumberPair = tuple[Number, Number]


class Message(BaseModel):
    """Any message; what it asks for is its ``do``.

    ``section`` is the number of the line of the section that it speaks of; None speaks of the map.
    """

    section: Whole | None = None


class At(Message):
    """A place, in project coordinates."""

    x: Number
    y: Number

    @property
    def place(self) -> tuple[float, float]:
        return self.x, self.y


class Click(At):
    """A place that was clicked, the number of the ring that was shown there, and the scale of the view."""

    scale: Scale
    ring: Whole | None = None


class Named(BaseModel):
    """A feature, by its table and its number."""

    table: Table
    id: Whole

    @property
    def key(self) -> FeatureKey:
        return self.table, self.id


class Features(Message):
    """Some features."""

    features: list[Named]


class Selection(Features):
    """Features selected as the page saw them at a revision."""

    revision: Whole


# The ring


class Hover(At):
    """The pointer has moved; ``free`` holds nothing, ``moving`` holds though no pen is selected."""

    free: bool = False
    moving: bool = False
    scale: Number | None = None


class Aim(At):
    """A place for a control point is looked for within ``reach`` project units."""

    reach: Number


class Snap(Message):
    """How large the ring is, in ``m``, ``mm`` on the sheet or ``px``, what it holds, and in which tables."""

    radius: Number
    unit: str = "m"
    vertex: bool = False
    edge: bool = False
    end: bool = False
    crossing: bool = False
    middle: bool = False
    extension: bool = False
    layers: dict[str, bool] | None = None


# Drawing


class Hello(Message):
    """A page names its window."""

    window_id: Text


class TakePen(Message):
    """A pen by its name, or none."""

    name: str | None = None


class TakeWay(Message):
    """How the next span is led."""

    way: str


class Align(Message):
    """Keep the next span at ``right`` angles, ``parallel`` to the edge at the pointer, or free."""

    how: str | None = None
    x: Number | None = None
    y: Number | None = None


class Press(Click):
    """A click with a pen; ``unit`` and ``fields`` are what the slip holds."""

    unit: str | None = None
    fields: dict[str, Any] | None = None


class FreeHand(Message):
    """A stretch that was drawn with the button held."""

    places: Annotated[list[NumberPair], Field(max_length=MOST_PLACES)]
    scale: Scale


class Step(Message):
    """A bearing and a distance as typed."""

    text: Text


class Finish(Message):
    """Keep what is drawn, with what the slip says."""

    unit: str | None = None
    fields: dict[str, Any] | None = None
    width: str | float | None = None
    width_on: str | None = None
    overlap: Literal["ask", "below", "above"] | None = None
    fill: bool = False


# Attitudes


class Reading(Message):
    """A reading as typed."""

    text: Text
    dip_direction: bool = False


class TakeStation(Message):
    """A station of the notebook by its number."""

    station: Whole


class Strike(At):
    """The places of a stroke along a symbol, and a place on the side that it dips to."""

    along: Annotated[list[NumberPair], Field(min_length=2, max_length=MOST_PLACES)]


class KeepReading(Reading):
    """The reading that is kept, with a note."""

    note: Text | None = None


# What is selected


class Pick(At):
    """What lies within ``reach`` project units of the pointer."""

    reach: Number


class PickBox(Message):
    """What lies wholly in a box."""

    west: Number
    south: Number
    east: Number
    north: Number


class Alike(Features):
    """Features like the first of these."""

    features: Annotated[list[Named], Field(min_length=1)]


class Neighbour(Alike):
    """The next or the previous feature of a kind."""

    forward: bool = False


class PickWhere(Message):
    """Features by ``table:kind`` and what else they hold."""

    kind: str | None = None
    certainty: str | None = None
    map_unit: str | None = None
    questionable: str | None = None


# Changing


class MoveVertex(Selection, Click):
    """A vertex of a path moves to a click; ``insert`` makes a new one, ``apart`` leaves neighbours where they are."""

    path: Whole
    vertex: Whole
    insert: bool = False
    apart: bool = False


class RemoveVertex(Selection):
    """A vertex of a path goes."""

    path: Whole
    vertex: Whole


class LeadOn(Selection, At):
    """The end nearest to the pointer is led on to a line, or trimmed at one."""


class OnEdge(Selection, Click):
    """A click on the edge of what is selected, within ``reach`` project units."""

    reach: Number = 0.0


class OnOther(Selection, At):
    """A click on another feature, within ``reach`` project units."""

    reach: Number = 0.0


class Join(Selection):
    """Join two selected, or the one selected with the one that is clicked."""

    x: Number = 0.0
    y: Number = 0.0
    reach: Number = 0.0


class MoveWhole(Selection, Click):
    """The first or the second click of a move."""


class Parallel(Selection):
    """A distance as typed."""

    text: Text | None = None


class StretchEnd(OnEdge):
    """The first or the second click of a stretch, with its certainty and side."""

    certainty: str
    side: str | None = None


# Areas


class Begin(Selection):
    """Begin to draw ``reshape``, ``split`` or ``hole`` for what is selected."""

    what: str


class TrimOverlaps(Selection):
    """Which gives way: the selected area lies ``below``, or above."""

    order: str | None = None


class ClipToShore(Selection):
    """Which side of the shoreline stays, ``larger`` or ``smaller``; empty for the one that is land for certain."""

    side: str | None = None


class Fill(At):
    """Fill the open ground at the pointer with a unit."""

    scale: Scale
    unit: str | None = None


# Findings


class Fix(Message):
    """Do what a finding proposes, with a unit where it asks for one."""

    key: Text
    unit: str | None = None


def read_message(text: str | None) -> dict[str, Any] | None:
    """A message as it was sent; None for what is none, or no JSON that a page of ours sends."""
    if text is None or len(text) > LARGEST_MESSAGE:
        return None
    try:
        message = json.loads(text, parse_constant=_no_number, parse_int=_whole_number)
        if "\\ud" in text.lower():
            # Half of a letter can be kept nowhere.
            json.dumps(message, ensure_ascii=False).encode()
    except (ValueError, RecursionError):
        return None
    return message if isinstance(message, dict) else None


def _no_number(name: str) -> float:
    raise ValueError(f"{name} is not a number")


def _whole_number(digits: str) -> int:
    if len(digits) > 18:
        raise ValueError("a number of so many digits")
    return int(digits)


def text_or_none(value: str | None) -> str | None:
    """A text, or None for an empty one."""
    return value or None


def tables_named(layers: Mapping[str, bool] | None, tables: tuple[Table, ...]) -> frozenset[Table]:
    """The tables that a page's switches leave on; all where it names none."""
    return frozenset(table for table in tables if layers is None or layers.get(table, True))
