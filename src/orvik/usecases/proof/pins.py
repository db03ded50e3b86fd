"""What a note on a sheet is pinned to, and where on the page that is now."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from orvik.core.coordinates import PageXY
from orvik.core.errors import OrvikError
from orvik.core.findings.margin_note import MarginNote, Pin
from orvik.core.ink.affine import apply
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.panels.reprojection import carried_place, on_page
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.store.reader import Reader


def pin_at(project: Reader, sheet_id: int, spot: PageXY) -> Pin:
    """What lies uppermost at a place of a sheet: ground of a map panel, another part, or the bare page.

    Parameters
    ----------
    spot
        Millimetres from the upper left corner of the sheet.
    """
    place = shapely.Point(spot)
    for part in reversed(project.parts(sheet_id)):
        if part.settings.lies_on_panel or not _frame(part).covers(place):
            continue
        panel = _panel(project, part)
        if panel is not None and panel.page_area.covers(place):
            there = apply(panel.to_ground, np.array([spot]))[0]
            try:
                return Pin("ground", *carried_place(panel.crs, project.crs, (float(there[0]), float(there[1]))))
            except OrvikError:
                # A hemisphere shows pages that are no ground.
                pass
        return Pin("part", spot[0] - part.x, spot[1] - part.y, part.id)
    return Pin("page", *spot)


def spots_of(project: Reader, sheet_id: int, notes: Iterable[MarginNote]) -> dict[int, PageXY]:
    """Where the notes that are pinned to a sheet stand on it, in millimetres, by their numbers.

    What was pinned to a part that is gone, or to ground that no panel shows any more, stands nowhere.
    """
    pinned = [note for note in notes if note.sheet == sheet_id and note.pin is not None and note.id is not None]
    if not pinned:
        return {}
    parts = project.parts(sheet_id)
    panels = [panel for part in parts if (panel := _panel(project, part)) is not None]
    corners = {part.number: (part.x, part.y) for part in parts}
    out: dict[int, PageXY] = {}
    for note in pinned:
        pin = note.pin
        assert pin is not None
        spot: PageXY | None
        if pin.to == "ground":
            spot = on_page(panels, project.crs, (pin.x, pin.y))
        else:
            left, top = corners.get(pin.part or 0, (None, None)) if pin.to == "part" else (0.0, 0.0)
            spot = (left + pin.x, top + pin.y) if left is not None and top is not None else None
        if spot is not None:
            out[note.id or 0] = spot
    return out


def _panel(project: Reader, part: Part) -> Panel | None:
    if not isinstance(part.settings, MapPanel):
        return None
    try:
        return panel_of(part, project.crs, project.border())
    except OrvikError:
        return None


def _frame(part: Part) -> shapely.Polygon:
    return shapely.box(part.x, part.y, part.x + part.width, part.y + part.height)
