"""Bands: dykes and inclined sheets, a centre line with a width and two margins."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

from orvik.core.errors import FeatureRefused

FAULTS = "faults"


@dataclass(frozen=True)
class Band:
    """What makes a line a band.

    Attributes
    ----------
    width
        Metres on the ground, or millimetres on the sheet.
    on
        ``ground`` or ``sheet``.
    left, right
        Certainty of each margin; empty for that of the line.
    dips
        The side that the sheet dips to, ``left`` or ``right`` along its direction; empty for none. The dip
        itself is the feature's inclination.
    cut_by
        Codes of map units that lie over it, and ``faults`` where faults displace it; it cuts all others.
    """

    width: float
    on: str = "ground"
    left: str = ""
    right: str = ""
    dips: str = ""
    cut_by: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.on not in ("ground", "sheet"):
            raise FeatureRefused("The width of a band is measured on the ground or on the sheet; choose one.")
        if not 0 < self.width <= (5000 if self.on == "ground" else 50):
            raise FeatureRefused(
                "A band needs a width above nought, up to 5 000 m on the ground or 50 mm on the sheet."
            )

    @property
    def text(self) -> str:
        """As the project file holds it."""
        return json.dumps(asdict(self), separators=(",", ":"))

    @staticmethod
    def of(text: str | None) -> Band | None:
        """From the project file; None where the line is not a band."""
        if not text:
            return None
        values = json.loads(text)
        return Band(**values | {"cut_by": tuple(values.get("cut_by", ()))})

    def ground_width(self, publication: int, metres_per_unit: float) -> float:
        """The width in project units."""
        metres = self.width if self.on == "ground" else self.width * publication / 1000
        return metres / metres_per_unit
