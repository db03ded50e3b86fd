"""How many slips of the hand two words are apart."""

from __future__ import annotations


def slips_apart(one: str, other: str) -> int:
    """Letters left out, put in, changed or exchanged with the next: the optimal string alignment distance.

    >>> slips_apart("Harrack", "Hararck"), slips_apart("Kw", "Kv"), slips_apart("Till", "Tilll")
    (1, 1, 1)
    """
    # Loaded with the first text that is read: the application starts without it.
    from rapidfuzz.distance import OSA

    return int(OSA.distance(one, other))
