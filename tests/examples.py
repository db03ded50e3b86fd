"""How many examples tests draw: few in the loop of every day, many in ``make sweep``.

``ORVIK_EXAMPLES=many`` (or ``few``, as is usual) says which; ``ORVIK_SEED`` draws the same sample of a domain again.
"""

from __future__ import annotations

import os
import random
from collections.abc import Sequence
from typing import Any, TypeVar

from hypothesis import settings

T = TypeVar("T")
MANY = os.environ.get("ORVIK_EXAMPLES", "few") == "many"
# Of the examples that a test would like to see, so many are drawn; ten times all of them where time does not count.
SHARE = 10.0 if MANY else 0.25
LEAST = 8
# Held in the surroundings, so that the processes that share a run draw alike.
SEED = int(os.environ.setdefault("ORVIK_SEED", str(random.SystemRandom().randrange(1_000_000))))


def examples(number: int, **others: Any) -> settings:
    """The settings of a test that would like to see ``number`` of examples."""
    return settings(max_examples=max(min(LEAST, number), round(number * SHARE)), **others)


def drawn(domain: Sequence[T], number: int, always: Sequence[T] = ()) -> list[T]:
    """A sample of a whole domain in its order, and all of it in a sweep.

    Parameters
    ----------
    number
        How many are drawn; ``ORVIK_SEED``, which every run prints, draws the same ones again.
    always
        What once failed, and is looked at in every run.
    """
    if MANY or number >= len(domain):
        return list(domain)
    taken = set(random.Random(SEED).sample(range(len(domain)), number))
    return [one for place, one in enumerate(domain) if place in taken or one in always]
