"""Findings that somebody has let stand, with a reason, until what they speak of changes."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date

from orvik.core.errors import FindingRefused
from orvik.core.findings.finding import Finding

# The state of an acceptance from before states could be read, whose finding names nothing that it could be tied to.
VOID = "void"
LONGEST_REASON, LONGEST_SIGNATURE = 600, 60


@dataclass(frozen=True)
class Acceptance:
    """A finding let stand.

    Attributes
    ----------
    key
        Of the finding.
    state
        What the finding rested on, as ``findings.state`` writes it.
    message
        What it said.
    signed, dated
        By whom and when, ISO 8601.
    """

    key: str
    state: str
    message: str
    reason: str
    signed: str
    dated: str
    id: int | None = None

    def __post_init__(self) -> None:
        if not self.reason.strip():
            raise FindingRefused("Say why this may stand, such as “taken from the old sheet as it is”.")
        if not self.signed.strip():
            raise FindingRefused("Sign it with your name or your initials.")
        if len(self.reason) > LONGEST_REASON or len(self.signed) > LONGEST_SIGNATURE:
            raise FindingRefused(
                f"A reason has up to {LONGEST_REASON} letters and a signature up to {LONGEST_SIGNATURE}; shorten it."
            )
        date.fromisoformat(self.dated)


@dataclass(frozen=True)
class Judged:
    """Findings by what is to be done about them.

    Attributes
    ----------
    open
        Those to be fixed, accepted or looked at, in order.
    accepted
        Those that stand, each with why.
    returned
        Of open ones that had been accepted before what they speak of changed, by their keys.
    turned_off
        How many a rule that rests would have told, by its name.
    void
        What was accepted before states could be read, of findings that nothing identifies any more.
    """

    open: tuple[Finding, ...]
    accepted: tuple[tuple[Finding, Acceptance], ...] = ()
    returned: Mapping[str, Acceptance] = field(default_factory=dict)
    turned_off: Mapping[str, int] = field(default_factory=dict)
    void: tuple[Acceptance, ...] = ()

    @property
    def errors(self) -> int:
        """How many must be fixed or accepted before the sheet counts as proofed."""
        return sum(finding.severity == "error" for finding in self.open)


def judged(
    findings: Iterable[Finding],
    acceptances: Mapping[str, Acceptance],
    turned_off: Collection[str],
    stands: Callable[[Finding, Acceptance], bool],
) -> Judged:
    """Sort findings by what hands have said of them.

    Parameters
    ----------
    acceptances
        By the key of their finding.
    turned_off
        Names of rules that rest.
    stands
        Says whether what a finding rests on is as it was when it was accepted.
    """
    left: list[Finding] = []
    accepted: list[tuple[Finding, Acceptance]] = []
    returned: dict[str, Acceptance] = {}
    quiet: dict[str, int] = {}
    for finding in findings:
        held = acceptances.get(finding.key)
        if finding.rule in turned_off:
            quiet[finding.rule] = quiet.get(finding.rule, 0) + 1
        elif held is None:
            left.append(finding)
        elif stands(finding, held):
            accepted.append((finding, held))
        else:
            left.append(finding)
            returned[finding.key] = held
    void = tuple(held for held in acceptances.values() if held.state == VOID and held.key not in returned)
    return Judged(tuple(left), tuple(accepted), returned, quiet, void)
