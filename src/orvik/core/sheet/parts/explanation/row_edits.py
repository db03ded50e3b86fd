"""What hands have done to the rows of an explanation, and how that is stored."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Self

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.entries import SettingField

LONGEST_NAME, LONGEST_TEXT = 300, 4000
MOST_ROWS = 2000
LISTS = ("order", "added", "known")


@dataclass(frozen=True)
class RowEdit:
    """What a row has instead of what the map gives it; None for what is left as it is."""

    name: str | None = None
    text: str | None = None
    heading: str | None = None
    hidden: bool = False

    def __post_init__(self) -> None:
        named, text = (self.name or "", self.heading or ""), self.text or ""
        if not all(isinstance(words, str) for words in (*named, text)) or not isinstance(self.hidden, bool):
            raise SheetRefused("What was changed of a row of this explanation cannot be; change it again.")
        if max(map(len, named)) > LONGEST_NAME or len(text) > LONGEST_TEXT:
            raise SheetRefused(f"A row has a name of up to {LONGEST_NAME} letters and a text of up to {LONGEST_TEXT}.")

    @property
    def words(self) -> dict[str, Any]:
        """The texts that it has of its own, by name."""
        texts = {"name": self.name, "text": self.text, "heading": self.heading}
        return {name: text for name, text in texts.items() if text is not None}


@dataclass(frozen=True)
class RowEdits:
    """What hands have done to the rows of an explanation.

    Attributes
    ----------
    rows
        What is changed of rows, by their keys.
    order
        The keys as they were put; empty for the order of the map.
    added
        Keys of rows that the map does not give.
    known
        Keys of those that were there when it was last looked at; None where nobody has looked yet.
    """

    rows: Mapping[str, RowEdit] = field(default_factory=dict)
    order: tuple[str, ...] = ()
    added: tuple[str, ...] = ()
    known: tuple[str, ...] | None = None

    def __post_init__(self) -> None:
        if max(len(self.rows), len(self.order), len(self.added), len(self.known or ())) > MOST_ROWS:
            raise SheetRefused(f"An explanation has up to {MOST_ROWS} rows.")

    def row(self, key: str) -> RowEdit:
        """What is changed of a row."""
        return self.rows.get(key, RowEdit())

    def with_row(self, key: str, edit: RowEdit) -> RowEdits:
        """The same with another edit of a row; one that changes nothing goes."""
        rows = {**self.rows, key: edit}
        if edit == RowEdit():
            del rows[key]
        return replace(self, rows=rows)

    def renamed(self, old: str, new: str) -> RowEdits:
        """The same with another key for a row."""

        def now(key: str) -> str:
            return new if key == old else key

        known = tuple(now(key) for key in self.known) if self.known is not None else None
        order, added = (tuple(now(key) for key in keys) for keys in (self.order, self.added))
        return RowEdits({now(key): edit for key, edit in self.rows.items()}, order, added, known)

    def gone_along(self, was: RowEdits, now: RowEdits) -> RowEdits:
        """The same with what changed of rows between two others, but for rows that have something of their own here."""
        rows = dict(self.rows)
        for key in {*was.rows, *now.rows}:
            if was.row(key) != now.row(key) and self.row(key) == was.row(key):
                rows[key] = now.row(key)
        return replace(self, rows={key: edit for key, edit in rows.items() if edit != RowEdit()})

    def without(self, key: str) -> RowEdits:
        """The same without a row that was added."""
        return RowEdits(
            {other: edit for other, edit in self.rows.items() if other != key},
            tuple(other for other in self.order if other != key),
            tuple(other for other in self.added if other != key),
            self.known,
        )

    @classmethod
    def from_dict(cls, values: Mapping[str, Any]) -> Self:
        """From what is stored: lists of keys under their names, and under each key what is changed of its row.

        Raises
        ------
        SheetRefused
            It is something else.
        """
        lists = {name: values[name] for name in LISTS if name in values}
        rows = {str(key): edit for key, edit in values.items() if key not in LISTS}
        if not all(_are_keys(keys) for keys in lists.values()) or not all(_is_edit(edit) for edit in rows.values()):
            raise SheetRefused("What was changed of the rows of this explanation cannot be; change them again.")
        return cls(
            {key: RowEdit(**edit) for key, edit in rows.items()},
            **{name: tuple(keys) for name, keys in lists.items()},
        )

    def to_dict(self) -> dict[str, Any]:
        """As it is stored."""
        values: dict[str, Any] = {
            key: edit.words | ({"hidden": True} if edit.hidden else {}) for key, edit in self.rows.items()
        }
        if self.order:
            values["order"] = list(self.order)
        if self.added:
            values["added"] = list(self.added)
        if self.known is not None:
            values["known"] = list(self.known)
        return values


NO_EDITS = RowEdits()


@dataclass(frozen=True)
class RowEditsEntry(SettingField):
    """The setting that holds what hands have done to rows; it is on no form."""

    def is_valid(self, value: Any) -> bool:
        if isinstance(value, RowEdits):
            return True
        try:
            return isinstance(value, Mapping) and bool(RowEdits.from_dict(value))
        except SheetRefused:
            return False

    def normalized(self, value: Any) -> RowEdits:
        return value if isinstance(value, RowEdits) else RowEdits.from_dict(value)

    def stored(self, value: RowEdits) -> dict[str, Any]:
        return value.to_dict()

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Mapping[str, str]) -> bool:
        return False


def _are_keys(keys: object) -> bool:
    return isinstance(keys, Sequence) and not isinstance(keys, str) and all(isinstance(key, str) for key in keys)


def _is_edit(edit: object) -> bool:
    return isinstance(edit, Mapping) and not set(edit) - {"name", "text", "heading", "hidden"}
