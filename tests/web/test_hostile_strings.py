"""One hostile string, and one empty one, in every text of the data model: through every page and every export."""

from __future__ import annotations

import json
import re
import sqlite3
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.store.geometry import add_functions
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.export.export_sheets import export
from orvik.web.app import create_app

HOSTILE = "\"'><b hx-get='/evil' hx-trigger='load' onmouseover=x>{{7*7}}</b><script>x</script>&amp;"
# Every text of the data model that a person or a file may fill.
TEXTS = {
    "project": ["name"],
    "units": ["name", "age", "colour", "description"],
    "lines": ["note"],
    "areas": ["note"],
    "points": ["note"],
    "sources": ["name", "crs", "grouping", "colour", "note", "relief", "fit", "transform"],
    "sheets": ["name", "paper"],
    "views": ["name"],
    "kinds": ["label"],
    "stations": ["name", "note", "kind"],
}
PAGES = (
    "ground",
    "ground/facts",
    "systems",
    "compile",
    "pens",
    "stack",
    "views",
    "notebook",
    "symbols",
    "units",
    "units/new",
    "units/1",
    "units/2",
    "units/to-tag",
    "sheet",
    "proof",
    "empty-slip",
    "slip/points/1",
    "slip/lines/1",
    "slip/areas/1",
    "slips?keys=points-1&keys=points-2",
    "kinds/gauged_spring",
    "kinds/new",
    "slip/pen/gauged_spring-certain",
    "slip/pen/unit_tag-certain",
    "underlays/1/slip",
    "underlays/2/slip",
    "underlays/2/georeference",
    "underlays/2/points",
    "sheets/1/ink",
    "sheets/1/parts",
    "parts/1",
    "parts/2",
    "scales/fits",
    "ink",
    "systems/search?q=utm",
)


def spoilt(path: Path, text: str) -> None:
    """Write a text into every field, past all that would refuse it."""
    Project.open(path).close()
    with closing(sqlite3.connect(path)) as connection:
        add_functions(connection)
        for table, columns in TEXTS.items():
            for column in columns:
                unique = " || id" if (table, column) in (("sheets", "name"), ("views", "name")) else ""
                connection.execute(f"UPDATE {table} SET {column} = ?{unique}", (text,))
        choices = [{"value": text or "x", "colour": text, "key": ""}, {"value": "plain", "colour": "", "key": "P"}]
        fields = [
            {"name": text or "x", "kind": "choice", "choices": choices, "required": False},
            {"name": "other", "kind": "text", "choices": [], "required": False},
        ]
        connection.execute("UPDATE kinds SET fields = ?", (json.dumps(fields),))
        connection.execute(
            "UPDATE points SET fields = ? WHERE kind = 'gauged_spring'",
            (json.dumps({text or "x": text, "other": text}),),
        )
        for number, settings in connection.execute("SELECT id, settings FROM parts").fetchall():
            held = json.loads(settings)
            if "centre" in held:
                held["ground_colour"] = text
            held["text"] = text
            connection.execute("UPDATE parts SET settings = ? WHERE id = ?", (json.dumps(held), number))
        connection.commit()


@pytest.fixture(params=["", HOSTILE], ids=["empty", "hostile"])
def client(request: pytest.FixtureRequest, demo: Path) -> Iterator[TestClient]:
    spoilt(demo, request.param)
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460", raise_server_exceptions=False) as client:
        yield client


def test_no_page_takes_it_for_its_own_and_none_fails(client: TestClient) -> None:
    for path in ("/", *(f"/p/isle-of-quennet/{page}" for page in PAGES)):
        answer = client.get(path)
        assert answer.status_code in (200, 204, 404, 422), (path, answer.status_code, answer.text[:200])
        assert "<b hx-get" not in answer.text, path
        assert "<script>x" not in answer.text, path
        # No attribute is left early: what follows a quote of ours is never one of the string's own.
        assert not re.search(r"=\"[^\"<>]*\"\s*'><b", answer.text), path
        assert "49</b>" not in answer.text, path


def test_exports_are_sound(demo: Path, tmp_path: Path) -> None:
    for text in ("", HOSTILE):
        spoilt(demo, text)
        project = ReadProject.open(demo)
        for ending in ("svg", "pdf", "png"):
            target = tmp_path / f"out.{ending}"
            export(project, project.sheets()[0], target, ExportSettings(dpi=40))
            # What parts say instead of what they cannot show is not printed, and here that is nearly all.
            assert target.stat().st_size > 400
        project.close()
        tree = ET.parse(tmp_path / "out.svg")
        names = {element.tag.rpartition("}")[2] for element in tree.iter()}
        assert names <= {
            "svg",
            "g",
            "path",
            "text",
            "rect",
            "defs",
            "use",
            "image",
            "clipPath",
            "desc",
            "stamp",
            "style",
            "title",
        }
        assert not any(key.startswith(("on", "hx")) for element in tree.iter() for key in element.attrib)


def test_what_is_typed_is_checked_at_the_door(demo: Path) -> None:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        root = "/p/isle-of-quennet"
        for path, data in (
            ("parts/1", {"ground_colour": 'red"><b>'}),
            ("units/1", {"code": "Q", "name": "x", "colour": "url(x)"}),
            ("units", {"code": "<b>", "name": "x"}),
            ("units", {"code": "Qx", "name": "y" * 300}),
            (
                "kinds",
                {
                    "label": "Well",
                    "table": "points",
                    "field": "f",
                    "type": "choice",
                    "choices": "a",
                    "colour": "x",
                },
            ),
            ("underlays/1/slip", {"name": "x", "colour": "javascript:x"}),
        ):
            assert client.post(f"{root}/{path}", data=data).status_code == 422, path
