"""Conditional symbols: what features of a kind look like where something holds of them, or at certain scales."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal, get_args

from orvik.core.errors import SymbolRefused
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import UNIT_AREA, kind_words
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.scale import spaced

Comparison = Literal["is", "is not", "above", "below", "contains", "is empty", "is given"]
COMPARISONS: tuple[Comparison, ...] = get_args(Comparison)
# Those that need nothing to compare with.
ALONE = ("is empty", "is given")
# What every feature can be asked for; kinds of one's own add their fields.
ATTRIBUTES: Mapping[str, str] = {
    "inclination": "dip or plunge",
    "azimuth": "strike or trend",
    "map_unit": "code of its unit",
    "questionable": "questionable",
    "note": "note",
    "capture_scale": "digitized at 1:",
}
NUMBERS = ("inclination", "azimuth", "capture_scale")
Look = Literal["kind", "drawn", "none"]
MOST_TESTS, LONGEST_VALUE, LONGEST_TITLE = 3, 60, 80


@dataclass(frozen=True)
class AttributeTest:
    """A question to an attribute of a feature.

    Numbers are compared as numbers where both sides are some, else letters are compared, capital or small.

    >>> AttributeTest("inclination", "above", "70").holds({"inclination": 71.5})
    True
    """

    attribute: str
    comparison: Comparison
    value: str = ""

    def __post_init__(self) -> None:
        if self.comparison not in COMPARISONS:
            raise SymbolRefused(f"“{str(self.comparison)[:20]}” compares nothing; there are {', '.join(COMPARISONS)}.")
        if not self.attribute or len(self.attribute) > LONGEST_VALUE or len(self.value) > LONGEST_VALUE:
            raise SymbolRefused(f"A condition names an attribute, and a value of up to {LONGEST_VALUE} letters.")
        if self.comparison not in ALONE and not self.value.strip():
            raise SymbolRefused(f"Say what {self.words_of_attribute} is compared with, or choose “is empty”.")
        if self.comparison in ("above", "below") or (self.attribute in NUMBERS and self.comparison in ("is", "is not")):
            parse_quantity(self.value, self.words_of_attribute, SymbolRefused)

    @property
    def words_of_attribute(self) -> str:
        """What the attribute is called."""
        return ATTRIBUTES.get(self.attribute, self.attribute)

    @property
    def words(self) -> str:
        """The question as a title says it: ``dip or plunge above 70``."""
        name = self.words_of_attribute
        return f"{name} {self.comparison}" if self.comparison in ALONE else f"{name} {self.comparison} {self.value}"

    def holds(self, values: Mapping[str, Any]) -> bool:
        """Whether it holds of a feature; of an attribute that is not given only ``is empty`` and ``is not`` do."""
        there = values.get(self.attribute)
        if isinstance(there, bool | int) and self.attribute == "questionable":
            there = "yes" if there else "no"
        given = there is not None and str(there).strip() != ""
        if self.comparison in ALONE:
            return given == (self.comparison == "is given")
        if not given:
            return self.comparison == "is not"
        if self.comparison == "contains":
            return self.value.strip().casefold() in str(there).casefold()
        one, two = _number(there), _number(self.value)
        if self.comparison in ("above", "below"):
            return one is not None and two is not None and (one > two if self.comparison == "above" else one < two)
        if one is not None and two is not None:
            same = abs(one - two) <= 1e-9
        else:
            same = str(there).strip().casefold() == self.value.strip().casefold()
        return same == (self.comparison == "is")


def _number(value: Any) -> float | None:
    if isinstance(value, int | float):
        return float(value)
    try:
        return parse_quantity(str(value), "number", SymbolRefused)
    except SymbolRefused:
        return None


@dataclass(frozen=True)
class SymbolRule:
    """What features of a kind look like on condition.

    Attributes
    ----------
    certainty
        That it is for; empty for all.
    tests
        All of them must hold.
    finest, coarsest
        Denominators of the scales from and to which it is in force, both among them; None for no end.
    look, worn
        Like a ``kind`` of the book, in the certainty that the feature has; like a symbol that the project has
        ``drawn``; or ``none``: left out in print. ``worn`` is the name of the kind or of the drawn symbol.
    title
        As the explanation writes it; empty for words made from the condition.
    """

    table: Table
    kind: str
    tests: tuple[AttributeTest, ...] = ()
    certainty: str = ""
    finest: int | None = None
    coarsest: int | None = None
    look: Look = "none"
    worn: str = ""
    title: str = ""

    def __post_init__(self) -> None:
        if self.table not in TABLES or not self.kind:
            raise SymbolRefused("A conditional symbol is for a kind of points, lines or areas.")
        if self.kind == UNIT_AREA:
            raise SymbolRefused("The areas of units look as their units do; change the unit instead.")
        if self.certainty and self.certainty not in CERTAINTIES:
            raise SymbolRefused(f"“{self.certainty[:20]}” is not a certainty; there are {', '.join(CERTAINTIES)}.")
        if len(self.tests) > MOST_TESTS:
            raise SymbolRefused(f"A conditional symbol has {MOST_TESTS} conditions at the most.")
        if not (self.tests or self.certainty or self.finest or self.coarsest):
            raise SymbolRefused(
                "Say when this holds: a certainty, an attribute or a scale; else put a look on the symbol."
            )
        for scale in (self.finest, self.coarsest):
            if scale is not None and not 1 <= scale <= 1_000_000_000:
                raise SymbolRefused(f"1:{spaced(scale)} is not a scale of a map.")
        if self.finest and self.coarsest and self.finest > self.coarsest:
            raise SymbolRefused(
                f"The finest scale, 1:{spaced(self.finest)}, is coarser than the coarsest, 1:{spaced(self.coarsest)}; "
                "change them round."
            )
        if self.look not in get_args(Look) or (self.look != "none" and not self.worn):
            raise SymbolRefused("Choose what it looks like: a kind, a custom symbol, or left out.")
        if self.look == "kind" and self.worn == self.kind:
            raise SymbolRefused("That is what it looks like anyway; choose another look.")
        if len(self.title) > LONGEST_TITLE:
            raise SymbolRefused(f"The title in the explanation has {LONGEST_TITLE} letters at the most.")

    def in_force(self, scale: int | None) -> bool:
        """Whether it is in force at a scale; one with scales is not where there is none."""
        if self.finest is None and self.coarsest is None:
            return True
        return scale is not None and (self.finest or 0) <= scale <= (self.coarsest or scale)

    def holds(self, certainty: str, values: Mapping[str, Any]) -> bool:
        """Whether it holds of a feature, or of a part of one, whatever the scale."""
        return self.certainty in ("", certainty) and all(test.holds(values) for test in self.tests)

    def with_unit(self, old: str, new: str) -> SymbolRule:
        """The same where a unit has another code."""
        return replace(
            self,
            tests=tuple(
                replace(test, value=new) if test.attribute == "map_unit" and test.value == old else test
                for test in self.tests
            ),
        )

    @property
    def name(self) -> str:
        """What it is known by: whose it is, and when it holds."""
        asked = (self.certainty, self.words, self.scale_words)
        return ", ".join([kind_words(self.kind), *(words for words in asked if words)])

    @property
    def words(self) -> str:
        """What is asked, as a title says it."""
        return ", ".join(test.words for test in self.tests)

    @property
    def scale_words(self) -> str:
        """At which scales it is in force: ``1:10 000 to 1:50 000``; empty for all."""
        one, two = (f"1:{spaced(s)}" if s else "" for s in (self.finest, self.coarsest))
        if one and two:
            return f"{one} to {two}" if one != two else f"at {one}"
        return f"{one} and coarser" if one else f"{two} and finer" if two else ""

    @property
    def body(self) -> str:
        """All but table and kind as JSON, as ``of`` reads it."""
        row = {name: value for name, value in asdict(self).items() if name not in ("table", "kind") and value}
        return json.dumps(row, ensure_ascii=False, separators=(",", ":"))

    @staticmethod
    def of(table: str, kind: str, body: str) -> SymbolRule:
        """A rule as it was kept; raises SymbolRefused for what is none."""
        try:
            row = dict(json.loads(body))
            tests = tuple(
                AttributeTest(str(one["attribute"]), one["comparison"], str(one.get("value", "")))
                for one in row.pop("tests", [])
            )
            scales = {name: None if row.get(name) is None else int(row.pop(name)) for name in ("finest", "coarsest")}
            texts = {name: str(row.pop(name, "")) for name in ("certainty", "worn", "title")}
            return SymbolRule(table, kind, tests, look=row.pop("look", "none"), **scales, **texts, **row)  # type: ignore[arg-type]
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            raise SymbolRefused(f"The conditional symbol for “{kind[:30]}” cannot be read: {error}.") from error
