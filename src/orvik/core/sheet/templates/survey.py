"""A quadrangle of a survey: the map and its sections on the left, and on the right all that is printed around it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.paper import smallest_paper
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.parts.conversion_bar import ConversionBar
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.core.sheet.parts.description.description import BESIDE, BOX, Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.neighbouring_sheets import NeighbouringSheets
from orvik.core.sheet.parts.net import Net
from orvik.core.sheet.parts.north_arrow.north_arrow import DIAGRAM, NorthArrow
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.sheet.parts.source_diagram import SourceDiagram
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.title import Title
from orvik.core.sheet.templates.brief import MAIN, Brief

# All in millimetres. Figures of the graticule stand around the map; strip is what is below it.
MARGIN, FIGURES, STRIP = 15.0, 8.0, 34.0
# Between the map and what is beside it, and between columns, which are as wide as lines of about fifty letters.
ASIDE, GUTTER, COLUMN = 20.0, 7.0, 80.0
MOST_COLUMNS = 8
# The head with the title, and the foot with diagrams and notes.
HEAD, FOOT = 40.0, 64.0
# The correlation, and the description beside it, take so much of what is left between the two; the signs the rest.
SHARE, LEAST, MOST = 0.4, 60.0, 110.0
# What is said of a unit, about: so many letters stand in a millimetre of a line beside its box, lines are so far apart,
# and so much parts it from the next, in heights of letters.
LETTERS, LINE, APART, LEAST_LINES = 2.1, 1.26, 0.75, 2.5
# A correlation takes so much for each unit where all are of different ages, and for its title and headings.
BOX_ROOM, HEADS = 2.35, 8.0
# Between what stands above one another.
GAP = 7.0
# Letters whose capitals are 2 mm high; 1.8 mm where there is much to say.
BODY, SMALL, MUCH = 3.0, 2.75, 25
SECTION_SIZE = 2.75

NOTES = """{projection}.
UTM grid zone {grid zones}.
Heights from {heights from}.
Contour interval {contour interval}.
Base map: {base}.
{digitized}.
Reviewed by {reviewers}.
Approved by {approved by}, {approved on}.
{edition}, {publisher}.
*Cite as:* {citation}.
{licence}.
{disclaimer}"""


def needed(width: float, height: float) -> tuple[float, float]:
    """The least page for a panel: two columns beside it, and the strip below it."""
    across = 2 * MARGIN + FIGURES + width + ASIDE + 2 * COLUMN + GUTTER
    down = 2 * MARGIN + max(FIGURES + height + FIGURES + STRIP, HEAD + 2 * LEAST + GAP + FOOT)
    return across, down


def paper_for(width: float, height: float, family: str) -> str | None:
    """The smallest paper of a family that holds a panel with all around it, with its orientation."""
    return smallest_paper(family, lambda across, down: _holds((across, down), width, height))


def _holds(page: tuple[float, float], width: float, height: float) -> bool:
    return all(side + 1e-6 >= least for side, least in zip(page, needed(width, height), strict=True))


def parts_of(brief: Brief) -> list[Part]:
    """The map at its publication scale, and around it what a survey prints.

    Raises
    ------
    SheetRefused
        The page is too small; says which paper would hold it.
    """
    centre, (width, height) = brief.centre, brief.size_at(brief.scale)
    if not _holds(brief.page, width, height):
        across, down = needed(width, height)
        better = paper_for(width, height, brief.family)
        advice = (
            f"{better} would hold it" if better else "no standard paper would; use a smaller scale or a custom size"
        )
        raise SheetRefused(
            f"At 1:{spaced(brief.scale)} the map is {width:.1f} × {height:.1f} mm, and with all that stands around it "
            f"it takes {across:.0f} × {down:.0f} mm; {advice}."
        )
    left, top = MARGIN + FIGURES, MARGIN + FIGURES
    below = top + height + FIGURES
    panel = MapPanel(name="Main map", scale=brief.scale, centre=centre, neatline=brief.neatline)
    return [
        Part(panel, left, top, width, height, id=MAIN),
        Part(Graticule(panel=MAIN, size=2.2, corners=True, neighbours=True), left, top, width, height),
        *_strip(brief, left, below, width),
        *_sections(brief, left, below + STRIP, width),
        *_beside(brief, left + width + ASIDE),
    ]


def _strip(brief: Brief, left: float, top: float, width: float) -> list[Part]:
    """Below the map: its scale in the middle, metres to feet on the left, the norths on the right."""
    bar = min(110.0, width * 0.42)
    side = (width - bar) / 2 - 4.0
    middle = left + width / 2
    north = min(side, 62.0)
    norths = NorthArrow(panel=MAIN, design=DIAGRAM, day=brief.today.isoformat(), size=2.2)
    return [
        Part(Fraction(panel=MAIN, size=5.0), middle - bar / 2, top, bar, 7.0),
        Part(ScaleBar(panel=MAIN, size=2.75), middle - bar / 2, top + 9.0, bar, 9.0),
        *([Part(ConversionBar(panel=MAIN), left, top + 8.0, side, 11.0)] if brief.heights else []),
        Part(norths, left + width - north, top, north, STRIP - 5.0),
    ]


def _sections(brief: Brief, left: float, top: float, width: float) -> list[Part]:
    """The sections of the map, one below the other, as many as the page has room for."""
    out: list[Part] = []
    room = brief.page[1] - MARGIN - top
    fitting = []
    for letter, height in brief.sections:
        if height <= room:
            fitting.append((letter, height))
            room -= height
    # What is left over parts them evenly.
    gap = min(12.0, room / (len(fitting) + 1)) if fitting else 0.0
    for letter, height in fitting:
        out.append(Part(CrossSection(panel=MAIN, letter=letter, size=SECTION_SIZE), left, top + gap, width, height))
        top += gap + height
    return out


def _beside(brief: Brief, left: float) -> list[Part]:
    """Right of the map: title and correlation beside the description, the signs below these, diagrams and notes."""
    right, bottom = brief.page[0] - MARGIN, brief.page[1] - MARGIN
    wide = right - left
    count = min(MOST_COLUMNS, max(2, int((wide + GUTTER) / (COLUMN + GUTTER))))
    column = (wide - (count - 1) * GUTTER) / count
    low = bottom - FOOT
    middle = MARGIN + HEAD + max(LEAST, min(MOST, (low - MARGIN - HEAD) * SHARE))
    size = BODY if len(brief.texts) <= MUCH else SMALL
    needed_high = _texts_high(brief.texts, column, size)
    most = low - GAP - LEAST
    # A long column takes from the signs what it needs, leaves them the least that they can be read in, and takes from
    # the correlation what that can spare.
    words = count // 2
    while words < count - 2 and needed_high / words > most - MARGIN:
        words += 1
    boxes_high = MARGIN + HEAD + (HEADS + len(brief.texts) * BOX_ROOM) * size
    middle = max(middle, min(max(MARGIN + needed_high / words, boxes_high), most))
    # Columns that the description does not need have the net.
    asked = max(1, math.ceil(needed_high / (middle - MARGIN)))
    with_net = brief.readings and asked < words
    described = words * column + (words - 1) * GUTTER
    named = wide - described - GUTTER
    texts = words - 1 if with_net else words
    across = texts * column + (texts - 1) * GUTTER
    description = Description(panel=MAIN, columns=texts, size=size)
    signs = Explanation(panel=MAIN, by="kind", units=False, columns=count)
    return [
        Part(RunningText(name="Series", text="{series} {number}", face="capitals", size=3.6), left, MARGIN, named, 6.0),
        Part(Title(text="{title}", size=9.0), left, MARGIN + 6.0, named, 13.0),
        Part(RunningText(name="Subtitle", text="{subtitle}", face="italic", size=4.4), left, MARGIN + 20.0, named, 7.0),
        Part(RunningText(name="By", text="By {authors}, {year}", size=3.4), left, MARGIN + 28.0, named, 6.0),
        Part(Correlation(panel=MAIN, size=size), left, MARGIN + HEAD, named, middle - MARGIN - HEAD),
        Part(description, right - described, MARGIN, across, middle - MARGIN),
        *([Part(Net(panel=MAIN, size=BODY), right - column, MARGIN, column, column + 8.0)] if with_net else []),
        Part(signs, left, middle + GAP, wide, low - middle - GAP),
        *_foot(left, low + GAP, wide, column, count),
    ]


def _texts_high(texts: Sequence[int], column: float, size: float) -> float:
    """About how high a description is in one column, in millimetres."""
    beside = (column - (BOX[0] + BESIDE) * size) * LETTERS / size
    lines = [max(math.ceil(letters / beside), LEAST_LINES) for letters in texts]
    # A heading for every few of them, and the title.
    return sum((count * LINE + APART) * size for count in lines) + (len(texts) / 6 + 2) * 2.6 * size


def _foot(left: float, top: float, wide: float, column: float, count: int) -> list[Part]:
    """The neighbouring sheets, the sources, and what is to be said of the map."""
    high = FOOT - GAP
    index = min(54.0, column * 0.62)
    notes = column * (1.4 if count > 3 else 1.0) if count > 2 else wide - index - GUTTER
    room = wide - index - notes - 2 * GUTTER
    parts = [Part(NeighbouringSheets(size=BODY), left, top, index, min(high, index * 0.8 + 6.0))]
    if room > 60.0:
        diagram = SourceDiagram(panel=MAIN, size=BODY)
        parts.append(Part(diagram, left + index + GUTTER, top, min(room, 1.35 * column), high))
    text = RunningText(name="Notes", text=NOTES, marked=True, size=SMALL)
    return [*parts, Part(text, left + wide - notes, top, notes, high)]
