"""Saved views: places and scales by name, to come back to."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class SavedView:
    """A place of the map and the denominator of the scale that it is seen at.

    ``crs`` is the system that the place is in; empty for the project's.
    """

    name: str
    x: float
    y: float
    denominator: int
    position: int
    id: int | None = None
    crs: str = ""
