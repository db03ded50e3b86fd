"""Notes of a PDF that its readers can answer: annotations, as they are written and as they are returned."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

from orvik.core.coordinates import PageBox, PageXY

# Our own annotations are called by this, the sheet that they are of, the checksum of what they say, and the key of
# their note.
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
        What it is called in the file, by which it is known when the file is returned.
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
        """A checksum by which the same annotation is known when the file is returned once more."""
        place = [] if self.name else [str(self.page), f"{self.at[0]:.1f} {self.at[1]:.1f}"]
        held = [self.name, self.author, self.text, self.state, *place]
        return hashlib.blake2b("\0".join(held).encode(errors="replace"), digest_size=12).hexdigest()


@dataclass(frozen=True)
class ProofOf:
    """What a proof is of: a project, by when its first edit was made, and one of its sheets, by its number."""

    begun: str
    sheet: int

    @property
    def name(self) -> str:
        """As names of annotations have it.

        >>> ProofOf("2026-07-02T10:00:00.000+00:00", 1).name
        '867aba65-1'
        """
        return f"{_sum(self.begun)}-{self.sheet}"


def our_name(of: ProofOf, key: str, text: str, which: int = 0) -> str:
    """What our annotation of a note is called; ``which`` tells several of one note apart."""
    return f"{OURS}/{of.name}/{_sum(text)}-{which}/{key}"


@dataclass(frozen=True)
class OurName:
    """What the name of one of our annotations says."""

    of: str
    checksum: str
    key: str

    def says(self, text: str) -> bool:
        """Whether the annotation says what it said when it was written."""
        return self.checksum == _sum(text)


def read_name(name: str) -> OurName | None:
    """What the name of an annotation says; None where it is none of ours."""
    found = name.split("/", 3)
    if len(found) != 4 or found[0] != OURS:
        return None
    return OurName(found[1], found[2].partition("-")[0], found[3])


def _sum(text: str) -> str:
    # Programs break lines otherwise.
    return hashlib.blake2b(" ".join(text.split()).encode(), digest_size=4).hexdigest()
