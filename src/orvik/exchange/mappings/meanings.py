"""What the values of mapped fields are read as, with their counts, and why a field is taken for what it is."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import kind_words
from orvik.core.features.phrases import certainty_by_words, yes_or_no
from orvik.core.features.table import Table
from orvik.exchange.mappings.attributes import ATTRIBUTES
from orvik.exchange.mappings.columns import MOST_VALUES, Column
from orvik.exchange.mappings.mapping import LEFT_OUT, FieldMapping, Known, by_limits

State = Literal["known", "new", "asks", "left out"]
# Two directions that agree, in degrees, and in how many rows.
AGREE_DEGREES, AGREE_SHARE = 1.0, 0.95


@dataclass(frozen=True)
class Meaning:
    """What one value of a field is read as.

    Attributes
    ----------
    ours
        In our terms; empty where it asks.
    said
        What it means in words.
    """

    value: str
    count: int
    ours: str
    said: str
    state: State


@dataclass(frozen=True)
class ValuesOf:
    """The values of one attribute's field.

    ``more`` counts those that are not listed, ``chosen`` says by which field.
    """

    attribute: str
    column: str
    meanings: tuple[Meaning, ...]
    more: int = 0

    @property
    def asking(self) -> int:
        """How many rows hold a value that is not understood."""
        return sum(meaning.count for meaning in self.meanings if meaning.state == "asks")


def values_of(
    mapping: FieldMapping,
    counts: Mapping[str, Sequence[tuple[str, int]]],
    known: Known,
    tables: Sequence[Table],
    codes: Collection[str],
) -> list[ValuesOf]:
    """How the values of each mapped attribute are read.

    Parameters
    ----------
    counts
        Of each attribute whose values mean something, the texts that rows say of it and how often.
    codes
        The units that the project has.
    """
    out = []
    for name, said in counts.items():
        attribute = ATTRIBUTES[name]
        listed = said[:MOST_VALUES]
        meanings = tuple(_meaning(name, text, count, mapping, known, tables, codes) for text, count in listed)
        # What asks stands first: it is what somebody has to look at.
        order = sorted(meanings, key=lambda m: (m.state != "asks", -m.count, m.value))
        column = " + ".join(mapping.fields[attribute.name])
        out.append(ValuesOf(name, column, tuple(order), len(said) - len(listed)))
    return out


def _meaning(
    name: str,
    text: str,
    count: int,
    mapping: FieldMapping,
    known: Known,
    tables: Sequence[Table],
    codes: Collection[str],
) -> Meaning:
    given = mapping.values.get(name, {}).get(text, "")
    if given == LEFT_OUT:
        return Meaning(text, count, LEFT_OUT, "left out", "left out")
    if name == "kind":
        found, beside = _kind(given or text, known, tables)
        return Meaning(text, count, found, beside, "known" if found else "asks")
    if name == "certainty":
        found = certainty_by_words(given or text) or by_limits(mapping.values.get(name, {}), text)
        return Meaning(text, count, found, found, "known" if found in CERTAINTIES else "asks")
    if name == "map_unit":
        # A code that ends so says that the unit is questionable, unless a unit is called so.
        doubt = (given or text).endswith("?") and (given or text) not in codes
        code = (given or text).rstrip("? ") if doubt else given or text
        there = code in codes
        words = f"{'' if there else 'new unit '}{code}{', questionable' if doubt else ''}"
        return Meaning(text, count, given or text, words, "known" if there else "new")
    answer = yes_or_no(given or text)
    word = "" if answer is None else "yes" if answer else "no"
    return Meaning(text, count, word, word, "known" if word else "asks")


def _kind(text: str, known: Known, tables: Sequence[Table]) -> tuple[str, str]:
    """The kind that a text means in the first table that has one, and what that is in words."""
    for table in tables:
        found = known.kind_named(text, table)
        if found:
            phrase = known.names[table].read(text)
            beside = [phrase.certainty, "questionable" if phrase.questionable else ""]
            return found, ", ".join([kind_words(found), *filter(None, beside)])
    return "", ""


def why(
    column: Column,
    mapping: FieldMapping,
    by_values: Collection[str],
    rows: Sequence[Mapping[str, str]],
    values: Sequence[ValuesOf],
) -> tuple[str, bool]:
    """Why a field is taken for what it is, in words, and whether that is sound.

    Parameters
    ----------
    rows
        Some rows of the file as texts, by field.
    """
    meant = [name for name, columns in mapping.fields.items() if column.name in columns]
    if not column.distinct:
        return "empty", True
    if not meant:
        return _agreeing(column, mapping, rows), True
    name = meant[0]
    if name == "dip_direction" and (agrees := _agreeing(column, mapping, rows)):
        return agrees, True
    listed = next((v for v in values if v.attribute == name), None)
    if listed is not None and listed.asking:
        asking = [m for m in listed.meanings if m.state == "asks"]
        known = len(listed.meanings) - len(asking)
        return f"{len(listed.meanings) + listed.more} values, {known} known", False
    if name == "certainty" and mapping.values.get(name):
        limits = [key.removeprefix("<=") for key, meant_by in mapping.values[name].items() if key.startswith("<=")]
        if limits:
            return f"up to {limits[0]} m certain", True
    if name == "map_unit" and listed is not None:
        codes = {m.ours.rstrip("? ") for m in listed.meanings if m.state != "left out"}
        new = {m.ours.rstrip("? ") for m in listed.meanings if m.state == "new"}
        return f"{len(codes - new)} known, {len(new)} new", True
    return ("by its values" if name in by_values else "by its name"), True


def _agreeing(column: Column, mapping: FieldMapping, rows: Sequence[Mapping[str, str]]) -> str:
    """That a field says the same as the strike or the direction of the dip, where it does."""
    for name, turn, words in (
        ("azimuth", 90.0, "agrees with strike + 90"),
        ("dip_direction", -90.0, "agrees with dip direction − 90"),
    ):
        (other,) = mapping.fields.get(name, ("",))[:1]
        pairs = [(_number(row.get(other, "")), _number(row.get(column.name, ""))) for row in rows] if other else []
        both = [(one, two) for one, two in pairs if one is not None and two is not None]
        fit = sum(abs((one + turn - two + 180) % 360 - 180) <= AGREE_DEGREES for one, two in both)
        if len(both) > 2 and fit >= AGREE_SHARE * len(both):
            return words
    return ""


def _number(text: str) -> float | None:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return None
