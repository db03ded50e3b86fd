"""All checks of a sheet."""

from __future__ import annotations

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import sheet_checks
from orvik.core.findings.rules import RULES


def sheet_findings(ground: SheetGround) -> list[Finding]:
    """What there is to say of a sheet, check by check."""
    assert RULES  # With them all families of checks are there.
    return [finding for check in sheet_checks for finding in check(ground)]
