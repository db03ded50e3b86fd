"""Several parts at once: put in their places, aligned, ordered, grouped, locked, copied, removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.sheet.layout.arranging import arranged, reordered
from orvik.core.sheet.page.part import PanelPartSettings, Part, largest
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.sheet.labels import copied_moves
from orvik.usecases.sheet.parts import resized

# How far a copy on its own sheet stands from what it is a copy of, in millimetres.
BESIDE = 5.0


def place_parts(project: Project, places: Mapping[int, Mapping[str, float]]) -> Entry | None:
    """Put parts where a hand has left them; None where all stand so.

    Parameters
    ----------
    places
        ``x``, ``y``, ``width`` and ``height`` in millimetres, by the number of the part.

    Raises
    ------
    SheetRefused
        One is locked, or cannot stand so.
    """
    changes = []
    for number, place in places.items():
        old = _free(project, number)
        new = resized(project, old, old.changed(**{name: round(value, 3) for name, value in place.items()}))
        if new != old:
            changes.append(rows.part_change(new))
    return project.apply(_label("move", len(changes)), changes) if changes else None


def arrange_parts(project: Project, numbers: Sequence[int], how: str) -> Entry | None:
    """Align parts to the first, distribute them, or give them its size; None where they stand so."""
    parts = [_free(project, number) for number in numbers]
    changed = [resized(project, old, new) for old, new in zip(parts, arranged(parts, how), strict=True)]
    changes = [rows.part_change(new) for old, new in zip(parts, changed, strict=True) if new != old]
    return project.apply(_label("arrange", len(parts)), changes) if changes else None


def order_parts(project: Project, numbers: Sequence[int], how: str) -> Entry | None:
    """Bring parts to the front or back, or one step forward or back; None where they stand so."""
    parts = project.parts(_sheet_of(project, numbers))
    changed = reordered(parts, numbers, how)
    before = {part.id: part.position for part in parts}
    changes = [Change("parts", p.id, {"position": p.position}) for p in changed if p.position != before[p.id]]
    return project.apply(_label("order", len(numbers)), changes) if changes else None


def group_parts(project: Project, numbers: Sequence[int], on: bool) -> Entry | None:
    """Make parts a group, so that they are selected together, or take their groups apart.

    Raises
    ------
    SheetRefused
        There is but one.
    """
    if on and len(numbers) < 2:
        raise SheetRefused("Select at least 2 parts for a group; Shift and a click adds one.")
    parts = [project.part(number) for number in numbers]
    others = project.parts(_sheet_of(project, numbers))
    group = max((p.settings.group for p in others), default=0) + 1 if on else 0
    changes = [
        rows.part_change(part.changed(settings=replace(part.settings, group=group)))
        for part in parts
        if part.settings.group != group
    ]
    return project.apply(_label("group" if on else "ungroup", len(parts)), changes) if changes else None


def lock_parts(project: Project, numbers: Sequence[int], locked: bool) -> Entry | None:
    """Lock parts or unlock them; None where they are so."""
    parts = [project.part(number) for number in numbers]
    changes = [rows.part_change(part.changed(locked=locked)) for part in parts if part.locked != locked]
    return project.apply(_label("lock" if locked else "unlock", len(parts)), changes) if changes else None


def copy_parts(project: Project, numbers: Sequence[int], sheet_id: int) -> Entry:
    """Copies of parts on a sheet, above all others; what lies on a panel goes with it.

    Those that speak of a panel speak of its copy, or on another sheet of the largest panel there; where there is
    none, what may speak of a panel of another sheet goes on doing so.

    Raises
    ------
    NotFound
        None of them is there any more.
    """
    sheet = project.sheet(sheet_id)
    there = project.parts(sheet_id)
    chosen = [part for number in numbers if (part := _there(project, number)) is not None]
    if not chosen:
        raise NotFound("What was to be copied is no longer there; copy it again.")
    taken = {part.id for part in chosen}
    for part in list(chosen):
        chosen += [p for p in _lying_on(project, part) if p.id not in taken]
    home = chosen[0].sheet_id == sheet.id
    main = largest(there, MapPanel)
    top = max((p.position for p in there), default=0)
    copies = []
    for i, part in enumerate(chosen, 1):
        settings = part.settings
        if isinstance(settings, PanelPartSettings) and not home and settings.panel not in taken:
            far = settings.panel if settings.reads_far else None
            settings = replace(settings, panel=main.id if main is not None else far)
        shift = BESIDE if home else 0.0
        copies.append(
            part.changed(
                x=part.x + shift,
                y=part.y + shift,
                settings=replace(settings, group=0),
                sheet_id=sheet_id,
                position=top + i,
                locked=False,
                made_as=0,
            )
        )
    changes = rows.part_changes(copies)
    changes += copied_moves(project, {part.number: i for i, part in enumerate(copies)})
    return project.apply(_label("copy", len(copies)), changes)


def remove_parts(project: Project, numbers: Sequence[int]) -> Entry:
    """Remove parts, and with panels what lies on them; raises SheetRefused where one is locked."""
    chosen = [_free(project, number) for number in numbers]
    all_of = {part.id: part for part in chosen}
    for part in chosen:
        all_of |= {p.id: p for p in _lying_on(project, part)}
    return project.apply(_label("remove", len(chosen)), [Change("parts", number, None) for number in all_of])


def _lying_on(project: Reader, panel: Part) -> list[Part]:
    return [
        part
        for part in project.parts(panel.sheet_id or 0)
        if isinstance(part.settings, PanelPartSettings)
        and part.settings.lies_on_panel
        and part.settings.panel == panel.id
    ]


def _free(project: Reader, number: int) -> Part:
    part = project.part(number)
    if part.locked:
        raise SheetRefused(f"“{part.label}” is locked; unlock it first.")
    return part


def _there(project: Reader, number: int) -> Part | None:
    try:
        return project.part(number)
    except NotFound:
        return None


def _sheet_of(project: Reader, numbers: Sequence[int]) -> int:
    if not numbers:
        raise SheetRefused("Select a part first.")
    return project.part(numbers[0]).sheet_id or 0


def _label(what: str, count: int) -> str:
    return f"{what} {count} parts" if count != 1 else f"{what} a part"
