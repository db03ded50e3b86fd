"""Readings for a net: which are wanted, in what unit each lies, and what planes and lines are together."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.features.kind import KINDS, Kind
from orvik.core.features.map_unit import MapUnit
from orvik.core.structure.axes import statistics_of
from orvik.core.structure.readings import NO_UNIT, ReadingChoice, chosen_readings, reading_kinds


def points(*rows: tuple[str, float, float, float | None, float | None]) -> Features:
    made = [
        Feature("points", shapely.Point(x, y), kind, id=i, azimuth=azimuth, inclination=inclination)
        for i, (kind, x, y, azimuth, inclination) in enumerate(rows, 1)
    ]
    return Features.of("points", made)


def areas(*rows: tuple[str, float, float, float, float]) -> Features:
    made = [
        Feature("areas", shapely.box(*box), "unit_area", id=i, map_unit=code or None)
        for i, (code, *box) in enumerate(rows, 1)
    ]
    return Features.of("areas", made)


GROUND = areas(("Jh", 0, 0, 10, 10), ("Qt", 2, 2, 4, 4), ("Kp", 10, 0, 20, 10), ("", 20, 0, 30, 10))


def test_a_reading_lies_in_the_smallest_area_about_it() -> None:
    found = chosen_readings(
        points(
            ("bedding", 1, 1, 10, 20),
            ("bedding", 3, 3, 10, 20),
            ("bedding", 15, 5, 10, 20),
            ("bedding", 25, 5, 10, 20),
            ("bedding", 99, 5, 10, 20),
            ("unit_tag", 5, 5, None, None),
        ),
        GROUND,
        ReadingChoice(),
    )
    assert found.units == ("Jh", "Qt", "Kp", "", "")
    assert found.ids.tolist() == [1, 2, 3, 4, 5]
    colours = found.colours({"Jh": MapUnit("Jh", "Jh", "", "#112233")})
    assert colours == ["#112233", *[NO_UNIT] * 4]


def test_a_choice_is_all_that_it_says() -> None:
    some = points(
        ("bedding", 1, 1, 10, 20), ("joint", 1, 2, 30, 80), ("bedding", 15, 5, 50, 60), ("bedding", 15, 6, 5, None)
    )
    ids = [
        chosen_readings(some, GROUND, choice).ids.tolist()
        for choice in (
            ReadingChoice(kinds=frozenset({"bedding"})),
            ReadingChoice(unit="Kp"),
            ReadingChoice(ids=frozenset({2, 3, 77})),
            ReadingChoice(window=(0, 0, 5, 5)),
            ReadingChoice(kinds=frozenset({"bedding"}), unit="Jh", window=(0, 0, 5, 5)),
            ReadingChoice(ids=frozenset()),
        )
    ]
    assert ids == [[1, 3, 4], [3, 4], [2, 3], [1, 2], [1], []]
    assert reading_kinds(some) == ["bedding", "joint"]
    last = chosen_readings(some, GROUND, ReadingChoice())
    assert last.on_net.tolist() == [True, True, True, False]


@pytest.mark.parametrize("kind", [kind for kind in KINDS.values() if kind.reading], ids=lambda kind: kind.name)
def test_every_kind_with_a_reading_is_a_plane_or_a_line(kind: Kind) -> None:
    """A plane that strikes north and dips 30 east has its pole to the west, 60 down; a line lies as it plunges."""
    found = chosen_readings(points((kind.name, 0, 0, 0.0, 30.0)), GROUND, ReadingChoice())
    down = math.radians(30)
    line = [0, math.cos(down), math.sin(down)]
    pole = [-math.sin(down), 0, math.cos(down)]
    assert found.axes[0] == pytest.approx(line if kind.linear else pole)


def test_planes_and_lines_have_no_mean_together() -> None:
    rows = [("bedding", i, 1, 10 + i, 20) for i in range(6)]
    assert statistics_of(chosen_readings(points(*rows), GROUND, ReadingChoice())) is not None
    both = chosen_readings(points(*rows, ("lineation", 1, 1, 20, 30)), GROUND, ReadingChoice())
    assert both.mixed
    assert statistics_of(both) is None
    none = chosen_readings(points(("bedding", 1, 1, 10, None)), GROUND, ReadingChoice())
    assert not none.mixed
    assert statistics_of(none) is None
    assert np.isnan(none.axes).all()
