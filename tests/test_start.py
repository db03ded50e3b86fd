"""What is loaded when Orvik starts: counted by modules, since how long that takes says how busy the machine is."""

from __future__ import annotations

import json
import subprocess
import sys

import pytest

# Libraries for single jobs, which worker processes load when they have such a job.
FOR_JOBS = {
    "coloraide",
    "contourpy",
    "ezdxf",
    "fontTools",
    "pikepdf",
    "pygeomag",
    "pyogrio",
    "pypdfium2",
    "rasterio",
    "scipy",
    "svgelements",
    "urllib3",
}


def loaded(code: str) -> set[str]:
    """The modules that a new process holds after some code."""
    told = "import json, sys; print(); print(json.dumps(sorted(sys.modules)))"
    run = subprocess.run([sys.executable, "-c", f"{code}\n{told}"], capture_output=True, text=True, check=True)
    return set(json.loads(run.stdout.splitlines()[-1]))


@pytest.mark.parametrize("asked", ["--help", "check --help", "new --help", "hand-over --help"])
def test_help_loads_no_library_and_next_to_nothing_of_ours(asked):
    code = f"from orvik.cli import main\ntry:\n    main({asked.split()!r})\nexcept SystemExit:\n    pass"
    found = loaded(code)
    ours = {name for name in found if name.split(".")[0] == "orvik"}
    assert len(ours) <= 8, ours
    assert not found & {"numpy", "shapely", "pyproj", "sqlite3", "fastapi"}
    assert len(found) < 120


def test_the_application_starts_without_what_only_jobs_need():
    found = loaded("import orvik.web.app")
    assert not found & FOR_JOBS
    # It was 1 965 before, and 1 191 with the libraries that write PDF and fonts; of these, more than 580 are ours.
    assert len(found) < 1_280


@pytest.mark.parametrize(
    "module",
    [
        "orvik.web.session.jobs",
        "orvik.usecases.export.export_run",
        "orvik.usecases.proof.returned",
        "orvik.usecases.proof.sheet_findings",
        "orvik.usecases.intake.import_features",
        "orvik.usecases.ground.sources",
        "orvik.exchange.features.data_file",
    ],
)
def test_importing_what_workers_need_loads_neither_gdal(module):
    """Two libraries have a GDAL of their own, and a process that loads both may end in either."""
    assert not loaded(f"import {module}") & {"rasterio", "pyogrio"}
