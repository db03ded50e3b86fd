"""What a published sheet must carry and does not."""

from __future__ import annotations

from datetime import date

from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts import PART_KINDS, needed

rule(
    "no_essential",
    "error",
    "essentials",
    "A published sheet must carry this, and it does not",
    why="a library, or a court, cannot use the sheet without it",
    spoils="reading",
)

# What is said by a part, not shown by it.
SAID = {
    "Coordinate system and datum": "its coordinate system and datum",
    "Author": "who made the map",
    "Date": "of when it is",
    "Sources": "what it was compiled from",
    "Magnetic declination": "the magnetic declination and its date",
}


@of_sheet
def missing(ground: SheetGround) -> list[Finding]:
    """A finding for each essential that the sheet lacks, with the part to add or what is to be set."""
    sheet = ground.page.sheet
    out: list[Finding] = []
    for name, there in needed(sheet, list(ground.parts.values()), ground.page.map.imprint):
        if there:
            continue
        kind = next(made for made in PART_KINDS.values() if name in made.essential)
        holder = next((part for part in ground.parts.values() if isinstance(part.settings, kind)), None)
        # Of what is nowhere the marks stand side by side along the foot of the page.
        foot = (min(14.0 + 22.0 * len(out), sheet.width - 14.0), sheet.height - 10.0)
        spot = holder.middle if holder is not None else foot
        parts = (holder.number,) if holder is not None else ()
        if name in SAID:
            message = f"The sheet does not say {SAID[name]}; a published sheet does."
        else:
            message = f"There is no {name[0].lower()}{name[1:]}; a published sheet carries one."
        fix = _fix(name, holder, kind.kind, kind.label, ground.today)
        out.append(Finding("no_essential", "error", message, None, (), fix, (), parts, spot, f"{name} {sheet.id}"))
    return out


def _fix(name: str, holder: Part | None, kind: str, label: str, today: date) -> Fix | None:
    if holder is None:
        return Fix("add", f"Place a {label.lower()}", key=kind)
    if name == "Magnetic declination":
        return Fix("set", "Say it as of today", values={"day": today.isoformat(), "words": "true"})
    if name == "Coordinate system and datum":
        return Fix("set", "Say it", values={"system": "true"})
    if name == "Date":
        return Fix("set", "Date it today", values={"day": today.isoformat()})
    if name == "Representative fraction":
        return Fix("set", "Show it as a fraction", values={"says": "fraction"})
    return None
