"""Descriptions of map units that their frames have no room for, and words that no column of theirs holds."""

from __future__ import annotations

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.parts.description.description import Description

rule(
    "description_cut",
    "error",
    "sheet",
    "A description of map units has no room for all of its units",
    why="some of the units are described to nobody",
    spoils="reading",
)
rule(
    "word_too_wide",
    "warning",
    "sheet",
    "A word of a description is wider than its column",
    why="letters run into the next column",
    spoils="finish",
)


@of_sheet
def described(ground: SheetGround) -> list[Finding]:
    """What there is to say of each description, told at the first of its frames, or the last."""
    out: list[Finding] = []
    for number, part in ground.parts.items():
        settings = part.settings
        if not isinstance(settings, Description) or not ground.page.knows(settings):
            continue
        inside = part.inset(settings.padding)
        chain = ground.page.chain(inside)
        layout = settings.layout(inside, ground.page)
        if chain[-1].id == part.id and layout.left_out:
            high = part.height + layout.missing
            message = (
                f"{part.label} has no room for {layout.left_out} of its units; make it {max(1, round(layout.missing))} "
                "mm higher, or let it go on in a further one."
            )
            fix = None if part.locked else Fix("onto_page", "Make its frame higher", values={"height": f"{high:.1f}"})
            foot = (part.middle[0], part.y + part.height)
            about = (str(layout.left_out),)
            out.append(
                Finding("description_cut", "error", message, None, (), fix, (), (number,), foot, "room", facts=about)
            )
        if chain[0].id == part.id and layout.overfull:
            words = ", ".join(f"“{word[:30]}”" for word in dict.fromkeys(layout.overfull))
            message = f"In {part.label} no column is wide enough for {words}; it stands out of its column."
            about = (words,)
            out.append(
                Finding(
                    "word_too_wide", "warning", message, None, (), None, (), (number,), part.middle, "", facts=about
                )
            )
    return out
