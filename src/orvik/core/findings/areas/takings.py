"""Faces whose tags say another unit than the areas in them."""

from __future__ import annotations

from orvik.core.faces.plan import FormingPlan
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule
from orvik.core.ground.scale import area_words

rule(
    "takes_ground",
    "error",
    "linework",
    "A tag says another unit than the areas in its face",
    why="forming the areas anew would take ground from a unit",
)


def takes_ground(plan: FormingPlan, metres_per_unit: float) -> list[Finding]:
    """A finding for each such face, with how much ground that is."""
    found = []
    for taking in plan.takings:
        size = area_words(taking.area * metres_per_unit**2)
        message = (
            f"The tag in this face says {taking.unit}, and {size} of it are {taking.of}; form units to let the tag "
            "have it, or draw the contact between them."
        )
        units = (taking.unit, taking.of)
        facts = (f"{taking.area:.2f}",)
        found.append(Finding("takes_ground", "error", message, taking.at, units=units, facts=facts))
    return found
