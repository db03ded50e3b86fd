"""Parts of sheets: placed, changed, aimed, removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

import numpy as np

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.ink.affine import apply
from orvik.core.sheet.layout.free_paper import free_place
from orvik.core.sheet.page.entries import FileOf
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part, PartSettings, largest
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.core.sheet.panels.scale_distortion import check_shown
from orvik.core.sheet.parts import kind_of_part
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.map_panel import LAYER_WORDS, MapPanel, panel_of
from orvik.store import rows
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.sheet.explanations import with_known_rows


@dataclass(frozen=True)
class PartChange:
    """What changes of a part: its place and size in millimetres, its lock, and settings; what is None stays.

    ``typed`` holds settings as they were typed, by the names of their fields. ``opacity`` names a layer or
    ``underlay-ID`` of a panel and how strong it is printed, 0 to 1.
    """

    place: Mapping[str, float] = field(default_factory=dict)
    locked: bool | None = None
    typed: Mapping[str, str] = field(default_factory=dict)
    opacity: tuple[str, float] | None = None


def add_part(project: Project, sheet_id: int, kind: str, panel: int | None = None) -> Entry:
    """Place a new part on free paper of a sheet, above all others.

    Parameters
    ----------
    panel
        The selected panel, of which it may speak; else it speaks of the largest.

    Raises
    ------
    SheetRefused
        There is no such kind, or it cannot be placed yet.
    """
    sheet = project.sheet(sheet_id)
    parts = project.parts(sheet_id)
    main = next((p for p in parts if p.id == panel and isinstance(p.settings, MapPanel)), largest(parts, MapPanel))
    made = kind_of_part(kind)
    if main is None and issubclass(made, PanelPartSettings) and made.reads_far:
        main = _far_panel(project, made)
    speaks_of = main.id if main is not None else None
    taken = frozenset(p.label for p in parts if isinstance(p.settings, MapPanel))
    described = frozenset(p.settings.panel for p in project.all_parts() if isinstance(p.settings, Description))
    context = NewPartContext(
        sheet, project.scales, project.crs, project.border(), date.today(), speaks_of, taken, described
    )
    settings, width, height = made.new(context)
    x, y = free_place(sheet, parts, width, height)
    top = max((other.position for other in parts), default=0)
    part = Part(settings, x, y, width, height, sheet_id=sheet_id, position=top + 1)
    if made.lies_on_panel and main is not None:
        part = part.changed(x=main.x, y=main.y, width=main.width, height=main.height)
    *_, part = with_known_rows(project, sheet, [*(p for p in parts if p.id == speaks_of), part])
    return project.apply(f"add {made.label.lower()}", [rows.part_change(part)])


def _far_panel(project: Reader, kind: type[PanelPartSettings]) -> Part | None:
    """The panel of another sheet that a part speaks of where its own has none: that of which one of its kind speaks
    already, else the largest of the first sheet that has any."""
    parts = project.all_parts()
    panels = [part for part in parts if isinstance(part.settings, MapPanel)]
    spoken = [part.settings.panel for part in parts if isinstance(part.settings, kind)]
    first = [part for part in panels if part.sheet_id == panels[0].sheet_id]
    return next((part for part in panels if part.id in spoken), largest(first, MapPanel))


def change_part(project: Project, part_id: int, change: PartChange, files: Sequence[KeptFile] = ()) -> Entry | None:
    """Change a part; None where nothing changes.

    Parameters
    ----------
    files
        Those that are new to the project and that the part is to show.

    Raises
    ------
    OrvikError
        It is locked and stays so, or a value cannot be read or cannot be.
    NotFound
        It is no longer there, or has no such layer.
    """
    old = project.part(part_id)
    settings = old.settings.changed(old.settings.typed(change.typed))
    if change.opacity is not None:
        layer, opacity = change.opacity
        if layer not in LAYER_WORDS and not layer.startswith("underlay-"):
            raise NotFound("There is no such layer.")
        if not isinstance(settings, MapPanel):
            raise SheetRefused(f"A {settings.label.lower()} has no layers.")
        settings = settings.with_opacity(layer, opacity)
    locked = old.locked if change.locked is None else change.locked
    new = old.changed(**change.place, locked=locked, settings=_checked(project, old, settings))
    if isinstance(new.settings, MapPanel) and new.settings == old.settings:
        new = resized(project, old, new)
    if old.locked and new.locked:
        raise SheetRefused(f"“{old.label}” is locked; unlock it first.")
    spoken = new.settings.panel if isinstance(new.settings, PanelPartSettings) else None
    if spoken is not None and new.settings != old.settings and spoken != getattr(old.settings, "panel", None):
        # Of another panel, all rows are others: none of them has come new.
        *_, new = with_known_rows(project, project.sheet(old.sheet_id or 0), [project.part(spoken), new])
    if isinstance(new.settings, MapPanel) and new != old:
        check_shown(panel_of(new, project.crs, project.border()))
    if new == old:
        return None
    return project.apply(f"change {old.label.lower()}", [rows.part_change(new)], files=files)


def give_file(project: Project, part_id: int, setting: str, kept: KeptFile) -> Entry | None:
    """Have a part show a file; None where it does so already.

    Raises
    ------
    NotFound
        The part is gone, or has no such setting.
    SheetRefused
        It is locked.
    """
    settings = project.part(part_id).settings
    if not isinstance(settings.entries().get(setting), FileOf):
        raise NotFound("This part shows no file.")
    changed: dict[str, str] = {setting: kept.checksum}
    # An arrow that is given a drawing is to show it.
    if "own" in getattr(settings.entries().get("design"), "choices", {}):
        changed["design"] = "own"
    return change_part(project, part_id, PartChange(typed=changed), files=[kept])


def resized(project: Reader, old: Part, new: Part) -> Part:
    """A panel whose size changes: what it showed stays where it is on the page, or in it if its scale is not locked."""
    settings = new.settings
    if not isinstance(settings, MapPanel) or (old.width, old.height) == (new.width, new.height):
        return new
    before = panel_of(old, project.crs, None)
    if settings.scale_locked:
        x, y = apply(before.to_ground, np.array([new.middle]))[0]
        return new.changed(settings=replace(settings, centre=(float(x), float(y))))
    shrink = max(old.width / new.width, old.height / new.height)
    return new.changed(settings=settings.changed({"scale": round(settings.scale * shrink)}))


def panel_shown(project: Reader, part: Part) -> Panel:
    """The panel of a part; raises SheetRefused where it is none."""
    return panel_of(part, project.crs, project.border())


def _checked(project: Reader, old: Part, new: PartSettings) -> PartSettings:
    """Settings that speak of panels that are there; a panel that gets another system stays over its ground."""
    if isinstance(new, PanelPartSettings) and new != old.settings and new.panel is not None:
        among = project.all_parts() if new.reads_far else project.parts(old.sheet_id or 0)
        there = {p.id for p in among if isinstance(p.settings, MapPanel)}
        if new.panel not in there:
            raise SheetRefused("That is no panel of this sheet; choose one from the list.")
    if not (isinstance(new, MapPanel) and isinstance(old.settings, MapPanel)):
        return new
    before, after = old.settings.crs_in(project.crs), new.crs_in(project.crs)
    if after.text == project.crs.text:
        new = replace(new, system="")
    if before.text == after.text or new.centre != old.settings.centre:
        return new
    return replace(new, centre=carried_place(before, after, new.centre))
