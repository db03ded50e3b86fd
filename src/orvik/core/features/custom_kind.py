"""Kinds of one's own: a pen for points, lines or areas, with fields of its own and a symbol for each choice."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from datetime import date
from typing import Any

from orvik.core.colour.hex import is_colour
from orvik.core.errors import FeatureRefused
from orvik.core.features.table import Table
from orvik.core.ground.coordinates import parse_quantity

TYPES = ("choice", "number", "text", "date")
SHAPES = ("circle", "square", "triangle", "diamond", "cross")
DASHES: dict[str, tuple[float, ...]] = {"solid": (), "dashed": (2.4, 1.0), "dotted": (0.4, 0.8)}
COLOURS = ("#7A3E9D", "#1F6F6B", "#A86A12", "#2C5F8A", "#8A2F4B", "#4E6B2A", "#5B6B78", "#C07A2B")
NAMES: dict[Table, str] = {"points": "Point", "lines": "Line", "areas": "Area"}


@dataclass(frozen=True)
class FieldChoice:
    """One value of a list, with its colour and the key that logs it."""

    value: str
    colour: str = ""
    key: str = ""


@dataclass(frozen=True)
class CustomField:
    """A field: what it is called, what it takes, and whether it must be filled in."""

    name: str
    kind: str = "text"
    choices: tuple[FieldChoice, ...] = ()
    required: bool = False

    def checked(self, text: Any) -> Any:
        """A value as it is kept; None for nothing.

        Raises
        ------
        FeatureRefused
            It is required and missing, or is not what the field takes.
        """
        value = str(text).strip() if text is not None else ""
        if not value:
            if self.required:
                raise FeatureRefused(f"“{self.name}” must be filled in.")
            return None
        if self.kind == "choice":
            if value not in [c.value for c in self.choices]:
                listed = ", ".join(c.value for c in self.choices)
                raise FeatureRefused(f"“{value}” is not in the list of {self.name}; choose {listed}.")
            return value
        if self.kind == "number":
            return parse_quantity(value, f"number for {self.name}", FeatureRefused)
        if self.kind == "date":
            try:
                return date.fromisoformat(value).isoformat()
            except ValueError as error:
                raise FeatureRefused(f"{self.name} takes a date as 2026-05-31, not “{value}”.") from error
        return value


# Letters of the name of a kind; its label may have more.
LONGEST_KIND = 40


def kind_name(label: str) -> str:
    """The name of a kind as features hold it, in the letters that it was given: sentences say it so.

    >>> kind_name("Peat cover"), kind_name("Ölschiefer (dünn)"), kind_name("नदी किनारा")
    ('peat_cover', 'ölschiefer_dünn', 'नदी_किनारा')
    """
    plain = unicodedata.normalize("NFKC", label).lower()
    pieces = "".join(c if _is_written(c) else " " for c in plain).split()
    return "_".join(pieces)[:LONGEST_KIND].rstrip("_")


def _is_written(sign: str) -> bool:
    """Whether it is a letter, a figure, or a mark: a vowel or a tone that belongs to its letter."""
    return sign.isalnum() or unicodedata.category(sign)[0] == "M"


def _is_kind_name(name: str) -> bool:
    whole = all(sign == "_" or _is_written(sign) for sign in name)
    return whole and name[:1].isalpha() and name == name.lower() and len(name) <= LONGEST_KIND


@dataclass(frozen=True)
class CustomKind:
    """A kind of feature that a project has made for itself.

    Attributes
    ----------
    name
        As features hold it: small letters and underscores.
    shape
        Of a point's symbol; one of ``SHAPES``.
    width, dash
        Of a line's symbol, in millimetres; the dash is one of ``DASHES``.
    """

    name: str
    label: str
    table: Table
    colour: str = COLOURS[0]
    shape: str = "circle"
    width: float = 0.3
    dash: str = "solid"
    fields: tuple[CustomField, ...] = field(default_factory=tuple)
    position: int = 1

    def __post_init__(self) -> None:
        if not _is_kind_name(self.name):
            raise FeatureRefused("A kind needs a name that begins with a letter, such as Spring.")
        if not is_colour(self.colour):
            raise FeatureRefused(f"“{self.colour[:20]}” is not a colour; type six digits such as #7A3E9D.")
        if self.table not in NAMES or self.shape not in SHAPES or self.dash not in DASHES:
            raise FeatureRefused("A kind is a point, a line or an area, with one of the symbols in the list.")
        if not self.label.strip() or len(self.label) > 60:
            raise FeatureRefused("A kind needs a name of up to 60 letters, such as Spring.")
        if not 0.05 <= self.width <= 5:
            raise FeatureRefused("A line is 0.05 to 5 mm wide on the sheet; type another width.")
        names = [f.name for f in self.fields]
        if len(set(names)) != len(names):
            raise FeatureRefused("Two fields have the same name; give each its own.")
        for one in self.fields:
            if one.kind not in TYPES or not one.name.strip():
                raise FeatureRefused("A field needs a name, and takes a choice, a number, a text or a date.")
            if any(choice.colour and not is_colour(choice.colour) for choice in one.choices):
                raise FeatureRefused(
                    f"A colour in the list of {one.name} is not a colour; type six digits such as #7A3E9D."
                )
            if len(one.name) > 60 or any(len(choice.value) > 60 for choice in one.choices):
                raise FeatureRefused("The names and values of fields are at most 60 letters long; shorten them.")
            if one.kind == "choice" and not one.choices:
                raise FeatureRefused(f"The list of {one.name} is empty; type its values with commas between them.")

    @property
    def signed_by(self) -> CustomField | None:
        """The list that the symbol depends on: the first one."""
        return next((f for f in self.fields if f.kind == "choice"), None)

    def variant(self, values: Mapping[str, Any]) -> str:
        """Which of the kind's symbols a feature takes: the value of the list, empty where it has none."""
        by = self.signed_by
        return str(values.get(by.name) or "") if by else ""

    def checked(self, values: Mapping[str, Any]) -> dict[str, Any]:
        """The fields of a feature as they are kept; raises FeatureRefused."""
        unknown = set(values) - {f.name for f in self.fields}
        if unknown:
            raise FeatureRefused(f"{self.label} has no field {sorted(unknown)[0]}.")
        kept = {f.name: f.checked(values.get(f.name)) for f in self.fields}
        return {name: value for name, value in kept.items() if value is not None}

    @property
    def symbol_text(self) -> str:
        """Its symbol as the project file holds it."""
        return json.dumps(
            {"colour": self.colour, "shape": self.shape, "width": self.width, "dash": self.dash}, sort_keys=True
        )

    @property
    def fields_text(self) -> str:
        """Its fields as the project file holds them."""
        return json.dumps([asdict(f) for f in self.fields], ensure_ascii=False)

    @staticmethod
    def of(name: str, label: str, table: Table, symbol: str, fields: str, position: int) -> CustomKind:
        """From the project file."""
        made = tuple(
            CustomField(f["name"], f["kind"], tuple(FieldChoice(**c) for c in f["choices"]), f["required"])
            for f in json.loads(fields)
        )
        return CustomKind(name, label, table, fields=made, position=position, **json.loads(symbol))

    def variants(self) -> list[tuple[str, str, str]]:
        """Its symbols: variant, label and colour; the plain one first."""
        by = self.signed_by
        variants = [("", self.label, self.colour)]
        if by:
            for i, choice in enumerate(by.choices):
                colour = choice.colour or COLOURS[(i + 1) % len(COLOURS)]
                variants.append((choice.value, f"{self.label}, {choice.value}", colour))
        return variants


def parse_choices(text: str) -> tuple[FieldChoice, ...]:
    """A list typed as ``dry, damp #2C5F8A, wet``; each value gets its first free letter or figure as key.

    >>> [(choice.value, choice.colour) for choice in parse_choices("dry #999999, wet")]
    [('dry', '#999999'), ('wet', '')]
    """
    out: list[FieldChoice] = []
    keys: set[str] = set()
    for piece in text.split(","):
        match = re.fullmatch(r"\s*(.*?)\s*(#[0-9A-Fa-f]{6})?\s*", piece)
        if match is None or not match[1]:
            continue
        letters = [c.upper() for c in match[1] if c.isalnum() and c.isascii()]
        key = next((c for c in letters if c not in keys and not c.isdigit()), "")
        keys.add(key)
        out.append(FieldChoice(match[1], match[2] or "", key))
    return tuple(out)
