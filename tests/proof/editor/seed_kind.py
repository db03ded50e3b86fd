"""A kind of error that is made at random, and what a finding must speak of and say to have found and explained it."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import FeatureKey, Table
from orvik.core.findings.finding import Finding
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.text import RunningText
from orvik.store import rows
from orvik.store.journal import Change
from orvik.store.project import Project
from tests.proof.seeds import every, keep

# The demo's sheets: its quadrangle, and the one with insets.
QUADRANGLE, INSETS = 0, 1


@dataclass(frozen=True)
class Told:
    """What a right finding speaks of, one of each that is named, and what its message holds: patterns, all of them."""

    says: tuple[str, ...]
    features: tuple[FeatureKey, ...] = ()
    parts: tuple[int, ...] = ()
    units: tuple[str, ...] = ()

    def found_in(self, finding: Finding) -> bool:
        """Whether a finding speaks of what was made wrong."""
        pairs: Sequence[tuple[Collection[Any], Collection[Any]]] = (
            (self.features, finding.features),
            (self.parts, finding.parts),
            (self.units, finding.units),
        )
        named = [bool(set(mine) & set(its)) for mine, its in pairs if mine]
        if not named:
            return self.explained_in(finding)
        return any(named)

    def explained_in(self, finding: Finding) -> bool:
        """Whether a finding says what is wrong."""
        words = plain(finding.message)
        return all(re.search(pattern, words, re.IGNORECASE) for pattern in self.says)


Random = np.random.Generator


@dataclass(frozen=True)
class SeedKind:
    """A kind of error: how it is made in a project, and on which sheet it is looked for; None for the map alone.

    ``rule`` is the one that it is the seed of; empty for kinds that were written before their rules.
    """

    name: str
    make: Callable[[Project, Random], Told]
    sheet: int | None
    rule: str = ""


@dataclass(frozen=True)
class Outcome:
    """What became of a seed: the finding that speaks of it, and whether that explains it."""

    kind: SeedKind
    told: Told
    finding: Finding | None
    explained: bool


def outcome(kind: SeedKind, told: Told, findings: Iterable[Finding], before: Collection[str]) -> Outcome:
    """What findings say of a seed, beside what was said before it was made (``before``, by keys)."""
    new = [f for f in findings if f.key not in before and told.found_in(f)]
    best = next((f for f in new if told.explained_in(f)), new[0] if new else None)
    return Outcome(kind, told, best, best is not None and told.explained_in(best))


def plain(text: str) -> str:
    """A text with ordinary spaces and without the marks of styles."""
    return re.sub("[\u00a0\u2009\u202f]", " ", text)


def of_kinds(kinds: list[SeedKind], sheet: int | None = None, rule: str = "") -> Callable[..., Any]:
    """Put what makes an error among some kinds."""

    def take(make: Callable[[Project, Random], Told]) -> Callable[[Project, Random], Told]:
        kinds.append(SeedKind(make.__name__.removeprefix("_"), make, sheet, rule))
        return make

    return take


@dataclass(frozen=True)
class Counter:
    """A case that looks like an error and is right: the rules that must not speak of it, and how it is made."""

    name: str
    rules: tuple[str, ...]
    make: Callable[[Project, Random], None]
    sheet: int | None


def right(counters: list[Counter], *rules: str, sheet: int | None = None) -> Callable[..., Any]:
    """Put what makes a case that is right among others."""

    def take(make: Callable[[Project, Random], None]) -> Callable[[Project, Random], None]:
        counters.append(Counter(make.__name__.removeprefix("_"), rules, make, sheet))
        return make

    return take


# What seeds are made of


def note(project: Project, text: str, sheet: int = QUADRANGLE, **values: Any) -> Part:
    """A text where the sheets of the demo have room for it."""
    at = (23.0, 414.0, 280.0, 10.0) if sheet == QUADRANGLE else (22.0, 362.0, 350.0, 10.0)
    return put_part(project, RunningText(**({"name": "Remarks", "text": text, "size": 3.0} | values)), at, sheet)


def put_part(
    project: Project, settings: Any, at: tuple[float, float, float, float], sheet: int = QUADRANGLE, position: int = 99
) -> Part:
    """A new part on a sheet, and that as it is stored."""
    number = project.sheets()[sheet].number
    project.apply("seed", [rows.part_change(Part(settings, *at, sheet_id=number, position=position))])
    return max(project.parts(number), key=lambda part: part.number)


def parts_of(project: Project, kind: type, sheet: int = QUADRANGLE) -> list[Part]:
    """The parts of a kind on one of the demo's sheets."""
    return [p for p in project.parts(project.sheets()[sheet].number) if isinstance(p.settings, kind)]


def labelled(project: Project, label: str, sheet: int = QUADRANGLE) -> Part:
    """The part of a sheet that is called so."""
    return next(p for p in project.parts(project.sheets()[sheet].number) if p.label == label)


def change_settings(project: Project, part: Part, **values: Any) -> None:
    project.apply("seed", [rows.part_change(part.changed(settings=part.settings.changed(values)))])


def change_place(project: Project, part: Part, **values: float) -> None:
    project.apply("seed", [rows.part_change(replace(part, **values))])  # type: ignore[arg-type]


def change_unit(project: Project, code: str, **values: Any) -> None:
    number, unit = next((n, u) for n, u in project.units() if u.code == code)
    project.apply("seed", [rows.unit_change(number, replace(unit, **values))])


def unit_named(project: Project, code: str) -> MapUnit:
    return project.units_by_code()[code]


def any_of(random: Random, values: Iterable[Any]) -> Any:
    """One of some values, drawn at random."""
    listed = list(values)
    return listed[int(random.integers(len(listed)))]


def misspelt(random: Random, word: str) -> str:
    """A word with a slip of the hand within: two letters exchanged, one left out, or one doubled."""
    for _ in range(50):
        i = int(random.integers(1, len(word) - 1))
        way = int(random.integers(3))
        out = (word[:i] + word[i + 1] + word[i] + word[i + 2 :], word[:i] + word[i + 1 :], word[: i + 1] + word[i:])[
            way
        ]
        if out != word:
            return out
    raise AssertionError(f"{word} cannot be misspelt")


def key_of(feature: Feature) -> FeatureKey:
    assert feature.id is not None
    return feature.table, feature.id


def ground_of_unit(project: Project, *codes: str) -> Any:
    """The ground of some units."""
    areas = project.all_features()["areas"]
    held = [
        code in codes and kind == "unit_area"
        for code, kind in zip(areas.columns["map_unit"], areas.columns["kind"], strict=True)
    ]
    return shapely.union_all(areas.geometries[np.array(held)])


def largest_face(project: Project, code: str) -> shapely.Polygon:
    """The largest piece of a unit's ground."""
    ground = ground_of_unit(project, code)
    return max(getattr(ground, "geoms", [ground]), key=lambda piece: piece.area)


def free_place(project: Project, random: Random, ground: Any, room: float) -> shapely.Point:
    """A place within some ground, so many metres from its edge and from every line and reading."""
    features = project.all_features()
    taken = shapely.union_all([*features["lines"].geometries, *features["points"].geometries]).buffer(room / 2)
    held = ground.buffer(-room).difference(taken)
    west, south, east, north = held.bounds
    while True:
        place = shapely.Point(random.uniform(west, east), random.uniform(south, north))
        if held.contains(place):
            return place


def beds(project: Project, table: Table = "points") -> list[Feature]:
    """The readings of bedding of the field."""
    return [f for f in every(project, table, kind="bedding") if f.inclination and 12 <= f.inclination <= 75]


def write(project: Project, feature: Feature) -> FeatureKey:
    """A new feature, and how it is kept."""
    before = set(project.all_features()[feature.table].ids.tolist())
    keep(project, feature)
    (number,) = set(project.all_features()[feature.table].ids.tolist()) - before
    return feature.table, int(number)


def remove(project: Project, table: str, number: int) -> None:
    project.apply("seed", [Change(table, number, None)])
