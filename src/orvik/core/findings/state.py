"""What a finding rests on, written down when somebody lets it stand, and compared ever after.

It is kept as JSON, one object for each thing by its name: a feature as ``lines 118``, a unit as ``unit Qal``, a part
as ``part 3``, and what else the finding rests on as ``facts``. Only what was written down then is compared, so that an
attribute or a setting that comes later voids nothing. A migration that renames or changes what stands in it rewrites
it by its names.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping
from typing import Any

from shapely.geometry.base import BaseGeometry

from orvik.core.features.feature import Feature
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES
from orvik.core.sheet.page.part import Part

FACTS = "facts"
# What of a part changes nothing of what it shows.
_UNREAD = frozenset({"name", "group"})
State = Mapping[str, Mapping[str, Any] | list[str] | None]


def state_of(
    finding: Finding,
    feature: Callable[[FeatureKey], Feature | None],
    unit: Callable[[str], MapUnit | None],
    part: Callable[[int], Part | None],
) -> State:
    """What a finding rests on as it is now; what is gone is None."""
    reads = RULES[finding.rule]
    state: dict[str, Mapping[str, Any] | list[str] | None] = {FACTS: list(finding.facts)}
    for key in (*finding.features, *finding.beside):
        found = feature(key)
        state[f"{key[0]} {key[1]}"] = None if found is None else of_feature(found, reads.features)
    for code in finding.units:
        held = unit(code)
        state[f"unit {code}"] = None if held is None else {name: getattr(held, name) for name in reads.units}
    for number in finding.parts:
        placed = part(number)
        state[f"part {number}"] = None if placed is None else of_part(placed)
    return state


def of_feature(feature: Feature, names: tuple[str, ...]) -> Mapping[str, Any]:
    """What is written down of a feature: its coordinates as they are, and the attributes named."""
    said: dict[str, Any] = {"geometry": coordinates(feature.geometry)}
    for name in names:
        value: Any = feature
        for step in name.split("."):
            value = getattr(value, step, None)
        said[name] = value
    return said


def coordinates(geometry: BaseGeometry) -> str:
    """A checksum over the coordinates of a geometry as they follow one another."""
    return hashlib.sha256(geometry.wkb).hexdigest()[:32]


def of_part(part: Part) -> Mapping[str, Any]:
    """What is written down of a part: where it stands and what is set."""
    kept = {name: value for name, value in part.settings.to_dict().items() if name not in _UNREAD}
    return {"x": part.x, "y": part.y, "width": part.width, "height": part.height, "settings": kept}


def written(state: State) -> str:
    """A state as it is kept."""
    return json.dumps(state, ensure_ascii=False, sort_keys=True, default=list)


def read(text: str) -> State | None:
    """A state from how it is kept; None where that is none, as before states could be read."""
    try:
        state = json.loads(text)
    except ValueError:
        return None
    return state if isinstance(state, dict) else None


def holds(then: str, now: State) -> bool:
    """Whether all that was written down is still so. A state without facts, taken over from before, names none."""
    held = read(then)
    if held is None:
        return False
    present = json.loads(written(now))
    if FACTS in held and held.keys() != present.keys():
        return False
    return all(_within(value, present.get(name)) for name, value in held.items())


def _within(then: Any, now: Any) -> bool:
    """Whether what was said is said still; mappings may have got more."""
    if isinstance(then, dict) and isinstance(now, dict):
        return all(name in now and _within(value, now[name]) for name, value in then.items())
    return bool(then == now)
