"""Keeping what a file brings in: one journal entry a file."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

from ..core.border import check_reach
from ..core.georef import ControlSet, fit
from ..core.relief import ReliefStyle
from ..store import rows
from ..store.books import book_of
from ..store.journal import Change, Entry
from ..store.project import Project
from . import elevation, raster, vector


def features_from(
    project: Project, path: Path, kind: str | None = None, unit_field: str | None = None
) -> tuple[Entry, int]:
    """Bring the features of a file into a project; gives the entry and how many there were."""
    reading = checked_reading(project, path, kind, unit_field)
    return project.apply(f"bring in {path.name}", feature_changes(project, reading, path.name)), len(
        reading.features
    )


def checked_reading(
    project: Project, path: Path, kind: str | None = None, unit_field: str | None = None,
    plan: vector.Plan | None = None,
) -> vector.Reading:  # fmt: skip
    """What a file would bring in, within reach of the sheet; nothing is kept. Raises FileRefused."""
    units = [unit for _, unit in project.units()]
    reading = vector.read(path, project.crs, book_of(project), units, kind, unit_field, plan)
    border = project.border()
    for number, feature in enumerate(reading.features, 1):
        check_reach(f"{path.name}: feature {number}", feature.geometry.bounds, border)
    return reading


def feature_changes(project: Project, reading: vector.Reading, name: str) -> list[Change]:
    """The changes that keep what was read: where it came from, new map units, and the features."""
    source_id = project.next_id("sources")
    origin = {"id": source_id, "kind": "file", "name": name, "crs": reading.crs}
    features = (feature.changed(source_id=source_id) for feature in reading.features)
    return [
        Change("sources", None, origin),
        *(rows.unit_change(None, unit) for unit in reading.units),
        *(rows.feature_change(feature, project.srs_id) for feature in features),
    ]


def reference_change(project: Project, file: Path, stated: str) -> Change:
    """Copy a file of features beside the project; gives the change that shows it as a reference layer."""
    name, checksum = raster.taken_in(file, project.path)
    position = max((row["position"] for row in project.sources()), default=0) + 1
    values = {"kind": "reference", "name": file.stem, "file": name, "checksum": checksum, "crs": stated,
              "multiply": 0, "position": position, "colour": "#7A3E9D"}  # fmt: skip
    return Change("sources", None, values)


def underlay_change(project: Project, picture: Path, facts: raster.RasterFacts, name: str) -> Change:
    """Copy an examined picture beside the project; gives the change that makes it an underlay."""
    file, checksum = raster.taken_in(picture, project.path)
    position = max((row["position"] for row in project.sources()), default=0) + 1
    values = {
        "kind": "underlay",
        "name": name,
        "file": file,
        "checksum": checksum,
        "crs": facts.crs,
        "transform": json.dumps(facts.transform) if facts.transform else "",
        "relief": ReliefStyle().json if facts.transform and elevation.is_grid(picture) else "",
        "multiply": 1,
        "position": position,
    }
    return Change("sources", None, values)


def underlay_from(project: Project, picture: Path, world: Path | None, name: str) -> Entry:
    """Take a picture in as an underlay; raises FileRefused where it cannot serve."""
    facts = raster.examined(picture, world, project.crs)
    if facts.bounds is not None:
        check_reach(picture.name, facts.bounds, project.border())
    change = underlay_change(project, picture, facts, name)
    return project.apply(f"add underlay {name}", [change])


def scan_from(project: Project, picture: Path, control: ControlSet, name: str) -> Entry:
    """Take in a scan that does not say where it lies, placed by control points; raises FitRefused."""
    facts = raster.examined(picture, None, project.crs)
    change = underlay_change(project, picture, facts, name)
    placed = {"fit": control.json, "transform": fit(control.points, control.kind).mapping.json}
    return project.apply(
        f"add underlay {name}", [replace(change, values={**(change.values or {}), **placed})]
    )
