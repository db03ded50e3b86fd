"""Units that the map shows and its correlation cannot place."""

from __future__ import annotations

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.parts.correlation.correlation import Correlation

rule(
    "undated",
    "warning",
    "sheet",
    "A correlation leaves out a unit of its map, whose age the chart does not know",
)


@of_sheet
def correlated(ground: SheetGround) -> list[Finding]:
    """Each unit without an age of the chart, told once for each correlation."""
    out = []
    for number, part in ground.parts.items():
        settings = part.settings
        if not isinstance(settings, Correlation) or settings.panel not in ground.page.panels:
            continue
        for unit in settings.layout(part.inset(settings.padding), ground.page).boxes.undated:
            age = f"its age “{unit.printed_age}” is none of the chart" if unit.printed_age else "it has no age"
            message = f"{part.label} leaves out {unit.name} ({unit.code}): {age}."
            out.append(Finding("undated", "warning", message, None, (), None, (), (number,), part.middle, unit.code))
    return out
