"""Parts: anything placed on a sheet, and the settings that say what it is and what it shows."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import count
from typing import Any, ClassVar, Self

import shapely

from orvik.core.errors import SheetRefused
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Item
from orvik.core.sheet.page.entries import Colour, Figure, GroupNumber, PanelNumber, Switch, Words, entry
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.page import LARGEST_MM, Sheet
from orvik.core.stored import Stored


@dataclass(frozen=True)
class NewPartContext:
    """What a part is newly placed on.

    ``panel`` is the number of the panel that it may speak of: the one selected, else the largest; None where the sheet
    has none. ``taken_names`` are those of the panels that are there; ``described`` the numbers of those whose units a
    part describes already.
    """

    sheet: Sheet
    scales: Scales
    crs: ProjectCrs
    border: shapely.LineString | None
    today: date
    panel: int | None = None
    taken_names: frozenset[str] = frozenset()
    described: frozenset[int | None] = frozenset()


@dataclass(frozen=True, kw_only=True)
class PartSettings(FormSettings, ABC):
    """What a part shows; the type says of what kind it is.

    Attributes
    ----------
    name
        What it is called in the list of what is placed; empty for its kind.
    frame
        Width in millimetres of a line around it; 0 for none.
    padding
        Room in millimetres between its edge and what it shows.
    group
        Which group of its sheet it is of; 0 for none.
    ground_colour
        What lies under it, as ``#RRGGBB``; None for bare paper.
    """

    kind: ClassVar[str]
    label: ClassVar[str]
    # A small drawing for lists: the path of an SVG of 24 by 16.
    icon: ClassVar[str] = ""
    # What it gives a published sheet of what that must carry.
    essential: ClassVar[tuple[str, ...]] = ()
    # Which of these a figure in a text must carry itself; the text around says the rest.
    essential_in_figures: ClassVar[tuple[str, ...]] = ()
    # Whether it is drawn over a panel, in the frame of that, and has no place of its own.
    lies_on_panel: ClassVar[bool] = False
    # Whether it sets text in its frame, which may be too long for that; and whether that is its setting ``text``.
    sets_text: ClassVar[bool] = False
    has_own_text: ClassVar[bool] = False
    # Whether a reader loses something where it lies below another part.
    can_be_hidden: ClassVar[bool] = True
    # Whether it is drawn after the others, which would wait for it.
    is_slow: ClassVar[bool] = False
    # Whether lengths are measured by it on its panel.
    measures: ClassVar[bool] = False

    name: str = entry(Words("Name", longest=60), "")
    group: int = entry(GroupNumber("Group"), 0)
    frame: float = entry(Figure("Frame", 0, 5, "mm"), 0.0)
    padding: float = entry(Figure("Padding", 0, 50, "mm"), 0.0)
    ground_colour: str | None = entry(Colour("Ground colour"), None)

    @classmethod
    @abstractmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        """Settings, width and height in millimetres of a part that is newly placed.

        Raises
        ------
        SheetRefused
            It cannot be placed yet.
        """

    @abstractmethod
    def ink(self, part: Part, page: Any) -> list[Item]:
        """What it shows, in millimetres on the page.

        Parameters
        ----------
        part
            Its place without the padding.
        page
            A ``PageContext``, which knows of parts and so cannot be known here.
        """

    @property
    def summary(self) -> str:
        """What a list says of it beside its name."""
        return ""

    @property
    def hides(self) -> bool:
        """Whether nothing is seen through it of what lies below."""
        return self.ground_colour is not None

    @property
    def supplied(self) -> tuple[str, ...]:
        """Which of its essentials it really shows, as it is set."""
        return self.essential

    def renumbered(self, numbers: Mapping[int, Any]) -> Mapping[str, Any]:
        """The values to change where the panels it speaks of have other numbers."""
        return {}

    def recoded(self, old: str, new: str) -> Mapping[str, Any]:
        """The values to change where a map unit that it speaks of has another code."""
        return {}


@dataclass(frozen=True, kw_only=True)
class PanelPartSettings(PartSettings):
    """Of a part that speaks of a panel; ``panel`` is the number of that."""

    # Whether that may be a panel of another sheet.
    reads_far: ClassVar[bool] = False
    # Whether a reader takes it to speak of the panel that it stands at.
    stands_by: ClassVar[bool] = False

    panel: int | None = entry(PanelNumber("Panel"), None)

    @property
    def counts_on(self) -> tuple[str, ...]:
        """The layers without which what it says of its panel cannot be found there."""
        return ()

    def renumbered(self, numbers: Mapping[int, Any]) -> Mapping[str, Any]:
        return {"panel": numbers[self.panel]} if self.panel is not None and self.panel in numbers else {}


@dataclass(frozen=True, kw_only=True)
class FlowSettings(PanelPartSettings):
    """Of a part whose text may go on in further ones, on this sheet or the next.

    ``goes_on`` says that it is no beginning, but takes what finds no room in the one before it, of the same panel.
    """

    reads_far: ClassVar[bool] = True

    goes_on: bool = entry(Switch("Goes on from the one before"), False)


@dataclass(frozen=True)
class Part(Stored):
    """Anything placed on a sheet, in millimetres from the page's upper left corner.

    ``position`` counts from the lowest; ``made_as`` is the number of the part of the template that its sheet follows
    which it was made as, 0 for one that is none of that.
    """

    settings: PartSettings
    x: float
    y: float
    width: float
    height: float
    id: int | None = None
    sheet_id: int | None = None
    position: int = 1
    locked: bool = False
    made_as: int = 0

    def __post_init__(self) -> None:
        if not all(math.isfinite(v) for v in (self.x, self.y, self.width, self.height)):
            raise SheetRefused("A place or size is not a number; type millimetres such as 12.5.")
        if not (1 <= self.width <= LARGEST_MM and 1 <= self.height <= LARGEST_MM):
            raise SheetRefused(f"A part is 1 to {LARGEST_MM:g} mm wide and high; type another size.")
        if not (-LARGEST_MM <= self.x <= LARGEST_MM and -LARGEST_MM <= self.y <= LARGEST_MM):
            raise SheetRefused("That place lies far off the page; type millimetres from its upper left corner.")

    @property
    def kind(self) -> str:
        return self.settings.kind

    @property
    def label(self) -> str:
        """What it is called: by its name, or by its kind."""
        return self.settings.name or self.settings.label

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2

    def inset(self, by: float) -> Part:
        """The same within a padding; never smaller than a millimetre."""
        width, height = max(1.0, self.width - 2 * by), max(1.0, self.height - 2 * by)
        return replace(self, x=self.x + by, y=self.y + by, width=width, height=height)

    def changed(self, **values: Any) -> Part:
        """The same part with other values."""
        return replace(self, **values)


def numbered(parts: Sequence[Part]) -> list[Part]:
    """Parts of which some are stored nowhere yet, each with a number, so that they can be composed."""
    taken = {part.id for part in parts}
    free = (number for number in count(-1, -1) if number not in taken)
    return [part if part.id is not None else part.changed(id=next(free)) for part in parts]


def largest(parts: Sequence[Part], kind: type[PartSettings]) -> Part | None:
    """The largest part of a kind on a sheet."""
    found = [p for p in parts if isinstance(p.settings, kind)]
    return max(found, key=lambda p: p.width * p.height, default=None)
