"""Whatever a map holds, what its panel prints and what its explanation draws are the same specimens."""

from __future__ import annotations

import random
from collections.abc import Iterable
from typing import Any

import numpy as np
import pytest
import shapely

from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.crs import project_crs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Fill, Item, Marks, Ornaments, Pattern, Stamp, Stroke, Text, walk
from orvik.core.sheet.output.compose import compose
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.specimen import Form, specimen

BOOK = standard()
CRS = project_crs("EPSG:32628")
LEFT, FOOT = 510_000.0, 6_800_000.0
PAGE = Sheet("Any", "own", 2000, 2000)
# The edge of a box that has none of its own, and the rules of the page.
OWN = {("stroke", 0.15, "#22303C", (), "butt", 0.0, "miter"), ("stroke", 0.1, "#22303C", (), "butt", 0.0, "round")}
EXPLAINED = [s for s in BOOK.symbols if s.explained and not s.aid and s.kind not in ("unit_area", "border")]
KINDS = {table: sorted({s.kind for s in EXPLAINED if s.table == table}) for table in TABLES}
# No contact that looks like a rule of the page.
KINDS["lines"] = [kind for kind in KINDS["lines"] if all(s.strokes for s in BOOK.by_kind["lines", kind])]


def stamp_key(stamp: Stamp) -> Any:
    return tuple((type(i).__name__, i.paths.xy.round(6).tobytes()) for i in stamp.items)


def marks(items: Iterable[Item]) -> set[Any]:
    """What there is of ink, whatever the places: the specimens that one could tell apart."""
    found: set[Any] = set()
    for item in walk(items):
        if isinstance(item, Stroke):
            s = item.style
            found.add(("stroke", s.width, s.colour, s.dash, s.cap, s.offset, s.join))
        elif isinstance(item, Fill):
            found.add(("fill", item.colour))
        elif isinstance(item, Marks | Ornaments) and len(item.at):
            found.add((type(item).__name__, stamp_key(item.stamp)))
        elif isinstance(item, Pattern):
            found.add(("pattern", item.tile.name))
        elif isinstance(item, Text) and item.run.chars.endswith("?"):
            found.add(("query", item.colour))
    return found - OWN


def any_line(rng: random.Random, number: int) -> Feature:
    kind = rng.choice(KINDS["lines"])
    symbols = BOOK.by_kind["lines", kind]
    y = FOOT + 400 + 160 * number
    xs = np.linspace(LEFT + 300, LEFT + 9000, 5)
    line = shapely.LineString([(x, y + rng.uniform(-20, 20)) for x in xs])
    made = [s.certainty for s in symbols]
    certainty = rng.choice(made)
    stretches = (Stretch(1, 3, rng.choice(made)),) if rng.random() < 0.25 else ()
    band = None
    if symbols[0].tint and rng.random() < 0.6:
        band = Band(1.6, "sheet", dips=rng.choice(["", "left", "right"]))
        stretches = ()
    plunges = rng.random() < 0.5 and any(o.place == "plunge" for o in symbols[0].ornaments)
    return Feature(
        "lines",
        line,
        kind,
        number,
        certainty,
        rng.random() < 0.2,
        azimuth=90.0 if plunges else None,
        inclination=rng.choice([None, 40.0]) if band else None,
        stretches=stretches,
        band=band,
    )


def any_point(rng: random.Random, number: int) -> Feature:
    symbol = rng.choice([s for s in EXPLAINED if s.table == "points"])
    low, high = symbol.inclination or (0.0, 90.0)
    reads = symbol.inclination is not None or any(c.of == "inclination" for c in symbol.captions)
    place = shapely.Point(LEFT + 9500, FOOT + 200 + 170 * number)
    return Feature(
        "points",
        place,
        symbol.kind,
        number,
        symbol.certainty or "certain",
        rng.random() < 0.2,
        azimuth=rng.uniform(0, 359) if symbol.turns else None,
        inclination=rng.uniform(low, high) if reads else None,
    )


def any_map(rng: random.Random) -> dict[Table, Features]:
    count = {table: rng.randrange(0, most) for table, most in (("lines", 40), ("areas", 6), ("points", 30))}
    areas = [
        Feature("areas", shapely.box(LEFT + 9700, y, LEFT + 9900, y + 200), rng.choice(KINDS["areas"]), i)
        for i, y in enumerate(FOOT + 300 + 400.0 * np.arange(count["areas"]), 1)
    ]
    return {
        "lines": Features.of("lines", [any_line(rng, i) for i in range(1, count["lines"] + 1)]),
        "areas": Features.of("areas", areas),
        "points": Features.of("points", [any_point(rng, i) for i in range(1, count["points"] + 1)]),
    }


def printed(features: dict[Table, Features], layers: dict[str, float]) -> tuple[set[Any], set[Any]]:
    """The specimens on the panel and those in its explanation."""
    context = MapContext("Any", CRS, Scales(25_000, 6_250), BOOK, {}, features, None)
    panel = MapPanel(name="Main", scale=25_000, centre=(LEFT + 5000, FOOT + 4000), frame=0.0, layers=layers)
    parts = [
        Part(panel, 0.0, 0.0, 500.0, 500.0, id=1, position=1),
        Part(Explanation(panel=1, title="", size=3.1), 600.0, 0.0, 1300.0, 1900.0, id=2, position=2),
    ]
    one, two = (group.items for group in compose(PAGE, parts, context).groups[-2:])
    return marks(one), marks(two)


@pytest.mark.parametrize("seed", range(200))
def test_the_explanation_draws_what_the_panel_prints(seed: int) -> None:
    rng = random.Random(seed)
    layers = {name: 0.0 for name in ("units", "linework", "attitudes") if rng.random() < 0.15}
    panel, explanation = printed(any_map(rng), layers)
    assert explanation == panel


def test_a_layer_that_is_not_printed_has_no_rows() -> None:
    features = any_map(random.Random(7))
    for layer in ("units", "linework", "attitudes"):
        panel, explanation = printed(features, {layer: 0.0})
        assert panel == explanation
        whole = printed(features, {})[0]
        assert panel < whole


def test_no_two_symbols_print_alike() -> None:
    """Concealed faults and folds, too, keep what tells them apart; water is blue whether it runs or stands."""
    seen: dict[Any, set[str]] = {}
    for symbol in EXPLAINED:
        forms = [Form.usual(symbol), Form()] if symbol.tint and symbol.table == "lines" else [Form.usual(symbol)]
        for form in forms:
            drawn = marks(specimen(symbol, 0.0, 0.0, 60.0, 1.0, form))
            seen.setdefault((symbol.table, frozenset(drawn)), set()).add(symbol.kind)
    assert {frozenset(kinds) for kinds in seen.values() if len(kinds) > 1} == {frozenset({"shoreline", "stream"})}
