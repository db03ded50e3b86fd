"""What the labels of a kind say, and how they are written, where that is not as its symbol has it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Features
from orvik.core.features.kind import UNIT_AREA
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table

# What every feature can say of itself; kinds of one's own add their fields.
ATTRIBUTES: Mapping[str, str] = {
    "label": "label of its unit",
    "code": "code of its unit",
    "unit": "name of its unit",
    "age": "age of its unit",
    "rock": "rock of its unit",
    "note": "note",
    "inclination": "dip or plunge",
    "azimuth": "strike or trend",
    "certainty": "certainty",
}
LONGEST_PATTERN, LONGEST_LABEL = 120, 60
SMALLEST, LARGEST = 1.0, 12.0
LinePlacing = Literal["along", "above"]
_ATTRIBUTE = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True)
class LabelRule:
    """How the labels of a kind are written.

    Attributes
    ----------
    pattern
        The text, with attributes in braces: ``{label}``, ``{note}, {inclination}``; empty for no label.
    size
        Height of the letters in millimetres.
    placing
        Of a line's name: ``along``, on the line, or ``above``, beside it.
    """

    table: Table
    kind: str
    pattern: str
    size: float = 2.6
    italic: bool = False
    placing: LinePlacing = "above"

    def __post_init__(self) -> None:
        if len(self.pattern) > LONGEST_PATTERN:
            raise FeatureRefused(f"The text of a label has {LONGEST_PATTERN} letters at the most.")
        if not SMALLEST <= self.size <= LARGEST:
            raise FeatureRefused(f"Letters of labels are {SMALLEST:g} to {LARGEST:g} mm high, not {self.size:g}.")
        if self.placing not in get_args(LinePlacing):
            raise FeatureRefused("A name stands along its line or above it.")

    def checked(self, fields: tuple[str, ...] = ()) -> LabelRule:
        """The same, if it names only attributes that there are.

        Raises
        ------
        FeatureRefused
            It names one that there is not, or a brace is not closed.
        """
        if "{" in _ATTRIBUTE.sub("", self.pattern) or "}" in _ATTRIBUTE.sub("", self.pattern):
            raise FeatureRefused("A brace of this text is not closed; attributes are written as {label} or {note}.")
        known = (*ATTRIBUTES, *fields)
        for name in _ATTRIBUTE.findall(self.pattern):
            if name.strip() not in known:
                raise FeatureRefused(f"There is no attribute “{name[:30]}”; there are {', '.join(known)}.")
        return self


def label_text(pattern: str, features: Features, row: int, units: Mapping[str, MapUnit]) -> str:
    """What a pattern says of a feature; empty where none of its attributes says anything."""
    said: list[str] = []

    def value(match: re.Match[str]) -> str:
        text = _attribute(match.group(1).strip(), features, row, units)
        said.append(text)
        return text

    text = _ATTRIBUTE.sub(value, pattern)
    if said and not any(said):
        return ""
    # What stood between attributes of which one says nothing stands alone now.
    text = " ".join(text.split()).strip(" ,;:/–-")
    return text if len(text) <= LONGEST_LABEL else f"{text[: LONGEST_LABEL - 1].rstrip()}…"


def _attribute(name: str, features: Features, row: int, units: Mapping[str, MapUnit]) -> str:
    columns = features.columns
    doubt = "?" if columns["questionable"][row] else ""
    if name == "inclination":
        value = columns["inclination"][row]
        return "" if value is None else f"{round(value)}{doubt}"
    if name == "azimuth":
        value = columns["azimuth"][row]
        return "" if value is None else f"{round(value) % 360:03d}"
    if name in ("note", "certainty"):
        return str(columns[name][row] or "")
    if name in ("label", "code", "unit", "age", "rock"):
        code = columns["map_unit"][row]
        unit = units.get(str(code)) if code else None
        if unit is None:
            return f"{code}{doubt}" if code and name in ("label", "code") else ""
        if name == "label":
            return f"{unit.printed_label}{doubt}"
        return {"code": unit.code, "unit": unit.name, "age": unit.printed_age, "rock": unit.rock}[name]
    value = (columns["fields"][row] or {}).get(name)
    return "" if value is None else str(value)


def usual_pattern(table: Table, kind: str) -> str:
    """What the label of an area says where no rule says otherwise: the label of its unit."""
    return "{label}" if table == "areas" and kind == UNIT_AREA else ""
