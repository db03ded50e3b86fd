"""Margin notes as a page and a proof on paper list them, with their numbers: findings, and what hands have pinned."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from orvik.core.coordinates import PageXY
from orvik.core.findings.acceptance import Acceptance, Judged
from orvik.core.findings.finding import Finding
from orvik.core.findings.margin_note import MarginNote
from orvik.core.findings.rules import RULES
from orvik.core.findings.taken_proof import TakenProof, told_as

# So many findings of which the same is said are one note.
GROUPED_FROM = 3
# The group of notes that were pinned by hand.
PINNED, PINNED_TITLE = "pinned", "Pinned by hand"


@dataclass(frozen=True)
class ListedNote:
    """A note with its number: of a finding, of several of which the same is said, or pinned by hand.

    Attributes
    ----------
    findings
        Those that it tells; none where it was pinned by hand.
    written
        What hands have said: the note that was pinned, or what was answered to its finding.
    spots
        Its places on the page, in millimetres, one for each finding; None for what the page does not show.
    before
        Why it had been let stand before what it speaks of changed.
    is_new
        Whether it has come, or somebody has answered it, since the last proof.
    """

    number: int
    findings: tuple[Finding, ...]
    written: MarginNote | None
    spots: tuple[PageXY | None, ...]
    before: Acceptance | None = None
    is_new: bool = False

    @property
    def finding(self) -> Finding | None:
        """The first of its findings; None where it was pinned by hand."""
        return self.findings[0] if self.findings else None

    @property
    def key(self) -> str:
        """Of its first finding, or ``note`` with the number of what was pinned."""
        return self.findings[0].key if self.findings else note_key(self.written)

    @property
    def thread_key(self) -> str:
        """What is answered to it is kept under this: the key of its finding, or one of all that say the same."""
        return _shared_key(self.findings[0]) if len(self.findings) > 1 else self.key

    @property
    def severity(self) -> str:
        """``error`` or ``warning``; ``note`` for what was pinned by hand."""
        return self.findings[0].severity if self.findings else "note"

    @property
    def group(self) -> str:
        """The group that it is listed in."""
        return RULES[self.findings[0].rule].group if self.findings else PINNED

    @property
    def message(self) -> str:
        """What is said of it, or of all together."""
        if not self.findings:
            return self.written.message if self.written is not None else ""
        first = self.findings[0]
        return f"{len(self.findings)} {first.shared}" if len(self.findings) > 1 else first.message

    @property
    def given_to(self) -> str:
        """Who is to do something about it; empty for nobody."""
        return self.written.given_to if self.written is not None else ""

    @property
    def on_ground(self) -> bool:
        """Whether it speaks of ground, and not of a part of the sheet."""
        if self.findings:
            return self.findings[0].at is not None
        return self.written is not None and self.written.pin is not None and self.written.pin.to == "ground"

    @property
    def asks_unit(self) -> bool:
        """Whether its fix needs a unit that nobody has said."""
        fix = self.findings[0].fix if self.findings else None
        return fix is not None and fix.kind == "tag" and not fix.unit


def note_key(note: MarginNote | None) -> str:
    """How a note that was pinned by hand is called among the keys of findings."""
    return f"note {note.id}" if note is not None else ""


def listed(
    judged: Judged,
    notes: Sequence[MarginNote] = (),
    sheet: int | None = None,
    spots: Mapping[int, PageXY] | None = None,
    last: TakenProof | None = None,
) -> list[ListedNote]:
    """What is listed of a sheet or of the map: errors, what hands have pinned, warnings.

    Parameters
    ----------
    notes
        What hands have left.
    spots
        Where those that are pinned to the sheet stand on it, by their numbers.
    last
        The last proof of the sheet, if one was taken.
    """
    answered = {note.key: note for note in notes if note.key}
    pinned = [note for note in notes if not note.key and note.sheet == sheet and not note.settled]
    groups = _together(judged.open)
    errors = [group for group in groups if group[0].severity == "error"]
    out: list[ListedNote] = []

    def add(findings: tuple[Finding, ...], written: MarginNote | None, places: tuple[PageXY | None, ...]) -> None:
        before = judged.returned.get(findings[0].key) if findings else None
        made = ListedNote(len(out) + 1, findings, written, places, before)
        new = last is not None and not last.knows(keys_of(made))
        out.append(ListedNote(made.number, findings, written, places, before, new))

    for group in errors:
        add(group, _said_of(group, answered), tuple(finding.spot for finding in group))
    for note in pinned:
        add((), note, ((spots or {}).get(note.id or 0),))
    for group in groups:
        if group[0].severity != "error":
            add(group, _said_of(group, answered), tuple(finding.spot for finding in group))
    return out


def keys_of(note: ListedNote) -> list[str]:
    """What is remembered of a note that a proof has told: each of its findings, and each answer."""
    keys = [finding.key for finding in note.findings] or [note.key]
    return keys + [f"answer {one.id}" for one in (note.written.answers if note.written is not None else ())]


def left_over(judged: Judged, notes: Iterable[MarginNote], sheet: int | None) -> list[MarginNote]:
    """What hands have said that is not listed any more: settled, or of a finding that is told no more."""
    findings = [*judged.open, *(finding for finding, _ in judged.accepted)]
    told = {finding.key for finding in findings} | {_shared_key(finding) for finding in findings}
    return [note for note in notes if (note.key not in told if note.key else note.settled and note.sheet == sheet)]


def _said_of(group: Sequence[Finding], answered: Mapping[str, MarginNote]) -> MarginNote | None:
    keys = [finding.key for finding in group]
    keys = [_shared_key(group[0]), *keys] if len(group) > 1 else [*keys, _shared_key(group[0])]
    return next((answered[key] for key in keys if key in answered), None)


def _shared_key(finding: Finding) -> str:
    """One key for all findings that say the same; that of a finding that speaks for itself."""
    return f"{finding.rule}::all {told_as(finding.shared)}" if finding.shared else finding.key


def _together(findings: Sequence[Finding]) -> list[tuple[Finding, ...]]:
    """Findings one by one, but for those of which the same is said, where there are many of them."""
    said = Counter((f.rule, f.shared) for f in findings if f.shared)
    out: list[list[Finding]] = []
    joined: dict[tuple[str, str], list[Finding]] = {}
    for found in findings:
        what = found.rule, found.shared
        if said[what] < GROUPED_FROM:
            out.append([found])
        elif what in joined:
            joined[what].append(found)
        else:
            joined[what] = [found]
            out.append(joined[what])
    return [tuple(group) for group in out]
