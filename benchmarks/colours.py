"""The proposal of colours for 40 units of which 200 pairs touch."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.yardstick import Row, seconds
from orvik.core.colour.proposal import propose
from orvik.core.features.age import chart

MOST = 2.0


def run() -> Iterator[Row]:
    """How long it takes, and what is reached."""
    rng = np.random.default_rng(4)
    ages = [age for age in chart() if age.rank in ("epoch", "age")]
    colours = {f"u{i}": ages[int(rng.integers(len(ages)))].colour for i in range(40)}
    pairs: set[tuple[str, str]] = set()
    while len(pairs) < 200:
        one, other = sorted(rng.integers(0, 40, 2).tolist())
        if one != other:
            pairs.add((f"u{one}", f"u{other}"))
    touching = sorted(pairs)
    took = seconds(lambda: propose(colours, touching, colours, 5.0, 0.75), 3)
    yield Row("Proposal for 40 units with 200 pairs", f"{took:.2f} s", f"at most {MOST:g} s", took <= MOST)
    found = propose(colours, touching, colours, 5.0, 0.75)
    yield Row("Least difference reached, colours moved", f"{found.least:.2f}, {len(found.moves)}", "", None)
