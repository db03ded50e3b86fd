"""What follows from another finding of the same feature: of one cause, only the cause is told."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES


def causes(findings: Sequence[Finding], turned_off: Collection[str]) -> list[Finding]:
    """Findings without those whose cause is told of the same feature.

    Parameters
    ----------
    turned_off
        Names of rules that rest: they tell no cause.
    """
    told = {(f.rule, f.features[0]) for f in findings if f.features and f.rule not in turned_off}
    return [f for f in findings if not any((rule, *f.features[:1]) in told for rule in RULES[f.rule].follows_from)]
