"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class SavedView:
    """A place of the map, in project coordinates, and the denominator of the scale that it is seen at."""

    name: str
    x: float
    y: float
    denominator: int
    position: int
    id: int | None = None
