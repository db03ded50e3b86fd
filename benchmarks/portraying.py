"""Features with ornaments and patterns to ink: 1 000, 10 000 and 100 000 of them, mixed."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from benchmarks import data
from benchmarks.yardstick import Row, seconds
from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import KINDS, kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import project_crs
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray

# The most that 10 000 may take, in seconds, and how much more than ten times that ten times as many may.
MOST, LINEAR = 1.0, 1.25
UNITS = {code: MapUnit(code, code, "", "#BBD5A6", pattern=p) for code, p in (("Kp", "shale"), ("Jh", "sandstone"))}


def mixed(count: int) -> dict[Table, Features]:
    """A third lines of kinds that have ornaments, a third points that turn, a third areas with patterns."""
    rng = np.random.default_rng(9)
    book = standard()
    lines = [k.name for k in KINDS.values() if k.table == "lines" and book.symbol("lines", k.name).ornaments]
    points = [k.name for k in KINDS.values() if k.table == "points" and k.reading]
    third = count // 3
    side = 60.0 * np.sqrt(count)
    walks = data.walks(rng, third, 30, side, 12.0)
    xy = rng.uniform(0, side, (third, 2)) + (data.WEST, data.SOUTH)
    spread = rng.uniform(20, 60, third)
    boxes = [shapely.box(x - r, y - r, x + r, y + r) for (x, y), r in zip(xy.tolist(), spread.tolist(), strict=True)]
    tables: dict[Table, list[Feature]] = {
        "lines": [Feature("lines", g, lines[i % len(lines)], id=i + 1) for i, g in enumerate(walks)],
        "points": [
            Feature(
                "points",
                shapely.Point(place),
                points[i % len(points)],
                id=i + 1,
                azimuth=float(i % 360),
                inclination=float(i % 91) if kind_of(points[i % len(points)]).inclined else None,
            )
            for i, place in enumerate(xy)
        ],
        "areas": [
            Feature("areas", g, "unit_area", id=i + 1, map_unit="Kp" if i % 2 else "Jh") for i, g in enumerate(boxes)
        ],
    }
    return {table: Features.of(table, features) for table, features in tables.items()}


def run() -> Iterator[Row]:
    """How long each takes, and whether ten times as many take ten times as long."""
    crs, book = project_crs("EPSG:32628"), standard()
    took: dict[int, float] = {}
    for count in (1_000, 10_000, 100_000):
        features = mixed(count)
        took[count] = seconds(lambda features=features: portray(features, book, UNITS, crs, 25_000))  # type: ignore[misc]
        good = took[count] <= MOST if count == 10_000 else None
        wanted = f"at most {MOST:g} s" if count == 10_000 else ""
        yield Row(f"{count:,} mixed features to ink".replace(",", " "), f"{took[count]:.2f} s", wanted, good)
    ratio = took[100_000] / took[10_000] / 10
    yield Row("100 000 against ten times 10 000", f"{ratio:.2f}", f"at most {LINEAR:g}", ratio <= LINEAR)
