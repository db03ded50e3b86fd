"""All rules of all families, in the order in which they are told."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.findings import column, joins, single, underlays, unwritten
from orvik.core.findings.areas import intrusions, overlaps, sides, tagged, takings, unformed, unsound
from orvik.core.findings.lines import course, ends, pairs, senseless
from orvik.core.findings.page import (
    colours,
    correlated,
    described,
    essentials,
    explained,
    labels,
    lettering,
    pictures,
    placing,
    sections,
    series,
    text_fields,
)
from orvik.core.findings.points import attitudes, stations
from orvik.core.findings.rule import GROUPS as GROUPS
from orvik.core.findings.rule import Rule, declared

# A family is registered by standing here; within a group its rules are told in this order.
FAMILIES = (
    (
        ends,
        pairs,
        unsound,
        overlaps,
        sides,
        takings,
        tagged,
        unformed,
        intrusions,
        attitudes,
        course,
        stations,
        single,
        joins,
    ),
    (
        underlays,
        senseless,
        column,
        explained,
        described,
        correlated,
        placing,
        pictures,
        sections,
        lettering,
        text_fields,
        series,
        colours,
        unwritten,
        labels,
    ),
    (essentials,),
)
_ORDER = list(GROUPS)
RULES: Mapping[str, Rule] = dict(sorted(declared.items(), key=lambda item: _ORDER.index(item[1].group)))
