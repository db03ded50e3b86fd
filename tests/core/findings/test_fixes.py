"""Every fix leaves the finding that it was proposed for behind, and the features sound."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.faces.forming import proven
from orvik.core.features.feature import Feature
from orvik.core.features.stretch import Stretch
from orvik.core.features.table import Table
from orvik.core.findings.finding import Finding
from orvik.core.findings.fixes import fixed
from orvik.core.findings.survey import Survey
from tests.core.pieces import area, border, line, survey, tag

SQUARE = border(0, 0, 1000, 1000)
ACROSS = line(2, [(0, 500), (400, 520), (1000, 500)])
TAGS = (tag(1, 500, 900, "Qt"), tag(2, 500, 100, "Kp"))


def fix(features: list[Feature], rule: str, unit: str | None = None) -> tuple[Survey, Survey, Finding]:
    """The survey before and after the first finding of a rule that has a fix."""
    there = {(f.table, f.id): f for f in features}
    before = survey(*features)
    finding = next(f for f in before.findings if f.rule == rule and f.fix)
    done = fixed(finding, lambda table, number: there[table, number], unit)
    put = []
    for feature in done.kept:
        number = feature.id or max(i or 0 for t, i in there if t == feature.table) + 1
        there[feature.table, number] = feature.changed(id=number)
        put.append(there[feature.table, number])
    after = survey(*features)
    after.update(put, done.deleted)
    assert all(shapely.is_valid(f.geometry) and f.geometry.is_simple for f in put)
    assert finding.key not in {f.key for f in after.findings}
    return before, after, finding


@pytest.mark.parametrize(
    ("loose", "closed"),
    [
        (line(3, [(400, 520), (700, 600), (988, 888)]), 1),
        # What runs past has closed its face before it is trimmed.
        (line(3, [(600, 1000), (500, 700), (700, 503)]), 0),
        (line(3, [(400, 520), (500, 800), (510, 985)], stretches=(Stretch(1, 2, "inferred"),)), 1),
    ],
)
def test_loose_ends_are_led_on_or_trimmed(loose: Feature, closed: int) -> None:
    before, after, finding = fix([SQUARE, ACROSS, *TAGS, loose], "dangle")
    assert len(after.faces) == len(before.faces) + closed
    assert not [f for f in after.findings if f.rule == "dangle"]
    # Where they meet now, the other line has the very same vertex.
    line_now = next(
        g for i, g in zip(after.features["lines"].ids, after.features["lines"].geometries, strict=True) if i == 3
    )
    end = line_now.coords[finding.fix.end or 0]  # type: ignore[union-attr]
    others = [g for i, g in zip(after.features["lines"].ids, after.features["lines"].geometries, strict=True) if i != 3]
    assert any(end in g.coords for g in others)


def test_ends_that_nearly_meet_are_joined() -> None:
    one, two = line(2, [(0, 500), (300, 505), (490, 500)]), line(3, [(500, 503), (700, 500), (1000, 500)])
    before, after, _ = fix([SQUARE, one, two, *TAGS], "dangle")
    assert (len(before.faces), len(after.faces)) == (1, 2)


def test_crossing_lines_are_cut_where_they_cross() -> None:
    _, after, finding = fix([SQUARE, ACROSS, *TAGS, line(3, [(500, 0), (520, 1000)])], "crossing")
    lines = after.features["lines"]
    assert len(lines) == 5
    ends = [c for g in lines.geometries for c in (g.coords[0], g.coords[-1])]
    assert ends.count(finding.at) == 4


def test_doubles_go_and_faces_are_tagged() -> None:
    _, after, _ = fix([SQUARE, ACROSS, *TAGS, line(3, [(100, 505), (400, 520), (700, 510)])], "doubled")
    assert after.features["lines"].ids.tolist() == [1, 2]
    _, after, _ = fix([SQUARE, ACROSS, TAGS[0]], "untagged", "Kp")
    assert sorted(u for units in after.faces.units for u in units) == ["Kp", "Qt"]
    with pytest.raises(FeatureRefused, match="Choose the map unit"):
        fix([SQUARE, ACROSS, TAGS[0]], "untagged")


def test_what_has_no_fix_says_so() -> None:
    def get(table: Table, number: int) -> Feature:
        raise AssertionError("nothing is read")

    with pytest.raises(FeatureRefused, match="no fix at one click"):
        fixed(Finding("sliver", "warning", "", (0, 0), ()), get)


def test_the_later_area_gives_way() -> None:
    west, over = area(1, shapely.box(0, 0, 500, 1000), "Kp"), area(3, shapely.box(450, 400, 600, 500), "Qt")
    _, after, _ = fix([west, over], "overlap")
    assert proven(after.features["areas"].geometries) == (True, pytest.approx(0, abs=1e-6))
    assert after.features["areas"].geometries[1].equals(shapely.box(500, 400, 600, 500))
    _, after, _ = fix([west, area(3, shapely.box(100, 100, 200, 200), "Qt")], "overlap")
    assert after.features["areas"].ids.tolist() == [1]
