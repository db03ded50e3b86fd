"""What each rule reads of the features, units and parts that its findings speak of, beside their geometry."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Reads:
    """What a finding of a rule rests on: it is as it was for as long as these are.

    Attributes
    ----------
    features
        Names of attributes of ``Feature``, or of what one of them holds, as ``band.cut_by``.
    units
        Names of attributes of ``MapUnit``.
    """

    features: tuple[str, ...] = ()
    units: tuple[str, ...] = ()


_NOTHING = Reads()
_LINEWORK = Reads(features=("kind",))
_READING = Reads(features=("kind", "azimuth", "inclination"))
_UNIT = Reads(features=("kind", "map_unit"))
# Every rule stands here, by name; of parts all settings but their name and group are read.
READS: Mapping[str, Reads] = {
    "dangle": _LINEWORK,
    "near_miss": _LINEWORK,
    "crossing": _LINEWORK,
    "doubled": _READING,
    "overlap": _UNIT,
    "unsound": _UNIT,
    "sliver": _NOTHING,
    "untagged": _NOTHING,
    "undivided": _NOTHING,
    "takes_ground": _NOTHING,
    "two_tags": _UNIT,
    "other_unit": _UNIT,
    "unformed": _NOTHING,
    "same_unit": _LINEWORK,
    "order": _READING,
    "older_cuts": Reads(features=("kind", "map_unit", "certainty", "band.cut_by")),
    "odd_attitude": _READING,
    "doubled_station": _NOTHING,
    "coarse": Reads(features=("kind", "capture_scale")),
    "lost_file": _NOTHING,
    "misfit": _NOTHING,
    "outside": _LINEWORK,
    "unknown": Reads(features=("kind", "certainty", "map_unit", "azimuth", "inclination")),
    "row": _NOTHING,
    "no_sense": Reads(features=("kind", "certainty")),
    "column": Reads(units=("position", "age", "age_from", "age_to", "heading")),
    "unexplained": _NOTHING,
    "nothing_shown": _NOTHING,
    "row_cut": _NOTHING,
    "off_page": _NOTHING,
    "hidden_part": _NOTHING,
    "run_together": _NOTHING,
    "text_cut": _NOTHING,
    "figures_off": _NOTHING,
    "unshown": _NOTHING,
    "empty_part": _NOTHING,
    "rough_picture": _NOTHING,
    "enlarged": _NOTHING,
    "untrue_scale": _NOTHING,
    "land_too_large": _NOTHING,
    "letters": _NOTHING,
    "small_letters": _NOTHING,
    "faint_letters": _NOTHING,
    "thin_line": _NOTHING,
    "alike": Reads(units=("colour", "pattern", "pattern_colour", "pattern_strength")),
    "label": Reads(features=("kind", "map_unit", "azimuth", "inclination", "fields")),
    "no_essential": _NOTHING,
}
