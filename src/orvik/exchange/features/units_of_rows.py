"""Map units as the rows of features tell them: what most rows of a unit say is the unit's."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from orvik.core.errors import OrvikError
from orvik.core.features.map_unit import MapUnit
from orvik.exchange.features.unit_headers import put_together
from orvik.exchange.features.unit_table import with_cells
from orvik.exchange.mappings.attributes import OF_UNITS

# So many differences are told one by one.
TOLD = 3


@dataclass(frozen=True)
class ToldUnits:
    """Units with what rows tell of them, and what of that could not be taken, in sentences."""

    units: tuple[MapUnit, ...]
    notes: tuple[str, ...]


class UnitsOfRows:
    """Gathers what the rows of a file tell of their map units."""

    def __init__(self) -> None:
        self._said: dict[str, dict[str, Counter[str]]] = defaultdict(lambda: defaultdict(Counter))

    def add(self, code: str, attributes: Mapping[str, Any]) -> None:
        """Take note of what a row says of its unit."""
        for attribute in OF_UNITS:
            text = str(attributes.get(attribute.name) or "")
            if text:
                self._said[code][attribute.unit][text] += 1

    def told(self, new: Sequence[MapUnit], there: Sequence[MapUnit]) -> ToldUnits:
        """New units with what the rows say of them, in the order of their ages where all have one.

        Parameters
        ----------
        new, there
            Units as they are without that: those that come in, and those of the project, which stay as they are.
        """
        notes: list[str] = []
        made = [self._with(unit, notes) for unit in new]
        spans = [unit.span for unit in made]
        if len(made) > 1 and all(spans) and self._said:
            places = sorted(unit.position for unit in made)
            order = sorted(made, key=_age_and_place)
            made = [replace(unit, position=place) for unit, place in zip(order, places, strict=True)]
        notes += self._differing(there)
        return ToldUnits(tuple(made), tuple(notes))

    def _with(self, unit: MapUnit, notes: list[str]) -> MapUnit:
        said = self._said.get(unit.code)
        if not said:
            return unit
        values = {}
        for name, counts in said.items():
            ranked = counts.most_common()
            values[name] = ranked[0][0]
            if len(ranked) > 1:
                notes.append(
                    f"{unit.code} has {len(ranked)} {_words(name)}s in the file; “{ranked[0][0][:40]}” is taken."
                )
        try:
            return with_cells(unit, put_together(values))
        except OrvikError:
            return self._one_by_one(unit, values, notes)

    def _one_by_one(self, unit: MapUnit, values: Mapping[str, str], notes: list[str]) -> MapUnit:
        """What can be taken of a unit of which not all can."""
        for name, text in values.items():
            try:
                unit = with_cells(unit, put_together({name: text}))
            except OrvikError as refusal:
                notes.append(f"The {_words(name)} of {unit.code} is left out: {refusal.sentence}")
        return unit

    def _differing(self, there: Sequence[MapUnit]) -> list[str]:
        found = []
        for unit in there:
            if unit.code not in self._said:
                continue
            told = self._with(unit, [])
            for name in (attribute.unit for attribute in OF_UNITS if hasattr(unit, attribute.unit)):
                here, given = getattr(unit, name), getattr(told, name)
                if here != given:
                    found.append(f"{unit.code} {_words(name)}: {here or 'nothing'} here, {given} in the file")
        if not found:
            return []
        more = f", and {len(found) - TOLD} more" if len(found) > TOLD else ""
        return [
            f"Units that are here already stay as they are: {'; '.join(found[:TOLD])}{more}. "
            "Import the file in the column of Symbols to take these over."
        ]


def _age_and_place(unit: MapUnit) -> tuple[float, float, int]:
    held = unit.span
    return (held.younger, held.older, unit.position) if held is not None else (0.0, 0.0, unit.position)


def _words(name: str) -> str:
    return {"ma": "age in Ma", "age_from": "older age", "age_to": "younger age"}.get(name, name)
