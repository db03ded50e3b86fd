"""A project's own sign book as a file: given out, read again, and compared with what a project has."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from orvik.core.errors import OrvikError, SignRefused
from orvik.core.features.own_kind import OwnKind
from orvik.core.symbols.drawn_symbol import DrawnSign
from orvik.core.symbols.emphasis import Theme
from orvik.core.symbols.joined_kinds import read_now, worn_of
from orvik.core.symbols.symbol_rule import SignRule

FORM, VERSION = "orvik sign book", 1
LARGEST_FILE = 900_000
MOST_ENTRIES = 500
T = TypeVar("T")


@dataclass(frozen=True)
class GivenBook:
    """What a project has made for itself: signs it has drawn, kinds of its own, themes, signs on condition.

    ``left`` says in sentences which entries of a file cannot be.
    """

    name: str
    signs: tuple[DrawnSign, ...] = ()
    kinds: tuple[OwnKind, ...] = ()
    themes: tuple[Theme, ...] = ()
    conditions: tuple[SignRule, ...] = ()
    left: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The file."""
        whole = {
            "form": FORM,
            "version": VERSION,
            "name": self.name,
            "signs": [
                {"name": s.name, "family": s.family, "title": s.title, "body": json.loads(s.body)} for s in self.signs
            ],
            "kinds": [
                {
                    "name": k.name,
                    "label": k.label,
                    "family": k.table,
                    "sign": json.loads(k.sign_text),
                    "fields": json.loads(k.fields_text),
                }
                for k in self.kinds
            ],
            "themes": [{"name": t.name, "body": json.loads(t.body)} for t in self.themes],
            "conditions": [{"family": r.table, "kind": r.kind, "body": json.loads(r.body)} for r in self.conditions],
        }
        return json.dumps(whole, ensure_ascii=False, indent=1) + "\n"


def read_given(text: str) -> GivenBook:
    """A book as it was given out, without the entries that cannot be, each of which it names.

    Raises
    ------
    SignRefused
        It is no such book, or is of another version.
    """
    if len(text) > LARGEST_FILE:
        raise SignRefused(f"This file has {len(text) // 1000} kB; a sign book has {LARGEST_FILE // 1000} at the most.")
    try:
        # What is no number in JSON is none here either, and its entry is left out.
        whole = json.loads(text, parse_constant=lambda _: None)
        whole = read_now(whole, _claimed(whole))
    except (ValueError, RecursionError) as error:
        raise SignRefused("This is no sign book: it cannot be read.") from error
    if not isinstance(whole, dict) or whole.get("form") != FORM:
        raise SignRefused("This is no sign book; take one that was given out by Orvik.")
    if whole.get("version") != VERSION:
        raise SignRefused(
            f"This sign book is of version {str(whole.get('version'))[:20]}, and only version {VERSION} can be read; "
            "take one given out by this Orvik."
        )
    left: list[str] = []
    return GivenBook(
        str(whole.get("name", ""))[:200],
        _entries(whole, "signs", _sign, lambda sign: sign.name, left),
        _entries(whole, "kinds", _kind, lambda kind: kind.name, left),
        _entries(whole, "themes", _theme, lambda theme: theme.name, left),
        # Two conditions may ask the same, one after the other.
        _entries(whole, "conditions", _rule, None, left),
        tuple(left),
    )


def _claimed(whole: Any) -> list[str]:
    """The ids of the signs of the book that wear a sign of this one."""
    signs = whole.get("signs") if isinstance(whole, dict) else None
    rows = signs if isinstance(signs, list) else []
    return [worn for row in rows if isinstance(row, dict) for worn in worn_of(row.get("body"))]


def _entries(
    whole: Mapping[str, Any],
    what: str,
    make: Callable[[Any], T],
    name: Callable[[T], str] | None,
    left: list[str],
) -> tuple[T, ...]:
    rows = whole.get(what, [])
    if not isinstance(rows, list) or len(rows) > MOST_ENTRIES:
        raise SignRefused(f"The {what} of this sign book are no list of up to {MOST_ENTRIES}.")
    out: list[T] = []
    names: set[str] = set()
    for number, row in enumerate(rows, 1):
        called = (
            next((str(row[k])[:40] for k in ("title", "label", "name", "kind") if k in row), "")
            if (isinstance(row, dict))
            else ""
        )
        words = f"“{called}”" if called else f"Number {number} of the {what}"
        try:
            made = make(row)
        except OrvikError as refusal:
            left.append(f"{words} is left out: {refusal.sentence}")
            continue
        except (KeyError, TypeError, ValueError, AttributeError, OverflowError, RecursionError):
            left.append(f"{words} is left out: it cannot be read.")
            continue
        if name is not None and name(made) in names:
            left.append(f"{words} is left out: there are two of this name.")
            continue
        names |= {name(made)} if name is not None else set()
        out.append(made)
    return tuple(out)


def _sign(row: Mapping[str, Any]) -> DrawnSign:
    return DrawnSign.of(str(row["name"]), str(row["family"]), str(row["title"]), json.dumps(row["body"]))


def _kind(row: Mapping[str, Any]) -> OwnKind:
    sign, fields = json.dumps(row["sign"]), json.dumps(row["fields"])
    return OwnKind.of(str(row["name"]), str(row["label"]), row["family"], sign, fields, 1)


def _theme(row: Mapping[str, Any]) -> Theme:
    return Theme.of(str(row["name"]), json.dumps(row["body"]))


def _rule(row: Mapping[str, Any]) -> SignRule:
    return SignRule.of(str(row["family"]), str(row["kind"]), json.dumps(row["body"]))


@dataclass(frozen=True)
class Difference:
    """An entry of a given book that a project lacks, or has otherwise.

    Attributes
    ----------
    key
        ``signs peak``: what it is and its name.
    there
        As the project has it; None for nothing.
    given
        As the book has it.
    """

    key: str
    title: str
    there: DrawnSign | OwnKind | Theme | SignRule | None
    given: DrawnSign | OwnKind | Theme | SignRule


def differences(given: GivenBook, there: GivenBook) -> tuple[list[Difference], int]:
    """What taking a book in would change, and how many of its entries are as the project has them."""
    found: list[Difference] = []
    same = 0
    for what, new, old in _pairs(given, there):
        by_name = dict(zip(_names(old), old, strict=True))
        for name, entry in zip(_names(new), new, strict=True):
            held = by_name.get(name)
            if held is not None and _alike(held) == _alike(entry):
                same += 1
            else:
                found.append(Difference(f"{what} {name}", _title(entry), held, entry))
    return found, same


def _names(entries: Sequence[Entry]) -> list[str]:
    """What entries are known by: of several of one name the later ones by their number, too."""
    counts: Counter[str] = Counter()
    out = []
    for entry in entries:
        counts[entry.name] += 1
        out.append(entry.name if counts[entry.name] == 1 else f"{entry.name} ({counts[entry.name]})")
    return out


Entry = DrawnSign | OwnKind | Theme | SignRule


def _pairs(given: GivenBook, there: GivenBook) -> list[tuple[str, Sequence[Entry], Sequence[Entry]]]:
    return [
        ("signs", given.signs, there.signs),
        ("kinds", given.kinds, there.kinds),
        ("themes", given.themes, there.themes),
        ("conditions", given.conditions, there.conditions),
    ]


def _title(entry: Entry) -> str:
    return entry.title if isinstance(entry, DrawnSign) else entry.label if isinstance(entry, OwnKind) else entry.name


def _alike(entry: Entry) -> object:
    """What counts when two entries are compared: where a kind stands among others does not."""
    if isinstance(entry, OwnKind):
        return (entry.label, entry.table, entry.sign_text, entry.fields_text)
    return entry.body if isinstance(entry, Theme | SignRule) else (entry.family, entry.title, entry.body)
