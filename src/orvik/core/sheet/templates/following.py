"""Following a template: what it changed since a sheet took it up is changed on the sheet, and what was set there stays.

For each setting and each place three are compared: the template as it was, as it is, and the sheet. Where the template
changed and the sheet has what it was given, the sheet goes along; where the sheet has something of its own, it keeps it
and says so. What a template does not decide is left alone: which ground is shown, in which system, over what.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from orvik.core.sheet.layout.change_paper import on_paper
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part, largest
from orvik.core.sheet.parts.explanation.row_edits import RowEdits
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.templates.kept import KeptTemplate, filled_in

Settings = TypeVar("Settings", bound=FormSettings)
# What each sheet and each project decides for itself.
OWN = frozenset({"centre", "system", "underlays", "footprints", "emphasis", "group", "place", "day"})
NEAR_MM = 0.01
# Parts that are new to the sheet are numbered from here down until they are stored.
_FRESH = -1000


@dataclass(frozen=True)
class Followed:
    """What becomes of a sheet.

    Attributes
    ----------
    sheet
        The page.
    changed, added
        Parts that are otherwise, and that are new.
    removed
        The numbers of those that the template has no longer.
    kept
        What the template changed and the sheet keeps, as it was set here, a sentence each.
    """

    sheet: Sheet
    changed: list[Part] = field(default_factory=list)
    added: list[Part] = field(default_factory=list)
    removed: list[int] = field(default_factory=list)
    kept: list[str] = field(default_factory=list)

    @property
    def count(self) -> int:
        """How many parts change."""
        return len(self.changed) + len(self.added) + len(self.removed)


def followed(sheet: Sheet, parts: Sequence[Part], before: KeptTemplate, now: KeptTemplate, project: str) -> Followed:
    """What a sheet is by its template as that is now.

    Parameters
    ----------
    parts
        Those of the sheet.
    before
        The template as it was when the sheet took it up.
    project
        The name of the sheet's project.
    """
    size, paper = (sheet.width, sheet.height), sheet.paper
    if size == _size(before.sheet) != _size(now.sheet):
        size, paper = _size(now.sheet), now.sheet.paper
    was = on_paper(before.sheet, before.parts, sheet.paper, (sheet.width, sheet.height), refit=False)
    made = on_paper(now.sheet, now.parts, paper, size, refit=False)
    here = {part.made_as: part for part in parts if part.made_as}
    main = largest(parts, MapPanel)
    numbers = _numbers(here, was.parts, made.parts, main.number if main is not None else None)
    old = {part.number: _of_sheet(part, numbers, sheet, project) for part in was.parts}
    new = {part.number: _of_sheet(part, numbers, sheet, project) for part in made.parts}
    layout, kept = _merged(sheet.layout, was.sheet.layout, made.sheet.layout, "this page", frozenset())
    out = Followed(replace(sheet, paper=paper, width=size[0], height=size[1], layout=layout), kept=kept)
    for number, part in new.items():
        mine, given = here.get(number), old.get(number)
        if mine is None or mine.kind != part.kind:
            # What was taken off the sheet stays off.
            if given is None or given.kind != part.kind:
                out.added.append(part.changed(id=_FRESH - number, sheet_id=sheet.id, made_as=number))
        elif given is not None and given.kind == part.kind:
            merged = _part(mine, given, part, out.kept)
            if merged != mine:
                out.changed.append(merged)
    for number, given in old.items():
        mine = here.get(number)
        if mine is None or (number in new and new[number].kind == given.kind):
            continue
        if _as_given(mine, given):
            out.removed.append(mine.number)
        else:
            out.kept.append(f"“{mine.label}” is no longer in the template; it was changed here, and stays.")
    return out


def _size(sheet: Sheet) -> tuple[float, float]:
    return sheet.width, sheet.height


def _numbers(here: Mapping[int, Part], was: Sequence[Part], now: Sequence[Part], main: int | None) -> dict[int, int]:
    """By the numbers that parts have in the template those on the sheet; a panel taken off it is the main one."""
    gone = {part.number: main for part in was if isinstance(part.settings, MapPanel) and main is not None}
    fresh = {part.number: _FRESH - part.number for part in now if part.number not in gone}
    return fresh | gone | {number: part.number for number, part in here.items()}


def _of_sheet(part: Part, numbers: Mapping[int, int], sheet: Sheet, project: str) -> Part:
    """A part of a template as the sheet would have it, speaking of the parts there."""
    part = filled_in(part, sheet.name, project)
    return part.changed(settings=part.settings.changed(part.settings.renumbered(numbers)))


def _part(mine: Part, given: Part, now: Part, kept: list[str]) -> Part:
    """A part as the template has it now where that changed, and as it is here where that was set here."""
    settings, said = _merged(mine.settings, given.settings, now.settings, f"“{mine.label}”", OWN)
    kept += said
    out = mine.changed(settings=settings)
    if _box(given) != _box(now):
        if _near(mine, given):
            out = out.changed(x=now.x, y=now.y, width=now.width, height=now.height)
        elif not _near(mine, now):
            kept.append(f"“{mine.label}” was placed here otherwise, and stays where it is.")
    if given.position != now.position and mine.position == given.position:
        out = out.changed(position=now.position)
    if given.locked != now.locked:
        out = out.changed(locked=now.locked)
    return out


def _merged(
    mine: Settings, given: Settings, now: Settings, what: str, own: frozenset[str]
) -> tuple[Settings, list[str]]:
    """Settings that go along with what changed, and what stays as it was set here, a sentence each."""
    values: dict[str, Any] = {}
    kept = []
    for name, declared in mine.entries().items():
        was, becomes, is_here = getattr(given, name), getattr(now, name), getattr(mine, name)
        if name in own or was == becomes or is_here == becomes:
            continue
        if isinstance(is_here, RowEdits):
            # Which rows there are the map says; how they are worded goes along row by row.
            values[name] = is_here.gone_along(was, becomes)
        elif is_here == was:
            values[name] = becomes
        else:
            kept.append(f"{declared.label} of {what} was set here, and stays.")
    return (mine.changed(values) if values else mine), kept


def _as_given(mine: Part, given: Part) -> bool:
    """Whether a part is as the template made it."""
    passed = OWN | {"edits"}
    mine_set, theirs = ({k: v for k, v in p.settings.to_dict().items() if k not in passed} for p in (mine, given))
    return mine_set == theirs and _near(mine, given)


def _box(part: Part) -> tuple[float, float, float, float]:
    return part.x, part.y, part.width, part.height


def _near(one: Part, other: Part) -> bool:
    return all(abs(a - b) <= NEAR_MM for a, b in zip(_box(one), _box(other), strict=True))
