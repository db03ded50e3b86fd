"""A label where it stands, and what it hangs on at other scales."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.ink.affine import Affine, apply
from orvik.core.labels.label_request import LabelRequest
from orvik.core.labels.placement import LabelPlace


@dataclass(frozen=True)
class Label:
    """A label where it stands.

    Attributes
    ----------
    place
        In millimetres on the page.
    hangs
        The place on the page that it goes with at other scales: its point, the end of its leader, or its own middle.
    at
        The same in ground coordinates.
    largest
        The coarsest scale denominator at which it is shown.
    """

    request: LabelRequest
    place: LabelPlace
    hangs: tuple[float, float]
    at: tuple[float, float]
    largest: float
    halo: str | None

    @property
    def offset(self) -> tuple[float, float]:
        """Where its middle stands, in millimetres right and down from ``at``."""
        return self.place.middle[0] - self.hangs[0], self.place.middle[1] - self.hangs[1]


def hung(
    request: LabelRequest, page: shapely.Geometry, found: LabelPlace, largest: float, halo: str | None, back: Affine
) -> Label:
    """A label on the ground that it goes with; ``back`` leads from the page to the ground."""
    at = hangs_at(request, page, found)
    x, y = apply(back, at[None, :])[0]
    return Label(request, found, (float(at[0]), float(at[1])), (float(x), float(y)), largest, halo)


def hangs_at(request: LabelRequest, page: shapely.Geometry, found: LabelPlace) -> Floats:
    """Where a label hangs on the page: at the end of its leader, at its point, or at its own middle."""
    if found.leader is not None:
        return np.asarray(found.leader[1])
    if request.placing in ("around", "over"):
        return np.asarray(shapely.get_coordinates(page)[0])
    return np.array(found.middle)
