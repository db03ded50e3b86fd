"""A sheet on another paper: parts keep their place against the margins; or the whole is made smaller or larger."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import figures
from orvik.core.sheet.page.entries import Figure
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.page import Guide, PageLayout, Sheet
from orvik.core.sheet.page.part import Part, PartSettings
from orvik.core.sheet.parts.map_panel import MapPanel

# Within this share of the page's room a part belongs to that margin; else it keeps its share of the way across.
NEAR = 0.34
SMALLEST, LARGEST = 10.0, 1000.0


@dataclass(frozen=True)
class Moved:
    """A sheet with its parts as they are on another paper; ``said`` is what no longer fits, a sentence each."""

    sheet: Sheet
    parts: list[Part]
    said: list[str]


def on_paper(sheet: Sheet, parts: Sequence[Part], paper: str, size: tuple[float, float], refit: bool) -> Moved:
    """A sheet on another paper.

    Parameters
    ----------
    size
        Width and height of the paper in millimetres.
    refit
        Whether panels become as much smaller or larger as the room does, with the same ground; else they keep their
        size and exact scale.
    """
    layout = sheet.layout
    across = tuple(_room(side, layout.left, layout.right) for side in (sheet.width, size[0]))
    down = tuple(_room(side, layout.top, layout.bottom) for side in (sheet.height, size[1]))
    factor = min(across[1] / across[0], down[1] / down[0])
    made = []
    for part in parts:
        width, height, settings = part.width, part.height, part.settings
        if refit and isinstance(settings, MapPanel):
            width, height = width * factor, height * factor
            settings = settings.changed({"scale": max(100, round(settings.scale / factor))})
        x = _placed(part.x - sheet.layout.left, part.width, width, *across) + sheet.layout.left
        y = _placed(part.y - sheet.layout.top, part.height, height, *down) + sheet.layout.top
        made.append(replace(part, x=round(x, 3), y=round(y, 3), width=width, height=height, settings=settings))
    guides = tuple(_guide(guide, sheet, size) for guide in sheet.layout.guides)
    page = replace(
        sheet, paper=paper, width=size[0], height=size[1], layout=replace(sheet.layout, guides=guides), id=None
    )
    return Moved(page, made, misfits(page, made))


def reduced(sheet: Sheet, parts: Sequence[Part], per_cent: float) -> Moved:
    """A sheet made smaller or larger as a whole: page, places, letters, lines and symbols; scales follow.

    Raises
    ------
    SheetRefused
        So much smaller or larger no sheet can be.
    """
    if not SMALLEST <= per_cent <= LARGEST:
        raise SheetRefused(f"A sheet can be made {SMALLEST:g} to {LARGEST:g} % of its size; {per_cent:g} is not.")
    k = per_cent / 100
    made = [
        replace(
            part,
            x=part.x * k,
            y=part.y * k,
            width=part.width * k,
            height=part.height * k,
            settings=_scaled(part, k),
            # What is as much smaller follows no template any more.
            made_as=0,
        )
        for part in parts
    ]
    layout: PageLayout = sheet.layout.changed(_lengths(sheet.layout, k))
    layout = replace(layout, guides=tuple((axis, at * k) for axis, at in sheet.layout.guides))
    page = Sheet(sheet.name, "Custom size", sheet.width * k, sheet.height * k, layout=layout)
    return Moved(page, made, [*misfits(page, made), *(said for part in parts for said in _held(part, k))])


def misfits(sheet: Sheet, parts: Sequence[Part]) -> list[str]:
    """What reaches beyond the page, a sentence each."""
    said = []
    for part in parts:
        if part.settings.lies_on_panel:
            continue
        out = max(-part.x, -part.y, part.x + part.width - sheet.width, part.y + part.height - sheet.height)
        if out > 0.05:
            said.append(f"“{part.label}” reaches {out:.1f} mm beyond the page.")
    return said


def _scaled(part: Part, k: float) -> PartSettings:
    settings = part.settings
    values = _lengths(settings, k)
    if isinstance(settings, MapPanel):
        symbols = min(5.0, max(0.2, settings.symbol_scale * k))
        values |= {"scale": max(100, round(settings.scale / k)), "symbol_scale": symbols}
    return settings.changed(values)


def _held(part: Part, k: float) -> list[str]:
    """What of a part cannot become so small or large, a sentence each."""
    settings = part.settings
    wanted = {
        declared.label: (getattr(settings, name) * k, declared.low, declared.high)
        for name, declared in settings.entries().items()
        if isinstance(declared, Figure) and declared.unit == "mm" and getattr(settings, name)
    }
    if isinstance(settings, MapPanel):
        wanted["Size of symbols"] = (settings.symbol_scale * k, 0.2, 5.0)
    return [
        f"{what} of “{part.label}” stays at {min(high, max(low, value)):g}; it would be {figures(value, 3)}."
        for what, (value, low, high) in wanted.items()
        if not low <= value <= high
    ]


def _lengths(settings: FormSettings, k: float) -> dict[str, float]:
    """The settings that are millimetres, made smaller or larger as far as they may be."""
    out = {}
    for name, declared in settings.entries().items():
        value = getattr(settings, name)
        if isinstance(declared, Figure) and declared.unit == "mm" and value is not None:
            out[name] = min(declared.high, max(declared.low, value * k))
    return out


def _room(whole: float, before: float, after: float) -> float:
    return max(1.0, whole - before - after)


def _placed(start: float, old_size: float, size: float, old: float, new: float) -> float:
    """Where a part begins in a new room: as far from the nearer margin as it was, or as far across."""
    middle = (start + old_size / 2) / old
    if start < NEAR * old and start + old_size > (1 - NEAR) * old:
        # It reaches from margin to margin: it keeps the first.
        return start
    if middle < NEAR:
        return start
    if middle > 1 - NEAR:
        return new - (old - start - old_size) - size
    return middle * new - size / 2


def _guide(guide: Guide, sheet: Sheet, size: tuple[float, float]) -> Guide:
    axis, at = guide
    layout = sheet.layout
    margins = (layout.left, layout.right) if axis == "x" else (layout.top, layout.bottom)
    old, new = (sheet.width, size[0]) if axis == "x" else (sheet.height, size[1])
    placed = _placed(at - margins[0], 0.0, 0.0, _room(old, *margins), _room(new, *margins))
    return axis, round(placed + margins[0], 3)
