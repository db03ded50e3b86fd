"""A proof on paper: numbered marks on the sheet, and a checklist to sign."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orvik.core.coordinates import PageXY
from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import RULES
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Fill, Group, Item, LineStyle, Stroke, Text
from orvik.core.lettering import BOLD, ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.page import Sheet

MARKS = "Marks of the proof"
GRAVE, LIGHT = "#A61B1B", "#8F5A0F"
# Millimetres: a ring around the place, and the box with the number to its upper right.
RING, BOX, NUMBER, LINE = 4.0, 6.0, 3.6, 0.35
# The checklist: an A4 page upright, its margins, the columns of its table, and its letters.
PAGE = (210.0, 297.0)
MARGIN, TICK, NUMBERS, SAID = 18.0, 4.0, 12.0, 26.0
SIZE, LEADING = 3.0, 1.35
# What is left at the foot for those who sign.
SIGNING = 40.0


def marks_ink(findings: Sequence[Finding], sheet: Sheet) -> Group:
    """A mark for each finding that has a place on the page, with the number that it has among all, from 1."""
    items: list[Item] = []
    for number, finding in enumerate(findings, 1):
        if finding.spot is not None:
            items += _mark(finding.spot, str(number), colour_of(finding), sheet)
    return Group("marks", tuple(items), title=MARKS)


def colour_of(finding: Finding) -> str:
    """Red for what must be fixed, ochre for what wants a look."""
    return GRAVE if finding.severity == "error" else LIGHT


def _mark(spot: PageXY, number: str, colour: str, sheet: Sheet) -> list[Item]:
    x, y = spot
    turn = np.linspace(0, 2 * np.pi, 49)
    ring = np.column_stack([x + RING * np.cos(turn), y + RING * np.sin(turn)])
    letters = run(number, BOLD, NUMBER, "centre")
    wide = max(BOX, letters.width + 2.4)
    # Within the page where the upper right would leave it.
    left = x + RING * 0.75 if x + RING + wide < sheet.width else x - RING * 0.75 - wide
    top = y - RING * 0.75 - BOX if y - RING - BOX > 0 else y + RING * 0.75
    corners = [(left, top), (left + wide, top), (left + wide, top + BOX), (left, top + BOX), (left, top)]
    style = LineStyle(LINE, colour, join="miter")
    at = (left + wide / 2, top + BOX / 2 + cap_height(NUMBER) / 2)
    return [
        Stroke(style, Paths.of([(float(a), float(b)) for a, b in ring])),
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
    """The pages of a checklist: every open finding with a box to tick, then what is accepted and why, then who signs.

    Parameters
    ----------
    title
        Of the sheet and the project.
    said
        What stands below it: the revision and the day.
    """
    writer = _Writer(title, said)
    warnings = len(judged.open) - judged.errors
    writer.heading(f"{counted(judged.errors, 'error')}, {counted(warnings, 'warning')}")
    for number, finding in enumerate(judged.open, 1):
        writer.row(str(number), finding.message, colour_of(finding), finding.severity == "error")
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
    writer.signatures()
    return writer.pages


class _Writer:
    """Lines down a page, and on to the next."""

    def __init__(self, title: str, said: str) -> None:
        self.title, self.said = title, said
        self.pages: list[list[Item]] = []
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
