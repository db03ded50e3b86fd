"""After any fix that is offered nothing but what it named has changed, and the finding is gone."""

from __future__ import annotations

import random

import numpy as np
import pytest
import shapely

from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding
from orvik.core.findings.fixes import fixed
from tests.core.pieces import SETTING, border, line, survey, tag
from tests.examples import drawn

# A hair on the sheet, as the checks have it.
REACH = 0.3 * SETTING.scales.publication / 1000
KINDS = ("contact", "contact", "fault", "thrust", "shoreline")


def wave(rng: random.Random, x: float, y: float, long: float) -> list[tuple[float, float]]:
    high, turns, slope = rng.uniform(0, 60), rng.uniform(0.5, 2), rng.uniform(-0.2, 0.2)
    t = np.linspace(0, 1, rng.randrange(12, 60))
    return [(x + long * v, y + slope * long * v + high * float(np.sin(2 * np.pi * turns * v))) for v in t.tolist()]


def ring(rng: random.Random, x: float, y: float, radius: float) -> list[tuple[float, float]]:
    turns = np.linspace(0, 2 * np.pi, 60)[:-1] + rng.uniform(0, 6)
    xy = [(x + radius * float(np.cos(t)), y + radius * float(np.sin(t))) for t in turns]
    return [*xy, xy[0]]


def part_of(rng: random.Random, xy: list[tuple[float, float]], closed: bool) -> list[tuple[float, float]]:
    """A part of a course, or all of it, a hair beside it, drawn in either direction."""
    around = xy[:-1] * 2 if closed else xy
    count = rng.randrange(max(4, len(xy) // 3), len(xy) + 1)
    start = rng.randrange(0, len(around) - count + 1)
    dx, dy = rng.uniform(-0.2, 0.2) * REACH, rng.uniform(-0.2, 0.2) * REACH
    part = [(x + dx, y + dy) for x, y in around[start : start + count]]
    if rng.random() < 0.4:
        # It leaves the other where it was only beside it.
        part = [*part, (part[-1][0] + 300, part[-1][1] + 400)]
    return part if rng.random() < 0.5 else part[::-1]


def any_linework(rng: random.Random) -> list[Feature]:
    features = [border(-1000, -1000, 6000, 6000)]
    for row in range(4):
        y = row * 1200.0
        closed = rng.random() < 0.5
        xy = ring(rng, 2000, y + 300, rng.uniform(200, 450)) if closed else wave(rng, 500, y, rng.uniform(600, 3500))
        first = line(len(features) + 1, xy, rng.choice(KINDS))
        if not closed and rng.random() < 0.3:
            first = first.changed(stretches=(Stretch(1, 4, "inferred"),))
        features.append(first)
        twin = part_of(rng, xy, closed)
        features.append(line(len(features) + 1, twin, rng.choice(KINDS)))
        if rng.random() < 0.4:
            (x, y0), (x1, y1) = xy[3], xy[4]
            features.append(line(len(features) + 1, [((x + x1) / 2 - 30, y0 - 200), ((x + x1) / 2, y1 + 200)]))
    return [*features, tag(1, -900, -900, "Qt")]


def attributes(feature: Feature) -> tuple[object, ...]:
    return feature.kind, feature.certainty, feature.questionable, feature.note, feature.map_unit


def check(features: list[Feature], finding: Finding, number: int) -> None:
    there: dict[FeatureKey, Feature] = {(f.table, f.id or 0): f for f in features}
    done = fixed(finding, lambda table, number: there[table, number])
    named = set(finding.features)
    assert finding.fix is not None
    changed: dict[FeatureKey, list[shapely.LineString]] = {}
    for feature in done.kept:
        key = (feature.table, feature.id or 0)
        if feature.id is None:
            mates = [k for k in finding.features[:1] if finding.rule == "doubled"] or list(named)
            mates = [k for k in mates if attributes(there[k]) == attributes(feature)]
            owner = min(mates, key=lambda k: shapely.hausdorff_distance(feature.geometry, there[k].geometry))
            changed.setdefault(owner, []).append(feature.geometry)
            continue
        before = there[key]
        assert attributes(before) == attributes(feature)
        if key not in named or (finding.fix.kind in ("cut_away", "delete") and key != finding.features[0]):
            # A vertex more at the most, on the course that it had.
            assert shapely.hausdorff_distance(before.geometry, feature.geometry) < 1e-6, finding
            continue
        changed.setdefault(key, []).append(feature.geometry)
    assert set(done.deleted) <= set(finding.features[:1])
    if finding.rule == "doubled":
        less, twin = (there[key] for key in finding.features)
        kept = changed.get(finding.features[0], [])
        gone = less.geometry.difference(shapely.union_all(kept).buffer(REACH)) if kept else less.geometry
        assert shapely.hausdorff_distance(shapely.union(gone, twin.geometry), twin.geometry) < 3 * REACH, finding
        for piece in kept:
            assert shapely.hausdorff_distance(shapely.union(piece, less.geometry), less.geometry) < REACH
        # A fault is not given up for a contact.
        assert not (less.kind in ("fault", "thrust") and twin.kind not in ("fault", "thrust"))
        assert not (less.kind == "shoreline" and twin.kind == "contact")
    put = []
    new = max(f.id or 0 for f in features if f.table == "lines") + 1
    for feature in done.kept:
        if feature.id is None:
            feature, new = feature.changed(id=new), new + 1
        put.append(feature)
        assert shapely.is_valid(feature.geometry)
    after = survey(*features)
    after.update(put, done.deleted)
    assert finding.key not in {f.key for f in after.findings}, (number, finding)
    pair = {number for _, number in finding.features}
    if finding.rule == "doubled":
        again = [f for f in after.findings if f.rule == "doubled" and {n for _, n in f.features} == pair]
        assert not again or shorter(again[0], after.features["lines"], features), (number, finding, again)


def shorter(again: Finding, lines: object, features: list[Feature]) -> bool:
    """Two may run along one another in several places, which are fixed one after the other."""
    before = {f.id: f.geometry.length for f in features if f.table == "lines"}
    ids, shapes = lines.ids.tolist(), lines.geometries  # type: ignore[attr-defined]
    return any(shapes[ids.index(n)].length < before[n] - REACH for _, n in again.features)


@pytest.mark.parametrize("seed", drawn(range(600), 25))
def test_what_a_fix_changes(seed: int) -> None:
    rng = random.Random(seed)
    features = any_linework(rng)
    found = [f for f in survey(*features).findings if f.fix is not None and f.fix.kind != "tag"]
    for finding in found:
        check(features, finding, seed)


def test_a_closed_contact_that_begins_on_another_keeps_its_ring() -> None:
    turns = np.linspace(0, 2 * np.pi, 121)[:-1]
    xy = [(1000 + 400 * float(np.cos(t)), 1000 + 400 * float(np.sin(t))) for t in turns]
    closed = line(2, [*xy, xy[0]])
    beside = line(3, [*xy[:30], (1000, 2000)])
    features = [border(0, 0, 3000, 3000), closed, beside.changed(kind="fault")]
    finding = next(f for f in survey(*features).findings if f.rule == "doubled")
    assert finding.features == (("lines", 2), ("lines", 3))
    done = fixed(finding, lambda _, number: features[number - 1])
    (kept,) = (f for f in done.kept if f.id == 2)
    assert kept.geometry.length == pytest.approx(closed.geometry.length * 91 / 120, rel=0.02)
