"""The demo project: the island's lines, areas, points and pictures, and three composed sheets."""

from __future__ import annotations

import shutil
import tempfile
from dataclasses import replace
from pathlib import Path

import shapely

from orvik.core.drawing.validity import checked
from orvik.core.features.feature import Feature
from orvik.core.features.kind import SHEET_BORDER
from orvik.core.features.stretch import Stretch
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.pictures.relief import ReliefStyle
from orvik.demo import lands, pictures
from orvik.demo.around import name_around, name_origins, origin_of
from orvik.demo.below import draw_sections
from orvik.demo.compiled import DRAWN_KINDS, compiled
from orvik.demo.island import CRS, UNITS, Island, island
from orvik.demo.landscape import Landscape
from orvik.demo.outcrop import Line
from orvik.demo.rock import BORDER
from orvik.demo.sheets import add_sheets
from orvik.demo.symbols import symbols
from orvik.exchange.rasters import raster
from orvik.store import rows
from orvik.store.creation import create
from orvik.store.journal import Change
from orvik.store.project import Project, opened_for_writing
from orvik.store.tables.symbol_book import kind_change, symbol_book_of
from orvik.usecases.ground.sources import add_reference, add_scan, add_underlay, new_reference

NAME = "Isle of Quennet"
FILE = "isle-of-quennet.gpkg"
VIEWS = [
    Change("views", None, {"name": name, "x": x, "y": y, "denominator": scale, "position": i})
    for i, (name, x, y, scale) in enumerate(
        (
            ("Head of the burn", 515_050.0, 6_803_050.0, 6_250),
            ("Whole of the island", 513_250.0, 6_802_500.0, 40_000),
        ),
        1,
    )
]

# What is known of the island's heights: where its tide gauge stood, and how well they were photographed.
HEIGHTS = HeightFacts(datum="mean sea level at Harrack pier, 1931", error=1.5)


def build(folder: Path) -> Path:
    """Make the demo project in a folder, unless it is there; gives its path."""
    path = folder / FILE
    if path.exists():
        return path
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".demo-") as temporary:
        made = Path(temporary) / FILE
        _build(made)
        shutil.move(raster.files_folder(made), raster.files_folder(path))
        made.replace(path)
    return path


def _build(path: Path) -> None:
    crs = project_crs(CRS)
    ground = island()
    create(path, NAME, crs, Scales(25_000, 6_250))
    with opened_for_writing(path) as project:
        project.apply("set up the map units", [rows.unit_change(None, unit) for unit in UNITS])
        _pictures(project, ground, ground.land)
        name_origins(project)
        _features(project, ground)
        name_around(project)
        draw_sections(project, ground)
        add_sheets(project)
        project.apply("save two views", VIEWS)
        for layer, state in (
            ("units", rows.LayerState(opacity=0.75)),
            ("underlay-1", rows.LayerState(opacity=0.3)),
            ("underlay-2", rows.LayerState(opacity=0.6)),
        ):
            project.set_layer(layer, state)


def _pictures(project: Project, ground: Island, land: Landscape) -> None:
    with tempfile.TemporaryDirectory() as temporary:
        relief = Path(temporary) / "relief.tif"
        pictures.relief(land, relief, CRS)
        entry = add_underlay(project, relief, None, "Relief")
        style = ReliefStyle(around=True, altitude=50, exaggeration=1.4, contours=50.0).json
        said = {"relief": style, "heights": HEIGHTS.json}
        project.apply("light the relief", [Change("sources", entry.changes[0].id, said)])
        scan = Path(temporary) / "field-sheet-3.png"
        add_scan(project, scan, pictures.field_sheet(ground, scan), "Field sheet 3")
        around = Path(temporary) / f"{lands.NAME}.geojson"
        lands.lands(project.crs, around)
        found = replace(new_reference(project.path, around, ""), colour=lands.LOOK.colour, look=lands.LOOK.text)
        add_reference(project, found, around.name)


def _features(project: Project, ground: Island) -> None:
    west, south, east, north = BORDER
    edge = shapely.LineString([(west, south), (east, south), (east, north), (west, north), (west, south)])
    capture = project.scales.digitizing
    features = [Feature("lines", edge, "border", capture_scale=capture)]
    longest = max(
        (f for f in ground.lines if f.kind == "fault" and f.certainty == "certain"),
        key=lambda f: float(f.geometry.length),
    )
    for line in ground.lines:
        if line.kind != "dyke":
            middle = len(line.geometry.coords) // 2
            # Where the longest fault crosses the bog it was not seen.
            geometry, kind = _with_sense(line, longest)
            stretches = (Stretch(middle - 3, middle + 4, "inferred"),) if line is longest else ()
            features.append(
                Feature(
                    "lines",
                    geometry,
                    kind,
                    certainty=line.certainty,
                    questionable=line.questionable,
                    capture_scale=capture,
                    stretches=stretches,
                )
            )
    areas = [
        Feature("areas", face.geometry, "unit_area", map_unit=face.unit, capture_scale=capture) for face in ground.faces
    ]
    tags = [
        Feature("points", _beside_the_code(face.geometry), "unit_tag", map_unit=face.unit, capture_scale=capture)
        for face in ground.faces
    ]
    features += [*areas, *tags]
    for number, station in enumerate(ground.stations, 201):
        # Stations strike on the grid; what is kept is measured from true north.
        convergence = float(project.crs.convergence(station.x, station.y))
        features.append(
            Feature(
                "points",
                shapely.Point(station.x, station.y),
                "bedding",
                questionable=station.questionable,
                azimuth=round(station.azimuth + convergence) % 360,
                inclination=station.inclination,
                capture_scale=capture,
                note=f"Station {number}",
            )
        )
    more = compiled(ground, areas, project.crs, capture)
    project.apply("make three kinds", [kind_change(None, kind) for kind in DRAWN_KINDS])
    book, codes = symbol_book_of(project), {unit.code for unit in UNITS}
    both = [*features, *more.features]
    both += symbols(ground, both, project.crs, capture)
    both = [f if f.kind == SHEET_BORDER else f.changed(source_id=origin_of(f.geometry)) for f in both]
    kept = [rows.feature_change(checked(f, project.crs, book, codes), project.srs_id) for f in both]
    project.apply("compile the island", kept)
    stations = [
        {
            "name": s.name,
            "x": s.x,
            "y": s.y,
            "kind": s.kind,
            "azimuth": s.azimuth,
            "inclination": s.inclination,
            "note": s.note,
        }
        for s in more.stations
    ]
    project.apply("import the notebook of 12 stations", [Change("stations", None, values) for values in stations])


def _with_sense(line: Line, longest: Line) -> tuple[shapely.LineString, str]:
    """The other of the two faults is a normal one, with its downthrown side to the north-east, and so to its right."""
    geometry = line.geometry
    if line.kind != "fault" or line is longest or geometry.distance(longest.geometry) < 800:
        return geometry, line.kind
    (x0, y0), (x1, y1) = geometry.coords[0], geometry.coords[-1]
    runs_to_south_east = (x1 - x0) - (y1 - y0) > 0
    return (shapely.reverse(geometry) if runs_to_south_east else geometry), "normal_fault"


def _beside_the_code(area: shapely.Polygon) -> shapely.Point:
    """A place for a unit tag in the southern part of an area, clear of the code in its middle."""
    west, south, east, north = area.bounds
    part = shapely.intersection(area, shapely.box(west, south, east, south + 0.4 * (north - south)))
    place: shapely.Point = shapely.point_on_surface(max(shapely.get_parts(part), key=shapely.area))
    return place
