"""Any edits on a section, and of the map above it: refused in words or kept sound, undone to the byte."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.usecases.structure.sections import section_of_letter
from orvik.web.app import create_app
from tests.examples import SEED
from tests.store.content import content
from tests.web.pages import Page
from tests.web.test_any_edits import EDITS, Cartographer

SLUG, LETTER = "isle-of-quennet", "A"


class BelowTheMap(Cartographer):
    """Edits a part of a section from above its ground to its foot, and now and then the map above."""

    west, south, side = 1_000.0, -600.0, 900.0
    pens = ("contact-certain", "contact-inferred", "fault-certain", "dyke-certain", "unit_area-certain")
    units = ("Kp", "Kw")

    def __init__(self, page: Page, client: TestClient, path: Path, line: int, seed: int) -> None:
        self.line = line
        super().__init__(page, client, path, seed)

    def there(self, project: ReadProject) -> list[Feature]:
        return [f for table in TABLES for f in project.drawn_whole(table, self.line)]

    def ask(self, do: str, **values: Any) -> dict[str, Any]:
        return super().ask(do, section=self.line, **values)

    def trace(self) -> None:
        if self.rng.random() < 0.2:
            self.ask("way", way="dip")
            self.click("press")
        super().trace()

    def form_units(self) -> None:
        """Formed, or first the map changed above, and followed."""
        if self.rng.random() < 0.7:
            self.shift_the_map()
        for what in ("follow", "form"):
            answer = self.client.post(f"/p/{SLUG}/section/{self.line}/{what}")
            # What an end would be drawn across is left to the hand; whatever the linework, its faces fit together.
            assert answer.status_code == 200 or "would cross itself" in answer.text, answer.text
            self.said.append(f"{what}: {answer.text}")

    def edit(self) -> None:
        super().edit()
        if self.rng.random() < 0.15:
            self.form()
            self.look()

    def shift_the_map(self) -> None:
        """A vertex of a line that the section crosses goes elsewhere."""
        with opened_for_reading(self.path) as project:
            found = section_of_letter(project, LETTER)
            crossing = found.crossings[int(self.rng.integers(len(found.crossings)))]
            line = project.feature("lines", crossing.line)
            revision = project.revision
        places = shapely.get_coordinates(line.geometry)
        vertex = int(np.hypot(*(places - found.line.at(np.array([crossing.along]))[0]).T).argmin())
        x, y = (places[vertex] + self.rng.normal(0, 40, 2)).tolist()
        ring = self.page.ask("hover", x=x, y=y, free=True)
        hand = {"features": [{"table": "lines", "id": line.id}], "revision": revision}
        told = self.page.ask("move_vertex", path=0, vertex=vertex, x=x, y=y, ring=ring["ring"], scale=6250, **hand)
        self.said.append(f"map: {told.get('refused', 'done')}")


@pytest.fixture
def client(demo: Path) -> Iterator[TestClient]:
    with TestClient(create_app(demo.parent), base_url="http://127.0.0.1:8460") as client:
        yield client


@pytest.mark.parametrize("seed", range(2))
def test_any_edits_of_a_section_are_kept_sound_and_undone_to_the_last_byte(
    client: TestClient, demo: Path, seed: int
) -> None:
    with opened_for_reading(demo) as project:
        line = section_of_letter(project, LETTER).section.line_id
    start = content(demo)
    assert client.get(f"/p/{SLUG}/section/{line}", params={"width": 780, "height": 240}).status_code == 200
    with client.websocket_connect(f"ws://127.0.0.1:8460/p/{SLUG}/live") as socket:
        page = Page(socket)
        hand = BelowTheMap(page, client, demo, line, SEED * 10 + seed)
        for _ in range(30):
            hand.edit()
        done = [said for said in hand.said if said.endswith("done") and said.split(":")[0] in EDITS]
        assert len(done) > 5, hand.said
        while "refused" not in page.ask("redo"):
            pass
        end = content(demo)
        # Past what was there at the beginning nothing is undone: that is as much the project's.
        while page.ask("undo").get("refused") is None and content(demo) != start:
            pass
        assert content(demo) == start
        while "refused" not in page.ask("redo"):
            pass
        assert content(demo) == end
