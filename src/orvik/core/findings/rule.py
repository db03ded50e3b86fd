"""Rules: each declares itself where it is written, and a check says what it looks at.

What is told of a rule (its table, docs/rules.md, the margin notes, what an acceptance rests on) is built from its
declaration; the survey of the map and the checks of a sheet carry out what has been registered here.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from orvik.core.features.kind import Kind
    from orvik.core.features.table import Table
    from orvik.core.findings.finding import CheckInput, Finding

# The groups of the margin notes, by name, in their order.
GROUPS: Mapping[str, str] = {
    "linework": "Linework and units",
    "symbols": "Symbols and explanation",
    "sheet": "Sheet and its parts",
    "texts": "What texts say",
    "letters": "Letters and colours",
    "essentials": "Essentials",
}
PRACTICE = "common practice"
SEVERITIES = ("error", "warning", "error or warning")
# What is spoilt where a rule speaks, the worst first: what the map says of the ground, what a reader finds and can
# read of it, how it looks.
SPOILS = ("truth", "reading", "finish")


@dataclass(frozen=True)
class Rule:
    """One rule.

    Attributes
    ----------
    name
        What findings hold.
    severity
        One of ``SEVERITIES``: both where it depends.
    group
        A name of ``GROUPS``.
    title
        What it looks for.
    source
        Where it comes from.
    why
        Why it matters, in half a sentence.
    spoils
        One of ``SPOILS``: notes of one severity are listed in their order.
    features, units
        What a finding rests on beside geometry: it is as it was for as long as these attributes of the features that
        it names (or of what one of them holds, as ``band.cut_by``), and of the units, are as they were. Of parts all
        settings but their name and group are read.
    follows_from
        Names of rules that, told of the same feature, are its cause: it is then not told beside them.
    """

    name: str
    severity: str
    group: str
    title: str
    source: str
    why: str
    spoils: str
    features: tuple[str, ...] = ()
    units: tuple[str, ...] = ()
    follows_from: tuple[str, ...] = ()


declared: dict[str, Rule] = {}


def rule(
    name: str,
    severity: str,
    group: str,
    title: str,
    source: str = PRACTICE,
    *,
    why: str,
    spoils: str = "truth",
    features: tuple[str, ...] = (),
    units: tuple[str, ...] = (),
    follows_from: tuple[str, ...] = (),
) -> Rule:
    """Declare a rule, as ``Rule`` says; raises ValueError for a second of one name, or a word that is none of those."""
    if name in declared or group not in GROUPS or severity not in SEVERITIES or spoils not in SPOILS:
        raise ValueError(f"the rule {name} is declared twice, or has no group, severity or order")
    declared[name] = Rule(name, severity, group, title, source, why, spoils, features, units, follows_from)
    return declared[name]


MapCheck = Callable[["CheckInput"], list["Finding"]]
# What a check of a sheet is given is a ``SheetGround`` of ``page``, which knows this module.
SheetCheck = Callable[[Any], list["Finding"]]
# Checks of whole tables, each with those that it looks at; it is asked again only where one of them has changed.
map_checks: dict[MapCheck, tuple[Table, ...]] = {}
sheet_checks: list[SheetCheck] = []


@dataclass(frozen=True)
class Reach:
    """How far the verdicts of a check on lines or points reach: after an edit only what is near it is judged again.

    Attributes
    ----------
    judges
        Which features it judges, by what their kind means: its findings name them first.
    mm
        What counts lies so near to such a feature, in millimetres on the sheet.
    table
        Whether these are lines or points.
    """

    judges: Callable[[Kind], bool]
    mm: float
    table: Table = "lines"


# Of the checks whose verdicts do not reach over the whole map.
reaches: dict[MapCheck, Reach] = {}
# Those that judge each feature by itself: only what was edited is judged again.
alone: set[MapCheck] = set()


def looks_at(*tables: Table, reach: Reach | None = None, by_itself: bool = False) -> Callable[[MapCheck], MapCheck]:
    """Have a check carried out by every survey of a map.

    Parameters
    ----------
    tables
        All that its verdicts rest on: faces and what units they are of rest on lines and points.
    reach
        How far its verdicts reach; None where each may rest on all of the map.
    by_itself
        Whether its verdict on a feature rests on that alone; its findings name just that feature.
    """

    def registered(check: MapCheck) -> MapCheck:
        map_checks[check] = tables
        if reach is not None:
            reaches[check] = reach
        if by_itself:
            alone.add(check)
        return check

    return registered


def of_sheet(check: SheetCheck) -> SheetCheck:
    """Have a check carried out on every sheet that is proofed."""
    sheet_checks.append(check)
    return check
