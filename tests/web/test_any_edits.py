"""Any edits, as pages ask for them over the live connection: refused in words or kept sound, undone to the byte."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient

from orvik.core.arrays import Floats
from orvik.core.errors import OWN_FAULT
from orvik.core.features.feature import Feature
from orvik.core.features.table import TABLES
from orvik.core.geometry.vertices import paths_of
from orvik.store.history import History
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from tests.store.content import content
from tests.web.pages import Page

WEST, SOUTH, SIDE = 511_000.0, 6_801_000.0, 2000.0
PENS = (
    "contact-certain",
    "contact-inferred",
    "contact-concealed",
    "fault-certain",
    "dyke-certain",
    "shoreline-certain",
    "unit_area-certain",
)
EDITS = frozenset(
    {
        "finish",
        "move_vertex",
        "remove_vertex",
        "extend",
        "trim",
        "cut",
        "join",
        "like",
        "reverse",
        "smooth",
        "simplify",
        "parallel",
        "move",
        "stretch",
        "merge",
        "trim_overlaps",
        "clip",
        "fill",
        "delete",
    }
)
FAULTS = ("cannot be read", OWN_FAULT)


class Cartographer:
    """Edits at random on ground so small that features meet, share edges and lie over one another."""

    west, south, side = WEST, SOUTH, SIDE
    pens = PENS
    units = ("Qt", "Kp")

    def __init__(self, page: Page, client: TestClient, path: Path, seed: int) -> None:
        self.page, self.client, self.path = page, client, path
        self.rng = np.random.default_rng(seed)
        self.features: list[Feature] = []
        self.revision, self.last = 0, ""
        self.said: list[str] = []
        self.look()

    def look(self) -> None:
        """Read all features as the file has them; each must be sound."""
        project = ReadProject.open(self.path)
        self.revision, top = project.revision, History(project._select).undo_top
        self.last = top.label if top is not None else ""
        self.features = self.there(project)
        project.close()
        for feature in self.features:
            assert sound(feature), (self.said[-3:], feature)

    def there(self, project: ReadProject) -> list[Feature]:
        """What can be edited."""
        return [f for table in TABLES for f in project.whole(table, project.features(table).ids.tolist()).values()]

    def place(self) -> tuple[float, float]:
        """On a grid of 200 m, or on something that is there; at times a little beside it."""
        near = self.rng.normal(0, 8, 2) if self.rng.random() < 0.4 else np.zeros(2)
        if self.features and self.rng.random() < 0.5:
            return self.along(self.features[int(self.rng.integers(len(self.features)))], near)
        x, y = self.rng.integers(0, 11, 2) * self.side / 10
        return float(self.west + x + near[0]), float(self.south + y + near[1])

    def along(self, feature: Feature, near: Floats) -> tuple[float, float]:
        """Near the edge of a feature, as often as not near a vertex of it."""
        edge = feature.geometry.exterior if feature.table == "areas" else feature.geometry
        if feature.table == "points" or self.rng.random() < 0.5:
            x, y = self.rng.choice(shapely.get_coordinates(edge))
        else:
            (x, y), *_ = shapely.get_coordinates(edge.interpolate(float(self.rng.random()), normalized=True))
        return float(x + near[0]), float(y + near[1])

    def ask(self, do: str, **values: Any) -> dict[str, Any]:
        """Ask; a refusal is a sentence about the edit, never about the message."""
        answer = self.page.ask(do, **values)
        assert all(fault not in answer.get("refused", "") for fault in FAULTS), (do, values, answer)
        self.said.append(f"{do}: {answer.get('refused', 'done')}")
        return answer

    def click(self, do: str, place: tuple[float, float] | None = None, **values: Any) -> dict[str, Any]:
        """A click that takes what the ring holds."""
        x, y = place or self.place()
        ring = self.ask("hover", x=x, y=y, scale=6250, moving=True)
        return self.ask(do, x=x, y=y, ring=ring["ring"], scale=6250, reach=40.0, **values)

    def hand(self, tables: tuple[str, ...] = ("lines", "areas"), count: int = 1) -> dict[str, Any]:
        """What is selected, as a page names it."""
        there = [f for f in self.features if f.table in tables and f.kind != "border"]
        chosen = self.rng.choice(len(there), min(count, len(there)), replace=False).tolist() if there else []
        return {"features": [{"table": there[i].table, "id": there[i].id} for i in chosen], "revision": self.revision}

    def held(self, hand: dict[str, Any]) -> Feature:
        named = hand["features"][0]
        return next(f for f in self.features if (f.table, f.id) == (named["table"], named["id"]))

    def draw(self) -> None:
        if "refused" in self.ask("pen", name=str(self.rng.choice(self.pens))):
            return
        self.trace()
        self.ask("finish", unit=self.units[0], overlap=str(self.rng.choice(["below", "above"])), width="30")
        self.ask("drop")
        self.ask("pen", name=None)

    def trace(self) -> None:
        """A few clicks, each led in a way of its own."""
        for _ in range(int(self.rng.integers(2, 6))):
            self.ask("way", way=str(self.rng.choice(["straight", "curve", "follow"])))
            if self.rng.random() < 0.2:
                self.ask("align", how=str(self.rng.choice(["right", "parallel"])), x=self.west, y=self.south)
            if self.rng.random() < 0.1:
                self.ask("step", text="045/150")
            elif self.rng.random() < 0.1:
                start = np.array(self.place())
                places = start + np.cumsum(self.rng.normal(0, 20, (30, 2)), axis=0)
                self.ask("free", places=places.tolist(), scale=6250)
            else:
                self.click("press")

    def vertex(self) -> None:
        hand = self.hand()
        if not hand["features"]:
            return
        feature = self.held(hand)
        last = (
            len(shapely.get_coordinates(feature.geometry if feature.table == "lines" else feature.geometry.exterior))
            - 1
        )
        index = int(self.rng.integers(0, last + 1))
        if self.rng.random() < 0.3:
            self.ask("remove_vertex", path=0, vertex=index, **hand)
        else:
            insert = bool(self.rng.random() < 0.3) and index < last
            apart = bool(self.rng.random() < 0.2)
            self.click("move_vertex", path=0, vertex=index, insert=insert, apart=apart, **hand)

    def one_click(self) -> None:
        do = str(self.rng.choice(["extend", "trim", "cut", "join", "like"]))
        hand = self.hand(("lines",))
        on = self.along(self.held(hand), np.zeros(2)) if hand["features"] and do in ("extend", "trim", "cut") else None
        self.click(do, on, **hand)

    def line_key(self) -> None:
        do = str(self.rng.choice(["reverse", "smooth", "simplify", "parallel"]))
        self.ask(do, text="30", **self.hand(("lines",)))

    def two_clicks(self) -> None:
        do = str(self.rng.choice(["move", "stretch"]))
        hand = self.hand(("lines",) if do == "stretch" else ("lines", "areas", "points"))
        certainty = str(self.rng.choice(["certain", "inferred", "concealed"]))
        for _ in range(2):
            on = self.along(self.held(hand), np.zeros(2)) if hand["features"] and do == "stretch" else None
            self.click(do, on, certainty=certainty, **hand)

    def drawn_for(self) -> None:
        what = str(self.rng.choice(["reshape", "split", "hole"]))
        hand = self.hand(("areas",) if what != "reshape" else ("lines", "areas"))
        if "refused" not in self.ask("begin", what=what, **hand):
            self.trace()
            self.ask("finish", unit=self.units[1], fill=bool(self.rng.random() < 0.5))
            self.ask("drop")

    def areas(self) -> None:
        do = str(self.rng.choice(["merge", "trim_overlaps", "clip", "fill", "simplify"]))
        if do == "fill":
            self.click("fill", unit=self.units[0])
        else:
            order, side = (str(self.rng.choice(some)) for some in (["below", "above"], ["", "larger", "smaller"]))
            said = {"trim_overlaps": {"order": order}, "clip": {"side": side}}.get(do, {})
            self.ask(do, **said, **self.hand(("areas",), 2 if do == "merge" else 1))

    def form(self) -> None:
        self.ask("pen", name="unit_tag-certain")
        self.click("press", unit=str(self.rng.choice(self.units)))
        self.ask("pen", name=None)
        self.form_units()

    def form_units(self) -> None:
        answer = self.client.post("/p/small/form-units", params={"take": str(bool(self.rng.random() < 0.5))})
        # Whatever the linework, its faces fit together.
        assert answer.status_code == 200, answer.text
        self.said.append(f"form: {answer.text}")

    def delete(self) -> None:
        self.ask("delete", **self.hand(count=int(self.rng.integers(1, 3))))

    def history(self) -> None:
        """Back and forth, but not past the two entries that the small project begins with."""
        if self.rng.random() < 0.3:
            self.ask("redo")
        elif self.last != "features":
            self.ask("undo")

    def edit(self) -> None:
        """One edit of any sort, and a look at what has come of it."""
        every: list[tuple[Callable[[], None], float]] = [
            (self.draw, 0.25),
            (self.vertex, 0.2),
            (self.one_click, 0.1),
            (self.line_key, 0.1),
            (self.two_clicks, 0.1),
            (self.drawn_for, 0.08),
            (self.areas, 0.07),
            (self.form, 0.03),
            (self.delete, 0.03),
            (self.history, 0.04),
        ]
        doing = every[int(self.rng.choice(len(every), p=[share for _, share in every]))][0]
        doing()
        self.look()


def sound(feature: Feature) -> bool:
    """Whether a feature may stand in a project: its geometry, and what is told of its vertices."""
    geometry = feature.geometry
    if not geometry.is_valid or geometry.is_empty:
        return False
    if any((path[1:] == path[:-1]).all(axis=1).any() for path in paths_of(feature)):
        return False
    last = int(shapely.get_num_coordinates(geometry)) - 1
    if feature.table == "lines" and not (geometry.is_simple and geometry.length > 0):
        return False
    if feature.table == "areas" and geometry.geom_type != "Polygon":
        return False
    return all(0 <= s.first < s.last <= last for s in feature.stretches) and all(0 <= k <= last for k in feature.knots)


@pytest.mark.parametrize("seed", range(8))
def test_any_edits_are_kept_sound_and_undone_to_the_last_byte(
    page: Page, client: TestClient, project: Project, seed: int
) -> None:
    start = content(project.path)
    hand = Cartographer(page, client, project.path, seed)
    for _ in range(40):
        hand.edit()
    done = [said for said in hand.said if said.endswith("done") and said.split(":")[0] in EDITS]
    assert len(done) > 10
    while "refused" not in page.ask("redo"):
        pass
    end = content(project.path)
    while "refused" not in page.ask("undo"):
        pass
    empty = content(project.path)
    assert not any(empty[table] for table in (*TABLES, "units"))
    # The small project begins with two entries.
    for _ in range(2):
        page.ask("redo")
    assert content(project.path) == start
    while "refused" not in page.ask("redo"):
        pass
    assert content(project.path) == end
