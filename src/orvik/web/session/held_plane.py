"""A plane that a window shows, with its trace as pencil: lines that the ring holds and a pen follows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import shapely

from orvik.core.features.feature import Feature, Features
from orvik.core.geometry.snapping import SnapIndex, Switches, Target
from orvik.usecases.structure.planes import PlaneFound

# What the ring calls it; it is no kind of feature.
TRACE = "trace"
_HELD = Switches(vertex=False, edge=True, end=True)


@dataclass(frozen=True)
class HeldPlane:
    """A plane and its trace in the window's view."""

    found: PlaneFound
    trace: tuple[Feature, ...] = ()
    reach: float | None = None
    _index: SnapIndex = field(default_factory=lambda: SnapIndex({}), repr=False)

    def traced(self, lines: Sequence[shapely.LineString], reach: float | None) -> HeldPlane:
        """The same plane with another trace, as after a move of the view."""
        features = [Feature("lines", line, TRACE, id=i) for i, line in enumerate(lines, 1)]
        index = SnapIndex({"lines": Features.of("lines", features)} if features else {})
        return replace(self, trace=tuple(features), reach=reach, _index=index)

    def snap(self, x: float, y: float, radius: float) -> Target | None:
        """What the ring holds of the trace; it belongs to no feature of the map."""
        held = self._index.snap(x, y, radius, _HELD)
        return replace(held, id=0) if held is not None else None
