"""Letters that are too small, too faint, or have no room in their frame; lines that are too thin."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.colour.hex import contrast, contrasts
from orvik.core.findings.finding import Finding, Fix
from orvik.core.findings.page.sheet_ground import Letters, SheetGround
from orvik.core.findings.rule import of_sheet, rule
from orvik.core.ground.scale import figures
from orvik.core.ink.primitives import Group, Item, Marks, Ornaments, Pattern, Stroke, Text, walk
from orvik.core.lettering import cap_height, missing_letters
from orvik.core.sheet.page.part import Part

rule(
    "text_cut",
    "error",
    "sheet",
    "A text is longer than its frame",
    why="its end is printed nowhere",
    spoils="reading",
)
rule(
    "letters",
    "error",
    "letters",
    "A text has letters for which no face of the sheet has a shape",
    why="boxes are printed in their place",
    spoils="reading",
)
rule(
    "small_letters",
    "warning",
    "letters",
    "Letters are smaller than 5 points, or those of a text have capitals lower than 1.8 mm",
    why="they cannot be read at arm's length",
    spoils="reading",
)
rule(
    "faint_letters",
    "warning",
    "letters",
    "Letters stand out from their ground by less than 3:1",
    "WCAG 2.2, 1.4.11",
    why="they cannot be read in poor light",
    spoils="reading",
)
rule(
    "thin_line",
    "warning",
    "letters",
    "A line is thinner than 0.1 mm",
    why="it breaks up on the press",
    spoils="reading",
)

# The least size of letters: 5 points of 1/72 inch, with a hair for rounding.
LEAST_POINTS = 5.0
POINT_MM = 25.4 / 72
# The least size of a text's letters: capitals of 1.8 mm (common practice of surveys).
LEAST_CAPITALS_MM = 1.8
LEAST_TEXT_MM = LEAST_CAPITALS_MM / cap_height(1.0)
# The least contrast of letters with their ground, and of lines in millimetres.
LEAST_CONTRAST = 3.0
LEAST_LINE_MM = 0.1
# Letters are looked at so many heights at a time; they are faint where this share of the ground below these is too near
# to their colour: a line that runs through them is less, and a word that begins on a dark picture is more.
LOOKED_AT, FAINT_SHARE = 3.0, 0.35
ROUNDING = 1e-3


@of_sheet
def letters_without_glyph(ground: SheetGround) -> list[Finding]:
    """Parts that print letters for which no face has a shape, each told once with all that it lacks."""
    lacking: dict[int, tuple[str, Letters]] = {}
    for letters in ground.letters:
        missing = missing_letters(letters.text.run.chars, letters.text.run.font)
        if missing:
            before = lacking.get(letters.part, ("", letters))
            lacking[letters.part] = ("".join(dict.fromkeys(before[0] + missing)), before[1])
    out = []
    for number, (missing, letters) in sorted(lacking.items()):
        listed = ", ".join(f"“{c}” (U+{ord(c):04X})" for c in missing[:6])
        said = letters.text.run.chars[:40]
        message = f"“{said}” of {ground.parts[number].label} has {listed}, printed as a box; write it otherwise."
        out.append(
            Finding("letters", "error", message, None, (), None, (), (number,), _middle(letters.box), facts=(missing,))
        )
    return out


@of_sheet
def small_letters(ground: SheetGround) -> list[Finding]:
    """Parts with letters that are too small, each told once with its smallest: in a text more is to be read."""
    least: dict[int, tuple[float, Letters]] = {}
    for letters in ground.letters:
        size = _size_of(letters, ground)
        if size < _least(ground.parts[letters.part]) - ROUNDING and size < least.get(letters.part, (np.inf,))[0]:
            least[letters.part] = (size, letters)
    out = []
    for number, (size, letters) in sorted(least.items()):
        part = ground.parts[number]
        said = letters.text.run.chars[:40]
        if size < LEAST_POINTS * POINT_MM - ROUNDING:
            message = f"“{said}” of {part.label} is set in {size / POINT_MM:.1f} points; below 5 few can read it."
        else:
            capitals = figures(cap_height(size), 2)
            message = f"“{said}” of {part.label} has capitals of {capitals} mm; letters of 2.75 mm are read well."
        out.append(
            Finding(
                "small_letters", "warning", message, None, (), None, (), (number,), _middle(letters.box), facts=(said,)
            )
        )
    return out


def _least(part: Part) -> float:
    """The least size of letters of a part, in millimetres."""
    return LEAST_TEXT_MM if part.settings.sets_text else LEAST_POINTS * POINT_MM


def _size_of(letters: Letters, ground: SheetGround) -> float:
    """The size of letters in millimetres; labels grow with the symbols of their panel."""
    panel = ground.page.panels.get(letters.part)
    if panel is None or any(letters.text is t for t in walk(ground.ink[letters.part].items) if isinstance(t, Text)):
        return letters.text.run.size
    return letters.text.run.size * panel.symbol_scale


@of_sheet
def faint_letters(ground: SheetGround) -> list[Finding]:
    """Parts with letters that hardly stand out from what lies beneath them, each told once with its faintest."""
    letters = ground.letters
    if not letters:
        return []
    page = shapely.box(0, 0, ground.page.sheet.width, ground.page.sheet.height)
    seen = [found for found in letters if found.box.intersects(page)]
    pieces = [(found, piece) for found in seen for piece in _pieces(found)]
    colours = ground.beneath([piece for _, piece in pieces])
    worst: dict[int, tuple[float, Letters]] = {}
    for (found, _), under in zip(pieces, colours, strict=True):
        held = float(np.quantile(contrasts(found.text.colour, under), FAINT_SHARE))
        if found.text.halo:
            held = max(held, contrast(found.text.colour, found.text.halo))
        if held < LEAST_CONTRAST and held < worst.get(found.part, (np.inf,))[0]:
            worst[found.part] = (held, found)
    out = []
    for number, (held, found) in sorted(worst.items()):
        message = (
            f"“{found.text.run.chars[:40]}” of {ground.parts[number].label} hardly stands out from its ground "
            f"({held:.1f}:1); choose another colour."
        )
        out.append(
            Finding(
                "faint_letters",
                "warning",
                message,
                None,
                (),
                None,
                (),
                (number,),
                _middle(found.box),
                facts=(found.text.run.chars,),
            )
        )
    return out


def _pieces(letters: Letters) -> list[shapely.Polygon]:
    """The box of a text, cut across into pieces of a few letters."""
    begin, end, below_end, below = shapely.get_coordinates(letters.box.exterior)[:4]
    count = max(1, round(float(np.hypot(*(end - begin))) / (LOOKED_AT * letters.text.run.size)))
    at = np.linspace(0.0, 1.0, count + 1)[:, None]
    upper, lower = begin + at * (end - begin), below + at * (below_end - below)
    return [shapely.Polygon([upper[i], upper[i + 1], lower[i + 1], lower[i]]) for i in range(count)]


@of_sheet
def thin_lines(ground: SheetGround) -> list[Finding]:
    """Parts with lines below 0.1 mm, each told once with its thinnest."""
    out = []
    for number, group in ground.ink.items():
        widths = [(width, place) for width, place in _lines(group.items) if 0 < width < LEAST_LINE_MM - ROUNDING]
        if not widths:
            continue
        width, place = min(widths, key=lambda found: found[0])
        part = ground.parts[number]
        message = f"A line of {part.label} is {figures(width, 2)} mm thin; below 0.1 mm a printer may drop it."
        fix = Fix("set", "Make it 0.1 mm", values={"frame": "0.1"}) if 0 < part.settings.frame < LEAST_LINE_MM else None
        out.append(
            Finding("thin_line", "warning", message, None, (), fix, (), (number,), place, facts=(figures(width, 2),))
        )
    return out


def _lines(items: Sequence[Item]) -> Iterator[tuple[float, tuple[float, float]]]:
    """The width of each line of ink, and a place of it."""
    for item in items:
        if isinstance(item, Group):
            yield from _lines(item.items)
        elif isinstance(item, Stroke) and len(item.paths.xy):
            yield item.style.width, _pair(item.paths.xy[len(item.paths.xy) // 2])
        elif isinstance(item, Marks | Ornaments) and len(item.at):
            for piece in item.stamp.items:
                if isinstance(piece, Stroke):
                    yield piece.style.width, _pair(item.at[0])
        elif isinstance(item, Pattern) and len(item.paths.xy):
            for piece in item.tile.items:
                if isinstance(piece, Stroke):
                    yield piece.style.width, _pair(item.paths.xy[0])


@of_sheet
def text_cut(ground: SheetGround) -> list[Finding]:
    """Running texts, titles and credit notes that are longer than their frame."""
    out = []
    for number, part in ground.parts.items():
        if not part.settings.sets_text:
            continue
        boxes = [found.box.bounds for found in ground.letters if found.part == number]
        if not boxes:
            continue
        bottom, right = max(box[3] for box in boxes), max(box[2] for box in boxes)
        below, beside = bottom - (part.y + part.height), right - (part.x + part.width)
        if max(below, beside) <= 0.5:
            continue
        what = f"{below:.1f} mm longer" if below >= beside else f"{beside:.1f} mm wider"
        fix = None
        if not part.locked:
            height, width = part.height + max(below, 0.0) + 0.2, part.width + max(beside, 0.0) + 0.2
            values = {"height": f"{height:.1f}", "width": f"{width:.1f}"}
            fix = Fix("onto_page", "Make its frame larger", values=values)
        message = f"The text of {part.label} is {what} than its frame."
        out.append(Finding("text_cut", "error", message, None, (), fix, (), (number,), (part.middle[0], bottom)))
    return out


def _middle(box: shapely.Polygon) -> tuple[float, float]:
    return float(box.centroid.x), float(box.centroid.y)


def _pair(xy: Floats) -> tuple[float, float]:
    return float(xy[0]), float(xy[1])
