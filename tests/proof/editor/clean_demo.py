"""A copy of the demo in which what is left to do is done, and copies of that for seeds."""

from __future__ import annotations

import shutil
from pathlib import Path

import shapely

from orvik.core.features.feature import Feature
from orvik.core.geometry.snapping import SnapIndex
from orvik.store.project import Project, opened_for_writing
from orvik.usecases.compile.fixing import fix_map
from orvik.usecases.compile.forming import form_units
from orvik.usecases.compile.stations import ticked
from orvik.usecases.proof.proof import all_findings
from tests.proof import seeds


def clean_copy(original: Path, folder: Path) -> Path:
    """The demo, with all that it leaves to do done, in a folder that there is."""
    path = Path(shutil.copy(original, folder))
    shutil.copytree(original.with_suffix(".files"), path.with_suffix(".files"))
    _fix_all(path)
    return path


def copied(clean: Path, folder: Path, name: str = "copy.gpkg") -> Path:
    """A copy of the clean demo; its pictures are only looked at."""
    path = Path(shutil.copy(clean, folder / name))
    path.with_suffix(".files").symlink_to(clean.with_suffix(".files"))
    return path


def _fix_all(path: Path) -> None:
    with opened_for_writing(path) as project:
        for _ in range(9):
            found = next((f for f in all_findings(project) if f.fix is not None), None)
            if found is None:
                break
            fix_map(project, SnapIndex(project.all_features()), found, project.revision)
        # A boundary within one unit is none of its contacts.
        within = [f.features[0] for f in all_findings(project) if f.rule == "same_unit"]
        seeds.keep(project, deleted=tuple(within))
        form_units(project)
        _log_stations(project)
        for finding in all_findings(project):
            (key,) = finding.features
            seeds.keep(project, project.feature(*key).changed(capture_scale=project.scales.digitizing))


def _log_stations(project: Project) -> None:
    """Readings of the stations of the notebook, as they are logged."""
    for row in ticked(project):
        station = row.station
        if row.point is None and station.azimuth is not None:
            place, scale = shapely.Point(station.x, station.y), project.scales.digitizing
            reading = (station.azimuth, station.inclination)
            seeds.keep(
                project,
                Feature("points", place, station.kind, azimuth=reading[0], inclination=reading[1], capture_scale=scale),
            )
