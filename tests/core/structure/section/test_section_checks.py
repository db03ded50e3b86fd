"""What is told of sections: seeded faults are found, each by its own rule, and sound sections say nothing."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from orvik.core.errors import FeatureRefused
from orvik.core.features.feature import Feature, Features, no_features
from orvik.core.features.kind import KINDS
from orvik.core.structure.section.bed_thickness import thickenings
from orvik.core.structure.section.below import Below, refuse_kind
from orvik.core.structure.section.checks import section_findings
from orvik.core.structure.section.crossings import Crossing, Stretch
from orvik.core.structure.section.profile import Profile
from orvik.core.structure.section.section import Section, SectionOfMap
from orvik.core.structure.section.section_line import SectionLine

COLUMN = ["Y", "A", "B", "C", "Z"]
ALONG = np.linspace(0.0, 1000.0, 101)


def section(
    lines: list[Feature],
    areas: list[Feature],
    ends: dict[int, tuple[int | None, int | None]] | None = None,
    stretches: tuple[Stretch, ...] = (),
    crossings: tuple[Crossing, ...] = (),
) -> SectionOfMap:
    """A kilometre of level ground at 100 m, over a foot at -500 m."""
    drawn = no_features() | {
        "lines": Features.of("lines", [f.changed(id=i) for i, f in enumerate(lines, 1)]),
        "areas": Features.of("areas", [f.changed(id=i) for i, f in enumerate(areas, 1)]),
    }
    line = SectionLine.of(shapely.LineString([(0, 0), (1000, 0)]), 1.0)
    profile = Profile(ALONG, np.full(101, 100.0))
    put = {i: (lines[i - 1].geometry, both) for i, both in (ends or {}).items()}
    found = SectionOfMap(Section(1, base=-500.0), "A", line, profile, crossings, stretches, (), ())
    return replace(found, drawn=drawn, ends_put=put)


def contact(*xy: tuple[float, float], kind: str = "contact") -> Feature:
    return Feature("lines", shapely.LineString(xy), kind)


def bed(unit: str, *xy: tuple[float, float]) -> Feature:
    return Feature("areas", shapely.Polygon(xy), "unit_area", map_unit=unit)


def layers(*tops: float, right: tuple[float, ...] | None = None) -> tuple[list[Feature], list[Feature]]:
    """Level beds between the foot and the ground, the oldest lowest; ``right`` are their tops at the other end."""
    far = right or tops
    lines = [contact((0.0, a), (1000.0, b)) for a, b in zip(tops, far, strict=True)]
    edges = [(-500.0, -500.0), *zip(tops, far, strict=True), (100.0, 100.0)]
    codes = COLUMN[::-1][: len(edges) - 1]
    areas = [
        bed(code, (0.0, low[0]), (1000.0, low[1]), (1000.0, high[1]), (0.0, high[0]))
        for code, low, high in zip(codes, edges, edges[1:], strict=False)
    ]
    return lines, areas


def rules(found: SectionOfMap) -> list[str]:
    return [finding.rule for finding in section_findings(found, COLUMN)]


def test_even_beds_say_nothing() -> None:
    assert rules(section(*layers(-300.0, -100.0, 0.0))) == []
    assert rules(section([], [])) == []


@pytest.mark.parametrize("factor", [1.2, 1.4, 1.9, 3.0])
def test_a_bed_that_thickens_is_told_beyond_its_ratio(factor: float) -> None:
    """A wedge is measured between a tenth and nine tenths of its length."""
    thin, thick = 100.0, 100.0 * factor
    lines, areas = layers(-300.0, -300.0 + thin, 40.0, right=(-300.0, -300.0 + thick, 40.0 + thick - thin))
    found = list(
        thickenings(
            *(
                Features.of(t, [f.changed(id=i) for i, f in enumerate(fs, 1)])  # type: ignore[arg-type]
                for t, fs in (("lines", lines), ("areas", areas))
            ),
            COLUMN,
        )
    )
    low, high = (thin + (thick - thin) * share for share in (0.12, 0.88))
    told = [one for one in found if one.unit == "C"]
    assert bool(told) == (high / low > 1.5)
    for one in told:
        assert one.thin == pytest.approx(low, rel=0.05)
        assert one.thick == pytest.approx(high, rel=0.05)
        assert one.thin_at[0] < one.thick_at[0]


def test_a_bed_that_is_cut_off_is_not_thinner() -> None:
    """What a younger unit lies on is cut by it; what the ground cuts, or a column has elsewhere, is not measured."""
    lines, areas = layers(-300.0, -200.0, 60.0, right=(-300.0, 40.0, 60.0))
    assert "thickens" in rules(section(lines, areas))
    others = [area.changed(map_unit=code) for area, code in zip(areas, ("Z", "C", "A", "Y"), strict=True)]
    assert "thickens" not in rules(section(lines, others))
    # A third contact that ends on the upper one says that it cuts.
    cut = contact((500.0, -300.0), (500.0, -80.0))
    assert "thickens" not in rules(section([*lines, cut], areas))


def test_an_end_that_hangs_is_told_and_one_that_meets_is_not() -> None:
    trunk = contact((200.0, 100.0), (400.0, -500.0))
    hanging = contact((300.0, 0.0), (300.0, -100.0))
    told = section_findings(section([hanging], []), COLUMN)
    assert [(one.rule, one.place) for one in told] == [("hanging", (300.0, 0.0)), ("hanging", (300.0, -100.0))]
    foot = trunk.geometry.interpolate(300.0)
    assert rules(section([trunk, contact((foot.x, foot.y), (900.0, -500.0))], [])) == []
    assert rules(section([trunk, contact((foot.x + 0.5, foot.y), (900.0, -500.0))], [])) == ["hanging"]
    # A fault may end within a unit; a contact that is drawn on above the ground may end there.
    assert rules(section([contact((300.0, 0.0), (300.0, -100.0), kind="fault")], [])) == []
    assert rules(section([contact((300.0, -500.0), (300.0, 180.0))], [])) == []


def faulted(first: float, second: float) -> SectionOfMap:
    """A steep fault through level beds, whose two markers lie lower to its right by so much."""
    left, right = 480.0, 520.0
    fault = contact((left, 100.0), (right, -500.0), kind="fault")

    def on(up: float) -> tuple[float, float]:
        return left + (100.0 - up) / 600.0 * (right - left), up

    lines, areas = [fault], []
    for up, off in ((0.0, first), (-250.0, second)):
        lines += [contact((0.0, up), on(up)), contact(on(up - off), (1000.0, up - off))]
    for low, high, code in ((0.0, 100.0, "A"), (-250.0, 0.0, "B"), (-500.0, -250.0, "C")):
        areas.append(bed(code, (0.0, low), on(low), on(high), (0.0, high)))
    tops = (100.0, 0.0 - first, -250.0 - second, -500.0)
    for high, low, code in zip(tops, tops[1:], ("A", "B", "C"), strict=False):
        areas.append(bed(code, on(low), (1000.0, low), (1000.0, high), on(high)))
    return section(lines, areas)


@pytest.mark.parametrize(
    ("first", "second", "told"), [(90, 90, False), (90, 100, False), (90, 40, True), (40, 90, True)]
)
def test_offsets_on_one_fault_agree_or_are_told(first: float, second: float, told: bool) -> None:
    found = [one for one in section_findings(faulted(first, second), COLUMN) if one.rule == "offsets"]
    assert bool(found) is told
    if told:
        assert "Fault 1 offsets" in found[0].message
        # Down the fault, which is a little longer than straight down.
        assert "40 m" in found[0].message
        assert "90 m" in found[0].message


def test_what_comes_to_the_ground_elsewhere_than_on_the_map_is_told() -> None:
    lines, areas = (
        [contact((400.0, 100.0), (400.0, -500.0))],
        [
            bed("A", (0.0, -500.0), (400.0, -500.0), (400.0, 100.0), (0.0, 100.0)),
            bed("B", (400.0, -500.0), (1000.0, -500.0), (1000.0, 100.0), (400.0, 100.0)),
        ],
    )
    there = (Stretch(1, "unit_area", "A", 0.0, 400.0), Stretch(2, "unit_area", "B", 400.0, 1000.0))
    assert rules(section(lines, areas, stretches=there)) == []
    moved = (Stretch(1, "unit_area", "A", 0.0, 350.0), Stretch(2, "unit_area", "B", 350.0, 1000.0))
    (told,) = section_findings(section(lines, areas, stretches=moved), COLUMN)
    assert told.message == "The section has A at the ground from 350 to 400 m, and the map B."


def test_ends_that_no_longer_meet_say_how_far_and_which_way() -> None:
    line = contact((400.0, 100.0), (400.0, -500.0))

    def told(along: float, up: float = 100.0) -> str:
        crossing = Crossing(9, "contact", "certain", along, 0.0, "A", "B")
        found = section([line], [], {1: (9, None)}, crossings=(crossing,))
        level = replace(found, profile=Profile(ALONG, np.full(101, up)))
        findings = [one for one in section_findings(level, COLUMN) if one.rule == "parted"]
        assert all(one.follows for one in findings)
        return " ".join(one.message for one in findings)

    assert told(400.0) == ""
    assert told(441.0) == "A | B crosses 41 m nearer to A′ than the section has it."
    assert told(380.0) == "A | B crosses 20 m nearer to A than the section has it."
    assert told(400.0, 112.5) == "The ground at A | B is 12.5 m higher than the section has it."
    gone = section_findings(section([line], [], {1: (9, None)}), COLUMN)
    assert gone[0].message == "Line 9 of the map does not cross the section any more; an end was put to it."
    assert not gone[0].follows


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_kind_is_drawn_below_the_ground_or_refused_in_words(kind: str) -> None:
    meaning = KINDS[kind]
    table = meaning.table or "lines"
    above = bool(meaning.reading) or meaning.role in ("sheet_border", "shore", "section_line")
    of_rock = meaning.role in ("unit_area", "unit_tag") or (
        table == "lines" and meaning.graded and (meaning.bounds_units or meaning.in_rock) and not above
    )
    assert not (above and of_rock)
    if of_rock:
        refuse_kind(table, kind)
    elif above:
        with pytest.raises(FeatureRefused, match=r"\.$"):
            refuse_kind(table, kind)


def test_ground_without_heights_goes_straight_on() -> None:
    heights = np.full(101, 100.0)
    heights[:20] = heights[60:80] = np.nan
    heights[80:] = 200.0
    below = Below(replace(section([], []), profile=Profile(ALONG, heights)))
    ground = below.ground
    assert np.isfinite(ground).all()
    assert (ground[:60, 1] == 100.0).all()
    assert ground[69, 1] == pytest.approx(150.0, abs=6)
    assert below.whole.is_valid
    assert [edge.kind for edge in below.edges] == ["ground", "end of the section", "foot", "end of the section"]
    nothing = Below(replace(section([], []), profile=Profile(ALONG, np.full(101, np.nan))))
    assert nothing.whole.is_valid
