"""The checklist of a proof on paper: what there is to be said of a sheet, to be ticked and signed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from orvik.core.coordinates import PageBox
from orvik.core.findings.acceptance import Judged
from orvik.core.findings.finding import Finding
from orvik.core.findings.listing import PINNED, PINNED_TITLE, ListedNote
from orvik.core.findings.margin_note import MarginNote
from orvik.core.findings.marks import colour_of
from orvik.core.findings.rules import GROUPS, RULES
from orvik.core.ground.scale import spaced
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Item, LineStyle, Stroke, Text
from orvik.core.lettering import BOLD, ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet.page.day import day_words, known_day

# An A4 page upright, its margins, the columns of its table, and its letters, in millimetres.
PAGE = (210.0, 297.0)
MARGIN, TICK, NUMBERS, SAID = 18.0, 4.0, 12.0, 26.0
SIZE, LEADING = 3.0, 1.35
# What is left at the foot for those who sign.
SIGNING = 40.0
# No page has room for more rows.
MOST_ROWS = 60
# The first page has room for so much of what is listed on the others.
LONGEST_FIRST, MOST_NAMES = 240, 12


@dataclass(frozen=True)
class Checklist:
    """The pages of a checklist, and where the rows of notes stand on them: page, from 0, and box, by their numbers."""

    pages: list[list[Item]]
    rows: dict[int, tuple[int, PageBox]] = field(default_factory=dict)


def counted(number: int, what: str) -> str:
    """How many there are, in words.

    >>> counted(1, "error"), counted(2, "warning")
    ('1 error', '2 warnings')
    """
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def checklist(
    title: str, said: str, judged: Judged, notes: Sequence[ListedNote], over: Sequence[MarginNote] = ()
) -> Checklist:
    """A checklist: one page to sign, with all that is open and accepted where that has room on it.

    Else the first says how much there is of what, and is signed, and the lists follow on further pages.

    Parameters
    ----------
    title
        Of the sheet and the project.
    said
        What stands below it: the revision and the day.
    over
        What hands have said of what is not listed any more.
    """
    if len(notes) + len(judged.accepted) + len(over) <= MOST_ROWS:
        writer = _Writer(title, said)
        _counts(writer, judged, notes)
        _lists(writer, judged, notes, over)
        writer.signatures()
        if len(writer.pages) == 1:
            return Checklist(writer.pages, writer.rows)
    writer = _Writer(title, said)
    _counts(writer, judged, notes)
    _by_group(writer, judged, notes)
    writer.signatures()
    assert len(writer.pages) == 1
    writer.next_page()
    _lists(writer, judged, notes, over)
    return Checklist(writer.pages, writer.rows)


def _counts(writer: _Writer, judged: Judged, notes: Sequence[ListedNote]) -> None:
    warnings = len(judged.open) - judged.errors
    pinned = sum(note.group == PINNED for note in notes)
    words = [counted(judged.errors, "error"), counted(warnings, "warning")]
    writer.heading(", ".join([*words, *([f"{counted(pinned, 'note')} pinned by hand"] if pinned else [])]))


def _by_group(writer: _Writer, judged: Judged, notes: Sequence[ListedNote]) -> None:
    """How much there is of each group of rules, and the worst of each."""
    for name, words in {**GROUPS, PINNED: PINNED_TITLE}.items():
        mine = [note for note in notes if note.group == name]
        if not mine:
            continue
        told = [finding for note in mine for finding in note.findings]
        errors = sum(finding.severity == "error" for finding in told)
        counts = f"{counted(errors, 'error')}, {counted(len(told) - errors, 'warning')}"
        if name == PINNED:
            counts = counted(len(mine), "note")
        writer.line(f"{words}: {counts}. First: {_short(mine[0].message)}")
    given = Counter(note.given_to for note in notes if note.given_to).most_common()
    if given:
        some = ", ".join(f"{number} to {who}" for who, number in given[:MOST_NAMES])
        more = f" and {len(given) - MOST_NAMES} more" if len(given) > MOST_NAMES else ""
        writer.line(f"Notes given: {some}{more}.")
    accepted = len(judged.accepted)
    if accepted:
        writer.line(f"{counted(accepted, 'finding')} accepted with a reason.", ITALIC)
    if judged.turned_off:
        writer.line(f"{counted(len(judged.turned_off), 'rule')} turned off.", ITALIC)
    writer.line("All of them are listed on the pages that follow.", ITALIC)


def _lists(writer: _Writer, judged: Judged, notes: Sequence[ListedNote], over: Sequence[MarginNote]) -> None:
    for note in notes:
        writer.row(note)
    if not notes:
        writer.line("Nothing was found.", ITALIC)
    if judged.accepted:
        writer.heading("Accepted")
        for finding, held in judged.accepted:
            writer.line(f"{finding.message} “{held.reason}” {held.signed}, {held.dated}")
    if over:
        writer.heading("Settled, or told no more")
        for written in over:
            writer.line(" ".join(written.message.split()))
            for said in thread_words(written):
                writer.line(said, ITALIC)
    if judged.turned_off:
        writer.heading("Rules turned off")
        for name, count in judged.turned_off.items():
            writer.line(f"{RULES[name].title}: {count} not told")


def thread_words(written: MarginNote) -> list[str]:
    """Who has said what of a note, and who has it: a line for each.

    >>> thread_words(MarginNote("Moved?", "A. Moss", "2026-07-02T10:00:00"))
    ['A. Moss, 2 July 2026']
    """
    said = [] if written.key else [f"{written.author}, {_day(written.day)}"]
    said += [f"{one.author}, {_day(one.day)}: {' '.join(one.text.split())}" for one in written.answers]
    return said + ([f"Given to {written.given_to}"] if written.given_to else [])


def _day(text: str) -> str:
    day = known_day(text)
    return day_words(day) if day is not None else text


def _short(text: str) -> str:
    words = " ".join(text.split())
    return words if len(words) <= LONGEST_FIRST else f"{words[:LONGEST_FIRST].rsplit(' ', 1)[0]} …"


def _places(note: ListedNote) -> str:
    """Where the findings of a note lie: by name where there are several, in coordinates where the page has no mark."""
    out = ""
    if len(note.findings) > 1:
        out = f" These are {', '.join(finding.subject for finding in note.findings)}."
    off = [finding for finding, spot in zip(note.findings, note.spots, strict=False) if spot is None and finding.at]
    if off:
        out += f" Off the sheet, at {'; '.join(_coordinates(finding) for finding in off)}."
    elif note.written is not None and not note.findings and note.spots == (None,):
        out = " Of the sheet as a whole." if note.written.pin is None else " What it was pinned to is gone."
    return out


def _coordinates(finding: Finding) -> str:
    at = finding.at or (0.0, 0.0)
    return f"{spaced(at[0])} E, {spaced(at[1])} N"


class _Writer:
    """Lines down a page, and on to the next."""

    def __init__(self, title: str, said: str) -> None:
        self.title, self.said = title, said
        self.pages: list[list[Item]] = []
        self.rows: dict[int, tuple[int, PageBox]] = {}
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

    def row(self, note: ListedNote) -> None:
        """A note: a box to tick, its number, what it says, what it asks, and what was said to it."""
        colour, wide = colour_of(note), PAGE[0] - 2 * MARGIN - TICK - NUMBERS - SAID - 4.0
        lines = wrapped(f"{' '.join(note.message.split())}{_places(note)}", ROMAN, SIZE, wide)
        said = [line for words in _said(note) for line in wrapped(words, ITALIC, SIZE, wide)]
        self._room(min((len(lines) + len(said)) * SIZE * LEADING + 2.0, PAGE[1] - 2 * MARGIN - 20.0))
        top = self.y - cap_height(SIZE) - 0.6
        self.rows[note.number] = (len(self.pages) - 1, (MARGIN, top, PAGE[0] - 2 * MARGIN, TICK))
        box = [(0.0, 0.0), (TICK, 0.0), (TICK, TICK), (0.0, TICK), (0.0, 0.0)]
        self.pages[-1].append(Stroke(LineStyle(0.2, INK), Paths.of([(MARGIN + x, top + y) for x, y in box])))
        self._text(str(note.number), MARGIN + TICK + 3.0, BOLD, SIZE, colour)
        words = f"new {note.severity}" if note.is_new else note.severity
        self._text(words, PAGE[0] - MARGIN - SAID + 6.0, ITALIC, SIZE, colour)
        for font, some in ((ROMAN, lines), (ITALIC, said)):
            for line in some:
                self._room(SIZE * LEADING)
                self._text(line, MARGIN + TICK + NUMBERS, font)
                self.y += SIZE * LEADING
        self.y += 2.0

    def line(self, words: str, font: str = ROMAN) -> None:
        lines = wrapped(words, font, SIZE, PAGE[0] - 2 * MARGIN)
        self._room(len(lines) * SIZE * LEADING + 1.5)
        for line in lines:
            self._room(SIZE * LEADING)
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


def _said(note: ListedNote) -> list[str]:
    return thread_words(note.written) if note.written is not None else []
