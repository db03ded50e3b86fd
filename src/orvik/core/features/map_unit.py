"""Map units and their stratigraphic order."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

from orvik.core.colour.difference import farthest, light_colours
from orvik.core.colour.hex import is_colour
from orvik.core.colour.text import still_typed
from orvik.core.errors import FeatureRefused
from orvik.core.features.age import Span, span, written_ends, written_ma, written_span
from orvik.core.features.age_letters import printed_label

# Tints for units whose colour is not chosen yet: quiet, and told apart. They are ours.
# Published codes have up to 13 letters.
LONGEST_CODE = 40
TINTS = (
    "#F4E6A8",
    "#D8C9B0",
    "#BFD8B8",
    "#A9CFC9",
    "#F2C3A4",
    "#E3B07A",
    "#D9A08F",
    "#C9BBD8",
    "#B8CBE3",
    "#E6B9C6",
    "#CFCB86",
    "#8FBF9F",
    "#B79A7E",
    "#9C9FC4",
)


# The ranks of a unit that is part of another one, or holds others.
RANKS = ("", "supergroup", "group", "subgroup", "formation", "member", "bed", "suite", "complex")
HEADINGS = ("Surficial deposits", "Sedimentary rocks", "Volcanic rocks", "Intrusive rocks", "Metamorphic rocks")
# Where the Quaternary begins, in millions of years (International Chronostratigraphic Chart).
QUATERNARY = 2.58
_LENGTHS = {"name": 200, "age": 200, "description": 8000, "label": 24, "rock": 80, "heading": 80}


def is_code(text: str) -> bool:
    """Whether a text can be the code of a unit.

    >>> is_code("A-HAm-cib"), is_code("Marra Mamba Iron Formation")
    (True, False)
    """
    return len(text) <= LONGEST_CODE and re.fullmatch(r"[^\s\x00-\x1f<>&\"']+", text) is not None


@dataclass(frozen=True)
class MapUnit:
    """One map unit. ``position`` counts from the youngest, which is 1.

    Attributes
    ----------
    code
        What is typed and what features hold.
    age
        As it is printed; empty for what its range says.
    label
        What is printed for it on the map; empty for its code with the letters of its age.
    rock
        What it is made of, in a word or two.
    age_from, age_to
        The older and the younger end of its age, names of the chart; the younger may be empty.
    rank, parent
        One of ``RANKS``, and the code of the unit that it is part of.
    heading
        What stands above it in the column and the explanation.
    pattern, pattern_colour, pattern_opacity
        A pattern of the symbol book over its tint, its colour, and how strongly it is laid over, 0 to 1.
    colour_typed, pattern_colour_typed
        How a colour was typed, if not in six digits: ``CMYK 0 22 48 12``. It counts as long as it says that colour.
    """

    code: str
    name: str
    age: str
    colour: str
    description: str = ""
    position: int = 1
    label: str = ""
    rock: str = ""
    age_from: str = ""
    age_to: str = ""
    rank: str = ""
    parent: str = ""
    heading: str = ""
    pattern: str = ""
    pattern_colour: str = ""
    pattern_opacity: float = 1.0
    colour_typed: str = ""
    pattern_colour_typed: str = ""

    def __post_init__(self) -> None:
        if not self.code:
            raise FeatureRefused(f"A unit needs a code of 1 to {LONGEST_CODE} letters without spaces, such as Qal.")
        if not is_code(self.code):
            raise FeatureRefused(
                f"“{self.code[:40]}” cannot be the code of a unit; a code has 1 to {LONGEST_CODE} letters, digits or "
                "symbols, no spaces, quotes or brackets."
            )
        for what, most in _LENGTHS.items():
            if len(getattr(self, what)) > most:
                raise FeatureRefused(f"The {what} of unit {self.code} is longer than {most} letters; shorten it.")
        if not self.name.strip():
            raise FeatureRefused(f"Unit {self.code} needs a name, such as Alluvium.")
        if not is_colour(self.colour):
            raise FeatureRefused(f"“{self.colour[:20]}” is not a colour; type six digits such as #F4E6A8.")
        if self.pattern_colour and not is_colour(self.pattern_colour):
            raise FeatureRefused(f"“{self.pattern_colour[:20]}” is not a colour; type six digits such as #F4E6A8.")
        if not 0 <= self.pattern_opacity <= 1:
            raise FeatureRefused("A pattern is 0 to 100 % opaque; type another opacity.")
        if self.rank not in RANKS:
            raise FeatureRefused(f"“{self.rank[:20]}” is not a rank; choose {', '.join(RANKS[1:])}.")
        if self.parent == self.code:
            raise FeatureRefused(f"Unit {self.code} cannot be part of itself; choose another one.")
        # Of another colour it says nothing any more.
        object.__setattr__(self, "colour_typed", still_typed(self.colour_typed, self.colour))
        object.__setattr__(self, "pattern_colour_typed", still_typed(self.pattern_colour_typed, self.pattern_colour))
        # Refused here, so that no unit is kept whose age nobody can read.
        span(self.age_from, self.age_to)

    @cached_property
    def span(self) -> Span | None:
        """The range of its age: as given, or as its printed age says where that is a name of the chart.

        Millions of years that are printed are finer than the names of the chart: they tell units of one stage apart.
        """
        held = span(self.age_from, self.age_to) if self.age_from else written_span(self.age)
        numbers = written_ma(self.age)
        if held is None or numbers is None:
            return held
        return replace(held, older=numbers[0], younger=numbers[1])

    @cached_property
    def is_deposit(self) -> bool:
        """Whether it lies over rock and conceals it: by its heading, or as young as the Quaternary."""
        return self.heading == HEADINGS[0] or (self.span is not None and self.span.older <= QUATERNARY)

    @cached_property
    def printed_age(self) -> str:
        """Its age as it is printed."""
        if self.age or not self.age_from:
            return self.age
        held = span(self.age_from, self.age_to)
        return held.words if held is not None else ""

    @cached_property
    def printed_label(self) -> str:
        """What stands on the map for it."""
        if self.label:
            return self.label
        oldest = self.age_from or (written_ends(self.age) or ("", ""))[0]
        youngest = self.age_to if self.age_from else (written_ends(self.age) or ("", ""))[1]
        return printed_label(self.code, oldest, youngest)


def check_parents(units: Mapping[str, MapUnit], code: str) -> None:
    """What a unit is part of must be there, and the unit may not be part of itself by way of others.

    Parameters
    ----------
    units
        All units by their codes, as they would be.

    Raises
    ------
    FeatureRefused
        Names the unit that cannot be so.
    """
    seen, step = {code}, units[code].parent
    while step:
        if step not in units:
            raise FeatureRefused(f"There is no unit {step} that {code} could be part of; add it first.")
        if step in seen:
            raise FeatureRefused(f"{code} and {units[code].parent} would be part of each other; choose another one.")
        seen.add(step)
        step = units[step].parent


def out_of_order(units: Iterable[MapUnit]) -> list[tuple[MapUnit, MapUnit]]:
    """Neighbours in age that stand the wrong way round: a unit that is wholly older above one that is younger.

    Only units under one heading are compared: an intrusion stands apart from what it cuts.
    """
    found = []
    above: dict[str, tuple[MapUnit, Span]] = {}
    for unit in stratigraphic_order(list(units)):
        held = unit.span
        if held is None:
            continue
        before = above.get(unit.heading)
        if before is not None and before[1].younger >= held.older:
            found.append((before[0], unit))
        if before is None or held.younger >= before[1].younger:
            above[unit.heading] = (unit, held)
    return found


def new_colour(units: Iterable[MapUnit]) -> str:
    """A colour for a unit that is new, which no other has: the one that is told best from those of the units there are.

    It is one of our tints while there is one left that none has, and then any light colour.
    """
    used = {unit.colour.upper() for unit in units}
    free = [tint for tint in TINTS if tint not in used] or [tint for tint in light_colours() if tint not in used]
    return farthest(free, used)


def stratigraphic_order(units: list[MapUnit]) -> list[MapUnit]:
    """Youngest first, as an explanation is read from the top."""
    return sorted(units, key=lambda unit: (unit.position, unit.code))
