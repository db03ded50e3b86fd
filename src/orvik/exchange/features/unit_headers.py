"""What the columns of other people's tables of map units are called, and what is said in several of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from orvik.core.colour.text import parse_colour, still_typed, typed_colour
from orvik.core.errors import FeatureRefused, FileRefused
from orvik.core.features.age import ends_of_ma, written_ma
from orvik.core.symbols.renamed import NAMES
from orvik.exchange.mappings.attributes import OF_UNITS, whole_letters
from orvik.exchange.mappings.unit_fields import PARTS_OF_COLOUR

PARTS = (("red", "green", "blue"), ("cyan", "magenta", "yellow", "black"))
# By letters and figures alone: as GeMS (USGS Techniques and Methods 11-B10) and common English have it, then German,
# French and Spanish (common practice). What several columns say together has its names, too.
HEADERS: Mapping[str, tuple[str, ...]] = {
    "code": (
        "mapunit",
        "unit",
        "unitcode",
        "symbolcode",
        "kuerzel",
        "kurzel",
        "legkurz",
        "notation",
        "sigle",
        "codigo",
    ),
    "label": ("maplabel", "printedlabel", "etiquette"),
    "pattern": ("areafillpattern",),
    **{attribute.unit: attribute.names for attribute in OF_UNITS if attribute.unit != "ma"},
    **{
        part: names
        for parts, called in zip(PARTS, PARTS_OF_COLOUR, strict=True)
        for part, names in zip(parts, called, strict=True)
    },
    "ma": ("agema", "numericage", "alterma"),
    "ma_older": ("maxma", "olderma", "ageolderma"),
    "ma_younger": ("minma", "youngerma", "ageyoungerma"),
}
MOST_BYTES = 100_000


class _File(BaseModel):
    model_config = ConfigDict(extra="forbid")

    orvik_units_mapping: Literal[1]
    columns: dict[str, Annotated[str, Field(max_length=200)]]


def read_headers(text: bytes, shown: str) -> dict[str, str]:
    """The columns that a file names for ours: ``{"orvik_units_mapping": 1, "columns": {"code": "LEG_KURZ"}}``.

    Raises
    ------
    FileRefused
        It is not such a file.
    """
    try:
        held = _File.model_validate_json(text[: MOST_BYTES + 1])
    except ValidationError as error:
        raise FileRefused(
            f"{shown} does not say which column of units is what ({error.errors()[0]['msg'][:80]})."
        ) from error
    return held.columns


def columns_by_name(head: Sequence[str], ours: Sequence[str], said: Mapping[str, str]) -> dict[str, int]:
    """Where each of our columns stands in a table, and each column that says a part of one.

    Parameters
    ----------
    head
        The first row of the table.
    ours
        The names of our columns.
    said
        The columns of the table for ours, where somebody has said it; an empty one is left out.

    Raises
    ------
    FileRefused
        Two columns could be the same one, or one that is said is not there.
    """
    plain = [NAMES.get(name, name) for name in (c.strip().lower().lstrip("\ufeff").replace(" ", "_") for c in head)]
    letters = [whole_letters(name) for name in head]
    found: dict[str, int] = {}
    for name in (*ours, *(name for name in HEADERS if name not in ours)):
        if name in said:
            if not said[name]:
                continue
            if said[name] not in [c.strip() for c in head]:
                raise FileRefused(f"The table has no column “{said[name][:40]}”, which is to be {name}.")
            found[name] = [c.strip() for c in head].index(said[name])
            continue
        for there in (plain, letters):
            for called in dict.fromkeys((name, *HEADERS.get(name, ()))):
                at = [i for i, one in enumerate(there) if one == called and i not in found.values()]
                if len(at) > 1:
                    raise FileRefused(f"The table has two columns “{head[at[0]].strip()}”; leave one out.")
                if at:
                    found[name] = at[0]
                    break
            if name in found:
                break
    for parts in PARTS:
        # A letter alone says nothing.
        if not all(part in found for part in parts):
            found = {name: at for name, at in found.items() if name not in parts}
    return found


def put_together(values: Mapping[str, str]) -> dict[str, str]:
    """A row in our columns alone: colours of three or four columns in one, ages in numbers by names of the chart.

    Raises
    ------
    FeatureRefused
        A number is not one, or lies where none can.
    """
    out = {name: value for name, value in values.items() if value or name not in HEADERS}
    for parts in PARTS:
        held = [out.pop(part, "") for part in parts]
        if any(held):
            out["colour"] = ", ".join(held)
    for name in ("colour", "pattern_colour"):
        text, typed = out.get(name, ""), out.get(f"{name}_typed", "")
        if text:
            out[name] = parse_colour(text)
            out[f"{name}_typed"] = typed_colour(text) or still_typed(typed, out[name])
        elif typed:
            out[name] = parse_colour(typed)
    older, younger, one = (out.pop(name, "") for name in ("ma_older", "ma_younger", "ma"))
    said = one or (f"{older} - {younger}" if older and younger else older or younger)
    numbers = written_ma(f"{said} Ma") if said else written_ma(out.get("age", ""))
    if said and numbers is None:
        raise FeatureRefused(f"“{said[:40]}” is not an age in millions of years; write 12.5, 12.5 ± 0.3 or 30–28.")
    if numbers is not None:
        if said and not out.get("age"):
            out["age"] = f"{said.replace(' - ', '–')} Ma"
        # A table that has columns for the ages of the chart says there what it has to say.
        if "age_from" not in values:
            out["age_from"], out["age_to"] = ends_of_ma(*numbers)
    if out.get("rank"):
        out["rank"] = out["rank"].lower()
    return out
