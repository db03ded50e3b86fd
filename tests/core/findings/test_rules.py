"""The register of rules, its page, and the measures that it takes from elsewhere."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from scripts.tables import TARGET, table

from orvik.core.colour.hex import contrast, contrasts
from orvik.core.findings import rules
from orvik.core.findings.page.lettering import LEAST_POINTS, POINT_MM
from orvik.core.findings.rule import map_checks, rule, sheet_checks
from orvik.core.findings.rules import GROUPS, RULES


def test_the_page_of_rules_is_as_the_register_has_it() -> None:
    assert TARGET.read_text(encoding="utf-8") == table()


def test_every_rule_says_what_it_looks_for() -> None:
    for one in RULES.values():
        assert one.group in GROUPS
        assert one.title
        assert one.source
        # Half a sentence, which ends a sentence of its own.
        assert one.why == one.why.strip(" .")
        assert not one.why[0].isupper()
        assert len(one.why) < 90
        assert set(one.severity.split(" or ")) <= {"error", "warning"}


def test_five_points_in_millimetres() -> None:
    # ISO 216 knows no points; a point of desktop publishing is 1/72 inch (PDF, ISO 32000-2, 8.3.2.3).
    assert pytest.approx(1.764, abs=5e-4) == LEAST_POINTS * POINT_MM


def luminance(colour: str) -> float:
    """WCAG 2.2, definition of relative luminance, written down again."""
    rgb = np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return float(linear @ np.array([0.2126, 0.7152, 0.0722]))


def test_contrast_is_that_of_the_guidelines() -> None:
    rng = np.random.default_rng(3)
    for _ in range(200):
        one, two = ("#" + "".join(f"{v:02X}" for v in rng.integers(0, 256, 3)) for _ in range(2))
        light, dark = sorted((luminance(one), luminance(two)), reverse=True)
        assert contrast(one, two) == pytest.approx((light + 0.05) / (dark + 0.05), rel=2e-3)
        many = np.array([[int(two[i : i + 2], 16) for i in (1, 3, 5)]], dtype=float)
        assert contrasts(one, many) == pytest.approx([contrast(one, two)], rel=2e-3)


def test_every_family_is_registered_and_every_finding_has_its_rule():
    """By the sources themselves, so that a new file or rule cannot be forgotten."""
    folder = Path(rules.__file__).parent
    families = {module.__name__ for group in rules.FAMILIES for module in group}
    said: set[str] = set()
    for file in folder.parents[1].rglob("*.py"):
        text = file.read_text()
        made = r"""(?:(?<!\w)Finding|text\.finding|(?<!\w)_finding|_of_fault|_of_fold)"""
        named = set(re.findall(made + r"""\(\s*(?:ground,\s*)?"(\w+)\"""", text))
        said |= named
        if (
            folder in file.parents
            and re.search(r"^(rule\(|@looks_at|@of_sheet)", text, re.M)
            and file.name != "rule.py"
        ):
            assert ".".join(("orvik", *file.relative_to(folder.parents[1]).with_suffix("").parts)) in families, file
    assert said == set(RULES)
    assert sheet_checks
    assert all(tables for tables in map_checks.values())


def test_a_rule_is_declared_once_and_whole():
    for values in (("dangle", "error", "linework"), ("new", "grave", "linework"), ("new", "error", "elsewhere")):
        with pytest.raises(ValueError, match="declared twice, or has no"):
            rule(*values, "A title", why="it matters")
    with pytest.raises(ValueError, match="declared twice, or has no"):
        rule("new", "error", "linework", "A title", why="it matters", spoils="everything")
