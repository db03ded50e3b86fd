"""A net of readings on a sheet: its poles lie where mplstereonet puts them, in the colours of their units, counted."""

from __future__ import annotations

import math
import warnings
from dataclasses import replace

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.ink.primitives import Fill, Group, Item, Marks, Stroke, Text, walk
from orvik.core.sheet.output.compose import compose
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.net import Net
from orvik.core.structure.net_ink import every
from tests.core.sheet.panels.test_panel import PAGE, context, part_of

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import mplstereonet

BEDS = [(30.0, 20.0), (45, 60), (220, 35), (5, 88), (185, 89), (120, 5), (300, 45)]


def on_sheet(
    rows: list[tuple[str, float, float | None]], width: float = 60.0, height: float = 70.0, **settings: object
) -> Group:
    """The part as it is composed, over readings in the middle of the panel."""
    points = [
        Feature(
            "points", shapely.Point(512_500 + 20 * i % 400, 6_802_000), kind, id=i + 1, azimuth=azimuth, inclination=dip
        )
        for i, (kind, azimuth, dip) in enumerate(rows)
    ]
    here = context()
    shown = replace(here, features={**here.features, "points": Features.of("points", points)})
    part = Part(Net(panel=1, **settings), 300, 100, width, height, id=2, position=2)  # type: ignore[arg-type]
    return compose(PAGE, [part_of(), part], shown).groups[1]


def texts(items: list[Item]) -> list[str]:
    return [item.run.chars for item in items if isinstance(item, Text)]


def rim(items: list[Item]) -> tuple[float, float, float]:
    """Middle and radius of the circle around the net."""
    (circle,) = [i for i in items if isinstance(i, Stroke) and i.style.width == 0.25]
    xy = circle.paths.xy
    middle = (xy.min(axis=0) + xy.max(axis=0)) / 2
    return float(middle[0]), float(middle[1]), float(np.hypot(*(xy - middle).T).mean())


def test_poles_lie_where_another_library_puts_them() -> None:
    items = list(walk(on_sheet([("bedding", s, d) for s, d in BEDS], density=False).items))
    x, y, radius = rim(items)
    ours = np.vstack([item.at for item in items if isinstance(item, Marks)])
    lon, lat = mplstereonet.pole([s for s, _ in BEDS], [d for _, d in BEDS])
    k = np.sqrt(1 / (1 + np.cos(lat) * np.cos(lon)))
    theirs = np.column_stack([x + radius * k * np.cos(lat) * np.sin(lon), y - radius * k * np.sin(lat)])
    # Whatever end of an upright bed's pole falls on the rim.
    for place in theirs:
        gaps = np.hypot(*(ours - place).T)
        other = np.hypot(*(ours - (2 * np.array([x, y]) - place)).T)
        assert min(gaps.min(), other.min()) < 0.01
    assert "7 readings of bedding; equal area, lower hemisphere" in texts(items)
    assert "N" in texts(items)


def test_it_stays_in_its_frame_and_says_what_there_is() -> None:
    rows = [("bedding", s, d) for s, d in BEDS]
    for shows in ("equal_area", "equal_angle", "rose"):
        items = list(walk(on_sheet(rows, shows=shows, circles=True).items))
        for item in items:
            if isinstance(item, Fill | Stroke) and item.paths.xy.size:
                low, high = item.paths.xy.min(axis=0), item.paths.xy.max(axis=0)
                # Density is cut off by the rim.
                if isinstance(item, Stroke):
                    assert low[0] >= 300
                    assert high[0] <= 360
                    assert low[1] >= 100
                    assert high[1] <= 170
    assert "no such readings" in " ".join(texts(list(walk(on_sheet(rows, kinds="joint").items))))
    assert "no room" in " ".join(texts(list(walk(on_sheet(rows, width=10, height=10).items))))
    assert "divide 180" in " ".join(texts(list(walk(on_sheet(rows, shows="rose", sector=7.0).items))))
    both = list(walk(on_sheet([*rows, ("joint", 10, None), ("joint", 20, 80)], kinds="bedding, joint").items))
    assert any(text.startswith("8 readings") for text in texts(both))


@pytest.mark.parametrize("seed", range(4))
def test_a_petal_has_the_area_of_its_count(seed: int) -> None:
    strikes = np.random.default_rng(seed).uniform(0, 360, 60)
    items = list(walk(on_sheet([("bedding", float(s), 30.0) for s in strikes], shows="rose", sector=30.0).items))
    (petals,) = [item for item in items if isinstance(item, Fill)]
    areas = [shapely.Polygon(petals.paths[i]).area for i in range(len(petals.paths))]
    counts = np.bincount((np.concatenate([strikes, strikes + 180]) % 360 // 30).astype(int), minlength=12)
    assert np.array(areas) / max(areas) == pytest.approx(counts[counts > 0] / counts.max(), rel=1e-6)
    assert math.isclose(sum(counts), 120)


def test_of_very_many_one_in_so_many_is_drawn_and_it_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    assert [every(count) for count in (1, 10_000, 10_001, 50_000)] == [1, 1, 2, 5]
    monkeypatch.setattr("orvik.core.structure.net_ink.MOST_POLES", 10)
    rng = np.random.default_rng(1)
    rows = [("bedding", float(s), float(d)) for s, d in rng.uniform((0, 0), (360, 90), (25, 2))]
    items = list(walk(on_sheet(rows).items))
    assert sum(len(item.at) for item in items if isinstance(item, Marks)) == 9
    assert "25 readings of bedding, one pole in 3 drawn" in texts(items)
