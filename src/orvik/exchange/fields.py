"""What the fields of a file mean: a guess by their names, and their values in our terms."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from orvik.core.errors import FeatureRefused, ScaleRefused
from orvik.core.features.attitude import Attitude
from orvik.core.features.kind import USUAL_READING
from orvik.core.features.reading import parse_dip
from orvik.core.features.reconciling import Stated, reconciled
from orvik.core.features.station_table import plain_name
from orvik.core.ground.scale import parse_scale

# Our attributes, with the names that files commonly give them; what is left of an underscore counts as well.
ATTRIBUTES: dict[str, tuple[str, ...]] = {
    "kind": ("kind", "feature", "featuretype", "linetype", "type"),
    "certainty": ("certainty", "confidence", "locationconfidence", "accuracy"),
    "questionable": ("questionable", "doubt", "identityconfidence"),
    "map_unit": ("mapunit", "unit", "unitcode", "geounit", "formation", "label", "code", "symbol"),
    "azimuth": ("azimuth", "strike", "strikeaz", "trend"),
    "dip_direction": ("dipdirection", "dipdir", "dipazimuth", "dipaz"),
    "dip_quadrant": ("dipquadrant", "dipquad", "quadrant", "dipside"),
    "inclination": ("inclination", "dip", "plunge", "dipangle"),
    "capture_scale": ("capturescale", "scale"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments", "description"),
}
# Names of at most ten letters, for the tables of shapefiles (dBASE III), by our own.
SHORT = {
    "questionable": "question",
    "inclination": "inclin",
    "capture_scale": "capt_scale",
    "band_width_m": "band_m",
    "band_width_mm": "band_mm",
}
LABELS = {
    "kind": "Kind",
    "certainty": "Certainty",
    "questionable": "Questionable",
    "map_unit": "Map unit",
    "azimuth": "Strike",
    "dip_direction": "Dip direction",
    "dip_quadrant": "Dip quadrant",
    "inclination": "Dip",
    "capture_scale": "Capture scale",
    "note": "Note",
}
_CERTAINTIES = {
    "certain": "certain",
    "observed": "certain",
    "known": "certain",
    "exact": "certain",
    "definite": "certain",
    "approximate": "approximate",
    "approx": "approximate",
    "approximately": "approximate",
    "inferred": "inferred",
    "probable": "inferred",
    "assumed": "inferred",
    "concealed": "concealed",
    "covered": "concealed",
    "buried": "concealed",
}


def guessed(
    columns: Sequence[str], values: Sequence[Mapping[str, Any]] = (), kinds: Iterable[str] = (), drawing: bool = False
) -> dict[str, str]:
    """The file's field for each attribute that one seems to be meant for; each field at most once.

    Parameters
    ----------
    columns
        The fields of the file.
    values, kinds
        Its rows, and the kinds that the project knows: a field is one for kinds only if it names some of them.
    drawing
        Whether it is a technical drawing, whose fields speak of pens and layers.
    """
    plain = {plain_name(column): column for column in columns}
    known = set(kinds)
    found: dict[str, str] = {}
    taken: set[str] = set()
    for attribute, names in ATTRIBUTES.items():
        for name in (*names, *(("layer",) if attribute == "kind" and drawing else ())):
            # Shapefiles cut names off after ten characters.
            column = plain.get(name) or plain.get(name[:10])
            if column is None or column in taken:
                continue
            if attribute == "kind" and values and not any(kind_word(row.get(column)) in known for row in values):
                continue
            found[attribute] = column
            taken.add(column)
            break
    return found


def translated(values: Mapping[str, Any], fields: Mapping[str, str], kind: str = USUAL_READING) -> dict[str, Any]:
    """Values in our terms: words of certainty in ours, strike and dip from whatever columns state them.

    Parameters
    ----------
    kind
        The kind of a feature that does not state one.

    Raises
    ------
    ReadingRefused
        The columns of an attitude contradict each other, or one of them cannot be read.
    FeatureRefused
        A number is none.
    """
    held = {key: values.get(column) for key, column in fields.items()}
    attributes: dict[str, Any] = {key: value for key, value in held.items() if value is not None and value != ""}
    if "kind" in attributes:
        attributes["kind"] = kind_word(attributes["kind"])
    stated = Stated(
        *(code_text(attributes.pop(name, "")) for name in ("azimuth", "inclination", "dip_direction", "dip_quadrant"))
    )
    attitude = _attitude(stated, str(attributes.get("kind", kind)))
    if attitude is not None:
        attributes |= {"azimuth": attitude.azimuth, "inclination": attitude.inclination}
    elif stated.dip:
        attributes["inclination"] = parse_dip(stated.dip)[0]
    if "certainty" in attributes:
        word = str(attributes["certainty"]).strip().lower()
        attributes["certainty"] = _CERTAINTIES.get(word, word)
    if "map_unit" in attributes:
        attributes["map_unit"] = code_text(attributes["map_unit"])
    if "questionable" in attributes:
        attributes["questionable"] = _yes(attributes["questionable"])
    if "capture_scale" in attributes:
        try:
            attributes["capture_scale"] = parse_scale(code_text(attributes["capture_scale"]))
        except ScaleRefused as refusal:
            raise FeatureRefused(str(refusal)) from refusal
    return attributes


def _attitude(stated: Stated, kind: str) -> Attitude | None:
    """The attitude that is stated; a dip alone, as of an inclined sheet, is none."""
    alone = stated.dip and not (stated.strike or stated.direction or stated.quadrant)
    return None if alone else reconciled(stated, kind)


def kind_word(value: Any) -> str:
    """A kind as ours are written: small letters and underscores."""
    return re.sub(r"[\s-]+", "_", str(value or "").strip().lower())


def code_text(value: Any) -> str:
    """A value as text; a whole number that a file holds as a decimal one stays whole."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        value = int(value)
    return str(value).strip()


def _yes(value: Any) -> bool:
    word = code_text(value).lower()
    if word in ("1", "true", "yes", "y", "t", "?"):
        return True
    if word in ("0", "false", "no", "n", "f", ""):
        return False
    raise FeatureRefused(f"“{word[:20]}” does not say whether it is questionable; write 1 or 0.")
