"""Sheets and their parts: added from the default template, placed, changed, aimed, removed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import shapely

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.sheet.compose import LAYER_WORDS
from orvik.core.sheet.page import Part, Sheet
from orvik.core.sheet.panel import aimed
from orvik.core.sheet.paper import paper_size
from orvik.core.sheet.settings import NoSettings, PanelSettings, Settings, TextSettings, changed
from orvik.core.sheet.template import laid_out
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader

# Width and height in millimetres of a part that is newly placed.
NEW_SIZES = {
    "map_panel": (120.0, 90.0),
    "title": (160.0, 10.0),
    "explanation": (90.0, 120.0),
    "scale_bar": (85.0, 8.0),
    "north_arrow": (30.0, 24.0),
    "fraction": (30.0, 5.0),
    "credit_note": (80.0, 20.0),
    "text": (60.0, 12.0),
}


@dataclass(frozen=True)
class PartChange:
    """What changes of a part: its place and size in millimetres, its lock, and settings; what is None stays.

    ``strength`` names a layer or ``underlay-ID`` of a panel and how strong it is printed, 0 to 1.
    """

    place: Mapping[str, float] = field(default_factory=dict)
    locked: bool | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)
    strength: tuple[str, float] | None = None


def add_sheet(project: Project, name: str, paper: str, landscape: bool) -> Entry:
    """A sheet from the default template; its main panel shows exactly the border, at the publication scale.

    Parameters
    ----------
    paper
        A name such as ``A3``, or millimetres as ``300x400``.

    Raises
    ------
    SheetRefused
        The name is taken or empty, there is no border, or the paper is none or too small.
    """
    label, width, height = paper_size(paper, landscape)
    sheet = Sheet(name.strip(), label, width, height)
    if any(other.name == sheet.name for other in project.sheets()):
        raise SheetRefused(f"There is a sheet {sheet.name} already; choose another name.")
    scale = project.scales.publication
    parts = laid_out(sheet.name, project.name, (width, height), _border(project), scale, project.crs, label)
    return project.apply(f"add sheet {sheet.name}", rows.sheet_changes(sheet, parts))


def remove_sheet(project: Project, sheet_id: int) -> Entry:
    """Remove a sheet with its parts."""
    return project.apply(f"remove sheet {project.sheet(sheet_id).name}", [Change("sheets", sheet_id, None)])


def add_part(project: Project, sheet_id: int, kind: str) -> Entry:
    """Place a new part in the middle of a sheet, above all others."""
    sheet = project.sheet(sheet_id)
    if kind not in NEW_SIZES:
        raise SheetRefused("There is no such part.")
    width, height = NEW_SIZES[kind]
    settings: Settings = NoSettings()
    if kind == "map_panel":
        centre, width, height = aimed(_border(project), project.scales.publication, project.crs)
        width, height = min(width, sheet.width - 20), min(height, sheet.height - 20)
        settings = PanelSettings(project.scales.publication, centre)
    if kind in ("title", "text"):
        settings = TextSettings("Geologic map of " + sheet.name if kind == "title" else "Text")
    top = max((other.position for other in project.parts(sheet_id)), default=0)
    part = Part(
        kind,
        (sheet.width - width) / 2,
        (sheet.height - height) / 2,
        width,
        height,
        sheet_id=sheet_id,
        position=top + 1,
        settings=settings,
    )
    return project.apply(f"add {part.label.lower()}", [rows.part_change(part)])


def change_part(project: Project, part_id: int, change: PartChange) -> Entry | None:
    """Change a part; None where nothing changes.

    Raises
    ------
    SheetRefused
        It is locked and stays so, or a value cannot be.
    NotFound
        It is no longer there, or has no such layer.
    """
    old = project.part(part_id)
    settings = changed(old.settings, change.settings)
    if change.strength is not None:
        layer, strength = change.strength
        if layer not in LAYER_WORDS and not layer.startswith("underlay-"):
            raise NotFound("There is no such layer.")
        if not isinstance(settings, PanelSettings):
            raise SheetRefused(f"A {old.label.lower()} has no layers.")
        settings = settings.with_strength(layer, strength)
    locked = old.locked if change.locked is None else change.locked
    new = old.changed(**change.place, locked=locked, settings=settings)
    if old.locked and new.locked:
        raise SheetRefused(f"This {old.label.lower()} is locked; unlock it first.")
    return project.apply(f"change {old.label.lower()}", [rows.part_change(new)]) if new != old else None


def aim_panel(project: Project, part_id: int) -> Entry:
    """Make a panel show exactly the border at the publication scale, keeping its upper left corner."""
    part = project.part(part_id)
    centre, width, height = aimed(_border(project), project.scales.publication, project.crs)
    aimed_at = replace(part.panel, scale=project.scales.publication, centre=centre)
    new = part.changed(width=width, height=height, settings=aimed_at)
    return project.apply("aim the panel at the border", [rows.part_change(new)])


def remove_part(project: Project, part_id: int) -> Entry:
    """Remove a part; raises SheetRefused where it is locked."""
    part = project.part(part_id)
    if part.locked:
        raise SheetRefused(f"This {part.label.lower()} is locked; unlock it first.")
    return project.apply(f"remove {part.label.lower()}", [Change("parts", part_id, None)])


def _border(project: Reader) -> shapely.LineString:
    border = project.border()
    if border is None:
        raise SheetRefused("The project has no sheet border yet; set it in Ground, so that the panel can show it.")
    return border
