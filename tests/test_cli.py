"""The command line as scripts use it."""

from __future__ import annotations

import math
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from orvik.store.project import Project
from tests.press.measure import segments


def orvik(*arguments: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "orvik.cli", *map(str, arguments)], capture_output=True, text=True, check=False
    )


def made(tmp_path: Path) -> Path:
    path = tmp_path / "p.gpkg"
    border = "--border=510000,6800000,515000,6804000"
    done = orvik("new", path, "--name", "P", "--crs", "EPSG:32628", "--scale", "25000", border)
    assert (done.returncode, done.stderr) == (0, "")
    return path


def test_from_nothing_to_a_true_pdf(tmp_path: Path) -> None:
    path = made(tmp_path)
    assert orvik("sheet", path, "--name", "S", "--paper", "A3", "--landscape").returncode == 0
    for ending in ("pdf", "svg", "png", "tif", "jpg"):
        done = orvik("export", path, "--sheet", "S", "--to", tmp_path / f"s.{ending}", "--dpi", "100")
        assert (done.returncode, done.stderr) == (0, "")
    neatline = max(
        segments((tmp_path / "s.pdf").read_bytes()), key=lambda p: max(x for x, _ in p) - min(x for x, _ in p)
    )
    xs, ys = [x for x, _ in neatline], [y for _, y in neatline]
    assert max(xs) - min(xs) == pytest.approx(200.0, abs=0.01)
    assert max(ys) - min(ys) == pytest.approx(160.0, abs=0.01)
    for ending in ("png", "tif", "jpg"):
        with Image.open(tmp_path / f"s.{ending}") as picture:
            # Parts of a dot at the edge are kept.
            assert picture.size == (math.ceil(420 / 0.254), math.ceil(297 / 0.254))


def test_import(tmp_path: Path, demo: Path) -> None:
    path = made(tmp_path)
    source = tmp_path / "in.geojson"
    subprocess.run(["ogr2ogr", source, demo, "lines", "-where", "kind='contact'"], check=True)
    done = orvik("import", path, source)
    assert done.returncode == 0, done.stderr
    project = Project.open(path)
    there = Project.open(demo)
    assert project.count("lines") - 1 == sum(k == "contact" for k in there.features("lines").columns["kind"])
    project.close()
    there.close()


@pytest.mark.parametrize(
    ("arguments", "why"),
    [
        (["new", "{t}/q.gpkg", "--name", "Q", "--crs", "EPSG:4326", "--scale", "25000"], "degrees"),
        (["new", "{t}/q.gpkg", "--name", "Q", "--crs", "EPSG:32628", "--scale", "x"], "not a scale"),
        (
            ["new", "{t}/q.gpkg", "--name", "Q", "--crs", "EPSG:32628", "--scale", "25000", "--border=1,2,3"],
            "four numbers",
        ),
        (
            ["new", "{t}/q.gpkg", "--name", "Q", "--crs", "EPSG:32628", "--scale", "25000", "--border=-15,61,-14,62"],
            "look like degrees",
        ),
        (["new", "{t}/p.gpkg", "--name", "Q", "--crs", "EPSG:32628", "--scale", "25000"], "already"),
        (["sheet", "{t}/p.gpkg", "--name", "S", "--paper", "A4"], "would hold it"),
        (["sheet", "{t}/none.gpkg", "--name", "S"], "no project file"),
        (["export", "{t}/p.gpkg", "--sheet", "S", "--to", "{t}/s.pdf"], "no sheet"),
        (["import", "{t}/p.gpkg", "{t}/p.txt"], "no file"),
    ],
)
def test_refusals_are_one_sentence_and_exit_1(tmp_path: Path, arguments: list[str], why: str) -> None:
    made(tmp_path)
    before = sorted(p.name for p in tmp_path.iterdir())
    done = orvik(*[a.format(t=tmp_path) for a in arguments])
    assert done.returncode == 1
    assert why in done.stderr
    assert "Traceback" not in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert sorted(p.name for p in tmp_path.iterdir() if "wal" not in p.name and "shm" not in p.name) == [
        n for n in before if "wal" not in n and "shm" not in n
    ]
