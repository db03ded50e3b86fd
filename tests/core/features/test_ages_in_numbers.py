"""Ages in millions of years against the chart itself."""

from __future__ import annotations

import random

import pytest

from orvik.core.errors import FeatureRefused
from orvik.core.features.age import chart, ends_of_ma, find, span, written_ma
from tests.examples import SEED


def test_any_range_lies_within_the_ages_that_it_is_given() -> None:
    rng = random.Random(SEED)
    oldest = max(age.older for age in chart())
    for _ in range(400):
        younger, older = sorted(rng.uniform(0, oldest) ** rng.choice([1.0, 0.6]) for _ in range(2))
        held = span(*ends_of_ma(older, younger))
        assert held is not None
        assert held.younger <= younger
        assert held.older >= older
        first, last = (find(name) for name in ends_of_ma(older, younger))
        assert first is not None
        # No shorter age holds either end.
        for end, taken in ((older, first), (younger, last or first)):
            length = taken.older - taken.younger
            assert not [a for a in chart() if a.younger < end < a.older and a.older - a.younger < length - 1e-9]


@pytest.mark.parametrize("age", chart(), ids=lambda age: age.name)
def test_an_age_is_its_own_range(age) -> None:  # type: ignore[no-untyped-def]
    held = span(*ends_of_ma(age.older, age.younger))
    assert held is not None
    assert (held.older, held.younger) == (age.older, age.younger)


@pytest.mark.parametrize(
    ("text", "ends"),
    [
        ("12 Ma", (12.0, 12.0)),
        ("c. 12,5 Ma", (12.5, 12.5)),
        ("72.1±0.2 Ma", (72.3, 71.9)),
        ("28–30 Ma", (30.0, 28.0)),
        ("30 to 28 m.y.", (30.0, 28.0)),
        ("0.01 ± 0.5 Ma", (0.51, 0.0)),
        ("Jurassic", None),
        ("12", None),
        ("12–", None),
    ],
)
def test_numbers_as_they_are_written(text: str, ends: tuple[float, float] | None) -> None:
    assert written_ma(text) == ends


def test_what_no_chart_holds() -> None:
    with pytest.raises(FeatureRefused):
        ends_of_ma(5000.0, 4900.0)
    with pytest.raises(FeatureRefused):
        ends_of_ma(10.0, 20.0)
