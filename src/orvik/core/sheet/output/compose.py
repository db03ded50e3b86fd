"""Composition: a sheet and its parts become ink in millimetres on the page, a group for each part."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Group, Item, LineStyle, Stroke
from orvik.core.progress import Tell, tell_nobody
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import PanelPartSettings, Part
from orvik.core.sheet.page.text_ink import INSTEAD, words_instead
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.map_panel import MapPanel, page_of


@dataclass(frozen=True)
class Composition:
    """A sheet as ink.

    Attributes
    ----------
    groups
        One for each part in drawing order, named ``part-ID``.
    panels
        Its panels by number: how each comes from the coordinates of its system to the page.
    """

    sheet: Sheet
    groups: Sequence[Group]
    panels: Mapping[int, Panel]

    @property
    def printed(self) -> Composition:
        """The same without what parts say while they cannot show what they are there for: that is a finding."""
        return replace(self, groups=[_printed(group) for group in self.groups])


def _printed(group: Group) -> Group:
    return replace(group, items=tuple(i for i in group.items if not (isinstance(i, Group) and i.name == INSTEAD)))


def compose(
    sheet: Sheet,
    parts: Sequence[Part],
    context: MapContext,
    only: Collection[int] | None = None,
    tell: Tell = tell_nobody,
) -> Composition:
    """The ink of a sheet.

    Parameters
    ----------
    only
        The numbers of the parts that are wanted; None for all.
    tell
        Is told how far it is, part by part.
    """
    ordered = sorted(parts, key=lambda p: (p.position, p.number))
    return composition_of(page_of(sheet, ordered, context), only, tell)


def composition_of(page: PageContext, only: Collection[int] | None = None, tell: Tell = tell_nobody) -> Composition:
    """The ink of a page; as ``compose``."""
    wanted = [part for part in page.parts if only is None or part.id in only]
    # A panel takes most of the time.
    weights = [12.0 if isinstance(part.settings, MapPanel) else 1.0 for part in wanted]
    groups: list[Group] = []
    for part in wanted:
        tell(sum(weights[: len(groups)]) / sum(weights), f"composing {part.label}")
        groups.append(Group(f"part-{part.id}", tuple(_part_ink(part, page)), title=part.label))
    return Composition(page.sheet, groups, page.panels)


def _part_ink(part: Part, page: PageContext) -> list[Item]:
    settings = part.settings
    if isinstance(settings, PanelPartSettings) and not page.knows(settings):
        return words_instead(_without_panel(settings, page), part)
    items = settings.ink(part.inset(settings.padding), page)
    if isinstance(settings, MapPanel) or settings.lies_on_panel:
        return items
    return [*_ground(part), *items, *_frame(part)]


def _without_panel(settings: PanelPartSettings, page: PageContext) -> str:
    if not page.panels and not settings.reads_far:
        return "Place a map panel first."
    if settings.panel is None:
        return f"Choose the panel that this {settings.label.lower()} is for."
    return f"The panel of this {settings.label.lower()} is gone; choose another one."


def _ground(part: Part) -> list[Item]:
    colour = part.settings.ground_colour
    return [Fill(colour, _outline(part), np.array([0, 1]))] if colour else []


def _frame(part: Part) -> list[Item]:
    """The line around a part, which lies wholly within it."""
    width = part.settings.frame
    return [Stroke(LineStyle(width, INK, join="miter"), _outline(part.inset(width / 2)))] if width else []


def _outline(part: Part) -> Paths:
    x, y = part.x + part.width, part.y + part.height
    return Paths.of([(part.x, part.y), (x, part.y), (x, y), (part.x, y), (part.x, part.y)])
