"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

import math

from orvik.core.errors import CoordinateRefused, ScaleRefused
from orvik.core.ground.saved_view import SavedView
from orvik.core.ground.scale import LARGEST_DENOMINATOR
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project


def save_view(project: Project, name: str, x: float, y: float, denominator: float, crs: str = "") -> Entry:
    """Keep a view; without a name it is numbered.

    Parameters
    ----------
    x, y
        Its middle, in the system that it keeps.
    denominator
        Of its scale.
    crs
        A system of its own; empty for the project's.

    Raises
    ------
    CoordinateRefused, ScaleRefused
        It is nowhere, has no scale, or its name is taken.
    """
    if not (math.isfinite(x) and math.isfinite(y)):
        raise CoordinateRefused("This view is nowhere; move the map and try again.")
    if not 1 <= denominator <= LARGEST_DENOMINATOR:
        raise ScaleRefused("This view has no scale that could be saved.")
    known = [view.name for view in project.views()]
    title = name.strip()[:80] or f"View {len(known) + 1}"
    if title in known:
        raise ScaleRefused(f"There is a view {title} already; give another name.")
    view = SavedView(title, x, y, round(denominator), len(known) + 1, crs=crs)
    return project.apply(f"save view {title}", [rows.saved_view_change(view)])


def remove_view(project: Project, view_id: int) -> Entry:
    """Forget a saved view."""
    return project.apply("remove a saved view", [Change("views", view_id, None)])
