"""Themes of a project: made, changed, given to panels, taken away."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from orvik.core.errors import NotFound, SignRefused
from orvik.core.features.feature import TABLES
from orvik.core.features.kind import UNIT_AREA
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.symbols.emphasis import KIND, UNIT, RankLook, Theme
from orvik.store import rows
from orvik.store.emphasis import theme_change, theme_rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.store.symbol_book import sign_book_of
from orvik.usecases.sheet.panels import panels_of

MOST = 60


def begin_theme(project: Project, name: str) -> Entry:
    """A new theme in which everything is ground; raises SignRefused where its name is taken or there are too many."""
    there = [theme.name for _, theme in theme_rows(project)]
    name = " ".join(name.split()) or f"Theme {len(there) + 1}"
    if name in there:
        raise SignRefused(f"There is a theme “{name}” already; give this one another name.")
    if len(there) >= MOST:
        raise SignRefused(f"A project has {MOST} themes at the most; take one away first.")
    return project.apply(f"begin theme {name}", [theme_change(None, Theme(name), len(there) + 1)])


def theme_named(project: Reader, name: str) -> Theme:
    """A theme by its name; raises NotFound where there is none."""
    return _found(project, name)[1]


def set_look(project: Project, name: str, rank: int, look: RankLook) -> Entry | None:
    """Change how a rank is drawn; None where nothing changes."""
    theme = theme_named(project, name)
    if not 0 <= rank < len(theme.looks):
        raise NotFound("There is no such rank.")
    looks = tuple(look if i == rank else old for i, old in enumerate(theme.looks))
    return _keep(project, replace(theme, looks=looks))


def set_rank(project: Project, name: str, item: str, rank: str) -> Entry | None:
    """Give a unit or a kind a rank; None where it has it."""
    theme = theme_named(project, name)
    if item not in items_of(project):
        raise NotFound("There is no such unit or kind on the map any more.")
    others = {key: value for key, value in theme.ranks.items() if key != item}
    return _keep(project, replace(theme, ranks=others if rank == "ground" else {**others, item: rank}))


def _keep(project: Project, theme: Theme) -> Entry | None:
    row_id, old, position = _found(project, theme.name)
    if old == theme:
        return None
    return project.apply(f"change theme {theme.name}", [theme_change(row_id, theme, position)])


def give_to_panel(project: Project, name: str, part_id: int, on: bool) -> Entry | None:
    """Have a panel printed in a theme, or as it is; None where it is so already."""
    part = project.part(part_id)
    settings = part.settings
    if not isinstance(settings, MapPanel):
        raise NotFound("Only map panels have a theme.")
    wanted = theme_named(project, name).name if on else ""
    if settings.theme == wanted:
        return None
    changed = part.changed(settings=replace(settings, theme=wanted))
    return project.apply(
        f"give a panel the theme {name}" if on else "take a panel's theme off", [rows.part_change(changed)]
    )


def remove_theme(project: Project, name: str) -> Entry:
    """Take a theme away; panels that had it are printed as they are."""
    row_id, theme, _ = _found(project, name)
    changes = [Change("themes", row_id, None)]
    changes += [panel.changed(theme="") for panel in panels_of(project) if panel.settings.theme == theme.name]
    return project.apply(f"take away theme {name}", changes)


def items_of(project: Reader) -> Mapping[str, str]:
    """The units and the kinds that a theme can rank, with their titles; units first, in their order."""
    out = {UNIT + unit.code: unit.name for _, unit in project.units()}
    book = sign_book_of(project)
    for table in TABLES:
        for kind, _ in project.kind_counts(table):
            signs = book.by_kind.get((table, kind), ())
            if kind != UNIT_AREA and signs and not signs[0].aid:
                out[KIND + kind] = book.kind_title(table, kind)
    return out


def _found(project: Reader, name: str) -> tuple[int, Theme, int]:
    for position, (row_id, theme) in enumerate(theme_rows(project), 1):
        if theme.name == name:
            return row_id, theme, position
    raise NotFound(f"There is no theme “{name[:30]}” any more; choose another one.")
