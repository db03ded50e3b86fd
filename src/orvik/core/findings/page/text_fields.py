"""Fields of texts that there is nothing for, and names in braces that are no field."""

from __future__ import annotations

from difflib import get_close_matches

from orvik.core.findings.finding import Finding
from orvik.core.findings.page.sheet_ground import SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.sheet.parts.fields import FIELDS, empty_fields, fields_in

rule(
    "empty_field",
    "warning",
    "sheet",
    "A text takes up fields for which the project has nothing to say",
    why="the sentence is printed with a hole",
    spoils="reading",
)
rule(
    "unknown_field",
    "warning",
    "sheet",
    "A text has a name in braces that is no field, and prints it as it stands",
    why="braces are printed",
    spoils="reading",
)


@of_sheet
def text_fields(ground: SheetGround) -> list[Finding]:
    """Each field that is empty and each that is none, told for every part that has it."""
    out: list[Finding] = []
    for number, part in ground.parts.items():
        text = getattr(part.settings, "text", "")
        lacking = empty_fields(text, ground.page)
        if lacking:
            listed = ", ".join(f"{{{name}}}" for name in lacking)
            message = (
                f"{part.label} leaves out what it has no words for: {listed}; fill in the imprint, or take them out."
            )
            out.append(
                Finding(
                    "empty_field", "warning", message, None, (), None, (), (number,), part.middle, facts=tuple(lacking)
                )
            )
        for name in [name for name, known in fields_in(text) if not known]:
            near = get_close_matches(name, FIELDS, 1)
            advice = f"did you mean {{{near[0]}}}?" if near else "it is printed as it stands."
            message = f"{part.label} has {{{name}}}, which is no field; {advice}"
            out.append(Finding("unknown_field", "warning", message, None, (), None, (), (number,), part.middle, name))
    return out
