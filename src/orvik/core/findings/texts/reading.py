"""A text as it is read, what the project knows that it may speak of, and how a finding of it is made."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from orvik.core.coordinates import PageXY
from orvik.core.features.map_unit import MapUnit
from orvik.core.findings.finding import Finding, Fix
from orvik.core.ground.crs import ProjectCrs
from orvik.core.sheet.page.imprint import Imprint

# Longer quotations are cut.
LONGEST_QUOTE = 60
# Words in the same sentence before a figure, after which it speaks of what the map was made from, not of the map.
_OF_SOURCES = re.compile(
    r"\b(?:from|after|sources?|compiled|digitized|traced|based|simplified|reduced|enlarged|converted|transformed|"
    r"formerly|older|former|base|original|previous|earlier)\b",
    re.IGNORECASE,
)
_SENTENCE = re.compile(r"(?<=[a-z)\]])[.!?]\s|\n|;")


@dataclass(frozen=True)
class ReadText:
    """A text that is printed.

    Attributes
    ----------
    what
        What it is called in a sentence: ``Remarks``, ``The description of Kw``.
    text
        As it is typed, fields in braces and all.
    part, entry
        The part of the sheet and the setting that it stands in; 0 for a text of the project.
    unit
        The code of the unit whose description it is.
    takes_fields
        Whether a field can stand in it.
    locked
        Whether its part is, so that nothing can be offered.
    spot
        Where on the page words of it stand.
    """

    what: str
    text: str
    part: int = 0
    entry: str = ""
    unit: str = ""
    takes_fields: bool = False
    locked: bool = False
    spot: Callable[[str], PageXY | None] = lambda words: None

    def sentence_before(self, at: int) -> str:
        """What stands in the same sentence before a place of the text."""
        begins = [found.end() for found in _SENTENCE.finditer(self.text, 0, at)]
        return self.text[begins[-1] if begins else 0 : at]

    def of_sources(self, at: int) -> bool:
        """Whether what stands at a place speaks of what the map was made from."""
        return _OF_SOURCES.search(self.sentence_before(at)) is not None

    def finding(
        self,
        rule: str,
        message: str,
        found: re.Match[str] | tuple[int, int],
        instead: str | None = None,
        label: str = "",
        severity: str = "warning",
        facts: tuple[str, ...] = (),
    ) -> Finding:
        """What is said of a place of the text.

        Parameters
        ----------
        found
            The place: a match, or where it begins and ends.
        instead
            What a fix puts there; None where nothing can be offered.
        label
            Of the fix.
        """
        begin, end = found.span() if isinstance(found, re.Match) else found
        quoted = self.text[begin:end]
        fix = None
        if instead is not None and self.entry and not self.locked:
            values = {self.entry: self.text[:begin] + instead + self.text[end:]}
            fix = (
                Fix("set", label, values=values) if self.part else Fix("rewrite", label, unit=self.unit, values=values)
            )
        return Finding(
            rule,
            severity,
            message,
            None,
            (),
            fix,
            (self.unit,) if self.unit else (),
            (self.part,) if self.part else (),
            self.spot(quoted) if self.part else None,
            about=f"{self.entry or self.what}:{quoted[:LONGEST_QUOTE]}",
            facts=(quoted, *facts),
        )


def quoted(words: str) -> str:
    """Words of a text in quotation marks."""
    plain = " ".join(words.split())
    return f"“{plain if len(plain) <= LONGEST_QUOTE else plain[: LONGEST_QUOTE - 1] + '…'}”"


@dataclass(frozen=True)
class KnownName:
    """A name that the project has, and what it is the name of."""

    what: str
    name: str


@dataclass(frozen=True)
class Known:
    """What a project and a sheet of it know, against which texts are read.

    Attributes
    ----------
    names
        Of units, sheets, places and people.
    panel_scales
        Denominators of the panels, that of the largest first.
    scales
        Denominators that a text may rightly speak of: of panels, of the project, of sources.
    systems
        Of the panels and graticules; the first is that of the largest panel.
    zones
        Numbers of the zones of the UTM grid that the ground lies in.
    declination
        The magnetic declination at the middle of the map on a day, in degrees; None where it is not known.
    intervals
        How far contour lines are apart, in words.
    exaggerations
        Gives those of the sections on the sheet, which take their time to draw.
    shown_units
        How many units the largest panel shows; None without a panel.
    published
        The date of the map; None where none is typed.
    neighbours
        Names of the neighbouring sheets by their numbers.
    credits
        How sources are credited.
    """

    units: Mapping[str, MapUnit]
    imprint: Imprint
    names: Sequence[KnownName] = ()
    panel_scales: Sequence[int] = ()
    scales: Sequence[int] = ()
    systems: Sequence[ProjectCrs] = ()
    zones: frozenset[int] = frozenset()
    declination: Callable[[date], float | None] = lambda day: None
    convergence: float | None = None
    intervals: Sequence[str] = ()
    exaggerations: Callable[[], frozenset[float]] = frozenset
    shown_units: int | None = None
    published: date | None = None
    today: date = field(default_factory=date.today)
    neighbours: Mapping[str, str] = field(default_factory=dict)
    credits: Sequence[str] = ()


TextCheck = Callable[[ReadText, Known], list[Finding]]
text_checks: list[TextCheck] = []


def of_text(check: TextCheck) -> TextCheck:
    """Have a check carried out on every text that is read."""
    text_checks.append(check)
    return check


def read(texts: Sequence[ReadText], known: Known) -> list[Finding]:
    """All that there is to say of some texts."""
    return [finding for text in texts for check in text_checks for finding in check(text, known)]
