"""What hands have done to the boxes of a correlation: another lane, and a part of their time instead of all of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from orvik.core.features.age import Span
from orvik.core.sheet.page.entries import SettingField

MOST_MOVES, MOST_LANES = 1000, 100
# Less than this share of its time no box is drawn over.
LEAST_SHARE = 1e-6


@dataclass(frozen=True)
class BoxMove:
    """Where a box was put.

    Attributes
    ----------
    lane
        Counted from 0 at the left of its column; None for the first that is free.
    younger, older
        What of its time it is drawn over, as shares of that from its younger end: never more than its age allows,
        whatever becomes of that.
    """

    lane: int | None = None
    younger: float = 0.0
    older: float = 1.0

    def within(self, span: Span) -> Span:
        """What of a time the box is drawn over."""
        if (self.younger, self.older) == (0.0, 1.0):
            return span
        long = span.older - span.younger
        return Span(span.younger + self.older * long, span.younger + self.younger * long, span.words)

    @property
    def is_sound(self) -> bool:
        """Whether a box can be drawn so."""
        lane = self.lane is None or (type(self.lane) is int and 0 <= self.lane < MOST_LANES)
        shares = [share for share in (self.younger, self.older) if isinstance(share, int | float)]
        if not lane or len(shares) < 2 or not all(math.isfinite(share) for share in shares):
            return False
        return 0.0 <= self.younger <= self.older - LEAST_SHARE / 2 <= 1.0


BoxMoves = Mapping[str, BoxMove]
NO_MOVES: BoxMoves = {}


@dataclass(frozen=True)
class BoxMovesEntry(SettingField):
    """The setting that holds where boxes were put, by the codes of their units; it is on no form."""

    def is_valid(self, value: Any) -> bool:
        if not isinstance(value, Mapping) or len(value) > MOST_MOVES:
            return False
        try:
            return all(isinstance(code, str) and _move(held).is_sound for code, held in value.items())
        except TypeError:
            return False

    def normalized(self, value: Any) -> BoxMoves:
        moves = {code: _move(held) for code, held in value.items()}
        return {code: move for code, move in sorted(moves.items()) if move != BoxMove()}

    def stored(self, value: BoxMoves) -> dict[str, Any]:
        return {code: asdict(move) for code, move in value.items()}

    def fields(self, name: str) -> tuple[str, ...]:
        return ()

    def given(self, name: str, typed: Mapping[str, str]) -> bool:
        return False


def _move(held: Any) -> BoxMove:
    return held if isinstance(held, BoxMove) else BoxMove(**held)
