"""Colours of units that touch and can hardly be told apart."""

from __future__ import annotations

from orvik.core.coordinates import PageXY
from orvik.core.findings.finding import Finding
from orvik.core.findings.rule import rule

rule(
    "alike",
    "warning",
    "letters",
    "Colours of units that touch can hardly be told apart",
    "CIE 142-2001 (CIEDE2000)",
    units=(
        "colour",
        "pattern",
        "pattern_colour",
        "pattern_opacity",
    ),
    why="readers take two rocks for one",
    spoils="reading",
)


def alike(one: str, other: str, difference: float, at: PageXY) -> Finding:
    """Of two units by their codes: the least difference (CIEDE2000) of their colours as printed; where they meet."""
    message = (
        f"{one} and {other} touch, and their colours can hardly be told apart "
        f"(ΔE {difference:.1f} as printed, for every kind of sight)."
    )
    return Finding("alike", "warning", message, at, units=(one, other), about="colours")
