"""A row of an explanation as ink, and how high it is: its specimen, its name, and what is said of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import INK, Item, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.parts.explanation.rows import ExplanationRow
from orvik.core.symbols.specimen import Form, joined_specimen, reach_of, specimen, unit_specimen
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.core.typesetting.paragraph import Line, lines_of
from orvik.core.typesetting.spans import Span, Style, spans_of

# Millimetres at full size.
BOX = (13.0, 7.0)
SIDE = 3.0
# A specimen that joins several styles is so wide; of lines it holds so many beside one another, each as long as tells
# dashes apart.
JOINED = 23.0
MOST_JOINED = 5
UNIT_ROW, SYMBOL_ROW = 9.4, 6.2
NAME, AGE, TEXT, SYMBOL_NAME, HEADING = 3.1, 2.6, 2.2, 2.5, 2.1
# Letters of a sentence: capitals of 1.8 mm.
SENTENCE = 2.75
LEADING = 1.28
# How far letters reach below their baseline, in heights of their body.
DESCENT = 0.28
# What is left free between one row's ink and the next.
BETWEEN = 2.1
# Letters of fewer than 5 points cannot be read, and symbols whose figures would have fewer.
LEAST_LETTER = 5.02 * 25.4 / 72
LEAST_SYMBOL = 0.89


@dataclass(frozen=True)
class RowLook:
    """What rows look like, whatever their size.

    Attributes
    ----------
    book
        The symbol book that specimens are of.
    texts
        Whether the descriptions of units stand below their names.
    full
        How many times larger than in the symbol book the symbols on the map are.
    """

    book: SymbolBook
    texts: bool = True
    full: float = 1.0
    # Rows are measured at many sizes: what does not depend on the size is found once.
    _sentences: dict[tuple[str, str, float], list[Line]] = field(default_factory=dict, compare=False, repr=False)
    _reaches: dict[str, list[tuple[float, float]]] = field(default_factory=dict, compare=False, repr=False)


@dataclass(frozen=True)
class Where:
    """The upper left corner of a row on the page, and its width, in millimetres."""

    x: float
    y: float
    width: float


def row_height(row: ExplanationRow, width: float, k: float, look: RowLook) -> float:
    """How high a row is in millimetres, with what parts it from the next.

    Parameters
    ----------
    width
        Of its column in millimetres.
    k
        Its size as a share of full size.
    """
    if row.joined:
        more = len(_sentence(row, width, k, look)) - 1
        _, below = _joined_reach(row, k, look)
        middle = _middle(row, k, look)
        foot = middle + cap_height(SENTENCE * k) / 2 + (more * LEADING + DESCENT) * SENTENCE * k
        return max(foot, middle + below) + BETWEEN * k
    lines = len(_text_of(row, width, look.texts, k)) * _text_size(k) * LEADING
    if row.shows is None:
        return (SYMBOL_ROW * k if row.name else 0.0) + lines + 1.0 * k
    if not row.is_unit:
        return SYMBOL_ROW * k + lines
    above = (NAME * LEADING + (AGE * LEADING if row.age else 0.0)) * k
    return max(UNIT_ROW * k, above + lines + 2.0 * k) if lines else UNIT_ROW * k


def row_ink(row: ExplanationRow, where: Where, k: float, look: RowLook) -> list[Item]:
    """A row as ink; measures are as in ``row_height``."""
    if row.joined:
        return _joined_ink(row, where, k, look)
    x, y, width = where.x, where.y, where.width
    side = (BOX[0] + SIDE) * k if row.shows is not None else 0.0
    items: list[Item] = []
    if isinstance(row.shows, MapUnit):
        box = (x, y, BOX[0] * k, BOX[1] * k)
        items += unit_specimen(row.shows, look.book, box, 3.0 * k, k=max(k, LEAST_SYMBOL * look.full))
        foot = y + NAME * k
        items.append(_label(row.name, x + side, foot, width - side, NAME * k))
        if row.age:
            foot += (AGE + 0.7) * k
            items.append(_label(row.age, x + side, foot, width - side, AGE * k, ITALIC))
    elif row.shows is not None:
        middle = y + SYMBOL_ROW / 2 * k
        items += specimen(row.shows, x, middle, BOX[0] * k, max(k, LEAST_SYMBOL * look.full), row.form, look.book)
        foot = middle + cap_height(SYMBOL_NAME * k) / 2
        items.append(_label(row.name, x + side, foot, width - side, SYMBOL_NAME * k))
    else:
        foot = y + (0.0 if not row.name else SYMBOL_ROW / 2 * k + cap_height(SYMBOL_NAME * k) / 2)
        if row.name:
            items.append(_label(row.name, x, foot, width, SYMBOL_NAME * k))
    for line in _text_of(row, width, look.texts, k):
        foot += _text_size(k) * LEADING
        items.append(Text(run(line, ROMAN, _text_size(k)), (x + side, foot), INK))
    return items


def heading_ink(heading: str, where: Where, k: float) -> list[Item]:
    """What stands above rows, in spaced capitals, set smaller where it is too long."""
    size = max(HEADING * k, LEAST_LETTER)
    letters = run(heading.upper(), ROMAN, size, spacing=0.12 * size)
    shrink = min(1.0, where.width / max(letters.width, 1e-9))
    set_so = run(heading.upper(), ROMAN, size * shrink, spacing=0.12 * size * shrink)
    return [Text(set_so, (where.x, where.y + 3.6 * k), INK)]


def _joined_ink(row: ExplanationRow, where: Where, k: float, look: RowLook) -> list[Item]:
    """The specimen with its first line beside the first line of the sentence, its name run in."""
    size = SENTENCE * k
    middle = where.y + _middle(row, k, look)
    items = list(_specimens(row, where.x, middle, k, look))
    foot = middle + cap_height(size) / 2
    for number, line in enumerate(_sentence(row, where.width, k, look)):
        items += line.enlarged(size).ink(where.x + (JOINED + SIDE) * k, foot + number * size * LEADING, INK)
    return items


def _middle(row: ExplanationRow, k: float, look: RowLook) -> float:
    """How far below the top of its row a specimen has its middle: neither it nor the sentence begins above the row."""
    above, _ = _joined_reach(row, k, look)
    return max(-above, cap_height(SENTENCE * k) / 2)


def _joined_reach(row: ExplanationRow, k: float, look: RowLook) -> tuple[float, float]:
    """How far a specimen reaches above and below the middle of its first line, in millimetres down the page."""
    if row.key not in look._reaches:
        styles = _rows_of(row.joined)
        found = [reach_of(joined_specimen(some, 0.0, 0.0, JOINED, 1.0, look.book)) for some in styles]
        look._reaches[row.key] = found
    size = max(k, LEAST_SYMBOL * look.full)
    ends = [
        (number * SYMBOL_ROW * k + above * size, number * SYMBOL_ROW * k + below * size)
        for number, (above, below) in enumerate(look._reaches[row.key])
    ]
    return min(above for above, _ in ends), max(below for _, below in ends)


def _specimens(row: ExplanationRow, x: float, y: float, k: float, look: RowLook) -> list[Item]:
    """The styles of a row beside one another, bands above lines."""
    size = max(k, LEAST_SYMBOL * look.full)
    items: list[Item] = []
    for number, styles in enumerate(_rows_of(row.joined)):
        items += joined_specimen(styles, x, y + number * SYMBOL_ROW * k, JOINED * k, size, look.book)
    return items


def _rows_of(joined: Sequence[tuple[Symbol, Form]]) -> list[list[tuple[Symbol, Form]]]:
    bands = [one for one in joined if one[1].band]
    others = [one for one in joined if not one[1].band]
    return [list(some[at : at + MOST_JOINED]) for some in (bands, others) for at in range(0, len(some), MOST_JOINED)]


def _sentence(row: ExplanationRow, width: float, k: float, look: RowLook) -> list[Line]:
    """What a row says, in lines beside its specimen: its name, and after a dash what tells its styles apart.

    Its letters are a millimetre high: lines break alike at all sizes whose room is as many letters wide.
    """
    room = max(width - (JOINED + SIDE) * k, 10.0 * k) / (SENTENCE * k)
    key = (row.name, row.text, round(room, 3))
    if key not in look._sentences:
        spans = [Span(row.name, Style(bold=True)), *([Span("—"), *spans_of(row.text)] if row.text else ())]
        look._sentences[key] = lines_of(spans, 1.0, key[2])
    return look._sentences[key]


def _text_size(k: float) -> float:
    """Height of the letters of texts at a size, in millimetres."""
    return max(TEXT * k, LEAST_LETTER)


def _text_of(row: ExplanationRow, width: float, texts: bool, k: float) -> list[str]:
    """The lines of a row's text in a column of millimetres at a size."""
    if not row.text or (row.is_unit and not texts):
        return []
    room = width - (BOX[0] + SIDE) * k if row.shows is not None else width
    return wrapped(row.text, ROMAN, _text_size(k), room)


def _label(text: str, x: float, y: float, room: float, size: float, font: str = ROMAN) -> Text:
    """A line of text that stays within its room: set smaller where it is too long."""
    wide = run(text, font, size).width
    return Text(run(text, font, size * min(1.0, max(room, 1.0) / max(wide, 1e-9))), (x, y), INK)
