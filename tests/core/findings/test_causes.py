"""Of one cause only the cause is told, unless its rule rests."""

from __future__ import annotations

from orvik.core.findings.causes import causes
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES


def told(rule: str, number: int) -> Finding:
    return Finding(rule, "warning", "", None, (("points", number),))


def test_what_follows_from_a_slip_of_the_pen_is_not_told_beside_it() -> None:
    slip, against, other = told("attitude_slip", 7), told("against_contact", 7), told("against_contact", 8)
    assert causes([slip, against, other], ()) == [slip, other]
    assert causes([slip, against, other], {"attitude_slip"}) == [slip, against, other]
    assert causes([against], ()) == [against]


def test_causes_are_rules_and_none_is_its_own() -> None:
    for name, rule in RULES.items():
        assert set(rule.follows_from) <= set(RULES)
        assert name not in rule.follows_from
