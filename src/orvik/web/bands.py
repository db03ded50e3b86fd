"""Bands on the page: what may cut one, and what is concealed where it is cut."""

from __future__ import annotations

from ..core.band import Band
from ..core.bands import covered
from ..core.feature import Feature
from .workspace import Workspace


def cutters(workspace: Workspace, line: Feature) -> list[str]:
    """Codes of the units that a line runs through, youngest first, with those that are told to cut it."""
    areas = workspace.around(line.geometry.bounds, frozenset({"areas"}))
    crossed = {a.map_unit for a in areas if a.map_unit and a.geometry.intersects(line.geometry)}
    held = set(line.band.cut_by) if line.band else set()
    return [unit.code for _, unit in workspace.project.units() if unit.code in crossed | held]


def told(workspace: Workspace, line: Feature, band: Band | None, dip: float | None) -> Feature:
    """A line as the band that was told: concealed where a unit lies over it that cuts it."""
    changed = line.changed(band=band, inclination=dip if band else None)
    before = line.band.cut_by if line.band else ()
    if band is None or set(band.cut_by) == set(before):
        return changed
    areas = workspace.around(line.geometry.bounds, frozenset({"areas"}))
    return covered(changed, areas)
