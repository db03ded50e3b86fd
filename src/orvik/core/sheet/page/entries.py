"""Entries: what may be set on a part, how it is typed, and what it refuses.

A part's settings are the fields of a frozen dataclass; each field is declared with an entry, from which the form is
drawn, what was typed is read, and what a file holds is checked.
"""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from orvik.core.colour.hex import is_colour
from orvik.core.errors import SheetRefused
from orvik.core.ground.coordinates import parse_number, parse_quantity
from orvik.core.ground.scale import LARGEST_DENOMINATOR, SMALLEST_DENOMINATOR, parse_scale
from orvik.core.sheet.page.day import parse_day

LONGEST_TEXT = 100_000


@dataclass(frozen=True)
class SettingField:
    """One setting of a part.

    Attributes
    ----------
    label
        What it is called on its form and in refusals.
    form
        How it is typed; a page has one way of drawing each.
    """

    label: str
    form: ClassVar[str] = "kept"

    def is_valid(self, value: Any) -> bool:
        """Whether a value can be drawn."""
        raise NotImplementedError

    def normalized(self, value: Any) -> Any:
        """A sound value in the one form that is kept in memory."""
        return value

    def stored(self, value: Any) -> Any:
        """A sound value as it is stored, ready for JSON."""
        return value

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        """The value that was typed; ``typed`` holds texts by the names of their fields.

        Raises
        ------
        OrvikError
            It cannot be read.
        """
        return typed[name]

    def fields(self, name: str) -> tuple[str, ...]:
        """The fields of a form that it is typed in."""
        return (name,)

    def given(self, name: str, typed: Mapping[str, str]) -> bool:
        """Whether it is among what was typed."""
        return all(field in typed for field in self.fields(name))


@dataclass(frozen=True)
class Figure(SettingField):
    """A number with a unit; ``optional`` lets it be left empty."""

    low: float = 0.0
    high: float = 1e9
    unit: str = ""
    whole: bool = False
    optional: bool = False
    form: ClassVar[str] = "figure"

    def is_valid(self, value: Any) -> bool:
        return (self.optional and value is None) or is_number(value, self.low, self.high)

    def normalized(self, value: Any) -> Any:
        return value if value is None else int(value) if self.whole else float(value)

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        text = typed[name]
        if self.optional and not text.strip():
            return None
        value = parse_quantity(text, self.label.lower(), SheetRefused)
        if self.whole and value != round(value):
            raise SheetRefused(f"{self.label} is a whole number, not “{text.strip()[:20]}”.")
        return value


@dataclass(frozen=True)
class Scale(SettingField):
    """The denominator of a scale, typed as ``1:25 000``."""

    form: ClassVar[str] = "scale"

    def is_valid(self, value: Any) -> bool:
        return is_number(value, SMALLEST_DENOMINATOR, LARGEST_DENOMINATOR) and value == int(value)

    def normalized(self, value: Any) -> Any:
        return int(value)

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        return parse_scale(typed[name])


@dataclass(frozen=True)
class GroundPlace(SettingField):
    """A place of the ground, typed as easting and northing in two fields, ``east`` and ``north``."""

    optional: bool = False
    form: ClassVar[str] = "place"

    def is_valid(self, value: Any) -> bool:
        if value is None:
            return self.optional
        return isinstance(value, list | tuple) and len(value) == 2 and all(is_number(v, -1e9, 1e9) for v in value)

    def normalized(self, value: Any) -> Any:
        return None if value is None else (float(value[0]), float(value[1]))

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        if self.optional and not (typed["east"].strip() and typed["north"].strip()):
            return None
        return parse_number(typed["east"]), parse_number(typed["north"])

    def fields(self, name: str) -> tuple[str, ...]:
        return ("east", "north")


@dataclass(frozen=True)
class Words(SettingField):
    """A text of one line, or of several."""

    lines: bool = False
    longest: int = 200
    form: ClassVar[str] = "words"

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, str) and len(value) <= self.longest

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        text = typed[name].replace("\r\n", "\n")
        if len(text) > self.longest:
            raise SheetRefused(
                f"{self.label} can hold {self.longest:,} letters and this has {len(text):,}; shorten it."
            )
        return text if self.lines else " ".join(text.split())


@dataclass(frozen=True)
class NameOf(Words):
    """The name of something else in the project; the form of its part offers those there are."""

    form: ClassVar[str] = "kept"


@dataclass(frozen=True)
class Day(Words):
    """A day as ``2026-07-02``, or an empty text for none."""

    def is_valid(self, value: Any) -> bool:
        try:
            return isinstance(value, str) and (not value or parse_day(value) is not None)
        except SheetRefused:
            return False

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        day = parse_day(typed[name])
        return day.isoformat() if day is not None else ""


@dataclass(frozen=True)
class FileOf(SettingField):
    """A file of the project by its checksum, or an empty text for none; given by sending the file."""

    accept: str = ""
    form: ClassVar[str] = "file"

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, str) and (not value or bool(re.fullmatch(r"[0-9a-f]{64}", value)))


@dataclass(frozen=True)
class Switch(SettingField):
    """On or off."""

    form: ClassVar[str] = "switch"

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, bool)

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        return typed[name].lower() in ("true", "on", "1")


@dataclass(frozen=True)
class Choice(SettingField):
    """One of several, by what is kept and what is shown."""

    choices: Mapping[str, str] = dataclasses.field(default_factory=dict)
    form: ClassVar[str] = "choice"

    def is_valid(self, value: Any) -> bool:
        return value in self.choices


@dataclass(frozen=True)
class Colour(SettingField):
    """A colour as ``#RRGGBB``; None for none."""

    form: ClassVar[str] = "colour"

    def is_valid(self, value: Any) -> bool:
        return value is None or is_colour(value)

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        return typed[name].strip().upper() or None


@dataclass(frozen=True)
class PanelNumber(SettingField):
    """The panel that a part speaks of, by its number; None for none yet."""

    form: ClassVar[str] = "panel"

    def is_valid(self, value: Any) -> bool:
        return value is None or (isinstance(value, int) and not isinstance(value, bool))

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        text = typed[name].strip()
        if not text:
            return None
        if not (text.isascii() and text.isdigit()):
            raise SheetRefused("That is no panel of this sheet; choose one from the list.")
        return int(text)


@dataclass(frozen=True)
class PanelNumbers(SettingField):
    """Several panels, by their numbers; typed with commas between them."""

    form: ClassVar[str] = "panels"

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, list | tuple) and all(isinstance(v, int) and not isinstance(v, bool) for v in value)

    def normalized(self, value: Any) -> Any:
        return tuple(dict.fromkeys(value))

    def read(self, name: str, typed: Mapping[str, str]) -> Any:
        one = PanelNumber(self.label)
        numbers = (one.read("one", {"one": text}) for text in typed[name].split(","))
        return tuple(number for number in numbers if number is not None)


@dataclass(frozen=True)
class GroupNumber(SettingField):
    """Which group something is of; set by grouping, not by a form."""

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= 1_000_000

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Mapping[str, str]) -> bool:
        return False


@dataclass(frozen=True)
class Opacities(SettingField):
    """How strongly layers are printed, 0 to 1, by name; set one at a time."""

    def is_valid(self, value: Any) -> bool:
        return isinstance(value, Mapping) and all(is_number(v, 0, 1) for v in value.values())

    def normalized(self, value: Any) -> Any:
        return dict(value)

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Mapping[str, str]) -> bool:
        return False


def entry(kind: SettingField, default: Any = dataclasses.MISSING) -> Any:
    """A field of settings that is declared by an entry; without a default it must be given."""
    metadata = {"entry": kind}
    if isinstance(default, Mapping):
        return dataclasses.field(default_factory=lambda: dict(default), metadata=metadata)
    return dataclasses.field(default=default, metadata=metadata)


def is_number(value: object, low: float, high: float) -> bool:
    """Whether a value is a finite number within bounds."""
    return isinstance(value, float | int) and not isinstance(value, bool) and low <= value <= high
