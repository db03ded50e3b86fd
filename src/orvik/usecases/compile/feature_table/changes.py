"""What is changed in the table: cells typed, filled down, replaced or pasted, planned first and saved as one entry."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from orvik.core.drawing.validity import checked
from orvik.core.errors import FeatureRefused, NotFound, OrvikError, Stale
from orvik.core.features.feature import Feature
from orvik.core.features.table import FeatureKey, Table
from orvik.store.changeable import Changeable
from orvik.store.journal import Entry
from orvik.store.read_project import ReadProject
from orvik.usecases.compile.feature_table.cells import CellRefused, CellWords, Column
from orvik.usecases.compile.feature_table.listing import TableQuery, features_of
from orvik.usecases.compile.features import feature_changes
from orvik.usecases.compile.layers import refuse_locked

# So many changes are shown before they are saved.
SHOWN = 5
# What is pasted may have so many cells.
MOST_PASTED = 2_000_000

# The texts typed in the cells of features, by their numbers and by columns.
Texts = Mapping[int, Mapping[str, str]]


@dataclass(frozen=True)
class CellChange:
    """A cell before and after."""

    id: int
    column: str
    before: str
    after: str


@dataclass(frozen=True)
class RefusedCell:
    """A cell that cannot hold what was typed, and why."""

    id: int
    column: str
    text: str
    why: str


@dataclass(frozen=True)
class TablePlan:
    """What a change of cells would do.

    Attributes
    ----------
    kept
        Features as they will be. Those with a refused cell stay as they are.
    shown
        The first cells that change.
    cells
        How many cells change.
    alike
        How many cells say already what was typed.
    beyond
        What of a pasted table has no place here, in words; empty where all has.
    """

    kept: tuple[Feature, ...]
    shown: tuple[CellChange, ...]
    cells: int
    refused: tuple[RefusedCell, ...]
    alike: int
    beyond: str = ""


def planned(project: Changeable, words: CellWords, texts: Texts, beyond: str = "") -> TablePlan:
    """What typing texts in cells would do; nothing is saved.

    Raises
    ------
    FeatureRefused
        The layer is locked or hidden.
    """
    refuse_locked(project.stack(), words.table)
    kept: list[Feature] = []
    shown: list[CellChange] = []
    refused: list[RefusedCell] = []
    cells = alike = 0
    there = project.whole(words.table, texts)
    for number, typed in texts.items():
        old = there.get(number)
        if old is None:
            why = "That feature is no longer in the project."
            refused += [RefusedCell(number, column, text, why) for column, text in typed.items()]
            continue
        try:
            new = words.typed(old, typed)
            if new != old:
                new = checked(new, project.crs, words.book, set(words.codes), old, placed=True)
        except OrvikError as refusal:
            column = refusal.column if isinstance(refusal, CellRefused) else next(iter(typed))
            refused.append(RefusedCell(number, column, typed[column], refusal.sentence))
            continue
        changed = [name for name in typed if words.text(old, name) != words.text(new, name)]
        alike += len(typed) - len(changed)
        if new == old:
            continue
        kept.append(new)
        cells += len(changed)
        shown += [
            CellChange(number, name, words.text(old, name), words.text(new, name))
            for name in changed[: max(0, SHOWN - len(shown))]
        ]
    return TablePlan(tuple(kept), tuple(shown), cells, tuple(refused), alike, beyond)


def as_block(rows: Iterable[Iterable[str]]) -> str:
    """Cells as spreadsheets take them: tabs between cells, a line a row.

    >>> as_block([["45", "a\\tb"], ["46", "two\\nlines"]])
    '45\\t"a\\tb"\\n46\\t"two\\nlines"\\n'
    """
    out = io.StringIO()
    csv.writer(out, "excel-tab", lineterminator="\n").writerows(rows)
    return out.getvalue()


def read_block(text: str) -> list[list[str]]:
    """A block of cells as spreadsheets give it; raises FeatureRefused where it is none.

    >>> read_block('45\\t"a\\tb"\\r\\n46\\t"two\\nlines"\\r\\n')
    [['45', 'a\\tb'], ['46', 'two\\nlines']]
    """
    text = text.replace("\r\n", "\n").replace("\r", "\n").removesuffix("\n")
    if not text:
        raise FeatureRefused("There is nothing to paste; copy cells of a table first.")
    if "\0" in text:
        raise FeatureRefused("This is not a block of cells; copy cells of a table first.")
    try:
        rows = list(csv.reader(io.StringIO(text), "excel-tab", strict=False))
    except csv.Error as error:
        raise FeatureRefused("This is not a block of cells; copy cells of a table first.") from error
    return [row or [""] for row in rows]


def _pasted(
    words: CellWords, ids: Sequence[int], columns: Sequence[Column], first: tuple[int, int], text: str
) -> tuple[dict[int, dict[str, str]], str]:
    """Where the cells of a block go that is pasted with its upper left cell at a place.

    A first row that names columns, at least half of it, says which are meant, in whatever order. Where the number of
    the feature is among them, rows go to the features that they name.

    Parameters
    ----------
    ids
        The rows of the table.
    first
        The row and the column of the cell that the block is pasted at.

    Returns
    -------
    The texts by feature and column, and what has no place, in words.

    Raises
    ------
    FeatureRefused
        It is not a block of cells, or none of its columns can be pasted.
    """
    block = read_block(text)
    if sum(map(len, block)) > MOST_PASTED:
        raise FeatureRefused(f"That is more than {MOST_PASTED} cells; paste them in parts.")
    row, column = first
    heads = _heads(block[0], columns)
    beyond = []
    if heads:
        strange = [cell.strip() for cell, head in zip(block[0], heads, strict=True) if head is None and cell.strip()]
        if strange:
            beyond.append(f"{', '.join(strange)} {'is not a column' if len(strange) == 1 else 'are no columns'} here")
        block = block[1:]
        places: list[Column | None] = list(heads)
    else:
        width = max(map(len, block))
        places = [columns[column + i] if column + i < len(columns) else None for i in range(width)]
        over = sum(place is None for place in places)
        if over:
            beyond.append(f"{over} {'column lies' if over == 1 else 'columns lie'} beyond the last one here")
    if not block:
        raise FeatureRefused("There is nothing to paste but the names of columns; copy their rows, too.")
    numbered = _numbered(heads, block, ids)
    out: dict[int, dict[str, str]] = {}
    missing = 0
    for i, cells in enumerate(block):
        number = numbered[i] if numbered else ids[row + i] if row + i < len(ids) else None
        if number is None:
            missing += 1
            continue
        typed = {place.name: cell for place, cell in zip(places, cells, strict=False) if place and place.typed}
        if typed:
            out.setdefault(number, {}).update(typed)
    if missing:
        what = "names no feature that is listed" if numbered else "lies beyond the last one here"
        many = "name no features that are listed" if numbered else "lie beyond the last one here"
        beyond.append(f"{missing} {f'row {what}' if missing == 1 else f'rows {many}'}")
    fixed = [place.label for place in places if place is not None and not place.typed and place.name != "number"]
    if fixed:
        beyond.append(f"{', '.join(fixed)} cannot be typed")
    if not out:
        raise FeatureRefused(f"Nothing of this can be pasted here: {'; '.join(beyond) or 'it has no cells'}.")
    return out, "; ".join(beyond)


def _heads(row: Sequence[str], columns: Sequence[Column]) -> list[Column | None]:
    """The columns that a row of names means; empty where it is none."""
    by_label = {column.label.casefold(): column for column in columns}
    heads = [by_label.get(cell.strip().casefold()) for cell in row]
    named = sum(head is not None for head in heads)
    return heads if named and 2 * named >= sum(bool(cell.strip()) for cell in row) else []


def _numbered(
    heads: Sequence[Column | None], block: Sequence[Sequence[str]], ids: Sequence[int]
) -> list[int | None] | None:
    """The features that rows name by their numbers; None where they name none."""
    at = next((i for i, head in enumerate(heads) if head is not None and head.name == "number"), None)
    if at is None:
        return None
    listed = frozenset(ids)
    named = [cells[at].strip() if at < len(cells) else "" for cells in block]
    return [int(text) if re.fullmatch(r"\d{1,15}", text) and int(text) in listed else None for text in named]


def _filled(texts: Mapping[str, str], ids: Sequence[int]) -> dict[int, dict[str, str]]:
    """The same texts for many features."""
    return {number: dict(texts) for number in ids}


def _replaced(
    project: ReadProject, words: CellWords, ids: Sequence[int], column: str, find: str, by: str, whole: bool
) -> dict[int, dict[str, str]]:
    """The cells of a column with a text replaced, where they hold it.

    Parameters
    ----------
    whole
        Whether the cell must say the text and nothing else.

    Raises
    ------
    FeatureRefused
        Nothing is looked for, or no cell holds it.
    """
    if not find and not whole:
        raise FeatureRefused("Type what is to be found.")
    out = {}
    for number, feature in project.whole(words.table, ids).items():
        text = words.text(feature, column)
        if whole and text.strip() == find.strip():
            out[number] = {column: by}
        elif not whole and find in text:
            out[number] = {column: text.replace(find, by)}
    if not out:
        raise FeatureRefused(f"No cell of this column {'is' if whole else 'holds'} “{find[:40]}”.")
    return out


@dataclass(frozen=True)
class CellsAsked:
    """What is to be changed in the table.

    Attributes
    ----------
    what
        ``type`` a text in all cells of a range, ``fill`` them with what the first row of it says, ``paste`` a block
        with its upper left cell at that of the range, or ``replace`` a text in a column of all rows.
    rows
        The first row and the last one.
    columns
        The columns of the range by name.
    by
        What is put in the place of ``text``, where it is replaced.
    whole
        Whether only cells that say nothing else are replaced.
    """

    what: Literal["type", "fill", "paste", "replace"]
    rows: tuple[int, int] = (0, 0)
    columns: tuple[str, ...] = ()
    text: str = ""
    by: str = ""
    whole: bool = False


@dataclass(frozen=True)
class TableOutcome:
    """What a change of the table would do, and its entry; None where it is not saved, or changes nothing."""

    plan: TablePlan
    entry: Entry | None = None


def change_table(
    project: Changeable,
    query: TableQuery,
    ids: Sequence[int],
    asked: CellsAsked,
    seen: int,
    *,
    dip_direction: bool = False,
    preview: bool = False,
    leave_out: bool = False,
) -> TableOutcome:
    """Change cells of a listing in one entry, or say what that would do.

    Parameters
    ----------
    ids
        The features that are listed, in their order.
    seen
        The revision that the rows were seen at.
    preview
        Whether nothing is to be saved.
    leave_out
        Whether features with a cell that is refused stay as they are; else nothing is saved where there is one.

    Raises
    ------
    FeatureRefused
        There is nothing to do, or the layer is locked or hidden.
    Stale
        A feature has changed since ``seen``.
    """
    words = CellWords(project, query.table, dip_direction)
    texts, beyond = _texts(project, words, query, ids, asked)
    plan = planned(project, words, texts, beyond)
    if preview or not plan.kept or (plan.refused and not leave_out):
        return TableOutcome(plan)
    some = plan.kept[0].name if len(plan.kept) == 1 else f"{len(plan.kept)} features"
    verb = {"type": "change", "fill": "fill down in", "paste": "paste into", "replace": "replace in"}[asked.what]
    entry = project.apply(f"{verb} {some}", feature_changes(project, project.srs_id, plan.kept), seen)
    return TableOutcome(plan, entry)


def _texts(
    project: ReadProject, words: CellWords, query: TableQuery, ids: Sequence[int], asked: CellsAsked
) -> tuple[Texts, str]:
    columns = words.columns(query.kind)
    names = [column.name for column in columns]
    if not asked.columns or not set(asked.columns) <= set(names):
        raise NotFound("The table has no such column.")
    first, last = asked.rows
    if not 0 <= first <= last < max(1, len(ids)):
        raise Stale("These rows are no longer listed; the table is listed anew.")
    some = ids[first : last + 1]
    if asked.what == "type":
        return _filled(dict.fromkeys(asked.columns, asked.text), some), ""
    if asked.what == "fill":
        there = features_of(project, query.table, some[:1])
        if not there or len(some) < 2:
            raise FeatureRefused("Choose the cell to fill down from and those below it first.")
        return _filled({name: words.text(there[0], name) for name in asked.columns}, some[1:]), ""
    if asked.what == "replace":
        return _replaced(project, words, ids, asked.columns[0], asked.text, asked.by, asked.whole), ""
    return _pasted(words, ids, columns, (first, names.index(asked.columns[0])), asked.text)


def change_many(
    project: Changeable, keys: Sequence[FeatureKey], texts: Mapping[str, str], note: str, seen: int
) -> Entry | None:
    """Give many features the same values, as they are typed, in one entry; a note is added to theirs.

    Raises
    ------
    FeatureRefused
        One of them cannot be so; nothing is changed. Or a layer is locked.
    Stale
        One has changed since ``seen``.
    """
    kept: list[Feature] = []
    tables: dict[Table, list[int]] = {}
    for table, number in keys:
        tables.setdefault(table, []).append(number)
    for table, ids in tables.items():
        words = CellWords(project, table)
        typed = _filled(texts, ids)
        if note:
            for number, feature in project.whole(table, ids).items():
                typed[number]["note"] = "\n".join(text for text in (feature.note, note) if text)
        plan = planned(project, words, typed)
        if plan.refused:
            first = plan.refused[0]
            others = f" So it is with {len(plan.refused)} of {len(keys)}." if len(plan.refused) > 1 else ""
            raise FeatureRefused(f"Nothing is changed. {first.why}{others}")
        kept += plan.kept
    if not kept:
        return None
    name = kept[0].name if len(kept) == 1 else f"{len(kept)} features"
    return project.apply(f"change {name}", feature_changes(project, project.srs_id, kept), seen)
