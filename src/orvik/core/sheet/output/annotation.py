"""Notes of a PDF that its readers can answer: annotations, as they are written and as they come back."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

from orvik.core.coordinates import PageBox, PageXY

# Our own annotations are called by this, the sheet, the checksum of what they say, and the key of their note.
OURS = "orvik"


@dataclass(frozen=True)
class Annotation:
    """A note as it is written into a PDF.

    Attributes
    ----------
    page
        Counted from 0.
    box
        Left, top, width and height in millimetres of its page.
    name
        What it is called in the file, by which it is known when it comes back.
    text, author, subject
        What it says, who says it, what of.
    made_at
        ISO 8601; empty where nobody knows.
    colour
        As ``#RRGGBB``.
    answers
        What was said to it; of these, place and page are read nowhere.
    """

    page: int
    box: PageBox
    name: str
    text: str
    author: str
    subject: str
    made_at: str
    colour: str
    answers: Sequence[Annotation] = ()


@dataclass(frozen=True)
class ReturnedAnnotation:
    """A note as somebody has left it in a PDF.

    Attributes
    ----------
    page
        Counted from 0.
    at
        Its middle in millimetres from the upper left corner of what is shown of its page.
    text
        What it says; empty for a mark without words.
    kind
        What it is in words, such as ``struck out``.
    under
        The words of the page that it marks; empty where it marks none.
    author, made_at
        Who has written it, and when, ISO 8601; empty where it does not say.
    name
        What it is called in the file; empty for nothing.
    answer_to
        Which of the annotations of the file, by their order, it answers; None for none.
    state
        What it says of how far that has got, such as ``Completed``; empty for nothing.
    """

    page: int
    at: PageXY
    text: str
    kind: str = ""
    under: str = ""
    author: str = ""
    made_at: str = ""
    name: str = ""
    answer_to: int | None = None
    state: str = ""

    @property
    def origin(self) -> str:
        """A checksum by which the same annotation is known when the file comes back once more."""
        place = [] if self.name else [str(self.page), f"{self.at[0]:.1f} {self.at[1]:.1f}"]
        held = [self.name, self.author, self.text, self.state, *place]
        return hashlib.blake2b("\0".join(held).encode(errors="replace"), digest_size=12).hexdigest()


def our_name(sheet: int, key: str, text: str, which: int = 0) -> str:
    """What our annotation of a note is called; ``which`` tells several of one note apart.

    >>> our_name(1, "note 4", "Moved?")
    'orvik/1/ebab4fc6-0/note 4'
    """
    return f"{OURS}/{sheet}/{_sum(text)}-{which}/{key}"


@dataclass(frozen=True)
class OurName:
    """What the name of one of our annotations says."""

    sheet: int
    checksum: str
    key: str

    def says(self, text: str) -> bool:
        """Whether the annotation says what it said when it was written."""
        return self.checksum == _sum(text)


def read_name(name: str) -> OurName | None:
    """What the name of an annotation says; None where it is none of ours."""
    found = name.split("/", 3)
    if len(found) != 4 or found[0] != OURS or not (found[1].isascii() and found[1].isdecimal()) or len(found[1]) > 12:
        return None
    return OurName(int(found[1]), found[2].partition("-")[0], found[3])


def _sum(text: str) -> str:
    # Programs break lines otherwise.
    return hashlib.blake2b(" ".join(text.split()).encode(), digest_size=4).hexdigest()
