"""Margin notes that hands have left: pinned to a place or a part, answered, given to somebody, settled."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal, get_args

from orvik.core.errors import FindingRefused
from orvik.core.findings.acceptance import LONGEST_SIGNATURE

LONGEST_TEXT = 2000
PinnedTo = Literal["ground", "part", "page"]
PINNED_TO = frozenset(get_args(PinnedTo))


@dataclass(frozen=True)
class Pin:
    """What a note is pinned to.

    Attributes
    ----------
    to
        ``ground``: x and y are of the project's system. ``part``: millimetres from its upper left corner. ``page``:
        millimetres from that of the sheet.
    part
        The number of that part.
    """

    to: PinnedTo
    x: float
    y: float
    part: int | None = None


@dataclass(frozen=True)
class Answer:
    """What somebody said to a margin note.

    Attributes
    ----------
    made_at
        ISO 8601.
    origin
        The checksum of the annotation that it was read from; empty for one that was written here.
    """

    text: str
    author: str
    made_at: str
    origin: str = ""
    id: int | None = None

    def __post_init__(self) -> None:
        _check(self.text, "Write what you have to say.", self.author, self.made_at)

    @property
    def day(self) -> str:
        """When it was said, ISO 8601."""
        return self.made_at[:10]


@dataclass(frozen=True)
class MarginNote:
    """What hands have said of a finding, or of what no rule looks for.

    Attributes
    ----------
    message
        What it says; of a finding, what that said when somebody first answered it.
    key
        Of the finding; empty for a note that was pinned by hand.
    sheet
        The sheet that a note was pinned to; None for what is said of a finding.
    pin
        None for a finding, which has its own place, and for what was said of a sheet as a whole.
    given_to
        Who is to do something about it; empty for nobody.
    settled
        Whether nothing is left to be done about a note that was pinned by hand.
    """

    message: str
    author: str
    made_at: str
    key: str = ""
    sheet: int | None = None
    pin: Pin | None = None
    given_to: str = ""
    settled: bool = False
    origin: str = ""
    answers: tuple[Answer, ...] = ()
    id: int | None = None

    def __post_init__(self) -> None:
        if self.key:
            datetime.fromisoformat(self.made_at)
        else:
            _check(self.message, "Write what is to be noted.", self.author, self.made_at)
        if len(self.given_to) > LONGEST_SIGNATURE:
            raise FindingRefused(f"A name has up to {LONGEST_SIGNATURE} letters; shorten it.")

    @property
    def day(self) -> str:
        """When it was pinned, ISO 8601."""
        return self.made_at[:10]

    @property
    def state(self) -> str:
        """How far it has got, in a word: ``open``, ``answered`` or ``settled``."""
        if self.settled:
            return "settled"
        return "answered" if self.answers else "open"

    @property
    def origins(self) -> frozenset[str]:
        """The checksums of the annotations that it and its answers were read from."""
        return frozenset({self.origin, *(answer.origin for answer in self.answers)} - {""})


def _check(text: str, empty: str, author: str, made_at: str) -> None:
    if not text.strip():
        raise FindingRefused(empty)
    if not author.strip():
        raise FindingRefused("Sign it with your name or your initials.")
    if len(text) > LONGEST_TEXT or len(author) > LONGEST_SIGNATURE:
        raise FindingRefused(
            f"A note has up to {LONGEST_TEXT} letters and a signature up to {LONGEST_SIGNATURE}; shorten it."
        )
    datetime.fromisoformat(made_at)
