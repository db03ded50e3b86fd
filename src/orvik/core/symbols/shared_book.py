"""A project's own symbol book as a file: given out, read again, and compared with what a project has."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from orvik.core.errors import OrvikError, SymbolRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.emphasis import Emphasis
from orvik.core.symbols.joined_kinds import read_now, worn_of
from orvik.core.symbols.renamed import renamed
from orvik.core.symbols.symbol_rule import SymbolRule

FORM, VERSION = "orvik symbol book", 1
LARGEST_FILE = 900_000
MOST_ENTRIES = 500
T = TypeVar("T")


@dataclass(frozen=True)
class SharedBook:
    """What a project has made for itself: symbols it has drawn, kinds of its own, emphases, conditional symbols.

    ``left`` says in sentences which entries of a file cannot be.
    """

    name: str
    symbols: tuple[DrawnSymbol, ...] = ()
    kinds: tuple[CustomKind, ...] = ()
    emphases: tuple[Emphasis, ...] = ()
    conditions: tuple[SymbolRule, ...] = ()
    left: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The file."""
        whole = {
            "form": FORM,
            "version": VERSION,
            "name": self.name,
            "symbols": [
                {"name": s.name, "family": s.family, "title": s.title, "body": json.loads(s.body)} for s in self.symbols
            ],
            "kinds": [
                {
                    "name": k.name,
                    "label": k.label,
                    "family": k.table,
                    "symbol": json.loads(k.symbol_text),
                    "fields": json.loads(k.fields_text),
                }
                for k in self.kinds
            ],
            "emphases": [{"name": t.name, "body": json.loads(t.body)} for t in self.emphases],
            "conditions": [{"family": r.table, "kind": r.kind, "body": json.loads(r.body)} for r in self.conditions],
        }
        return json.dumps(whole, ensure_ascii=False, indent=1) + "\n"


def read_shared_book(text: str) -> SharedBook:
    """A book as it was given out, without the entries that cannot be, each of which it names.

    Raises
    ------
    SymbolRefused
        It is not a such book, or is of another version.
    """
    if len(text) > LARGEST_FILE:
        raise SymbolRefused(
            f"This file has {len(text) // 1000} kB; a symbol book has {LARGEST_FILE // 1000} at the most."
        )
    try:
        # What is not a number in JSON is none here either, and its entry is left out.
        whole = json.loads(text, parse_constant=lambda _: None)
        whole = renamed(whole)
        whole = read_now(whole, _claimed(whole))
    except (ValueError, RecursionError) as error:
        raise SymbolRefused("This is not a symbol book: it cannot be read.") from error
    if not isinstance(whole, dict) or whole.get("form") != FORM:
        raise SymbolRefused("This is not a symbol book; choose one that was exported by Orvik.")
    if whole.get("version") != VERSION:
        raise SymbolRefused(
            f"This symbol book is of version {str(whole.get('version'))[:20]}, and only version {VERSION} can be read; "
            "choose one exported by this Orvik."
        )
    left: list[str] = []
    return SharedBook(
        str(whole.get("name", ""))[:200],
        _entries(whole, "symbols", _symbol, lambda symbol: symbol.name, left),
        _entries(whole, "kinds", _kind, lambda kind: kind.name, left),
        _entries(whole, "emphases", _emphasis, lambda emphasis: emphasis.name, left),
        # Two conditions may ask the same, one after the other.
        _entries(whole, "conditions", _rule, None, left),
        tuple(left),
    )


def _claimed(whole: Any) -> list[str]:
    """The ids of the symbols of the book that wear a symbol of this one."""
    symbols = whole.get("symbols") if isinstance(whole, dict) else None
    rows = symbols if isinstance(symbols, list) else []
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
        raise SymbolRefused(f"The {what} of this symbol book are no list of up to {MOST_ENTRIES}.")
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


def _symbol(row: Mapping[str, Any]) -> DrawnSymbol:
    return DrawnSymbol.of(str(row["name"]), str(row["family"]), str(row["title"]), json.dumps(row["body"]))


def _kind(row: Mapping[str, Any]) -> CustomKind:
    symbol, fields = json.dumps(row["symbol"]), json.dumps(row["fields"])
    return CustomKind.of(str(row["name"]), str(row["label"]), row["family"], symbol, fields, 1)


def _emphasis(row: Mapping[str, Any]) -> Emphasis:
    return Emphasis.of(str(row["name"]), json.dumps(row["body"]))


def _rule(row: Mapping[str, Any]) -> SymbolRule:
    return SymbolRule.of(str(row["family"]), str(row["kind"]), json.dumps(row["body"]))


@dataclass(frozen=True)
class Difference:
    """An entry of a given book that a project lacks, or has otherwise.

    Attributes
    ----------
    key
        ``symbols peak``: what it is and its name.
    there
        As the project has it; None for nothing.
    given
        As the book has it.
    """

    key: str
    title: str
    there: DrawnSymbol | CustomKind | Emphasis | SymbolRule | None
    given: DrawnSymbol | CustomKind | Emphasis | SymbolRule


def differences(given: SharedBook, there: SharedBook) -> tuple[list[Difference], int]:
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


def _names(entries: Sequence[BookEntry]) -> list[str]:
    """What entries are known by: of several of one name the later ones by their number, too."""
    counts: Counter[str] = Counter()
    out = []
    for entry in entries:
        counts[entry.name] += 1
        out.append(entry.name if counts[entry.name] == 1 else f"{entry.name} ({counts[entry.name]})")
    return out


BookEntry = DrawnSymbol | CustomKind | Emphasis | SymbolRule


def _pairs(given: SharedBook, there: SharedBook) -> list[tuple[str, Sequence[BookEntry], Sequence[BookEntry]]]:
    return [
        ("symbols", given.symbols, there.symbols),
        ("kinds", given.kinds, there.kinds),
        ("emphases", given.emphases, there.emphases),
        ("conditions", given.conditions, there.conditions),
    ]


def _title(entry: BookEntry) -> str:
    return (
        entry.title if isinstance(entry, DrawnSymbol) else entry.label if isinstance(entry, CustomKind) else entry.name
    )


def _alike(entry: BookEntry) -> object:
    """What counts when two entries are compared: where a kind stands among others does not."""
    if isinstance(entry, CustomKind):
        return (entry.label, entry.table, entry.symbol_text, entry.fields_text)
    return entry.body if isinstance(entry, Emphasis | SymbolRule) else (entry.family, entry.title, entry.body)
