"""What a hand has done to a label: moved, turned or hidden it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import FeatureRefused
from orvik.core.labels.label_request import LabelKey

# The scope of what holds at publication scale; other scopes are the numbers of panels.
PUBLICATION = 0
# A figure further than this from its symbol is no longer read as its own, in millimetres.
FARTHEST = 60.0


@dataclass(frozen=True)
class LabelMove:
    """Where a hand has put a label.

    Attributes
    ----------
    key
        Which label.
    scope
        ``PUBLICATION``, or the number of the panel that this is for.
    at
        The middle of the letters: of a point's label in millimetres right and down from the point, so that it goes
        along with it; else in ground coordinates. None where only its turn or its being seen was changed.
    angle
        By how much it is turned, in degrees clockwise; None for as it stands by itself.
    hidden
        Whether it is not to be seen.
    """

    key: LabelKey
    scope: int = PUBLICATION
    at: tuple[float, float] | None = None
    angle: float | None = None
    hidden: bool = False

    def __post_init__(self) -> None:
        if self.angle is not None and not -180 <= self.angle <= 180:
            raise FeatureRefused("A label is turned by -180 to 180 degrees.")
        if self.at is not None and self.key.table == "points" and max(abs(v) for v in self.at) > FARTHEST:
            raise FeatureRefused(
                f"This is more than {FARTHEST:g} mm from its symbol; nobody would know whose label it is."
            )

    @property
    def empty(self) -> bool:
        """Whether nothing is left of it, so that the label is placed automatically again."""
        return self.at is None and self.angle is None and not self.hidden

    def carried(self, places: Callable[[Floats], Floats]) -> LabelMove:
        """The same in another system, into which ``places`` leads; what is kept from its point stays as it is."""
        if self.at is None or self.key.table == "points":
            return self
        x, y = places(np.array([self.at]))[0]
        return replace(self, at=(float(x), float(y)))


def in_force(moves: list[LabelMove], scope: int, at_publication: bool) -> dict[LabelKey, LabelMove]:
    """The moves that hold for a panel: its own, and those of the publication scale where it is at that."""
    out = {move.key: move for move in moves if at_publication and move.scope == PUBLICATION}
    if scope != PUBLICATION:
        out |= {move.key: move for move in moves if move.scope == scope}
    return out
