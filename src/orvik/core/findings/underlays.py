"""Underlays that lie where they should not, or whose file is gone."""

from __future__ import annotations

from collections.abc import Iterable

from orvik.core.errors import CrsRefused, FitRefused
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import on_sheet
from orvik.core.pictures.georeferencing import ControlSet, fit
from orvik.core.pictures.source import Source

rule(
    "lost_file",
    "error",
    "linework",
    "The file of an underlay is missing, or was altered since it was imported",
    why="what is traced from it may lie elsewhere, and the sheet prints without it",
)
rule(
    "misfit",
    "warning",
    "linework",
    "A picture is georeferenced to no better than 0.5 mm on the sheet",
    why="what is traced from it is off by more than can be drawn",
)

# A picture that is placed no better than this, in millimetres on the sheet, is told of.
MISFIT_MM = 0.5


def misfits(sources: Iterable[Source], publication: int) -> list[Finding]:
    """Pictures whose control points say that they lie no better than half a millimetre on the sheet."""
    found = []
    for source in sources:
        if not source.fit or source.aside:
            continue
        try:
            asked = ControlSet.of_json(source.fit)
            fitted = fit(asked.points, asked.kind)
            metres = fitted.rms * project_crs(source.crs).metres_per_unit
        except (FitRefused, CrsRefused, ValueError):
            continue
        off = on_sheet(metres, publication)
        if off > MISFIT_MM:
            message = f"{source.name} lies {metres:.0f} m off its control points ({off:.1f} mm on the sheet)."
            facts = (f"{off:.1f}", source.checksum)
            found.append(Finding("misfit", "warning", message, None, about=f"source {source.id}", facts=facts))
    return found


def lost_file(source: Source, why: str) -> Finding:
    """Of an underlay whose file is not there, or is another than was imported: neither is shown nor printed."""
    return Finding("lost_file", "error", why, None, about=f"source {source.id}")
