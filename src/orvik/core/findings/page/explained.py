"""What the map shows and the explanation lacks, rows of which the map shows nothing, and rows without room."""

from __future__ import annotations

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.explanation.layout import Layout
from orvik.core.sheet.parts.explanation.rows import ExplanationRow

rule(
    "unexplained",
    "error",
    "symbols",
    "The map shows a unit or a symbol that its explanation lacks",
    why="a reader meets a sign that nobody explains",
    spoils="reading",
)
rule(
    "nothing_shown",
    "warning",
    "symbols",
    "The explanation has a row of which the map shows nothing",
    why="a reader looks in vain for it on the map",
    spoils="finish",
)
rule(
    "row_cut",
    "error",
    "symbols",
    "Rows of an explanation have no room",
    why="what stands there is explained to nobody",
    spoils="reading",
)


@of_sheet
def explained(ground: SheetGround) -> list[Finding]:
    """The findings of all explanations; what one of them lists, another one of the same panel need not."""
    page = ground.page
    listed: dict[int, set[str]] = {}
    asked: list[tuple[int, Part, Explanation]] = []
    # An explanation or a description may stand on another sheet than its panel.
    elsewhere = [part for part in page.map.parts if part.sheet_id != page.sheet.id]
    for part in [*ground.parts.values(), *elsewhere]:
        settings = part.settings
        if not isinstance(settings, Explanation | Description) or settings.goes_on or not page.knows(settings):
            continue
        keys = listed.setdefault(settings.panel or 0, set())
        if isinstance(settings, Description):
            keys.update(settings.explains(page))
            continue
        keys.update(*(row.explains for row in settings.rows(page)))
        if part.id in ground.parts:
            asked.append((part.number, part, settings))
    out: list[Finding] = []
    told: set[tuple[int, str]] = set()
    for number, part, settings in asked:
        panel = settings.panel or 0
        layout = settings.layout(part.inset(settings.padding), page)
        found = settings.shown_by_panel(page)
        shown = frozenset().union(*(row.explains for row in found))
        for row in found:
            # What a map lacks is told on its own sheet.
            if panel in page.panels and not row.explains <= listed[panel] and (panel, row.key) not in told:
                told.add((panel, row.key))
                out.append(_lacks(number, part, row, page.panels[panel].part.label))
        for row in settings.rows(page):
            if row.shows is not None and shown.isdisjoint(row.explains):
                out.append(_of_nothing(number, part, row, layout))
    return out + [
        cut for number, part in ground.parts.items() if (cut := _without_room(number, part, page)) is not None
    ]


def _without_room(number: int, part: Part, page: PageContext) -> Finding | None:
    """Told at the last of the frames that rows flow through."""
    settings = part.settings
    if not isinstance(settings, Explanation) or not page.knows(settings):
        return None
    layout = settings.layout(part.inset(settings.padding), page)
    if not layout.left_out:
        return None
    message = (
        f"{part.label} has no room for {layout.left_out} of its rows; {layout.words.partition(': ')[2]}, or let them "
        "go on in a further explanation."
    )
    facts = (str(layout.left_out),)
    return Finding("row_cut", "error", message, None, (), None, (), (number,), part.middle, "room", facts=facts)


def _lacks(number: int, part: Part, row: ExplanationRow, panel: str) -> Finding:
    settings = part.settings
    has_rows = isinstance(settings, Explanation) and (settings.units or not row.is_unit)
    fix = Fix("row_in", "Show its row", key=row.key) if has_rows and not part.locked else None
    what = f"“{row.name}” is on {panel}, and {part.label} does not explain it."
    return Finding("unexplained", "error", what, None, (), fix, (), (number,), part.middle, row.key)


def _of_nothing(number: int, part: Part, row: ExplanationRow, layout: Layout) -> Finding:
    placed = next((p for p in layout.placed if p.block.row is not None and p.block.row.key == row.key), None)
    spot = (placed.x + 4.0, placed.y + placed.height / 2) if placed is not None else part.middle
    fix = Fix("row_out", "Remove the row", key=row.key) if not part.locked else None
    what = f"“{row.name}” is explained, yet nothing on the map shows it."
    return Finding("nothing_shown", "warning", what, None, (), fix, (), (number,), spot, row.key)
