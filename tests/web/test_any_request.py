"""Any request to any route: refused in words or answered, never an error of ours and no trace shown.

Schemathesis makes the requests from the application's own description of its routes. In the suite each route gets
a few; `FUZZ=200 pytest tests/web/test_any_request.py` asks at length.
"""

from __future__ import annotations

import contextlib
import os
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from orvik.store.read_project import ReadProject
from orvik.web.app import create_app
from tests.examples import MANY, SEED

EXAMPLES = int(os.environ.get("FUZZ", "40" if MANY else "2"))
# Asks services, makes the demo, or moves everything elsewhere: tried by tests of their own.
LEFT_OUT = {"/demo", "/p/{slug}/services", "/p/{slug}/systems/change", "/p/{slug}/grids"}
ODD = (
    "",
    "..",
    "\x00",
    "9" * 20,
    "9" * 5000,
    "nan",
    "-inf",
    "1e400",
    "\ud83d",
    "'\"><b>",
    "x" * 400,
    "-1",
    "0",
    "½",
    "1,5",
)


@pytest.fixture(scope="module")
def served(tmp_path_factory: pytest.TempPathFactory, demo_original: Path) -> Iterator[tuple[TestClient, FastAPI]]:
    folder = tmp_path_factory.mktemp("any") / "data"
    shutil.copytree(demo_original.parent, folder)
    app = create_app(folder)
    with TestClient(app, base_url="http://127.0.0.1:8460") as client:
        yield client, app


def operations() -> list[Any]:
    described = schemathesis.openapi.from_dict(create_app(Path("/tmp/orvik-described")).openapi())
    found = [operation.ok() for operation in described.get_all_operations()]
    return [operation for operation in found if operation.path not in LEFT_OUT]


def named(path: str, given_: dict[str, Any], draw: Any) -> str:
    """A path whose places are filled in: the demo, rows that there are, and now and then what there is not."""
    for name in [piece[1:-1] for piece in path.split("/") if piece.startswith("{")]:
        usual = {
            "slug": "isle-of-quennet",
            "table": "lines",
            "layer": "units",
            "name": "gauged_spring",
            "step": "1",
        }.get(name, str(draw(st.integers(0, 4))))
        value = str(given_.get(name, usual)) if draw(st.integers(0, 4)) == 0 else usual
        safe = "".join(c if c.isalnum() else f"%{ord(c) % 256:02X}" for c in value[:60]) or "-"
        path = path.replace(f"{{{name}}}", safe)
    return path


@pytest.mark.parametrize("operation", operations(), ids=lambda o: f"{o.method.upper()} {o.path}")
def test_any_request(served: tuple[TestClient, FastAPI], operation: Any) -> None:
    client, _ = served

    @seed(SEED)
    @given(case=operation.as_strategy(), data=st.data())
    @settings(
        max_examples=EXAMPLES,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    def ask(case: Any, data: Any) -> None:
        path = named(operation.path, dict(case.path_parameters or {}), data.draw)
        query = {str(k): v for k, v in dict(case.query or {}).items()}
        body: dict[str, Any] = {}
        if isinstance(case.body, dict):
            fields = {
                k: data.draw(st.sampled_from(ODD)) if data.draw(st.booleans()) else v for k, v in case.body.items()
            }
            kind = str(case.media_type or "")
            if "json" in kind:
                body = {"json": fields}
            elif "multipart" in kind:
                files = {
                    k: ("up\x00.geojson"[: data.draw(st.integers(1, 9))], str(v).encode(errors="replace"))
                    for k, v in fields.items()
                }
                body = {"files": files}
            else:
                body = {"data": {k: str(v).encode(errors="replace").decode() for k, v in fields.items()}}
        # What the client itself cannot put into words of HTTP reaches nobody.
        with contextlib.suppress(UnicodeEncodeError, ValueError):
            check(client.request(operation.method.upper(), path, params=query, **body), (path, query, body))

    def check(answer: Any, asked: Any) -> None:
        assert answer.status_code < 500, (asked, answer.text[:300])
        assert "Traceback" not in answer.text
        assert "/tmp/" not in answer.text
        assert "content-security-policy" in answer.headers

    ask()


def test_the_project_is_whole_afterwards(served: tuple[TestClient, FastAPI]) -> None:
    client, app = served
    client.get("/p/isle-of-quennet/compile")
    path = app.state.projects.folder / "isle-of-quennet.gpkg"
    project = ReadProject.open(path)
    assert project.faults() == []
    project.close()
