"""A proof on paper: numbered marks on the sheet, and a checklist to sign."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orvik.core.coordinates import PageXY
from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import GROUPS, RULES
from orvik.core.ground.scale import spaced
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Fill, Group, Item, LineStyle, Stroke, Text
from orvik.core.lettering import BOLD, ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.page import Sheet

MARKS = "Marks of the proof"
GRAVE, LIGHT = "#A61B1B", "#8F5A0F"
# Millimetres: a ring around the place, and the box with the number to its upper right.
RING, BOX, NUMBER, LINE = 4.0, 6.0, 3.6, 0.35
# Between two boxes.
ROOM = 0.6
# The checklist: an A4 page upright, its margins, the columns of its table, and its letters.
PAGE = (210.0, 297.0)
MARGIN, TICK, NUMBERS, SAID = 18.0, 4.0, 12.0, 26.0
SIZE, LEADING = 3.0, 1.35
# What is left at the foot for those who sign.
SIGNING = 40.0


def marks_ink(findings: Sequence[Finding], sheet: Sheet) -> Group:
    """A mark for each finding that has a place on the page, with the number that it has among all, from 1."""
    placed = [(number, finding) for number, finding in enumerate(findings, 1) if finding.spot is not None]
    spots = [finding.spot for _, finding in placed if finding.spot is not None]
    widths = [_box_width(str(number)) for number, _ in placed]
    items: list[Item] = []
    for (number, finding), spot, middle in zip(placed, spots, boxes(spots, widths, sheet), strict=True):
        items += _mark(spot, middle, str(number), colour_of(finding))
    return Group("marks", tuple(items), title=MARKS)


def _box_width(number: str) -> float:
    return max(BOX, run(number, BOLD, NUMBER, "centre").width + 2.4)


def boxes(spots: Sequence[PageXY], widths: Sequence[float], sheet: Sheet) -> list[PageXY]:
    """The middles of the boxes of marks: none lies on another, and on the ring of another only where all is full.

    Parameters
    ----------
    spots
        What is marked, in millimetres.
    widths
        Of the boxes, which are all ``BOX`` high.
    """
    taken: list[tuple[float, float, float]] = []
    out: list[PageXY] = []
    for i, (x, y) in enumerate(spots):
        wide = widths[i]
        free: PageXY | None = None
        for dx, dy in _PLACES:
            # Beside the ring, a wider box stands as far off as a narrow one.
            bx, by = x + dx + float(np.sign(dx)) * (wide - BOX) / 2, y + dy
            if not (wide / 2 <= bx <= sheet.width - wide / 2 and BOX / 2 <= by <= sheet.height - BOX / 2):
                continue
            if any(abs(bx - a) < (wide + w) / 2 + ROOM and abs(by - b) < BOX + ROOM for a, b, w in taken):
                continue
            free = free or (bx, by)
            others = (spot for n, spot in enumerate(spots) if n != i)
            if all(abs(bx - a) >= wide / 2 + RING or abs(by - b) >= BOX / 2 + RING for a, b in others):
                free = (bx, by)
                break
        found = free or (min(max(x + 6.0, wide / 2), sheet.width - wide / 2), max(y - 6.0, BOX / 2))
        taken.append((*found, wide))
        out.append(found)
    return out


def _around() -> list[tuple[float, float]]:
    """Where a box may stand about a ring: at its upper right first, then around, then further off."""
    near = RING * 0.75 + BOX / 2
    places = [(near, -near), (near, near), (-near, -near), (-near, near), (0, -near * 1.2), (0, near * 1.2)]
    for radius in (13.0, 19.0, 26.0, 34.0, 44.0):
        turns = (np.arange(16) + 0.5) * np.pi / 8 - np.pi / 2
        places += [(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in turns]
    return places


_PLACES = _around()


def colour_of(finding: Finding) -> str:
    """Red for what must be fixed, ochre for what wants a look."""
    return GRAVE if finding.severity == "error" else LIGHT


def _mark(spot: PageXY, middle: PageXY, number: str, colour: str) -> list[Item]:
    x, y = spot
    turn = np.linspace(0, 2 * np.pi, 49)
    ring = np.column_stack([x + RING * np.cos(turn), y + RING * np.sin(turn)])
    letters = run(number, BOLD, NUMBER, "centre")
    left, top, wide = middle[0] - _box_width(number) / 2, middle[1] - BOX / 2, _box_width(number)
    corners = [(left, top), (left + wide, top), (left + wide, top + BOX), (left, top + BOX), (left, top)]
    style = LineStyle(LINE, colour, join="miter")
    at = (middle[0], middle[1] + cap_height(NUMBER) / 2)
    # From the rim of the ring to the box, which hides its end.
    away = np.array(middle) - spot
    rim = np.array(spot) + away * (RING / max(float(np.hypot(*away)), RING))
    return [
        Stroke(style, Paths.of([(float(a), float(b)) for a, b in ring])),
        Stroke(style, Paths.of([(float(rim[0]), float(rim[1])), middle])),
        Fill(PAPER, Paths.of(corners), np.array([0, 1])),
        Stroke(style, Paths.of(corners)),
        Text(letters, at, colour),
    ]


def counted(number: int, what: str) -> str:
    """How many there are, in words.

    >>> counted(1, "error"), counted(2, "warning")
    ('1 error', '2 warnings')
    """
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def checklist(title: str, said: str, judged: Judged) -> list[list[Item]]:
    """The pages of a checklist: one to sign, with all that is open and accepted where that has room on it.

    Else the first says how much there is of what, and is signed, and the lists follow on further pages.

    Parameters
    ----------
    title
        Of the sheet and the project.
    said
        What stands below it: the revision and the day.
    """
    writer = _Writer(title, said)
    _counts(writer, judged)
    _lists(writer, judged)
    writer.signatures()
    if len(writer.pages) == 1:
        return writer.pages
    writer = _Writer(title, said)
    _counts(writer, judged)
    _by_group(writer, judged)
    writer.signatures()
    assert len(writer.pages) == 1
    writer.next_page()
    _lists(writer, judged)
    return writer.pages


def _counts(writer: _Writer, judged: Judged) -> None:
    warnings = len(judged.open) - judged.errors
    writer.heading(f"{counted(judged.errors, 'error')}, {counted(warnings, 'warning')}")


def _by_group(writer: _Writer, judged: Judged) -> None:
    """How many there are of each group of rules, and the worst of each."""
    for name, words in GROUPS.items():
        mine = [finding for finding in judged.open if RULES[finding.rule].group == name]
        if not mine:
            continue
        errors = sum(finding.severity == "error" for finding in mine)
        counts = f"{counted(errors, 'error')}, {counted(len(mine) - errors, 'warning')}"
        writer.line(f"{words}: {counts}. First: {mine[0].message}")
    accepted = len(judged.accepted)
    if accepted:
        writer.line(f"{counted(accepted, 'finding')} accepted with a reason.", ITALIC)
    if judged.turned_off:
        writer.line(f"{counted(len(judged.turned_off), 'rule')} turned off.", ITALIC)
    writer.line("All of them are listed on the pages that follow.", ITALIC)


def _lists(writer: _Writer, judged: Judged) -> None:
    for number, finding in enumerate(judged.open, 1):
        words = f"{finding.message}{_place(finding)}"
        writer.row(str(number), words, colour_of(finding), finding.severity == "error")
    if not judged.open:
        writer.line("Nothing was found.", ITALIC)
    if judged.accepted:
        writer.heading("Accepted")
        for finding, held in judged.accepted:
            writer.line(f"{finding.message} “{held.reason}” {held.signed}, {held.dated}")
    if judged.turned_off:
        writer.heading("Rules turned off")
        for name, count in judged.turned_off.items():
            writer.line(f"{RULES[name].title}: {count} not told")


def _place(finding: Finding) -> str:
    """Where something lies that the sheet does not show, in coordinates of the project; empty for what has a mark."""
    if finding.spot is not None or finding.at is None:
        return ""
    return f" Off the sheet, at {spaced(finding.at[0])} E, {spaced(finding.at[1])} N."


class _Writer:
    """Lines down a page, and on to the next."""

    def __init__(self, title: str, said: str) -> None:
        self.title, self.said = title, said
        self.pages: list[list[Item]] = []
        self._turn()

    def next_page(self) -> None:
        self._turn()

    def _turn(self) -> None:
        self.pages.append([])
        self.y = MARGIN + 5.0
        self._text(self.title, MARGIN, BOLD, 4.6)
        self.y += 5.5
        words = self.said if len(self.pages) == 1 else f"{self.said}, page {len(self.pages)}"
        self._text(words, MARGIN, ITALIC)
        self.y += 6.0

    def _text(self, words: str, x: float, font: str = ROMAN, size: float = SIZE, colour: str = INK) -> None:
        self.pages[-1].append(Text(run(words, font, size), (x, self.y), colour))

    def _room(self, height: float) -> None:
        if self.y + height > PAGE[1] - MARGIN:
            self._turn()

    def heading(self, words: str) -> None:
        self._room(20.0)
        self.y += 4.0
        self._text(words, MARGIN, BOLD, 3.4)
        self.y += 2.0
        self.pages[-1].append(_line(MARGIN, self.y, PAGE[0] - MARGIN))
        self.y += 5.0

    def row(self, number: str, words: str, colour: str, grave: bool) -> None:
        """A finding: a box to tick, its number, what it says, and what it asks."""
        lines = wrapped(words, ROMAN, SIZE, PAGE[0] - 2 * MARGIN - TICK - NUMBERS - SAID - 4.0)
        self._room(len(lines) * SIZE * LEADING + 2.0)
        top = self.y - cap_height(SIZE) - 0.6
        box = [(0.0, 0.0), (TICK, 0.0), (TICK, TICK), (0.0, TICK), (0.0, 0.0)]
        self.pages[-1].append(Stroke(LineStyle(0.2, INK), Paths.of([(MARGIN + x, top + y) for x, y in box])))
        self._text(number, MARGIN + TICK + 3.0, BOLD, SIZE, colour)
        self._text("error" if grave else "warning", PAGE[0] - MARGIN - SAID + 6.0, ITALIC, SIZE, colour)
        for line in lines:
            self._text(line, MARGIN + TICK + NUMBERS)
            self.y += SIZE * LEADING
        self.y += 2.0

    def line(self, words: str, font: str = ROMAN) -> None:
        lines = wrapped(words, font, SIZE, PAGE[0] - 2 * MARGIN)
        self._room(len(lines) * SIZE * LEADING + 1.5)
        for line in lines:
            self._text(line, MARGIN, font)
            self.y += SIZE * LEADING
        self.y += 1.5

    def signatures(self) -> None:
        self._room(SIGNING)
        self.y = max(self.y + 14.0, PAGE[1] - MARGIN - 16.0) if self.y < PAGE[1] - MARGIN - SIGNING else self.y + 14.0
        half = (PAGE[0] - 2 * MARGIN - 10.0) / 2
        for x, words in ((MARGIN, "Proofed by"), (MARGIN + half + 10.0, "Date")):
            self.pages[-1].append(_line(x, self.y, x + half))
            self.pages[-1].append(Text(run(words, ITALIC, SIZE), (x, self.y + 4.0), INK))


def _line(x: float, y: float, to: float) -> Stroke:
    return Stroke(LineStyle(0.2, INK), Paths.of([(x, y), (to, y)]))
