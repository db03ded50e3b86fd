"""An ordinary installation has all that the sources have, and takes a small map from ground to print."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import sysconfig
import venv
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
# Steps of a small map, and then the pages as somebody's browser asks for them.
PAGES = """
import sys
from pathlib import Path
from starlette.testclient import TestClient
import orvik
from orvik.web.app import create_app
assert "site-packages" in orvik.__file__, orvik.__file__
here = "http://127.0.0.1"
with TestClient(create_app(Path(sys.argv[1])), base_url=here, headers={"Origin": here}) as client:
    stages = ("ground", "compile", "symbols", "sheet", "proof")
    for page in ("/", "/new", *(f"/p/small/{stage}" for stage in stages), *(f"/guide/{stage}" for stage in stages)):
        answer = client.get(page)
        assert answer.status_code == 200, (page, answer.status_code)
"""


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel, built from a copy of what is committed or about to be."""
    folder = tmp_path_factory.mktemp("wheel")
    copy = folder / "source"
    shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    shutil.copy(ROOT / "pyproject.toml", copy)
    command = [sys.executable, "-m", "pip", "wheel", "--no-deps", "--no-build-isolation", "--no-index", "-q"]
    subprocess.run([*command, "-w", str(folder), str(copy)], check=True, capture_output=True)
    (made,) = folder.glob("*.whl")
    return made


def test_it_holds_every_file_of_the_sources(wheel: Path) -> None:
    package = ROOT / "src" / "orvik"
    wanted = {
        f"orvik/{path.relative_to(package).as_posix()}"
        for path in package.rglob("*")
        if path.is_file() and "__pycache__" not in path.parts
    }
    with zipfile.ZipFile(wheel) as archive:
        held = {name for name in archive.namelist() if name.startswith("orvik/")}
    assert held == wanted


def test_a_small_map_runs_through_it(wheel: Path, tmp_path: Path) -> None:
    home = tmp_path / "own"
    venv.create(home, with_pip=False)
    site = Path(sysconfig.get_path("purelib", vars={"base": str(home), "platbase": str(home)}))
    with zipfile.ZipFile(wheel) as archive:
        archive.extractall(site)
    # What it depends on comes from here; the sources do not.
    (site / "depends.pth").write_text(sysconfig.get_path("purelib"), encoding="utf-8")
    python = home / "bin" / "python"
    data = tmp_path / "data"
    data.mkdir()
    path, lines = data / "small.gpkg", tmp_path / "lines.geojson"
    features = [
        {"geometry": {"type": "LineString", "coordinates": [[-3.25, 51.21], [-3.0, 51.22]]}, "properties": {}},
        {"geometry": {"type": "Point", "coordinates": [-3.1, 51.23]}, "properties": {"map_unit": "Qt"}},
        {"geometry": {"type": "Point", "coordinates": [-3.1, 51.20]}, "properties": {"map_unit": "Kp"}},
    ]
    whole = {"type": "FeatureCollection", "features": [{"type": "Feature", **f} for f in features]}
    lines.write_text(json.dumps(whole), encoding="utf-8")
    # Isolated from what this process has in its environment.
    environment = {name: value for name, value in os.environ.items() if not name.startswith("PYTHON")}

    def run(*arguments: str) -> str:
        done = subprocess.run(
            [str(python), "-m", "orvik.cli", *arguments], capture_output=True, text=True, env=environment, cwd=tmp_path
        )
        assert done.returncode == 0, (arguments, done.stderr)
        return done.stdout

    border = "--border=486000,5669000,494000,5681000"
    run(
        "new",
        str(path),
        "--name",
        "Small",
        "--crs",
        "EPSG:32630",
        "--scale",
        "25000",
        border,
    )
    run("import", str(path), str(lines))
    assert "2 faces" in run("form-units", str(path))
    run("sheet", str(path), "--name", "Small", "--paper", "A1")
    run("export", str(path), "--sheet", "Small", "--to", str(tmp_path / "small.pdf"))
    assert (tmp_path / "small.pdf").read_bytes().startswith(b"%PDF")
    run("plate", "--to", str(tmp_path / "plate.pdf"))
    subprocess.run([str(python), "-c", PAGES, str(data)], check=True, env=environment, cwd=tmp_path)
