"""A mapping: what the fields and the values of a file mean here, and the rows of the file by it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from orvik.core.errors import FeatureRefused, ScaleRefused
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import OVERTURNED, kind_of, kind_words
from orvik.core.features.phrases import KindNames, certainty_by_words, yes_or_no
from orvik.core.features.reading import parse_dip
from orvik.core.features.reconciling import Stated, reconciled
from orvik.core.features.table import Table
from orvik.core.ground.scale import parse_scale
from orvik.exchange.mappings.attributes import ATTRIBUTES

# What a value may mean besides one of ours: rows that hold it are left out.
LEFT_OUT = "-"
_LIMIT = re.compile(r"(<=|>)\s*(\d+(?:\.\d+)?)")
# The attributes of which an attitude is made.
_STATED = ("azimuth", "inclination", "dip_direction", "dip_quadrant", "reading")


@dataclass(frozen=True)
class FieldMapping:
    """How a file is to be understood.

    Attributes
    ----------
    fields
        The file's fields for each attribute of ours; several are put together.
    kinds
        The kind of features that do not say it, for each table.
    stated
        The coordinate system of a file that does not state one.
    constants
        What holds of features that do not say it, as it is typed; see ``attributes.CONSTANTS``.
    values
        What values of a field mean, for each attribute: one of ours, or ``LEFT_OUT``. A certainty by metres has limits
        for values: ``<=25`` and ``>25``.
    source
        Where the features come from, in words; empty for the name of the file.
    """

    fields: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    kinds: Mapping[Table, str] = field(default_factory=dict)
    stated: str = ""
    constants: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    source: str = ""

    @property
    def used(self) -> frozenset[str]:
        """The fields of the file that mean something."""
        return frozenset(column for columns in self.fields.values() for column in columns)


@dataclass(frozen=True)
class Known:
    """What values can mean in a project: its kinds by what they are called, and the codes of its units."""

    kinds: Mapping[Table, frozenset[str]]
    names: Mapping[Table, KindNames]
    codes: frozenset[str] = frozenset()

    def kind_named(self, text: str, table: Table) -> str:
        """The kind of a table that a text names; empty where it names none."""
        word = kind_word(text)
        return word if word in self.kinds[table] else self.names[table].read(text).kind or ""

    def settled(self, mapping: FieldMapping) -> FieldMapping:
        """A mapping with values in our terms, without those that mean themselves: as it is saved."""
        values = {name: dict(meant) for name, meant in mapping.values.items()}
        kinds = values.get("kind", {})
        for raw, meant in kinds.items():
            if meant != LEFT_OUT:
                kinds[raw] = next((found for table in self.kinds if (found := self.kind_named(meant, table))), meant)
        kept = {
            name: {raw: meant for raw, meant in said.items() if meant and raw != meant} for name, said in values.items()
        }
        return replace(mapping, values={name: said for name, said in kept.items() if said})


def value_text(value: Any) -> str:
    """A value as text; a whole number that a file holds as a decimal one stays whole."""
    if value is None:
        return ""
    if isinstance(value, float):
        if value != value:
            return ""
        if value.is_integer() and abs(value) < 1e15:
            value = int(value)
    return str(value).strip()


def kind_word(value: Any) -> str:
    """A kind as ours are written: small letters and underscores."""
    return re.sub(r"[\s-]+", "_", str(value or "").strip().lower())


def joined(name: str, values: Mapping[str, Any], columns: Sequence[str]) -> str:
    """What a row says of an attribute, its fields put together: what two of them say alike stands once."""
    texts = [text for column in columns if (text := value_text(values.get(column)))]
    # The parts of a colour may be the same.
    return (ATTRIBUTES[name].joiner or "").join(texts if name == "unit_colour" else dict.fromkeys(texts))


class RowReader:
    """Reads the rows of a layer by a mapping.

    Parameters
    ----------
    columns
        The fields of the layer for each attribute, as the layer calls them.
    """

    def __init__(self, mapping: FieldMapping, columns: Mapping[str, Sequence[str]], known: Known) -> None:
        self._mapping = mapping
        self._columns = columns
        self._known = known
        # The same words are read once.
        self._attitudes: dict[tuple[str, ...], dict[str, Any]] = {}
        self._phrases: dict[tuple[Table, str], dict[str, Any]] = {}
        self._constants = {
            name: self._read(name, text, "points") for name, text in mapping.constants.items() if text.strip()
        }

    def attributes(self, values: Mapping[str, Any], table: Table, default: str) -> dict[str, Any]:
        """A row's values in our terms, for a feature of a table.

        Parameters
        ----------
        default
            The kind of a feature that does not state one.

        Raises
        ------
        ReadingRefused
            The fields of an attitude contradict each other, or one of them cannot be read.
        FeatureRefused
            A value is not understood, or its rows are to be left out.
        """
        said = {name: joined(name, values, columns) for name, columns in self._columns.items()}
        out: dict[str, Any] = {}
        for constant in self._constants.values():
            out |= constant
        for name, text in said.items():
            if text and name not in _STATED and name != "overturned":
                found = self._read(name, text, table)
                # What a field says of its own counts more than what a phrase for a kind says beside.
                out |= found if name != "kind" else {k: v for k, v in found.items() if k == "kind" or not said.get(k)}
        kind = str(out.get("kind", default))
        if said.get("overturned") and self._answer("overturned", said["overturned"]):
            kind = out["kind"] = _overturned(kind)
        key = (kind, *(said.get(name, "") for name in _STATED))
        if key not in self._attitudes:
            self._attitudes[key] = _attitude(said, kind)
        return out | self._attitudes[key]

    def _read(self, name: str, text: str, table: Table) -> dict[str, Any]:
        if name == "kind":
            key = (table, text)
            if key not in self._phrases:
                self._phrases[key] = self._kind(text, table)
            return self._phrases[key]
        if name == "certainty":
            return {"certainty": self._certainty(text)}
        if name == "questionable":
            return {"questionable": self._answer(name, text)}
        if name == "map_unit":
            return self._unit(text)
        if name == "capture_scale":
            return {"capture_scale": _scale(text)}
        return {name: text}

    def _mapped(self, name: str, text: str) -> str:
        found = self._mapping.values.get(name, {}).get(text, "")
        if found == LEFT_OUT:
            raise FeatureRefused(f"Rows of “{text[:40]}” are left out, as chosen.")
        return found

    def _kind(self, text: str, table: Table) -> dict[str, Any]:
        given = self._mapped("kind", text)
        found = self._known.kind_named(given or text, table)
        if not found:
            raise FeatureRefused(f"“{text[:40]}” is not a kind of {table} here; choose what it means.")
        said: dict[str, Any] = {"kind": found}
        if kind_word(text) == found:
            return said
        # What the words say beside the kind holds whatever the kind is taken for.
        phrase = self._known.names[table].read(text)
        if phrase.certainty:
            said["certainty"] = phrase.certainty
        if phrase.questionable:
            said["questionable"] = True
        return said

    def _certainty(self, text: str) -> str:
        found = certainty_by_words(self._mapped("certainty", text) or text)
        found = found or by_limits(self._mapping.values.get("certainty", {}), text)
        if found not in CERTAINTIES:
            raise FeatureRefused(f"“{text[:40]}” is not a certainty; choose what it means.")
        return found

    def _answer(self, name: str, text: str) -> bool:
        found = yes_or_no(self._mapped(name, text) or text)
        if found is None:
            what = ATTRIBUTES[name].label.lower()
            raise FeatureRefused(f"“{text[:20]}” does not say whether it is {what}; write 1 or 0.")
        return found

    def _unit(self, text: str) -> dict[str, Any]:
        code = self._mapped("map_unit", text) or text
        if code.endswith("?") and code.rstrip("? ") and code not in self._known.codes:
            return {"map_unit": code.rstrip("? "), "questionable": True}
        return {"map_unit": code}


def is_limit(raw: str) -> bool:
    """Whether a value of a mapping is a limit of metres.

    >>> is_limit("<=25"), is_limit("25")
    (True, False)
    """
    return _LIMIT.fullmatch(raw) is not None


def by_limits(limits: Mapping[str, str], text: str) -> str:
    """The certainty that metres mean by limits such as ``<=25``; empty where none holds.

    >>> by_limits({"<=25": "certain", ">25": "approximate"}, "100")
    'approximate'
    """
    try:
        metres = float(text.replace(",", "."))
    except ValueError:
        return ""
    if metres < 0:
        # Files write −9 for what nobody knows (GeMS).
        return ""
    found = [(m[1], float(m[2]), meant) for key, meant in limits.items() if (m := _LIMIT.fullmatch(key))]
    below = sorted((most, meant) for sign, most, meant in found if sign == "<=" and metres <= most)
    if below:
        return below[0][1]
    above = sorted((least, meant) for sign, least, meant in found if sign == ">" and metres > least)
    return above[-1][1] if above else ""


def _overturned(kind: str) -> str:
    if kind == OVERTURNED:
        return kind
    if not kind_of(kind).upright:
        raise FeatureRefused(f"It is said to be overturned, and {kind_words(kind)} cannot be; check the row.")
    return OVERTURNED


def _attitude(said: Mapping[str, str], kind: str) -> dict[str, Any]:
    """The attitude that is stated; a dip alone, as of an inclined sheet, is none."""
    stated = Stated(*(said.get(name, "") for name in _STATED))
    if stated.dip and not (stated.strike or stated.direction or stated.quadrant or stated.reading):
        return {"inclination": parse_dip(stated.dip)[0]}
    attitude = reconciled(stated, kind)
    return {} if attitude is None else {"azimuth": attitude.azimuth, "inclination": attitude.inclination}


def _scale(text: str) -> int:
    try:
        return parse_scale(text)
    except ScaleRefused as refusal:
        raise FeatureRefused(refusal.sentence) from refusal
