"""Bands: which units may cut one, and what is concealed where they do."""

from __future__ import annotations

from orvik.core.faces.concealment import covered
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.reader import Reader


def units_across(project: Reader, index: SnapIndex, line: Feature) -> list[str]:
    """Codes of the units that a line runs through, youngest first, with those that are said to cut it."""
    crossed = {a.map_unit for a in _areas_around(project, index, line) if a.geometry.intersects(line.geometry)}
    held = set(line.band.cut_by) if line.band else set()
    return [unit.code for _, unit in project.units() if unit.code in crossed | held]


def with_band(project: Reader, index: SnapIndex, line: Feature, band: Band | None, dip: float | None) -> Feature:
    """A line as a band: concealed where a unit lies over it that cuts it.

    Parameters
    ----------
    band
        None for a plain line.
    dip
        Of the band, in degrees.
    """
    changed = line.changed(band=band, inclination=dip if band else None)
    before = line.band.cut_by if line.band else ()
    if band is None or set(band.cut_by) == set(before):
        return changed
    return covered(changed, _areas_around(project, index, line))


def _areas_around(project: Reader, index: SnapIndex, line: Feature) -> list[Feature]:
    keys = index.within(line.geometry.bounds, frozenset({"areas"}))
    return [project.feature(*key) for key in keys]
