"""What readers from outside find in a PDF: layers that can be switched, ground, fonts, and what it says of itself."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2
import pyproj
import pytest
import shapely

from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.affine import apply
from orvik.core.sheet.output.compose import Composition
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.store.project import opened_for_writing
from orvik.store.read_project import ReadProject
from orvik.usecases.ground.border import Corners
from orvik.usecases.project.project import create_project
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.imprint import set_imprint
from orvik.usecases.sheet.parts import PartChange, change_part
from orvik.usecases.sheet.printing import sheet_pdf
from orvik.usecases.sheet.sheets import add_sheet

DPI = 150


def made_and_printed(path: Path, sheet: int) -> tuple[Composition, bytes]:
    project = ReadProject.open(path)
    try:
        # Pictures are not what is looked at here.
        return composed(project, sheet, 30), sheet_pdf(path, sheet, 30)
    finally:
        project.close()


def drawn(data: bytes) -> np.ndarray:
    return np.asarray(pypdfium2.PdfDocument(data)[0].render(scale=60 / 72).to_pil().convert("L"), dtype=int)


def names(order: Any) -> list[Any]:
    """The names of layers, those within another as a list after it."""
    return [names(item) if isinstance(item, pikepdf.Array) else str(item.Name) for item in order]


def test_layers_are_listed_and_can_be_switched(demo: Path) -> None:
    made, data = made_and_printed(demo, 2)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        listed = names(pdf.Root.OCProperties.D.Order)
        titles = [entry for entry in listed if isinstance(entry, str)]
        assert titles == [group.title for group in reversed(made.groups)]
        within = listed[listed.index("Main map") + 1]
        assert within == [
            "Unit codes",
            "Dips and plunges",
            "Attitudes",
            "Names of lines",
            "Linework",
            "Relief",
            "Units",
        ]
        # One off at a time: pdfium draws another page.
        page = drawn(data)
        for group in list(pdf.Root.OCProperties.OCGs):
            if str(group.Name) not in titles[::3]:
                continue
            pdf.Root.OCProperties.D.OFF = pikepdf.Array([group])
            out = io.BytesIO()
            pdf.save(out)
            changed = np.argwhere(drawn(out.getvalue()) != page)
            assert len(changed), str(group.Name)
    assert pypdfium2.PdfDocument(data)[0].get_textpage().get_text_bounded().count("Quennet") >= 2


def sheet_mm_off(info: dict[str, Any], panel: Any) -> float:
    """By how much GDAL puts three known places elsewhere than the panel does, in millimetres on the sheet."""
    a, b, c, d, e, f = info["geoTransform"]
    places = panel.corners.mean(axis=0) + np.array([[-900.0, 700.0], [400.0, -1100.0], [1000.0, 900.0]])
    pixels = apply(panel.to_page, places) * DPI / 25.4
    ground = np.column_stack([a + pixels[:, 0] * b + pixels[:, 1] * c, d + pixels[:, 0] * e + pixels[:, 1] * f])
    return float(np.hypot(*(ground - places).T).max() * 1000 / panel.scale)


@pytest.mark.parametrize(("rotation", "system"), [(0, ""), (-64, ""), (17, "EPSG:3035")])
def test_gdal_reads_the_ground_of_the_main_panel(demo: Path, tmp_path: Path, rotation: int, system: str) -> None:
    with opened_for_writing(demo) as project:
        number = next(p.id or 0 for p in project.parts(2) if p.label == "Main map")
        change_part(project, number, PartChange(typed={"rotation": str(rotation), "system": system}))
    made, data = made_and_printed(demo, 2)
    target = tmp_path / "sheet.pdf"
    target.write_bytes(data)
    command = ["gdalinfo", "-json", "--config", "GDAL_PDF_DPI", str(DPI), str(target)]
    info = json.loads(subprocess.run(command, check=True, capture_output=True).stdout)
    panel = made.panels[number]
    assert pyproj.CRS(info["coordinateSystem"]["wkt"]).to_epsg() == int((system or "EPSG:32628")[5:])
    assert sheet_mm_off(info, panel) < 0.2


def test_every_panel_says_what_ground_it_shows(demo: Path) -> None:
    made, data = made_and_printed(demo, 2)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        height = float(pdf.pages[0].MediaBox[3])
        views = list(pdf.pages[0].VP)
        parts = sorted(
            (panel.part for panel in made.panels.values()), key=lambda part: part.width * part.height, reverse=True
        )
        assert [str(view.Name) for view in views] == [part.label for part in parts]
        for view, part in zip(views, parts, strict=True):
            panel = made.panels[part.id or 0]
            left, bottom, right, top = (float(v) for v in view.BBox)
            corners = [(left, bottom), (left, top), (right, top), (right, bottom)]
            page = np.array([(x, height - y) for x, y in corners]) * 25.4 / 72
            measure = view.Measure
            latitude, longitude = np.array([float(v) for v in measure.GPTS]).reshape(-1, 2).T
            own = pyproj.CRS.from_wkt(str(measure.GCS.WKT))
            x, y = pyproj.Transformer.from_crs(own.geodetic_crs, own, always_xy=True).transform(longitude, latitude)
            np.testing.assert_allclose(apply(panel.to_page, np.column_stack([x, y])), page, atol=0.02)
            if panel.crs.text.startswith("EPSG:"):
                assert int(measure.GCS.EPSG) == int(panel.crs.text[5:])
        settings = [panel.part.settings for panel in made.panels.values()]
        assert len({s.system for s in settings if isinstance(s, MapPanel)}) == 3


def test_fonts_are_subset_and_the_file_says_what_it_is(demo: Path, tmp_path: Path, monkeypatch: Any) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1782950400")
    with opened_for_writing(demo) as project:
        set_imprint(project, {"authors": "Ö. Æsir"})
    target = tmp_path / "sheet.pdf"
    target.write_bytes(sheet_pdf(demo, 1, 30))
    fonts = subprocess.run(["pdffonts", str(target)], check=True, capture_output=True, text=True).stdout
    rows = fonts.splitlines()[2:]
    assert rows
    for row in rows:
        assert row[6] == "+"
        # Embedded, subset, with a way back to characters.
        assert row.split()[-5:-2] == ["yes", "yes", "yes"], row
    info = subprocess.run(
        ["pdfinfo", str(target)], check=True, capture_output=True, text=True, env={"TZ": "UTC"}
    ).stdout
    assert "Harrack Head, Isle of Quennet" in info
    assert "Ö. Æsir" in info
    assert "1:25\u2009000 at 100 %, EPSG:32628" in info
    assert "Thu Jul  2 00:00:00 2026" in info
    words = subprocess.run(["pdftotext", str(target), "-"], check=True, capture_output=True, text=True).stdout
    assert "Harrack Sandstone" in words
    assert target.stat().st_size < 1_200_000


@pytest.mark.parametrize("system", ["EPSG:27572", "EPSG:27500", "EPSG:5221", "EPSG:20790", "EPSG:27391"])
def test_gdal_reads_the_ground_of_systems_on_old_meridians(tmp_path: Path, system: str) -> None:
    path = tmp_path / "old.gpkg"
    crs = project_crs(system)
    assert crs.area is not None
    area = crs.area
    west, south = (area.west + area.east) / 2, (area.south + area.north) / 2
    corners = Corners(*(f"{v:.4f}" for v in (west, south, west + 0.05, south + 0.03)), geographic=True)
    create_project(path, "Old", crs, Scales(25_000, 6_250), corners)
    with opened_for_writing(path) as project:
        add_sheet(project, NewSheet("Old", "A2"))
    made, data = made_and_printed(path, 1)
    target = tmp_path / "sheet.pdf"
    target.write_bytes(data)
    command = ["gdalinfo", "-json", "--config", "GDAL_PDF_DPI", str(DPI), str(target)]
    info = json.loads(subprocess.run(command, check=True, capture_output=True).stdout)
    (panel,) = made.panels.values()
    assert sheet_mm_off(info, panel) < 0.2
    read = pyproj.CRS(info["coordinateSystem"]["wkt"])
    assert read.geodetic_crs is not None
    # The border, through the reader's system in degrees from Greenwich.
    x, y = pyproj.Transformer.from_crs(read.geodetic_crs, read, always_xy=True).transform(west, south)
    nearest = np.hypot(*(shapely.get_coordinates(panel.border.exterior) - [x, y]).T).min()
    assert nearest < 0.01
