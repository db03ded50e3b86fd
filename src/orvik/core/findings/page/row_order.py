"""Rows of units that a hand has put against their age."""

from __future__ import annotations

from itertools import pairwise

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.parts.explanation.explanation import Explanation

rule(
    "row_order",
    "warning",
    "symbols",
    "Rows of an explanation stand against the order of the column",
    "law of superposition",
    units=("position",),
    why="readers take the order of the boxes for that of the rocks",
    spoils="reading",
)


@of_sheet
def row_order(ground: SheetGround) -> list[Finding]:
    """Explanations whose rows were put by hand, and of which an older unit stands above a younger one."""
    out = []
    for number, part in ground.parts.items():
        settings = part.settings
        if not isinstance(settings, Explanation) or not settings.edits.order or not ground.page.knows(settings):
            continue
        units = ground.page.map.units
        codes = [row.key.partition(" ")[2] for row in settings.rows(ground.page) if row.is_unit]
        rows = [units[code] for code in codes if code in units]
        for above, below in pairwise(rows):
            if above.heading == below.heading and above.position > below.position:
                message = (
                    f"{part.label} has {above.code} ({above.printed_age}) above {below.code} ({below.printed_age}); "
                    "the column has them the other way round."
                )
                named = (above.code, below.code)
                out.append(Finding("row_order", "warning", message, None, (), None, named, (number,), part.middle))
                break
    return out
