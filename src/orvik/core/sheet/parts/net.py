"""A net or a rose of the readings that a panel shows, with their count, in the map's unit colours."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Self

from orvik.core.errors import StructureRefused
from orvik.core.features.kind import USUAL_READING, kind_words
from orvik.core.ink.primitives import Item
from orvik.core.lettering import ITALIC, run
from orvik.core.sheet.page.entries import Choice, Figure, Switch, Words, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.structure.axes import statistics_of
from orvik.core.structure.net_ink import DENSE, Frame, NetLook, count_ink, every, net_ink, rose_ink
from orvik.core.structure.readings import ReadingChoice, chosen_readings
from orvik.core.structure.rose import rose

PROJECTED = {"equal_area": "equal area", "equal_angle": "equal angle"}
SHOWN = {"equal_area": "net, equal area", "equal_angle": "net, equal angle", "rose": "rose of strikes or trends"}


@dataclass(frozen=True, kw_only=True)
class Net(PanelPartSettings):
    """Of the readings of some kinds on a panel; ``kinds`` names them with commas between, empty for all.

    Attributes
    ----------
    unit
        The code of the map unit that the readings lie in; empty for all.
    sector
        Of a rose, in degrees.
    """

    kind: ClassVar[str] = "net"
    is_slow: ClassVar[bool] = True
    label: ClassVar[str] = "Net of readings"
    icon: ClassVar[str] = "M12 1a7 7 0 1 0 0.01 0M12 1v14M5 8h14"

    shows: str = entry(Choice("Shows", SHOWN), "equal_area")
    kinds: str = entry(Words("Kinds", longest=300), kind_words(USUAL_READING))
    unit: str = entry(Words("Map unit", longest=40), "")
    poles: bool = entry(Switch("Poles and lines"), True)
    circles: bool = entry(Switch("Great circles"), False)
    density: bool = entry(Switch("Density"), True)
    statistics: bool = entry(Switch("Girdle or mean"), True)
    sector: float = entry(Figure("Sector", 5, 45, "°"), 10.0)
    size: float = entry(Figure("Letter size", 1, 10, "mm"), 2.4)

    @property
    def counts_on(self) -> tuple[str, ...]:
        return ("attitudes",)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel), 50.0, 58.0

    def recoded(self, old: str, new: str) -> Mapping[str, Any]:
        return {"unit": new} if self.unit == old else {}

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        here = page.map.for_panel(page.panels[self.panel or 0])
        kinds = frozenset(word.strip().replace(" ", "_") for word in self.kinds.split(",") if word.strip())
        found = chosen_readings(here.features["points"], here.features["areas"], ReadingChoice(kinds, self.unit))
        if not len(found):
            return words_instead("The panel shows no such readings.", part)
        below, above = self.size * 1.5 + 1.6, max(2.4, part.width / 16) + 2.0
        radius = min(part.width / 2 - 1.2, (part.height - below - above) / 2)
        if radius < 4:
            return words_instead("There is no room for a net here; make the part larger.", part)
        frame = Frame(part.middle[0], part.y + above + radius, radius)
        named = kind_words(next(iter(kinds))) if len(kinds) == 1 else ""
        if self.shows == "rose":
            try:
                drawn = rose(found.azimuth, self.sector)
            except StructureRefused as refusal:
                return words_instead(refusal.sentence, part)
            count = len(found)
            items = rose_ink(drawn, DENSE, frame)
        else:
            count = int(found.on_net.sum())
            look = NetLook(
                "equal_area" if self.shows == "equal_area" else "equal_angle",
                self.poles,
                self.circles,
                self.density,
                self.statistics,
            )
            items = net_ink(found, found.colours(here.units), statistics_of(found), look, frame)
        said = _counted(count, named)
        if self.shows != "rose" and self.poles and every(count) > 1:
            said += f", one pole in {every(count)} drawn"
        if self.shows != "rose":
            how = f"{said}; {PROJECTED[self.shows]}, lower hemisphere"
            said = how if run(how, ITALIC, self.size).width <= part.width else said
        return [*items, count_ink(said, frame, self.size)]


def _counted(count: int, kind: str) -> str:
    """How many readings there are of a kind.

    >>> _counted(65, "bedding"), _counted(1, "")
    ('65 readings of bedding', '1 reading')
    """
    words = "1 reading" if count == 1 else f"{count} readings"
    return f"{words} of {kind}" if kind else words
