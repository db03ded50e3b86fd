"""A mapping as a small JSON file, which the page saves and the command line takes."""

from __future__ import annotations

import json
from collections.abc import Collection
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from orvik.core.errors import FileRefused
from orvik.exchange.mappings.attributes import ATTRIBUTES, CONSTANTS
from orvik.exchange.mappings.mapping import FieldMapping

FORM = 1
MOST_BYTES = 2_000_000
# A saved mapping is proposed for a file that has so large a share of its fields.
ALIKE = 0.8

Name = Annotated[str, Field(min_length=1, max_length=200)]
Text = Annotated[str, Field(max_length=1000)]


@dataclass(frozen=True)
class NamedMapping:
    """A mapping that is kept by a name, with the fields of the file that it was made for."""

    name: str
    columns: tuple[str, ...]
    mapping: FieldMapping

    def fits(self, columns: Collection[str]) -> int:
        """How many of the fields that it uses a file has; 0 where these are too few to propose it."""
        used = self.mapping.used
        there = len(used & set(columns))
        return there if used and there >= ALIKE * len(used) else 0


class _Meaning(BaseModel):
    model_config = ConfigDict(extra="forbid")

    fields: Annotated[list[Name], Field(max_length=20)] = []
    constant: Text = ""
    values: Annotated[dict[Text, Text], Field(max_length=5000)] = {}


class _File(BaseModel):
    model_config = ConfigDict(extra="forbid")

    orvik_mapping: Literal[1]
    name: Annotated[str, Field(max_length=200)] = ""
    columns: Annotated[list[Name], Field(max_length=500)] = []
    attributes: dict[str, _Meaning] = {}
    kinds: dict[Literal["lines", "areas", "points"], Name] = {}
    crs: Text = ""
    source: Annotated[str, Field(max_length=200)] = ""


def written(named: NamedMapping) -> str:
    """A mapping as JSON, for people to read, too."""
    mapping = named.mapping
    attributes: dict[str, dict[str, object]] = {}
    for name in ATTRIBUTES:
        said: dict[str, object] = {}
        if mapping.fields.get(name):
            said["fields"] = list(mapping.fields[name])
        if mapping.constants.get(name):
            said["constant"] = mapping.constants[name]
        if mapping.values.get(name):
            said["values"] = dict(mapping.values[name])
        if said:
            attributes[name] = said
    held = {
        "orvik_mapping": FORM,
        "name": named.name,
        "columns": list(named.columns),
        "attributes": attributes,
        "kinds": dict(mapping.kinds),
        "crs": mapping.stated,
        "source": mapping.source,
    }
    return json.dumps(held, ensure_ascii=False, indent=1) + "\n"


def read(text: str | bytes, shown: str = "This file") -> NamedMapping:
    """A mapping out of JSON.

    Raises
    ------
    FileRefused
        It is not one, or of a later form than this.
    """
    if len(text) > MOST_BYTES:
        raise FileRefused(f"{shown} is larger than a mapping is; choose the JSON file that was saved as one.")
    try:
        held = _File.model_validate_json(text)
    except (ValidationError, UnicodeDecodeError) as error:
        raise FileRefused(
            f"{shown} is not a mapping ({_first(error)}); choose the JSON file that was saved as one."
        ) from error
    unknown = sorted(set(held.attributes) - set(ATTRIBUTES))
    if unknown:
        raise FileRefused(
            f"{shown} speaks of “{unknown[0][:40]}”, which is not an attribute here; those are {', '.join(ATTRIBUTES)}."
        )
    for name, meaning in held.attributes.items():
        if len(meaning.fields) > 1 and ATTRIBUTES[name].joiner is None:
            raise FileRefused(f"{shown} puts several fields together for {name}, which one alone can say.")
        if meaning.constant and name not in CONSTANTS:
            raise FileRefused(f"{shown} gives one {name} for all features; only fields can say it.")
    attributes = held.attributes.items()
    return NamedMapping(
        held.name,
        tuple(held.columns),
        FieldMapping(
            {name: tuple(meaning.fields) for name, meaning in attributes if meaning.fields},
            dict(held.kinds),
            held.crs,
            {name: meaning.constant for name, meaning in attributes if meaning.constant},
            {name: dict(meaning.values) for name, meaning in attributes if meaning.values},
            held.source,
        ),
    )


def _first(error: ValidationError | UnicodeDecodeError) -> str:
    """What is wrong in a few words, with its place."""
    if isinstance(error, UnicodeDecodeError):
        return "it is not text"
    one = error.errors()[0]
    where = ".".join(str(part) for part in one["loc"])
    return f"{where}: {one['msg']}"[:120] if where else str(one["msg"])[:120]
