"""Arranging parts of a page: aligned, distributed, made of one size, ordered."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.part import Part

# How a row of parts is arranged, by the name that a page sends; each needs so many parts.
ALIGNED: Mapping[str, tuple[str, float]] = {
    "left": ("x", 0.0),
    "middle": ("x", 0.5),
    "right": ("x", 1.0),
    "top": ("y", 0.0),
    "centre": ("y", 0.5),
    "bottom": ("y", 1.0),
}
_SIZE = {"x": "width", "y": "height"}


def arranged(parts: Sequence[Part], how: str) -> list[Part]:
    """Parts with other places or sizes; the first stands, and the others follow it.

    Parameters
    ----------
    how
        A name of ``ALIGNED``; ``across`` or ``down`` for equal gaps between the outermost two; ``width``, ``height``
        or ``size`` for those of the first.

    Raises
    ------
    SheetRefused
        There are too few of them, or it is no way of arranging.
    """
    if how in ALIGNED:
        return _aligned(_enough(parts, 2), *ALIGNED[how])
    if how in ("across", "down"):
        return _distributed(_enough(parts, 3), "x" if how == "across" else "y")
    if how in ("width", "height", "size"):
        first = _enough(parts, 2)[0]
        sides = ("width", "height") if how == "size" else (how,)
        return [first, *(p.changed(**{side: getattr(first, side) for side in sides}) for p in parts[1:])]
    raise SheetRefused("Parts cannot be arranged so.")


def reordered(parts: Sequence[Part], numbers: Sequence[int], how: str) -> list[Part]:
    """All parts of a page with the positions that bringing some of them forward or back gives.

    Parameters
    ----------
    parts
        Of the page, the lowest first.
    how
        ``front``, ``back``, ``forward`` or ``backward``.

    Raises
    ------
    SheetRefused
        It is no way of ordering.
    """
    chosen = set(numbers)
    order = list(parts)
    if how == "front":
        order.sort(key=lambda p: p.id in chosen)
    elif how == "back":
        order.sort(key=lambda p: p.id not in chosen)
    elif how in ("forward", "backward"):
        steps = range(len(order) - 2, -1, -1) if how == "forward" else range(1, len(order))
        for i in steps:
            other = i + 1 if how == "forward" else i - 1
            if order[i].id in chosen and order[other].id not in chosen:
                order[i], order[other] = order[other], order[i]
    else:
        raise SheetRefused("Parts cannot be ordered so.")
    return [part.changed(position=position) for position, part in enumerate(order, 1)]


def _enough(parts: Sequence[Part], count: int) -> Sequence[Part]:
    if len(parts) < count:
        raise SheetRefused(f"Select at least {count} parts for this; Shift and a click adds one.")
    return parts


def _aligned(parts: Sequence[Part], axis: str, share: float) -> list[Part]:
    first = parts[0]
    line = getattr(first, axis) + share * getattr(first, _SIZE[axis])
    return [first, *(p.changed(**{axis: line - share * getattr(p, _SIZE[axis])}) for p in parts[1:])]


def _distributed(parts: Sequence[Part], axis: str) -> list[Part]:
    size_of = _SIZE[axis]

    def span(part: Part) -> tuple[float, float]:
        return getattr(part, axis), getattr(part, size_of)

    order = sorted(parts, key=lambda p: span(p)[0] + span(p)[1] / 2)
    (first, _), (last, last_size) = span(order[0]), span(order[-1])
    gap = (last + last_size - first - sum(span(p)[1] for p in order)) / (len(order) - 1)
    moved: dict[int, Part] = {}
    at = first
    for part in order:
        moved[id(part)] = part.changed(**{axis: at})
        at += span(part)[1] + gap
    return [moved[id(part)] for part in parts]
