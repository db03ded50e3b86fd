"""The attributes that fields of other people's files may tell of a feature."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from orvik.core.features.phrases import letters

Values = Literal["", "kinds", "certainties", "answers", "units"]


@dataclass(frozen=True)
class Attribute:
    """One attribute; see attributes.toml. ``unit`` is empty for one of the feature itself."""

    name: str
    label: str
    names: tuple[str, ...]
    values: Values = ""
    joiner: str | None = None
    unit: str = ""


def _read() -> Mapping[str, Attribute]:
    rows = tomllib.loads(Path(__file__).with_name("attributes.toml").read_text(encoding="utf-8"))
    return {
        name: Attribute(
            name, row["label"], tuple(row["names"]), row.get("values", ""), row.get("joiner"), row.get("unit", "")
        )
        for name, row in rows.items()
    }


ATTRIBUTES: Mapping[str, Attribute] = _read()
# Those that tell of the map unit, not of the feature.
OF_UNITS = tuple(attribute for attribute in ATTRIBUTES.values() if attribute.unit)
# What a direction can be that is called by no more than azimuth; and the readings of one attitude.
DIRECTIONS = ("azimuth", "dip_direction")
# What may be said once of all features of a file.
CONSTANTS = ("map_unit", "certainty", "questionable", "capture_scale", "note")


def whole_letters(name: str) -> str:
    """A field's name by letters and figures, without a unit in brackets: ``Dip_2 (deg)`` is ``dip2``."""
    return re.sub(r"[^a-z0-9]", "", re.sub(r"[(\[{].*?[)\]}]", "", letters(name)))


def bare_letters(name: str) -> str:
    """A field's name by its letters alone: ``Dip_2`` is ``dip``."""
    return re.sub(r"[^a-z]", "", whole_letters(name))
