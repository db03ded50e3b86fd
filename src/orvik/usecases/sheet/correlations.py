"""Correlations: their boxes put into other lanes, and drawn over a part of their time."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.correlation.box_moves import LEAST_SHARE, BoxMove
from orvik.core.sheet.parts.correlation.boxes import UnitBox
from orvik.core.sheet.parts.correlation.correlation import LOWEST, Correlation, CorrelationLayout
from orvik.core.sheet.parts.map_panel import page_of
from orvik.store import rows
from orvik.store.journal import Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.composing import context

# What of a box is taken hold of: all of it, its upper edge or its lower.
HOLDS = ("whole", "younger", "older")
NEAR_MM = 0.4


@dataclass(frozen=True)
class PlacedBox:
    """A box as its page takes hold of it.

    Attributes
    ----------
    unit
        What it stands for.
    lane, lanes
        Its lane, counted from 1 in its column, and how many that has.
    ends, shown
        What its unit's age allows and what it is drawn over, in words.
    moved
        Whether a hand has put it there.
    x, y, width, height
        Where it stands, in millimetres on the page.
    """

    unit: MapUnit
    lane: int
    lanes: int
    ends: str
    shown: tuple[float, float]
    moved: bool
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class CorrelationView:
    """A correlation with its boxes, the youngest first; ``words`` says why it cannot be laid out."""

    part: Part
    boxes: list[PlacedBox]
    words: str


def correlation_view(project: ReadProject, part_id: int) -> CorrelationView:
    """The boxes of a correlation, and where they stand; raises SheetRefused where it speaks of no panel."""
    part, settings, page = _opened(project, part_id)
    layout = settings.layout(part.inset(settings.padding), page)
    if layout.words:
        return CorrelationView(part, [], layout.words)
    out = []
    for box in layout.boxes.boxes:
        top, foot = settings.edges(box, layout)
        _, first, count = layout.boxes.columns[box.column]
        place = (layout.lanes[box.lane], top, layout.wide, foot - top)
        shown = (box.shown.older, box.shown.younger)
        moved = box.unit.code in settings.moves
        out.append(PlacedBox(box.unit, box.lane - first + 1, count, box.span.figures, shown, moved, *place))
    return CorrelationView(part, out, "")


def drag_box(project: Project, part_id: int, code: str, hold: str, by: tuple[float, float]) -> Entry | None:
    """Move a box as a hand does; None where it stays.

    Parameters
    ----------
    hold
        One of ``HOLDS``. A whole box goes to the lane that is nearest, within its column; up and down each only goes
        as far as the age of its unit allows.
    by
        How far to the right and down, in millimetres.
    """
    part, settings, page = _opened(project, part_id)
    layout = settings.layout(part.inset(settings.padding), page)
    box = _box(layout, code)
    if hold not in HOLDS:
        raise NotFound("Take hold of a box, or of its upper or lower edge.")
    move = settings.moves.get(code, BoxMove())
    if hold == "whole":
        lane = _lane_at(layout, box, by[0])
        if lane != box.lane - layout.boxes.columns[box.column][1]:
            move = replace(move, lane=lane)
    allowed = layout.y(box.span.younger), layout.y(box.span.older)
    top, foot = layout.y(box.shown.younger), layout.y(box.shown.older)
    least = min(LOWEST * settings.size + settings.below(box), allowed[1] - allowed[0])
    if hold == "whole":
        down = min(max(by[1], allowed[0] - top), allowed[1] - foot)
        top, foot = top + down, foot + down
    elif hold == "younger":
        top = min(max(top + by[1], allowed[0]), foot - least)
    else:
        foot = max(min(foot + by[1], allowed[1]), top + least)
    # An end that nearly reaches what is allowed reaches it.
    top = allowed[0] if top - allowed[0] < NEAR_MM else top
    foot = allowed[1] if allowed[1] - foot < NEAR_MM else foot
    move = _drawn_over(move, box, layout.age(top), layout.age(foot))
    return _kept(project, part, settings, page, code, move)


def change_box(
    project: Project,
    part_id: int,
    code: str,
    lane: str | None = None,
    older: str | None = None,
    younger: str | None = None,
) -> Entry | None:
    """Put a box as it is typed; what is None stays. None where nothing changes.

    Parameters
    ----------
    lane
        Counted from 1 at the left of its column.
    older, younger
        In millions of years.

    Raises
    ------
    OrvikError
        It cannot be read, or lies beyond what the age of the unit allows.
    """
    part, settings, page = _opened(project, part_id)
    box = _box(settings.layout(part.inset(settings.padding), page), code)
    move = settings.moves.get(code, BoxMove())
    if lane is not None:
        number = parse_quantity(lane, "lane", SheetRefused)
        if number != int(number) or number < 1:
            raise SheetRefused("Lanes are counted from 1 at the left of a column.")
        move = replace(move, lane=int(number) - 1)
    ends = [box.shown.older, box.shown.younger]
    for i, typed in enumerate((older, younger)):
        if typed is not None:
            ends[i] = parse_quantity(typed, "age in millions of years", SheetRefused)
    if older is not None or younger is not None:
        slack = 1e-3 * (box.span.older - box.span.younger)
        if not box.span.younger - slack <= ends[1] < ends[0] <= box.span.older + slack:
            raise SheetRefused(f"{code} is of {box.span.figures}; type ages within that, the older one first.")
        move = _drawn_over(move, box, ends[1], ends[0])
    return _kept(project, part, settings, page, code, move)


def reset_boxes(project: Project, part_id: int, code: str = "") -> Entry | None:
    """Have a box, or all, stand as they are laid out; None where they do."""
    part, settings, _ = _opened(project, part_id)
    moves = {other: move for other, move in settings.moves.items() if code and other != code}
    return _apply(project, part, replace(settings, moves=moves), "lay out the correlation")


def _drawn_over(move: BoxMove, box: UnitBox, younger: float, older: float) -> BoxMove:
    """A move that draws a box over so much of its time."""
    span = box.span
    long = span.older - span.younger
    shares = [min(max((age - span.younger) / long, 0.0), 1.0) for age in (younger, older)]
    low, high = (round(share, 9) for share in shares)
    low = min(low, 1.0 - LEAST_SHARE)
    high = max(high, low + LEAST_SHARE)
    return replace(move, younger=low, older=high)


def _lane_at(layout: CorrelationLayout, box: UnitBox, by: float) -> int:
    """The lane of its column that a box is nearest to, or one more at the right, when it is moved so far."""
    _, first, count = layout.boxes.columns[box.column]
    lefts = list(layout.lanes[first : first + count])
    apart = lefts[1] - lefts[0] if count > 1 else layout.wide * 1.2
    wanted = layout.lanes[box.lane] + by
    places = [*lefts, lefts[-1] + apart]
    return min(range(len(places)), key=lambda i: abs(places[i] - wanted))


def _box(layout: CorrelationLayout, code: str) -> UnitBox:
    box = next((box for box in layout.boxes.boxes if box.unit.code == code), None)
    if box is None or layout.words:
        raise NotFound(f"There is no box of {code[:20]} in this correlation any more.")
    return box


def _kept(
    project: Project, part: Part, settings: Correlation, page: PageContext, code: str, move: BoxMove
) -> Entry | None:
    new = settings.changed({"moves": {**settings.moves, code: move}})
    words = new.layout(part.inset(settings.padding), page).words
    if words:
        raise SheetRefused(words)
    return _apply(project, part, new, f"move the box of {code}")


def _apply(project: Project, part: Part, settings: Correlation, label: str) -> Entry | None:
    if settings == part.settings:
        return None
    if part.locked:
        raise SheetRefused(f"“{part.label}” is locked; unlock it first.")
    return project.apply(label, [rows.part_change(part.changed(settings=settings))])


def _opened(project: ReadProject, part_id: int) -> tuple[Part, Correlation, PageContext]:
    part = project.part(part_id)
    settings = part.settings
    if not isinstance(settings, Correlation):
        raise SheetRefused(f"“{part.label}” is not a correlation.")
    parts, whole = project.parts(part.sheet_id or 0), context(project, whole=False)
    page = page_of(project.sheet(part.sheet_id or 0), parts, whole)
    if not page.knows(settings):
        raise SheetRefused("Choose the panel that this correlation is for.")
    return part, settings, page
