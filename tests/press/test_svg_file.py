"""SVG files to be finished elsewhere: named groups, geometry cut at the neatline, true size, and one picture."""

from __future__ import annotations

import io
import json
import re
import sqlite3
from pathlib import Path
from xml.etree import ElementTree
from xml.etree.ElementTree import Element

import numpy as np
import pytest
import shapely
from svgelements import SVG, Group
from svgelements import Path as SvgPath

from orvik.core.ink.cut import cut
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Fill, LineStyle, Marks, Pattern, Stamp, Stroke, Tile
from orvik.core.ink.primitives import Group as InkGroup
from orvik.core.ink.thin import curve_of, thinned
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.press.pdf import page_pdf
from orvik.press.svg_file import Manner, document
from orvik.store.geometry import add_functions
from orvik.store.read_project import opened_for_reading
from orvik.usecases.export.export_sheets import svg_of
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.printing import sheet_fragments
from tests.press.measure import segments

NAME = "{http://www.w3.org/2000/svg}"
TRIANGLE = shapely.Polygon([(10, 10), (90, 20), (40, 80)])


def written(path: Path, **values: object) -> str:
    way = ExportSettings(dpi=60, **values)  # type: ignore[arg-type]
    with opened_for_reading(path) as project:
        return svg_of(project, composed(project, 1, way.dpi), way)


@pytest.fixture(scope="module")
def plain(corner_original: Path) -> str:
    return written(corner_original)


def test_it_is_sound_and_brings_all_it_needs(plain: str) -> None:
    root = ElementTree.fromstring(plain)
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("720mm", "430mm", "0 0 720 430")
    assert root.findtext(f"{NAME}title") == "Harrack Head, Isle of Quennet"
    assert "1:25" in (root.findtext(f"{NAME}desc") or "")
    used = [e.get("href") or "" for e in root.iter() if e.get("href")]
    ids = [e.get("id") for e in root.iter() if e.get("id")]
    assert len(ids) == len(set(ids))
    assert all(h.startswith("data:") or h.removeprefix("#") in ids for h in used)
    assert "http" not in plain.replace("http://www.w3.org/2000/svg", "")


def test_a_group_for_each_layer_and_part_that_can_be_read_and_nothing_that_clips(plain: str) -> None:
    root = ElementTree.fromstring(plain)
    parts = [g.get("id") for g in root.findall(f"{NAME}g")]
    assert parts[:2] == ["Main-map", "Graticule"]
    assert {"Title", "Explanation", "Scale-bar", "North-arrow", "Notes"} <= set(parts)
    (panel,) = (g for g in root.findall(f"{NAME}g") if g.get("id") == "Main-map")
    layers = [g.get("id") for g in panel.iter(f"{NAME}g") if g is not panel and g.get("id")]
    assert layers == [
        "Units",
        "Relief",
        "Linework",
        "Names-of-lines",
        "Attitudes",
        "Dips-and-plunges",
        "Unit-codes",
    ]
    for word in ("clip", "mask", "pattern"):
        assert not [e.tag for e in root.iter() if word in e.tag.lower() or any(word in name for name in e.attrib)]


@pytest.mark.parametrize(("groups", "wanted"), [("unit", ["Kp", "Kw"]), ("symbol", ["Contact-certain", "Shoreline"])])
def test_it_is_grouped_by_units_or_symbols_if_asked(corner_original: Path, groups: str, wanted: list[str]) -> None:
    ids = {g.get("id") for g in ElementTree.fromstring(written(corner_original, groups=groups)).iter()}
    assert set(wanted) <= ids


def test_geometry_of_the_panel_lies_within_its_neatline(plain: str) -> None:
    """Read by svgelements: every path of the map ends at the neatline, but for the width of its pen."""
    drawn = SVG.parse(io.StringIO(plain), ppi=25.4)
    panel = next(e for e in drawn.elements() if isinstance(e, Group) and e.id == "Main-map")
    boxes = [e.bbox() for e in panel.select(lambda e: isinstance(e, SvgPath)) if e.bbox() is not None]
    found = np.array(boxes)
    # The neatline of the demo: 280 by 220 mm from 23, 23.
    assert found[:, :2].min() >= 23 - 0.3
    assert found[:, 2].max() <= 303 + 0.3
    assert found[:, 3].max() <= 243 + 0.3


def test_letters_as_outlines_need_no_font(corner_original: Path) -> None:
    drawn = written(corner_original, outlines=True, drawn_out=True)
    root = ElementTree.fromstring(drawn)
    assert not list(root.iter(f"{NAME}text"))
    assert "font-face" not in drawn
    assert not list(root.iter(f"{NAME}use"))
    assert not list(root.iter(f"{NAME}symbol"))
    labels = {e.get("aria-label") for e in root.iter(f"{NAME}path")}
    assert {"Explanation", "Wray Siltstone"} <= labels


def test_each_symbol_stands_in_it_once(plain: str) -> None:
    symbols = [e.get("id") or "" for e in ElementTree.fromstring(plain).iter(f"{NAME}symbol")]
    assert any("Bedding" in name or "bedding" in name for name in symbols)
    assert plain.count('<symbol id="bedding') <= 3


def paths_of(root: Element) -> list[np.ndarray]:
    """The lines of a file, those within symbols apart."""
    symbols = {path for defs in root.iter(f"{NAME}defs") for path in defs.iter(f"{NAME}path")}
    out = []
    for path in root.iter(f"{NAME}path"):
        if path not in symbols and path.get("fill") == "none":
            for piece in re.findall(r"M[^M]+", path.get("d") or ""):
                out.append(np.array([[float(v) for v in p.split()] for p in re.split(r"[ML]", piece.rstrip("Z"))[1:]]))
    return out


def test_every_line_that_nothing_cuts_lies_where_the_pdf_has_it(corner_original: Path, plain: str) -> None:
    with opened_for_reading(corner_original) as project:
        made = composed(project, 1, 60)
    theirs = [np.array(p) for p in segments(page_pdf(made.groups, 420, 297, "x")) if len(p) > 1]
    by_length: dict[int, list[np.ndarray]] = {}
    for path in theirs:
        by_length.setdefault(len(path), []).append(path)
    long = [p for p in paths_of(ElementTree.fromstring(plain)) if len(p) > 12]
    found = sum(any(np.abs(o - p).max() < 0.002 for o in by_length.get(len(p), [])) for p in long)
    assert len(long) > 5
    # Some are cut at the neatline, and patterns are pieces of their own.
    assert found > 5


def random_lines(rng: np.random.Generator, count: int) -> Paths:
    return Paths.of(*(rng.uniform(0, 100, (rng.integers(2, 9), 2)) for _ in range(count)))


def test_lines_are_cut_as_shapely_cuts_them() -> None:
    rng = np.random.default_rng(11)
    clip = Paths.of(shapely.get_coordinates(TRIANGLE.exterior))
    for dash in ((), (3.0, 1.0)):
        paths = random_lines(rng, 60)
        stroke = Stroke(LineStyle(0.2, "#000000", dash), paths, np.arange(60))
        (group,) = cut([InkGroup("panel", (stroke,), clip=clip)])
        assert isinstance(group, InkGroup)
        assert group.clip is None
        strokes = [item for item in group.items if isinstance(item, Stroke)]
        for i in range(60):
            mine = [s.paths[k] for s in strokes for k in range(len(s.paths)) if s.keys is not None and s.keys[k] == i]
            whole = shapely.intersection(shapely.LineString(paths[i]), TRIANGLE).length
            assert sum(shapely.LineString(p).length for p in mine) == pytest.approx(whole, abs=1e-6)
            for s in strokes:
                if dash and s.keys is not None and s.keys[0] == i:
                    along = shapely.LineString(paths[i]).project(shapely.Point(s.paths[0][0]))
                    assert s.style.phase == pytest.approx(along % 4.0, abs=1e-6)


def test_areas_and_symbols_are_cut_to_the_same_ground() -> None:
    rng = np.random.default_rng(12)
    clip = Paths.of(shapely.get_coordinates(TRIANGLE.exterior))
    boxes = [shapely.box(x, y, x + 15, y + 10) for x, y in rng.uniform(0, 90, (40, 2))]
    rings = Paths.of(*(shapely.get_coordinates(box.exterior) for box in boxes))
    fill = Fill("#AA0000", rings, np.arange(41), np.arange(40))
    square = Stamp(
        "square", (Fill("#00AA00", Paths.of([(-2, -2), (2, -2), (2, 2), (-2, 2), (-2, -2)]), np.array([0, 1])),)
    )
    at = rng.uniform(0, 100, (50, 2))
    marks = Marks(square, at, rng.uniform(0, 360, 50), np.arange(50))
    (group,) = cut([InkGroup("panel", (fill, marks), clip=clip)])
    assert isinstance(group, InkGroup)
    area = 0.0
    for item in group.items:
        if isinstance(item, Fill) and item.colour == "#AA0000":
            for first, last in zip(item.parts[:-1], item.parts[1:], strict=True):
                area += shapely.Polygon(item.paths[first], [item.paths[k] for k in range(first + 1, last)]).area
    assert area == pytest.approx(sum(shapely.intersection(box, TRIANGLE).area for box in boxes), rel=1e-9)
    kept = sum(len(item.at) * 16.0 for item in group.items if isinstance(item, Marks))
    pieces = [i for i in group.items if isinstance(i, Fill) and i.colour == "#00AA00"]
    kept += sum(abs(shapely.Polygon(p.paths[k]).area) for p in pieces for k in range(len(p.paths)))
    whole = 0.0
    for (x, y), angle in zip(at, marks.angles, strict=True):
        turned = shapely.affinity.rotate(shapely.box(x - 2, y - 2, x + 2, y + 2), angle, origin=(x, y))
        whole += shapely.intersection(turned, TRIANGLE).area
    assert kept == pytest.approx(whole, rel=1e-9)


def test_a_pattern_fills_its_areas_and_no_more() -> None:
    dot = Fill("#333333", Paths.of([(0, 0), (1, 0), (1, 1), (0, 1), (0, 0)]), np.array([0, 1]))
    pattern = Pattern(
        Tile("dots", 2.0, 2.0, (dot,)), Paths.of(shapely.get_coordinates(TRIANGLE.exterior)), np.array([0, 1])
    )
    root = ElementTree.fromstring(document([pattern], 100, 100, "t", manner=Manner(symbols=False)))
    shapes = list(root.iter(f"{NAME}path"))
    total = 0.0
    for shape in shapes:
        for piece in (shape.get("d") or "").split("Z")[:-1]:
            xy = [[float(v) for v in p.split()] for p in re.split(r"[ML]", piece)[1:]]
            polygon = shapely.Polygon(xy)
            assert TRIANGLE.buffer(2e-3).contains(polygon)
            total += polygon.area
    assert total == pytest.approx(TRIANGLE.area / 4, rel=0.02)


@pytest.mark.parametrize("tolerance", [0.02, 0.1, 0.5])
def test_thinned_and_smoothed_lines_stay_within_their_tolerance(tolerance: float) -> None:
    rng = np.random.default_rng(5)
    for _ in range(20):
        t = np.linspace(0, 6, 200)
        xy = np.column_stack([t * 10, 4 * np.sin(t * rng.uniform(0.5, 3)) + rng.normal(0, 0.01, 200)])
        line = shapely.LineString(xy)
        (stroke,) = thinned([Stroke(LineStyle(0.2, "#000000"), Paths.of(xy))], tolerance)
        assert isinstance(stroke, Stroke)
        assert shapely.hausdorff_distance(line, shapely.LineString(stroke.paths[0])) <= tolerance + 1e-9
        assert len(stroke.paths[0]) < 150
        t = np.linspace(0, 1, 60)[:, None]
        for piece in curve_of(xy, tolerance):
            if len(piece) == 4:
                a, b, c, d = piece
                places = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
                # Between the places that were looked at it may leave it by a hair more.
                assert shapely.distance(shapely.points(places), line).max() <= tolerance * 1.05


def test_names_with_any_control_character_leave_it_well_formed(corner: Path) -> None:
    """Every character that XML 1.0, 2.2, excludes, in all texts that reach a file; read by expat."""
    odd = "".join(chr(n) for n in (*range(1, 32), *range(127, 160), 0xFFFE, 0xFFFF)) + '&<>"'
    connection = sqlite3.connect(corner)
    add_functions(connection)
    connection.execute("UPDATE project SET name = 'Q' || ?", (odd,))
    connection.execute("UPDATE units SET name = name || ?, label = 'J' || ?", (odd, odd[:8]))
    connection.execute("UPDATE sheets SET name = name || ?", (odd,))
    for number, kind, settings in connection.execute("SELECT id, kind, settings FROM parts").fetchall():
        held = json.loads(settings) | {"name": f"P{odd}"} | ({"text": f"T{odd}"} if kind in ("title", "text") else {})
        connection.execute("UPDATE parts SET settings = ? WHERE id = ?", (json.dumps(held), number))
    connection.commit()
    connection.close()
    for outlines in (False, True):
        root = ElementTree.fromstring(written(corner, outlines=outlines))
        assert any("�" in (element.text or "") + (element.get("aria-label") or "") for element in root.iter())
    with opened_for_reading(corner) as project:
        parts = {part.id or 0 for part in project.parts(1)}
    for fragment in sheet_fragments(corner, 1, parts).values():
        ElementTree.fromstring(f'<svg xmlns:xlink="http://www.w3.org/1999/xlink">{fragment}</svg>')
