"""Emphases of a project: made, changed, given to panels, taken away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.table import TABLES
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.symbols.emphasis import KIND, UNIT, Emphasis, RankLook
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.tables.emphasis import emphasis_change, emphasis_rows
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.sheet.panels import panels_of

MOST_EMPHASES = 60


def begin_emphasis(project: Project, name: str) -> Entry:
    """A new emphasis in which all is ground; raises SymbolRefused where its name is taken or there are too many."""
    there = [emphasis.name for _, emphasis in emphasis_rows(project)]
    name = " ".join(name.split()) or f"Emphasis {len(there) + 1}"
    if name in there:
        raise SymbolRefused(f"There is an emphasis “{name}” already; give this one another name.")
    if len(there) >= MOST_EMPHASES:
        raise SymbolRefused(f"A project has {MOST_EMPHASES} emphases at the most; remove one first.")
    return project.apply(f"begin emphasis {name}", [emphasis_change(None, Emphasis(name), len(there) + 1)])


def emphasis_named(project: Reader, name: str) -> Emphasis:
    """An emphasis by its name; raises NotFound where there is none."""
    return _found(project, name)[1]


def set_look(project: Project, name: str, rank: int, look: RankLook) -> Entry | None:
    """Change how a rank is drawn; None where nothing changes."""
    emphasis = emphasis_named(project, name)
    if not 0 <= rank < len(emphasis.looks):
        raise NotFound("There is no such rank.")
    looks = tuple(look if i == rank else old for i, old in enumerate(emphasis.looks))
    return _keep(project, replace(emphasis, looks=looks))


def set_rank(project: Project, name: str, item: str, rank: str) -> Entry | None:
    """Give a unit or a kind a rank; None where it has it."""
    emphasis = emphasis_named(project, name)
    if item not in items_of(project):
        raise NotFound("There is no such unit or kind on the map any more.")
    others = {key: value for key, value in emphasis.ranks.items() if key != item}
    return _keep(project, replace(emphasis, ranks=others if rank == "ground" else {**others, item: rank}))


def _keep(project: Project, emphasis: Emphasis) -> Entry | None:
    row_id, old, position = _found(project, emphasis.name)
    if old == emphasis:
        return None
    return project.apply(f"change emphasis {emphasis.name}", [emphasis_change(row_id, emphasis, position)])


def give_to_panel(project: Project, name: str, part_id: int, on: bool) -> Entry | None:
    """Have a panel printed in an emphasis, or as it is; None where it is so already."""
    part = project.part(part_id)
    settings = part.settings
    if not isinstance(settings, MapPanel):
        raise NotFound("Only map panels have an emphasis.")
    named = emphasis_named(project, name).name
    wanted = named if on else ""
    if settings.emphasis == wanted:
        return None
    changed = part.changed(settings=replace(settings, emphasis=wanted))
    return project.apply(
        f"give a panel the emphasis {name}" if on else "remove a panel's emphasis", [rows.part_change(changed)]
    )


def remove_emphasis(project: Project, name: str) -> Entry:
    """Take an emphasis away; panels that had it are printed as they are."""
    row_id, emphasis, _ = _found(project, name)
    changes = [Change("emphases", row_id, None)]
    changes += [panel.changed(emphasis="") for panel in panels_of(project) if panel.settings.emphasis == emphasis.name]
    return project.apply(f"remove emphasis {name}", changes)


def items_of(project: Reader) -> Mapping[str, str]:
    """The units and the kinds that an emphasis can rank, with their titles; units first, in their order."""
    out = {UNIT + unit.code: unit.name for _, unit in project.units()}
    book = symbol_book_of(project)
    for table in TABLES:
        for kind, _ in project.kind_counts(table):
            symbols = book.by_kind.get((table, kind), ())
            if kind != UNIT_AREA and symbols and not symbols[0].aid:
                out[KIND + kind] = book.kind_title(table, kind)
    return out


def _found(project: Reader, name: str) -> tuple[int, Emphasis, int]:
    for position, (row_id, emphasis) in enumerate(emphasis_rows(project), 1):
        if emphasis.name == name:
            return row_id, emphasis, position
    raise NotFound(f"There is no emphasis “{name[:30]}” any more; choose another one.")
