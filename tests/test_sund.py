"""A survey's delivery becomes a map by one script: units where they lie, readings as they were taken, no error."""

from __future__ import annotations

import shlex
from collections import defaultdict
from pathlib import Path

import pypdfium2
import pytest
import shapely

from orvik.cli import main
from orvik.demo import sund
from orvik.store.project import Project


@pytest.fixture(scope="module")
def mapped(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The map that the script of the delivery makes, each of its lines carried out."""
    folder = tmp_path_factory.mktemp("sund")
    sund.write(folder)
    places = {"$map": str(folder / "sund.gpkg"), "sund.pdf": str(folder / "sund.pdf")}
    for line in (folder / sund.SCRIPT).read_text().splitlines():
        if not line.startswith("orvik "):
            continue
        words = [word.replace("$here", str(folder)) for word in shlex.split(line)[1:]]
        assert main([places.get(word, word) for word in words]) == 0, line
    return folder / "sund.gpkg"


def test_each_unit_covers_what_it_covers_in_the_ground(mapped: Path) -> None:
    """Against the geology that the files were made of: what was shifted between two polygons, and no more."""
    project = Project.open(mapped)
    there: dict[str, list[shapely.Geometry]] = defaultdict(list)
    for code, area in sund.sund().areas:
        there[code].append(area)
    areas = project.features("areas")
    found: dict[str, list[shapely.Geometry]] = defaultdict(list)
    for code, geometry in zip(areas.columns["map_unit"], areas.geometries.tolist(), strict=True):
        found[code].append(geometry)
    assert set(found) == set(there)
    moved = 0.0
    for code in there:
        one, other = shapely.union_all(there[code]), shapely.union_all(found[code])
        moved += one.symmetric_difference(other).area
    # Two polygons were shifted by less than a metre: that much along their edges.
    assert moved < 8_000
    assert sum(columns for columns in areas.columns["questionable"]) == 1
    project.close()


def test_every_reading_is_as_it_was_taken(mapped: Path) -> None:
    project = Project.open(mapped)
    points = project.features("points")
    read = {
        (round(g.x, 1), round(g.y, 1)): (kind, azimuth, inclination)
        for g, kind, azimuth, inclination in zip(
            points.geometries.tolist(),
            points.columns["kind"],
            points.columns["azimuth"],
            points.columns["inclination"],
            strict=True,
        )
        if kind != "unit_tag"
    }
    called = {"Schichtung": "bedding", "Kluft": "joint", "Schieferung": "foliation", "Streifung": "lineation"}
    assert len(read) == sund.READINGS
    for x, y, kind, direction, dip in sund.sund().readings:
        # The strike by the right-hand rule lies a quarter before the dip; a line trends where it plunges.
        azimuth = direction if kind == "Streifung" else (direction - 90) % 360
        assert read[x, y] == (called[kind], azimuth, dip)
    project.close()


def test_the_units_are_those_of_the_lexicon(mapped: Path, capsys: pytest.CaptureFixture[str]) -> None:
    project = Project.open(mapped)
    units = project.units_by_code()
    assert len(units) == len(sund.LEXICON)
    for code, name, rock, older, younger, rank, parent, ink, description in sund.LEXICON:
        unit = units[code]
        assert (unit.name, unit.rock, unit.description) == (name, rock, description)
        assert (unit.rank, unit.parent) == (rank, parent)
        assert unit.colour_typed == f"CMYK {ink.replace('/', ' ')}"
        assert unit.span is not None
        assert (unit.span.older, unit.span.younger) == pytest.approx((float(older), float(younger)))
    lines = project.features("lines")
    graded = zip(lines.columns["kind"], lines.columns["certainty"], strict=True)
    faults = [certainty for kind, certainty in graded if kind == "fault"]
    assert sorted(faults) == ["certain", "inferred"]
    project.close()
    capsys.readouterr()
    assert main(["check", str(mapped)]) == 0
    said = capsys.readouterr().out
    assert "error" not in said


def test_the_sheet_explains_them(mapped: Path) -> None:
    document = pypdfium2.PdfDocument(mapped.with_name("sund.pdf"))
    text = " ".join(str(document[0].get_textpage().get_text_bounded()).split())
    document.close()
    for _, name, *_ in sund.LEXICON:
        assert name in text


def test_the_same_files_every_time(tmp_path: Path) -> None:
    """Generated from a fixed seed: whoever makes them has the same."""
    one, two = sund.write(tmp_path / "one"), sund.write(tmp_path / "two")
    for path, again in zip(one, two, strict=True):
        assert path.read_bytes() == again.read_bytes(), path.name
