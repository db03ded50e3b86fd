"""Units that the map shows and its correlation cannot place."""

from __future__ import annotations

from collections.abc import Sequence

from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.correlation.correlation import Correlation

MOST_NAMED = 6

rule(
    "undated",
    "warning",
    "sheet",
    "A correlation leaves out a unit of its map, whose age the chart does not know",
    why="its box is missing from the chart",
    spoils="reading",
)


@of_sheet
def correlated(ground: SheetGround) -> list[Finding]:
    """Each unit without an age of the chart, told once for each correlation."""
    out = []
    for number, part in ground.parts.items():
        settings = part.settings
        if not isinstance(settings, Correlation) or not ground.page.knows(settings):
            continue
        undated = settings.layout(part.inset(settings.padding), ground.page).boxes.undated
        if undated:
            out.append(_left_out(number, part, undated))
    return out


def _left_out(number: int, part: Part, units: Sequence[MapUnit]) -> Finding:
    """One for all of a correlation, with what each of them has for an age."""
    told = [f"{u.name} ({u.code}), " + (f"“{u.printed_age}”" if u.printed_age else "without an age") for u in units]
    more = f" and {len(told) - MOST_NAMED} more" if len(told) > MOST_NAMED else ""
    message = f"{part.label} leaves out units whose age is none of the chart: {'; '.join(told[:MOST_NAMED])}{more}."
    codes = tuple(unit.code for unit in units)
    return Finding("undated", "warning", message, None, (), None, codes, (number,), part.middle, facts=tuple(told))
