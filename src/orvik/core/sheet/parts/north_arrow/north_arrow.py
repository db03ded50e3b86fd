"""The north arrow: it turns with its panel, and says where the other norths are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.arrays import Floats
from orvik.core.errors import OrvikError
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, LineStyle, Stroke, Text
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run
from orvik.core.sheet.page.day import parse_day
from orvik.core.sheet.page.entries import Choice, Day, Figure, FileOf, Switch, entry
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part
from orvik.core.sheet.page.sheet_file import Drawn
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.north_arrow.designs import DESIGNS, arrow_ink, has_letter
from orvik.core.sheet.parts.north_arrow.north_angles import Norths, norths_of
from orvik.core.sheet.parts.picture import ACCEPTED

LEADING = 1.25
# The lines of the diagram stand at least so far apart, in degrees; their true angles stand beside them.
APART = 9.0
DIAGRAM = "diagram"
# An arrow that somebody has drawn, which points upwards in its file.
OWN = "own"
# How much of the diagram's height its lines take below the marks at their tips.
MARK = 2.6


@dataclass(frozen=True, kw_only=True)
class NorthArrow(PanelPartSettings):
    """Where north is on a panel.

    Attributes
    ----------
    design
        A name of ``DESIGNS``, ``DIAGRAM`` for all norths from one foot, or ``OWN`` for the drawing of ``file``.
    points
        The north that an arrow shows: ``grid`` or ``true``.
    day
        The day that the declination is of; empty for none.
    words
        Whether the norths are said in words below.
    in_mils
        Whether they are said in mils as well.
    """

    kind: ClassVar[str] = "north_arrow"
    label: ClassVar[str] = "North arrow"
    stands_by: ClassVar[bool] = True
    icon: ClassVar[str] = "M12 15V1M12 1l3 6-3-2-3 2z"
    essential_in_figures: ClassVar[tuple[str, ...]] = ("North arrow",)
    essential: ClassVar[tuple[str, ...]] = ("North arrow", "Magnetic declination")

    design: str = entry(
        Choice(
            "Design",
            {**{name: title for name, (title, _) in DESIGNS.items()}, DIAGRAM: "all norths", OWN: "custom drawing"},
        ),
        "needle",
    )
    file: str = entry(FileOf("Custom drawing", accept=ACCEPTED), "")
    points: str = entry(Choice("Points to", {"grid": "grid north", "true": "true north"}), "grid")
    day: str = entry(Day("Declination of"), "")
    words: bool = entry(Switch("In words below"), True)
    in_mils: bool = entry(Switch("In mils, too"), False)
    size: float = entry(Figure("Letter size", 1, 20, "mm"), 1.9)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(panel=context.panel, day=context.today.isoformat()), 44.0, 26.0

    @property
    def supplied(self) -> tuple[str, ...]:
        return self.essential if self.day and self.words else self.essential[:1]

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels[self.panel or 0]
        try:
            norths = norths_of(panel, parse_day(self.day))
        except OrvikError as refusal:
            return words_instead(refusal.sentence, part)
        lines = norths.lines(self.in_mils) if self.words else []
        leading = self.size * LEADING
        room = part.height - len(lines) * leading
        if self.design == OWN:
            found = page.map.files(self.file) if self.file else None
            if found is None:
                return words_instead("Choose the drawing of this arrow; in its file it points upwards.", part)
            items = self._own(part, room, norths, found)
        else:
            items = self._diagram(part, room, norths) if self.design == DIAGRAM else self._arrow(part, room, norths)
        for i, line in enumerate(lines):
            letters = run(line, ITALIC, self.size, "centre")
            size = self.size * min(1.0, part.width / max(letters.width, 1e-9))
            y = part.y + room + (i + 1) * leading - (leading - cap_height(self.size)) / 2
            items.append(Text(run(line, ITALIC, size, "centre"), (part.middle[0], y), INK))
        return items

    def _angle(self, norths: Norths) -> float:
        return norths.grid if self.points == "grid" else norths.true

    def _own(self, part: Part, room: float, norths: Norths, drawn: Drawn) -> list[Item]:
        height = max(3.0, room - 1.0 - (self.size * LEADING if self.words else 0.0))
        angle = self._angle(norths)
        # Turned, it keeps the height that it has upright.
        box = (part.x, part.y + 0.5, part.width, height)
        return [*drawn.ink(box, turned=angle), *self._named(part, room)]

    def _arrow(self, part: Part, room: float, norths: Norths) -> list[Item]:
        angle = self._angle(norths)
        letter = self.size * 1.5 if has_letter(self.design) else 0.0
        height = max(3.0, room - 1.0 - 2 * cap_height(letter) - (self.size * LEADING if self.words else 0.0))
        middle = (part.middle[0], part.y + 0.5 + cap_height(letter) * 1.6 + height / 2)
        items = arrow_ink(self.design, middle, height, angle)
        if letter:
            radians = np.radians(angle)
            away = height / 2 + cap_height(letter) * 1.1
            at = (middle[0] + away * float(np.sin(radians)), middle[1] - away * float(np.cos(radians)))
            items.append(Text(run("N", ROMAN, letter, "centre"), at, INK, offset=(0.0, cap_height(letter) / 2)))
        return [*items, *self._named(part, room)]

    def _named(self, part: Part, room: float) -> list[Item]:
        """Which north an arrow shows, if norths are said in words."""
        if not self.words:
            return []
        named = run("Grid north" if self.points == "grid" else "True north", ROMAN, self.size, "centre")
        return [Text(named, (part.middle[0], part.y + room - (self.size - cap_height(self.size)) / 2), INK)]

    def _diagram(self, part: Part, room: float, norths: Norths) -> list[Item]:
        """A line to each north from one foot: a star at the true one, half an arrow at the magnetic one."""
        stands = {"true": norths.true, "grid": norths.grid}
        if norths.magnetic is not None:
            stands["magnetic"] = norths.magnetic_on_page
        drawn = spread(stands, APART)
        middle = np.radians((min(drawn.values()) + max(drawn.values())) / 2)
        length = max(4.0, room - 2 * MARK - 1.0)
        foot = np.array(
            [
                part.middle[0] - 0.5 * length * np.sin(middle),
                part.y + MARK + 0.5 + length / 2 + 0.5 * length * np.cos(middle),
            ]
        )
        items: list[Item] = []
        for name, angle in drawn.items():
            way = np.array([np.sin(np.radians(angle)), -np.cos(np.radians(angle))])
            reach = length * (1.0 if name == "true" else 0.86)
            tip = foot + way * reach
            items.append(Stroke(LineStyle(0.2, INK), Paths.of([_pair(foot), _pair(tip)])))
            across = np.array([-way[1], way[0]])
            if name == "magnetic":
                right = 1.0 if angle >= drawn["true"] else -1.0
                barb = tip - way * 2.6 + across * right * 1.1
                head = Paths.of([_pair(tip), _pair(barb), _pair(tip - way * 1.9)])
                items.append(Fill(INK, head, np.array([0, 1])))
            if name == "true":
                items.append(Fill(INK, Paths.of(_star(tip + way * 1.4)), np.array([0, 1])))
            else:
                words = "GN" if name == "grid" else "MN"
                # Beside its tip, away from the star.
                side = "right" if angle < drawn["true"] else "left"
                at = tip + np.array([-0.6 if side == "right" else 0.6, 0.0])
                items.append(Text(run(words, ROMAN, self.size, side), _pair(at), INK))
        return items


def spread(angles: dict[str, float], apart: float) -> dict[str, float]:
    """Angles moved so far that none are nearer than so many degrees, in the same order and about the same middle.

    >>> spread({"true": 0.0, "grid": 1.0, "magnetic": -20.0}, 9.0)
    {'magnetic': -24.0, 'true': -4.0, 'grid': 5.0}
    """
    order = sorted(angles, key=lambda name: angles[name])
    out: dict[str, float] = {}
    for before, name in zip([None, *order[:-1]], order, strict=True):
        out[name] = angles[name] if before is None else max(angles[name], out[before] + apart)
    shift = (min(angles.values()) + max(angles.values()) - min(out.values()) - max(out.values())) / 2
    return {name: value + shift for name, value in out.items()}


def _star(middle: Floats) -> list[tuple[float, float]]:
    turn = np.arange(10) * np.pi / 5
    reach = np.where(np.arange(10) % 2, 0.45, 1.15)
    return [
        (float(middle[0] + r * np.sin(t)), float(middle[1] - r * np.cos(t))) for t, r in zip(turn, reach, strict=True)
    ]


def _pair(place: Floats) -> tuple[float, float]:
    return float(place[0]), float(place[1])
