"""Sheets of a series that are behind their template."""

from __future__ import annotations

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.rule import rule
from orvik.core.sheet.templates.following import Followed

rule(
    "template_changed",
    "warning",
    "sheet",
    "The template that the sheet follows has changed since the sheet took it up",
    why="this sheet looks otherwise than the others of its series",
    spoils="finish",
)


def behind(template: str, offered: Followed) -> Finding:
    """Of a sheet whose template is another by now."""
    number = offered.count
    what = f"{number} part{'' if number == 1 else 's'}" if number else "only the page"
    message = f"{template}, which this sheet follows, has changed; {what} would go along."
    fix = Fix("follow", "Follow it")
    return Finding("template_changed", "warning", message, None, (), fix, about=template, facts=tuple(offered.kept))
