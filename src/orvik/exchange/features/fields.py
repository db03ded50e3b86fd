"""What the fields of a file mean: a guess by their names, and their values in our terms."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product
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
    "questionable": ("questionable", "question", "doubt", "identityconfidence"),
    "map_unit": ("mapunit", "unit", "unitcode", "geounit", "formation", "label", "code", "symbol"),
    "azimuth": ("strike", "strikeaz", "azimuth", "trend"),
    "dip_direction": ("dipdirection", "dipdir", "dipdirn", "dipazimuth", "dipaz"),
    "dip_quadrant": ("dipquadrant", "dipquad", "quadrant", "dipside"),
    "inclination": ("inclination", "inclin", "dip", "plunge", "dipangle"),
    "capture_scale": ("capturescale", "captscale", "scale"),
    "note": ("note", "notes", "remark", "remarks", "comment", "comments", "description"),
}
# Names of at most ten letters, for the tables of shapefiles (dBASE III), by our own.
SHORT = {
    "questionable": "question",
    "inclination": "inclin",
    "capture_scale": "capt_scale",
    "band_width_m": "band_m",
    "band_width_mm": "band_mm",
    "band_cut_by": "band_cut",
    "unit_colour": "unit_col",
    "unit_position": "unit_pos",
    "unit_age_from": "age_from",
    "unit_age_to": "age_to",
    "unit_parent": "unit_part",
    "unit_heading": "unit_head",
    "unit_pattern": "unit_patt",
    "unit_pattern_colour": "patt_col",
    "unit_pattern_opacity": "patt_opac",
}
# Short names that files of ours have had before, with the names they stand for.
FORMER_SHORT = {"patt_str": "unit_pattern_opacity"}
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


@dataclass(frozen=True)
class Guess:
    """What the fields of a file seem to mean.

    Attributes
    ----------
    fields
        The file's field for each attribute of ours.
    asks
        The fields between which somebody has to choose, for each attribute that more than one could be meant for.
    """

    fields: dict[str, str]
    asks: dict[str, tuple[str, ...]] = field(default_factory=dict)


def guessed(
    columns: Sequence[str], values: Sequence[Mapping[str, Any]] = (), kinds: Iterable[str] = (), drawing: bool = False
) -> Guess:
    """The file's field for each attribute that one seems to be meant for; each field at most once.

    A field that is called as an attribute is, or as files commonly call it, wins over one that is only called alike,
    such as ``strike2``; of several that are called equally well none is taken. A bare ``azimuth`` beside a ``dip``
    could be the strike or the direction of the dip, and is none of both.

    Parameters
    ----------
    columns
        The fields of the file.
    values, kinds
        Its rows, and the kinds that the project knows: a field is one for kinds only if it names some of them.
    drawing
        Whether it is a technical drawing, whose fields speak of pens and layers.
    """
    known = set(kinds)
    exact, alike = _called(columns, whole=True), _called(columns, whole=False)
    found: dict[str, str] = {}
    asks: dict[str, tuple[str, ...]] = {}
    for attribute, names in ATTRIBUTES.items():
        for called, name in product((exact, alike), (*names, *(("layer",) if attribute == "kind" and drawing else ()))):
            # Shapefiles cut names off after ten characters.
            there = [c for c in called.get(name) or called.get(name[:10], []) if c not in found.values()]
            if attribute == "kind" and name != "kind" and values:
                there = [c for c in there if any(kind_word(row.get(c)) in known for row in values)]
            if len(there) > 1:
                asks[attribute] = tuple(there)
            elif there:
                found[attribute] = there[0]
            if there:
                break
    bare = found.get("azimuth", "")
    sided = {"dip_direction", "dip_quadrant"} & set(found)
    if _letters(bare, True) == "azimuth" and _letters(found.get("inclination", ""), True) == "dip" and not sided:
        del found["azimuth"]
        asks["azimuth"] = asks["dip_direction"] = (bare,)
    return Guess(found, asks)


def _called(columns: Sequence[str], whole: bool) -> dict[str, list[str]]:
    """Columns by what they are called: by the whole name, or by its letters alone."""
    out: dict[str, list[str]] = {}
    for column in columns:
        out.setdefault(_letters(column, whole), []).append(column)
    return out


def _letters(name: str, whole: bool) -> str:
    plain = plain_name(name)
    if not whole:
        return plain
    return re.sub(r"[^a-z0-9]", "", re.sub(r"[(\[{].*?[)\]}]", "", name.lower()))


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
