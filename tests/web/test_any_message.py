"""Any message over the live connection: answered in words with its number, and the connection stays.

In the suite some thousand messages; `FUZZ=20000 pytest tests/web/test_any_message.py` sends them at length.
"""

from __future__ import annotations

import json
import os
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from orvik.core.errors import OWN_FAULT
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.web.live.handlers import HANDLERS
from orvik.web.live.messages import LARGEST_MESSAGE
from tests.store.content import content
from tests.web.pages import Page

MESSAGES = int(os.environ.get("FUZZ", "1500"))
NAMES = (
    "x",
    "y",
    "scale",
    "ring",
    "free",
    "moving",
    "name",
    "way",
    "how",
    "text",
    "dip_direction",
    "note",
    "along",
    "places",
    "features",
    "revision",
    "path",
    "vertex",
    "insert",
    "apart",
    "kind",
    "certainty",
    "map_unit",
    "questionable",
    "unit",
    "reach",
    "west",
    "south",
    "east",
    "north",
    "radius",
    "layers",
    "what",
    "order",
    "fields",
    "side",
    "station",
    "key",
    "window_id",
    "width",
    "width_on",
    "overlap",
    "fill",
    "forward",
)
WORDS = (
    "contact-certain",
    "unit_tag-certain",
    "bedding-certain",
    "dyke-certain",
    "unit_area-certain",
    "certain",
    "mm",
    "px",
    "straight",
    "curve",
    "follow",
    "free",
    "right",
    "hole",
    "split",
    "reshape",
    "350/60",
    "045/120",
    "lines:contact",
    "left",
)


def odd(rng: np.random.Generator, depth: int = 0) -> Any:
    """A value that no page of ours sends, or one that it might."""
    choices: list[Any] = [
        None,
        True,
        False,
        "",
        0,
        -1,
        1,
        2,
        1.5,
        1e308,
        -1e308,
        10**17,
        "9" * 4000,
        "nan",
        "\x00",
        "½",
        "'\"><b>",
        "x" * 3000,
        {"x": 1},
        [],
        [[]],
        [1, 2],
        [[513_000, 6_802_000], [513_100, 6_802_100]],
        [{"table": "lines", "id": 1}],
        [{"table": "points", "id": 1}],
        [{"table": "areas", "id": 1}],
        [{"table": "lines", "id": 99}],
        [{"table": "x"}],
        [None],
        float(rng.uniform(510_000, 515_000)),
        float(rng.uniform(6_800_000, 6_804_000)),
        6250,
        str(rng.choice(WORDS)),
        {"lines": False},
        {"a": [1]},
    ]
    value = choices[int(rng.integers(len(choices)))]
    if depth < 2 and rng.random() < 0.1:
        return [odd(rng, depth + 1) for _ in range(int(rng.integers(0, 4)))]
    return value


def sensible(rng: np.random.Generator, name: str) -> Any:
    """A value that fits its name, so that messages get past the first check."""
    fitting = {
        "x": float(rng.uniform(511_000, 513_500)),
        "y": float(rng.uniform(6_800_500, 6_803_500)),
        "scale": 6250,
        "reach": 30.0,
        "radius": 15,
        "revision": 9999,
        "path": 0,
        "vertex": int(rng.integers(0, 4)),
        "ring": None,
        "features": [{"table": str(rng.choice(["lines", "areas", "points"])), "id": int(rng.integers(1, 4))}],
        "window_id": "s",
    }
    return fitting.get(name, odd(rng))


def test_any_message(client: TestClient, project: Project, page: Page) -> None:
    rng = np.random.default_rng(int(os.environ.get("SEED", "1")))
    kinds = sorted(HANDLERS)
    for _ in range(MESSAGES):
        do = str(rng.choice(kinds))
        names = rng.choice(NAMES, int(rng.integers(0, 12)), replace=False).tolist()
        message = {name: value(rng, name) for name in names}
        if len(json.dumps(message)) > LARGEST_MESSAGE:
            continue
        answer = page.ask(do, **message)
        assert answer.get("refused") != OWN_FAULT, (do, message)
    reopened = ReadProject.open(project.path)
    assert reopened.faults() == []
    reopened.close()


def value(rng: np.random.Generator, name: str) -> Any:
    return sensible(rng, name) if rng.random() < 0.7 else odd(rng)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "{",
        "[]",
        "null",
        '"x"',
        "9" * 6000,
        '{"do":"hover","n":1,"x":NaN,"y":1}',
        '{"do":"hover","n":1,"x":Infinity,"y":1}',
        '{"n":1,"do":' + "[" * 50_000 + "]" * 50_000 + "}",
        '{"do":"hover","n":1,"x":' + "9" * 5000 + ',"y":1}',
        '{"do":"pen","n":1,"name":"\\ud83d"}',
        '{"do":"hello","n":1,"window_id":"\\udfff"}',
        "x" * (LARGEST_MESSAGE + 1),
    ],
)
def test_texts_that_are_no_message(page: Page, text: str) -> None:
    page.socket.send_text(text)
    assert "cannot be read" in page.take()["refused"]
    assert "refused" not in page.ask("state")


def test_bytes_are_answered_too(page: Page) -> None:
    page.socket.send_bytes(b"\x00\xff" * 100)
    assert "cannot be read" in page.take()["refused"]
    assert "refused" not in page.ask("state")


def test_nothing_is_kept_of_what_is_refused(client: TestClient, project: Project, page: Page) -> None:
    before = content(project.path)
    page.ask("delete", features=[{"table": "lines", "id": 1}], revision=-1)
    page.ask("move_vertex", features=[{"table": "lines", "id": 2}], revision=99, path=5, vertex=99, x=1, y=2, scale=1)
    assert content(project.path) == before
