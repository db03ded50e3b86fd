"""How far a long piece of work is."""

from __future__ import annotations

from collections.abc import Callable

# Takes the share that is done, 0 to 1, and what is being done, in a few words.
Tell = Callable[[float, str], None]


def tell_nobody(share: float, words: str) -> None:
    """For work that nobody waits for."""


def part_of(tell: Tell, begin: float, end: float) -> Tell:
    """Tells of a piece of the work that takes it from one share to another.

    >>> said = []
    >>> part_of(lambda share, words: said.append((share, words)), 0.5, 1.0)(0.5, "strip 1 of 2")
    >>> said
    [(0.75, 'strip 1 of 2')]
    """
    return lambda share, words: tell(begin + (end - begin) * share, words)
