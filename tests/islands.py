"""Islands grown from other seeds: whole, sound maps with a sheet, of which the checks must have nothing to say."""

from __future__ import annotations

from pathlib import Path

import shapely

from orvik.core.features.feature import Feature
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.parts.credits import CreditNote
from orvik.demo import pictures
from orvik.demo.build import HEIGHTS
from orvik.demo.island import UNITS, island
from orvik.demo.rock import BORDER
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import opened_for_writing
from orvik.usecases.compile.forming import form_units
from orvik.usecases.ground.sources import add_underlay
from orvik.usecases.sheet.parts import PartChange, change_part
from orvik.usecases.sheet.sheets import add_sheet


def grown(path: Path, seed: int) -> int:
    """Write the project of an island grown from a seed; gives the number of its sheet."""
    ground, crs = island(seed), project_crs("EPSG:32628")
    relief = path.with_suffix(".tif")
    pictures.relief(ground.land, relief, "EPSG:32628")
    create(path, f"Island {seed}", crs, Scales(25_000, 6_250))
    features = [Feature("lines", shapely.LineString(shapely.box(*BORDER).exterior.coords), "border")]
    features += [
        Feature("lines", line.geometry, line.kind, certainty=line.certainty, questionable=line.questionable)
        for line in ground.lines
    ]
    features += [
        Feature("points", face.geometry.representative_point(), "unit_tag", map_unit=face.unit) for face in ground.faces
    ]
    for station in ground.stations:
        azimuth = round(station.azimuth + float(crs.convergence(station.x, station.y))) % 360
        place = shapely.Point(station.x, station.y)
        features.append(Feature("points", place, "bedding", azimuth=azimuth, inclination=station.inclination))
    with opened_for_writing(path) as project:
        project.apply("units", [rows.unit_change(None, unit) for unit in UNITS])
        drawn = [feature.changed(capture_scale=6_250) for feature in features]
        project.apply("lines", [rows.feature_change(feature, project.srs_id) for feature in drawn])
        form_units(project)
        entry = add_underlay(project, relief, None, "Relief")
        project.apply("state the heights", [Change("sources", entry.changes[0].id, {"heights": HEIGHTS.json})])
        add_sheet(project, NewSheet("Main", "A3"))
        (sheet,) = project.sheets()
        note = next(p for p in project.parts(sheet.id or 0) if isinstance(p.settings, CreditNote))
        made_by = {"author": "Test", "day": "2026-07-02", "sources": "a seed"}
        change_part(project, note.id or 0, PartChange(typed=made_by))
        return sheet.id or 0
