"""What does not meet the neighbouring sheets along the border."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from orvik.core.features.kind import a_kind, kind_words
from orvik.core.features.table import FeatureKey
from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.rule import rule
from orvik.core.joins.meeting import Misfit
from orvik.core.joins.neighbour import Neighbour

rule(
    "join_offset",
    "warning",
    "linework",
    "A line meets the border beside the line of the neighbouring sheet that it goes on in",
    features=("kind",),
    why="where two sheets are laid together, the line jumps",
)
rule(
    "join_missing",
    "warning",
    "linework",
    "A line ends at the border, and the sheet on the other side has none that goes on from it",
    features=("kind",),
    why="where two sheets are laid together, a line stops at nothing",
)
rule(
    "join_kind",
    "warning",
    "linework",
    "A line is of one kind here and of another on the neighbouring sheet",
    features=("kind",),
    why="one of the two sheets says what is not so",
)
rule(
    "join_certainty",
    "warning",
    "linework",
    "A line is of one certainty at the border and of another on the neighbouring sheet",
    features=("certainty", "questionable", "stretches"),
    why="one of the two sheets is surer than what both know",
)
rule(
    "join_unit",
    "warning",
    "linework",
    "The ground along a border is of one unit here and of another on the neighbouring sheet",
    why="one of the two sheets gives the ground another rock",
)


def join_findings(
    neighbour: Neighbour, found: Iterable[Misfit], at_ends: Mapping[int, list[FeatureKey]]
) -> list[Finding]:
    """What there is to say of the border with a neighbour.

    Parameters
    ----------
    at_ends
        For lines that end at the border: these, and what has a vertex there, too, by the number of the line; a line
        that is not among them runs through.
    """
    return [_finding(neighbour.words, misfit, at_ends) for misfit in found]


def _finding(sheet: str, misfit: Misfit, at_ends: Mapping[int, list[FeatureKey]]) -> Finding:
    number, at = misfit.number, misfit.at
    name = f"{kind_words(misfit.here)} {number}"
    name = name[:1].upper() + name[1:]
    mine: tuple[FeatureKey, ...] = (("lines", number),) if number is not None else ()
    if misfit.what == "offset":
        message = f"{name} meets the border {misfit.mm:.2f} mm beside that of {sheet}."
        fix = None
        if number is not None and number in at_ends and misfit.beside:
            mine = tuple(at_ends[number])
            fix = Fix("meet", "Move its end to meet", place=misfit.other)
        return Finding("join_offset", "warning", message, at, mine, fix, facts=(sheet, f"{misfit.mm:.2f}"))
    if misfit.what == "ends":
        message = f"{name} ends at the border, and {sheet} has no line there."
        return Finding("join_missing", "warning", message, at, mine, facts=(sheet,))
    if misfit.what == "begins":
        message = f"On {sheet}, {a_kind(misfit.there)} ends at the border, and no line goes on from it here."
        return Finding("join_missing", "warning", message, at, facts=(sheet, misfit.there))
    if misfit.what == "kind":
        message = f"{name} is {a_kind(misfit.there)} on {sheet}."
        return Finding("join_kind", "warning", message, at, mine, facts=(sheet, misfit.there))
    if misfit.what == "certainty":
        message = f"Line {number} is {misfit.here} at the border, and {misfit.there} on {sheet}."
        return Finding("join_certainty", "warning", message, at, mine, facts=(sheet, misfit.there))
    here = f"there is {misfit.here} here" if misfit.here else "there is no unit here"
    there = f"{misfit.there} on {sheet}" if misfit.there else f"none on {sheet}"
    message = f"Along {misfit.mm:.1f} mm of the border {here}, and {there}."
    facts = (sheet, misfit.there, f"{misfit.mm:.1f}")
    return Finding("join_unit", "warning", message, at, units=(misfit.here,) if misfit.here else (), facts=facts)
