"""What the fields of a file hold: their types, first values, how many differ and how many are empty."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from orvik.exchange.mappings.mapping import value_text
from orvik.exchange.untrusted.parent import Layer

SHOWN = 3
# Of a field with more values than this they are not listed: it names things, and is not one of kinds.
MOST_VALUES = 400


@dataclass(frozen=True)
class Column:
    """One field of a file.

    Attributes
    ----------
    type
        ``whole``, ``number``, ``yes or no`` or ``text``; empty where nothing is in it.
    first
        Its first values that differ.
    counts
        How often each value stands there, most often first; at most ``MOST_VALUES`` and one more.
    distinct, empty
        How many values differ, and how many rows say nothing.
    """

    name: str
    type: str
    first: tuple[str, ...]
    counts: tuple[tuple[str, int], ...]
    distinct: int
    empty: int

    @property
    def numbers(self) -> list[float]:
        """Its values that are numbers."""
        found = []
        for text, _ in self.counts:
            try:
                found.append(float(text.replace(",", ".")))
            except ValueError:
                continue
        return found


def columns_of(layers: Sequence[Layer]) -> tuple[Column, ...]:
    """The fields of all layers of a file, in their order; those of one name are one."""
    names = tuple(dict.fromkeys(column for layer in layers for column in layer.columns))
    rows = sum(len(layer.values) for layer in layers)
    return tuple(_column(name, layers, rows) for name in names)


def _column(name: str, layers: Sequence[Layer], rows: int) -> Column:
    held = [values.get(name) for layer in layers if name in layer.columns for values in layer.values]
    texts = [text for value in held if (text := value_text(value))]
    counts = Counter(texts)
    return Column(
        name,
        _type(counts, held),
        tuple(text[:60] for text in list(counts)[:SHOWN]),
        tuple(counts.most_common(MOST_VALUES + 1)),
        len(counts),
        rows - len(texts),
    )


def _type(texts: Iterable[str], held: Iterable[object]) -> str:
    listed = list(texts)
    if not listed:
        return ""
    if any(isinstance(value, bool) for value in held):
        return "yes or no"
    if all(_is_number(text) for text in listed):
        return "whole" if all("." not in text and "," not in text for text in listed) else "number"
    return "text"


def _is_number(text: str) -> bool:
    try:
        float(text.replace(",", "."))
    except ValueError:
        return False
    return text.lower() not in ("nan", "inf", "-inf", "infinity")
