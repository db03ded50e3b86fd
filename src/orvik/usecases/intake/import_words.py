"""What a file would import, in words that a cartographer checks at a glance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from orvik.core.features.attitude import Attitude
from orvik.core.features.feature import Feature
from orvik.core.features.kind import kind_of, kind_words
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import area_words, spaced
from orvik.exchange.mappings.attributes import ATTRIBUTES

# So many features are said in words.
SHOWN = 3


def feature_words(feature: Feature, crs: ProjectCrs) -> str:
    """A feature in a few words: what it is, how it is read, how long or large it is."""
    said = [kind_words(feature.kind)]
    if feature.map_unit:
        said[0] += f" of {feature.map_unit}{'?' if feature.questionable else ''}"
    elif feature.questionable:
        said.append("questionable")
    if kind_of(feature.kind).graded and feature.certainty != "certain":
        said.append(feature.certainty)
    per = crs.metres_per_unit
    if feature.table == "lines":
        said.append(f"{spaced(feature.geometry.length * per)} m long")
    elif feature.table == "areas":
        said.append(area_words(feature.geometry.area * per * per))
    words = ", ".join(said)
    if feature.table == "points" and feature.azimuth is not None:
        words += f": {Attitude(feature.azimuth, feature.inclination, kind_of(feature.kind).linear).words}"
    return words


def rows_in_words(features: Sequence[Feature], numbers: Sequence[int], crs: ProjectCrs) -> list[str]:
    """The first features in words, one of each kind before a second of one, so that somebody sees whether they are
    what they should be."""
    chosen: list[int] = []
    kinds: set[str] = set()
    for i, feature in enumerate(features):
        if feature.kind not in kinds:
            kinds.add(feature.kind)
            chosen.append(i)
        if len(chosen) == SHOWN:
            break
    chosen += [i for i in range(min(len(features), SHOWN)) if i not in chosen][: SHOWN - len(chosen)]
    return [f"Row {numbers[i]}, {feature_words(features[i], crs)}." for i in sorted(chosen)]


def ambiguous_words(asks: Mapping[str, Sequence[str]]) -> str:
    """Which attributes more than one field could be meant for, in a sentence."""
    turning = {columns for name, columns in asks.items() if name in ("azimuth", "dip_direction")}
    both = [tuple(c) for c in turning if all(tuple(asks.get(n, ())) == tuple(c) for n in ("azimuth", "dip_direction"))]
    said = [f"{' or '.join(columns)} could be the strike or the direction of the dip." for columns in sorted(both)]
    others = [(name, columns) for name, columns in asks.items() if tuple(columns) not in both]
    said += [f"{ATTRIBUTES[name].label} could be {' or '.join(columns)}." for name, columns in others]
    return " ".join(said)


def nothing_words(left: Sequence[tuple[int, str]]) -> str:
    """Why nothing of a file can be saved, by its first row."""
    if not left:
        return "it holds no features."
    number, reason = left[0]
    return f"none of its {len(left)} features can be saved. The first, row {number}: {reason}"
