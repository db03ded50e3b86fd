"""All rules of all families, in the order in which they are told."""

from __future__ import annotations

from collections.abc import Mapping

from orvik.core.findings import column, joins, single, sources, underlays, unwritten
from orvik.core.findings.areas import intrusions, odd_neighbour, overlaps, sides, tagged, takings, unformed, unsound
from orvik.core.findings.lines import (
    course,
    cover,
    ends,
    folds,
    joined_faults,
    offsets,
    pairs,
    senseless,
    sparse,
    unseen,
)
from orvik.core.findings.page import (
    alignment,
    codes,
    colours,
    correlated,
    covering,
    described,
    essentials,
    explained,
    insets,
    labels,
    lettering,
    pictures,
    placing,
    read_texts,
    row_order,
    sections,
    series,
    text_fields,
    whose_panel,
)
from orvik.core.findings.points import attitudes, slips, standing, stations
from orvik.core.findings.rule import GROUPS as GROUPS
from orvik.core.findings.rule import Rule, declared
from orvik.core.findings.texts import ages, dates, names, scales_and_systems
from orvik.core.findings.texts import figures as typed_figures
from orvik.core.findings.texts import slips as text_slips
from orvik.core.findings.units import ages as unit_ages
from orvik.core.findings.units import doubles as unit_doubles
from orvik.core.findings.units import labels as unit_labels
from orvik.core.findings.units import use as unit_use

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
        odd_neighbour,
        offsets,
        joined_faults,
        cover,
        folds,
        sparse,
        attitudes,
        slips,
        standing,
        course,
        stations,
        single,
        joins,
    ),
    (
        underlays,
        sources,
        senseless,
        unseen,
        column,
        unit_labels,
        unit_doubles,
        unit_ages,
        unit_use,
        row_order,
        explained,
        described,
        correlated,
        placing,
        covering,
        whose_panel,
        insets,
        alignment,
        pictures,
        sections,
        lettering,
        text_fields,
        series,
        scales_and_systems,
        dates,
        names,
        ages,
        typed_figures,
        text_slips,
        read_texts,
        colours,
        unwritten,
        labels,
        codes,
    ),
    (essentials,),
)
_ORDER = list(GROUPS)
RULES: Mapping[str, Rule] = dict(sorted(declared.items(), key=lambda item: _ORDER.index(item[1].group)))
