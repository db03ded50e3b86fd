"""Explanations: their rows renamed, hidden, moved, regrouped, given text, added; emptied, fixed and looked at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part, numbered
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.explanation.layout import Layout
from orvik.core.sheet.parts.explanation.row_edits import NO_EDITS, RowEdit, RowEdits
from orvik.core.sheet.parts.explanation.rows import ExplanationRow, new_keys
from orvik.core.sheet.parts.map_panel import page_of
from orvik.store import rows
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.sheet.composing import context

WHERE = ("up", "down", "top", "bottom")


@dataclass(frozen=True)
class RowChange:
    """What changes of a row; what is None stays."""

    name: str | None = None
    text: str | None = None
    heading: str | None = None
    hidden: bool | None = None


@dataclass(frozen=True)
class ExplanationView:
    """An explanation as its page takes hold of it.

    Attributes
    ----------
    rows
        Those that are printed, in order.
    hidden
        Those of the panel that are not.
    new
        Keys of those that came since it was last looked at.
    layout
        Where the rows stand on the page.
    offers
        What may be added, by key: units and symbols that the panel does not show.
    """

    part: Part
    rows: list[ExplanationRow]
    hidden: list[ExplanationRow]
    new: list[str]
    layout: Layout
    offers: Mapping[str, str]


def explanation_view(project: ReadProject, part_id: int) -> ExplanationView:
    """What an explanation lists, and where; raises SheetRefused where it speaks of no panel."""
    _, settings, page = _opened(project, part_id)
    asked = project.part(part_id)
    found, shown = settings.found(page), settings.rows(page)
    keys = {row.key for row in shown}
    # What a row for a whole kind covers is explained, too.
    there = keys.union(*({row.key, *row.covers} for row in found))
    book = page.shown(settings.panel or 0).book
    offers = {f"unit {u.code}": f"{u.code} · {u.name}" for _, u in project.units() if f"unit {u.code}" not in there}
    listed = (symbol for symbol in book.listed if symbol.explained and not symbol.aid)
    offers |= {f"symbol {symbol.id}": symbol.title for symbol in listed if f"symbol {symbol.id}" not in there}
    return ExplanationView(
        asked,
        shown,
        [row for row in found if row.key not in keys],
        new_keys(found, settings.edits),
        settings.layout(asked.inset(asked.settings.padding), page),
        offers,
    )


def new_row_count(project: ReadProject, sheet_id: int) -> int:
    """How many rows have come new to the explanations of a sheet that are not fixed."""
    parts = project.parts(sheet_id)
    asked = [p for p in parts if isinstance(p.settings, Explanation) and p.settings.edits.known is not None]
    if not asked:
        return 0
    page = _page(project, sheet_id)
    return sum(
        len(new_keys(p.settings.found(page), p.settings.edits))
        for p in asked
        if isinstance(p.settings, Explanation) and not p.settings.fixed and page.knows(p.settings)
    )


def with_known_rows(project: Project, sheet: Sheet, parts: list[Part]) -> list[Part]:
    """New parts of a sheet, whose explanations know the rows there are: those that come later are counted.

    Parameters
    ----------
    parts
        With the panels that the explanations speak of, by number.
    """
    if not any(isinstance(part.settings, Explanation) for part in parts):
        return parts
    whole = context(project, whole=False)
    placed = numbered(parts)
    page = page_of(sheet, placed, whole)
    out = []
    for part in parts:
        settings = part.settings
        if isinstance(settings, Explanation) and page.knows(settings):
            known = replace(settings, edits=_looked(settings.edits, settings.found(page)))
            part = part.changed(settings=known)
        out.append(part)
    return out


def change_row(project: Project, part_id: int, key: str, change: RowChange) -> Entry | None:
    """Rename a row, give it text or another heading, hide it or show it again; None where nothing changes.

    Raises
    ------
    NotFound
        There is no such row.
    """
    part, settings, page = _opened(project, part_id)
    found = settings.found(page)
    row = next((r for r in [*settings.rows(page), *found] if r.key == key), None)
    if row is None:
        raise NotFound("That row is no longer in the explanation.")
    plain = next((r for r in found if r.key == key), None)
    changed: dict[str, Any] = {}
    for name in ("name", "text", "heading"):
        value = getattr(change, name)
        if value is None:
            continue
        value = value.strip() if name != "text" else value.strip("\n")
        as_mapped = plain is not None and value == getattr(plain, name)
        changed[name] = None if as_mapped else value
    if change.hidden is not None:
        changed["hidden"] = change.hidden
    edits = settings.edits.with_row(key, replace(settings.edits.row(key), **changed))
    what = "hide" if change.hidden else "show" if change.hidden is not None else "change"
    return _kept(project, part, settings, _looked(edits, found), f"{what} a row of the explanation")


def move_row(project: Project, part_id: int, key: str, where: str) -> Entry | None:
    """Move a row up, down, to the top or the bottom; None where it stands so."""
    part, settings, page = _opened(project, part_id)
    keys = [row.key for row in settings.rows(page)]
    if key not in keys or where not in WHERE:
        raise NotFound("That row is no longer in the explanation.")
    at = keys.index(key)
    to = {"up": at - 1, "down": at + 1, "top": 0, "bottom": len(keys) - 1}[where]
    keys.insert(min(max(to, 0), len(keys) - 1), keys.pop(at))
    edits = replace(settings.edits, order=tuple(keys))
    return _kept(project, part, settings, _looked(edits, settings.found(page)), "move a row of the explanation")


def add_row(project: Project, part_id: int, key: str = "") -> Entry | None:
    """Add a unit or a symbol that the panel does not show, by its key, or a text of one's own."""
    part, settings, page = _opened(project, part_id)
    edits, added = settings.edits, settings.edits.added
    if not key:
        number = 1 + max((int(k.removeprefix("text ")) for k in added if k.startswith("text ")), default=0)
        key = f"text {number}"
        edits = edits.with_row(key, RowEdit(name="Text", text=""))
    elif not _known_key(project, key):
        raise NotFound("There is no such unit or symbol.")
    if key in added:
        return None
    order = (*(row.key for row in settings.rows(page)), key) if edits.order else ()
    edits = replace(edits, added=(*added, key), order=order)
    return _kept(project, part, settings, _looked(edits, settings.found(page)), "add a row to the explanation")


def remove_row(project: Project, part_id: int, key: str) -> Entry | None:
    """Take a row out that was added; None where it is none."""
    part, settings, page = _opened(project, part_id)
    if key not in settings.edits.added:
        return None
    edits = settings.edits.without(key)
    label = "remove a row of the explanation"
    return _kept(project, part, settings, _looked(edits, settings.found(page)), label)


def empty_rows(project: Project, part_id: int) -> Entry | None:
    """Hide every row, so that a few can be shown again or added."""
    part, settings, page = _opened(project, part_id)
    found = settings.found(page)
    edits = replace(settings.edits, order=(), added=())
    for row in found:
        edits = edits.with_row(row.key, replace(edits.row(row.key), hidden=True))
    return _kept(project, part, settings, _looked(edits, found), "empty the explanation")


def reset_rows(project: Project, part_id: int) -> Entry | None:
    """Take back all that hands have done to the rows."""
    part, settings, page = _opened(project, part_id)
    edits = _looked(NO_EDITS, settings.found(page))
    return _kept(project, part, settings, edits, "have the explanation as the map has it")


def look_at_rows(project: Project, part_id: int) -> Entry | None:
    """Take the rows that have come new as they stand; None where there are none."""
    part, settings, page = _opened(project, part_id)
    return _kept(project, part, settings, _looked(settings.edits, settings.found(page)), "keep new rows")


def _looked(edits: RowEdits, found: list[ExplanationRow]) -> RowEdits:
    """Edits that know the rows there are."""
    keys = {key: None for row in found for key in (row.key, *row.covers)}
    return replace(edits, known=tuple(keys))


def _kept(project: Project, part: Part, settings: Explanation, edits: RowEdits, label: str) -> Entry | None:
    if part.locked:
        raise SheetRefused(f"“{part.label}” is locked; unlock it first.")
    new = part.changed(settings=replace(settings, edits=edits))
    return project.apply(label, [rows.part_change(new)]) if new != part else None


def _known_key(project: Project, key: str) -> bool:
    what, _, name = key.partition(" ")
    if what == "unit":
        return name in project.units_by_code()
    return what == "symbol" and any(symbol.id == name for symbol in symbol_book_of(project).listed)


def _opened(project: ReadProject, part_id: int) -> tuple[Part, Explanation, PageContext]:
    """The explanation whose rows flow through a part, which may be one that goes on, and its page."""
    part = project.part(part_id)
    if not isinstance(part.settings, Explanation):
        raise SheetRefused(f"“{part.label}” is not an explanation.")
    page = _page(project, part.sheet_id or 0)
    if not page.knows(part.settings):
        raise SheetRefused("Choose the panel that this explanation is for.")
    head = page.chain(part)[0]
    assert isinstance(head.settings, Explanation)
    return head, head.settings, page


def _page(project: ReadProject, sheet_id: int) -> PageContext:
    parts, whole = project.parts(sheet_id), context(project, whole=False)
    return page_of(project.sheet(sheet_id), parts, whole)
