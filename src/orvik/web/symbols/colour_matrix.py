"""The matrix of colours that meet: a cell for each pair, both colours in it and their least difference."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from orvik.core.colour.hex import is_colour
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import INK
from orvik.usecases.symbols.meeting_colours import ColourReport

CELL, BOX, MOST_UNITS = 42, 52, 14
SIGNAL = "#C8431B"


def matrix_picture(units: Sequence[MapUnit], report: ColourReport) -> str:
    """The lower half of a square, youngest first; of more than ``MOST_UNITS`` units those that are in bad pairs."""
    shown = list(units)
    if len(shown) > MOST_UNITS:
        bad = {code for pair in report.bad for code in (pair.one, pair.other)}
        shown = [unit for unit in shown if unit.code in bad][:MOST_UNITS]
    pairs = {frozenset((pair.one, pair.other)): pair for pair in report.pairs}
    out = []
    for i, unit in enumerate(shown):
        y = i * CELL + 4
        colour = _safe(unit.colour)
        out.append(f'<rect x="0.5" y="{y + 6.5}" width="44" height="26" fill="{colour}" stroke="{INK}"/>')
        out.append(f'<text class="unit" x="22" y="{y + 24}" text-anchor="middle">{escape(unit.printed_label)}</text>')
        for j, other in enumerate(shown[:i]):
            pair = pairs.get(frozenset((unit.code, other.code)))
            x = BOX + j * CELL
            if pair is None:
                continue
            one, two = _safe(other.colour), colour
            edge = f' stroke="{SIGNAL}" stroke-width="2"' if pair.least < report.wanted else f' stroke="{INK}"'
            out.append(
                f'<path d="M{x} {y}H{x + 38}L{x} {y + 38}Z" fill="{one}"/>'
                f'<path d="M{x + 38} {y}V{y + 38}H{x}Z" fill="{two}"/>'
                f'<rect x="{x}" y="{y}" width="38" height="38" fill="none"{edge}/>'
                f'<rect x="{x + 5}" y="{y + 12}" width="28" height="14" fill="#FFFFFF"/>'
                f'<text class="figure" x="{x + 19}" y="{y + 23}" text-anchor="middle">{pair.least:.1f}</text>'
            )
        out.append(f'<text class="unit" x="{BOX + i * CELL + 6}" y="{y + 24}">{escape(unit.printed_label)}</text>')
    width, height = BOX + len(shown) * CELL + 20, len(shown) * CELL + 8
    return (
        f'<svg class="matrix" width="{width}" height="{height}" viewBox="0 0 {width} {height}" role="img" '
        f'aria-label="Least differences of units that touch; the list beside it says the same">{"".join(out)}</svg>'
    )


def _safe(colour: str) -> str:
    return colour if is_colour(colour) else "#000000"
