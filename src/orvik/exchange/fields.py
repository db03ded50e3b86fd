"""What the fields of a file mean: a guess by their names, and their values in our terms."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

# Our attributes, with the names that files commonly give them; what is left of an underscore counts as well.
OWN: dict[str, tuple[str, ...]] = {
    "kind": ("kind", "feature", "featuretype", "linetype", "type"),
    "certainty": ("certainty", "confidence", "locationconfidence", "accuracy"),
    "questionable": ("questionable", "doubt", "identityconfidence"),
    "map_unit": ("mapunit", "unit", "unitcode", "geounit", "formation", "label", "code", "symbol"),
    "azimuth": ("azimuth", "strike", "strikeaz", "trend"),
    "dip_direction": ("dipdirection", "dipdir", "dipazimuth", "dipaz"),
    "inclination": ("inclination", "dip", "plunge", "dipangle"),
    "capture_scale": ("capturescale", "scale"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments", "description"),
}
LABELS = {
    "kind": "Kind", "certainty": "Certainty", "questionable": "Questionable", "map_unit": "Map unit",
    "azimuth": "Strike", "dip_direction": "Dip direction", "inclination": "Dip", "capture_scale": "Capture scale",
    "note": "Note",
}  # fmt: skip
_CERTAINTIES = {
    "certain": "certain", "observed": "certain", "known": "certain", "exact": "certain", "definite": "certain",
    "approximate": "approximate", "approx": "approximate", "approximately": "approximate",
    "inferred": "inferred", "probable": "inferred", "assumed": "inferred",
    "concealed": "concealed", "covered": "concealed", "buried": "concealed",
}  # fmt: skip


def guessed(columns: Sequence[str]) -> dict[str, str]:
    """The file's field for each attribute that one seems to be meant for; each field at most once."""
    plain = {re.sub(r"[^a-z]", "", column.lower()): column for column in columns}
    found: dict[str, str] = {}
    taken: set[str] = set()
    for own, names in OWN.items():
        for name in names:
            # Shapefiles cut names off after ten characters.
            column = plain.get(name) or plain.get(name[:10])
            if column is not None and column not in taken:
                found[own] = column
                taken.add(column)
                break
    return found


def translated(values: Mapping[str, Any], fields: Mapping[str, str]) -> dict[str, Any]:
    """Values in our terms: words of certainty in ours, a dip direction as the strike to its left."""
    held = {key: values.get(column) for key, column in fields.items()}
    own: dict[str, Any] = {key: value for key, value in held.items() if value is not None and value != ""}
    if "dip_direction" in own:
        direction = own.pop("dip_direction")
        own.setdefault("azimuth", (float(direction) - 90) % 360)
    if "azimuth" in own:
        own["azimuth"] = (
            float(own["azimuth"]) % 360 if float(own["azimuth"]) == 360 else float(own["azimuth"])
        )
    if "certainty" in own:
        word = str(own["certainty"]).strip().lower()
        own["certainty"] = _CERTAINTIES.get(word, word)
    if "kind" in own:
        own["kind"] = re.sub(r"[\s-]+", "_", str(own["kind"]).strip().lower())
    return own
