"""Areas that are not as linework and tags have them."""

from __future__ import annotations

from orvik.core.faces.plan import FormingPlan
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule

rule(
    "unformed",
    "error",
    "linework",
    "Areas are not as linework and tags have them",
    why="what is printed is older than the lines that were drawn",
)


def unformed(plan: FormingPlan) -> list[Finding]:
    """A finding where areas are not as linework and tags have them: of a sheet, which would print them.

    It stands where the largest of them lies, and is the same one wherever that is: what was accepted is tied to the
    plan that would form them.
    """
    if not plan.count:
        return []
    what = "1 area is" if plan.count == 1 else f"{plan.count} areas are"
    where = "" if plan.count == 1 or plan.at is None else " The mark is in the largest."
    message = f"{what} not as linework and tags have them; form the units in Compile.{where}"
    return [Finding("unformed", "error", message, plan.at, about="plan", facts=(plan.checksum,))]
