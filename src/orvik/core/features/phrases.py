"""Kinds, certainties and answers as tables write them: “Bedding, showing strike and dip”, “fault, approximate”.

A phrase is read only where all of it is understood; what is left over asks. Words are compared by their letters without
accents, and without the s of a plural.
"""

from __future__ import annotations

import re
import tomllib
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from orvik.core.features.kind import KINDS, kind_of

_WORDS: Mapping[str, Mapping[str, list[str]]] = tomllib.loads(
    Path(__file__).with_name("phrases.toml").read_text(encoding="utf-8")
)
_CERTAINTIES = {word: certainty for certainty, words in _WORDS["certainty"].items() for word in words}
_QUESTIONABLE = frozenset(_WORDS["doubt"]["questionable"])
_SURE = frozenset(_WORDS["doubt"]["sure"])
_YES, _NO = (frozenset(_WORDS["answer"][name]) for name in ("yes", "no"))
# What says nothing of the kind: how a symbol shows it, which of several sets it is, how it lies.
_FILLERS = frozenset(_WORDS["filler"]["words"])
_BESIDE = _FILLERS | _QUESTIONABLE | set(_CERTAINTIES)
_MORE: Mapping[str, list[str]] = _WORDS["kind"]


def letters(text: str) -> str:
    """A text in small letters without accents; an underscore stays.

    >>> letters("Überschiebung"), letters("Größe")
    ('uberschiebung', 'grosse')
    """
    plain = unicodedata.normalize("NFKD", text.replace("ß", "ss").replace("ø", "o").replace("Ø", "O"))
    return "".join(c for c in plain if not unicodedata.combining(c)).lower()


@dataclass(frozen=True)
class Phrase:
    """What a phrase says.

    Attributes
    ----------
    kind
        None where it is not understood.
    certainty
        Empty where it says none.
    """

    kind: str | None
    certainty: str = ""
    questionable: bool = False


@dataclass(frozen=True)
class KindNames:
    """The kinds of one table by what they are called: by the set of their words, and by their letters in a row."""

    by_words: Mapping[frozenset[str], str] = field(default_factory=dict)
    by_letters: Mapping[str, str] = field(default_factory=dict)

    @classmethod
    def of(cls, kinds: Iterable[str], labels: Mapping[str, str] | None = None) -> KindNames:
        """Names of some kinds.

        Parameters
        ----------
        labels
            What kinds are called that somebody has made, beside their names.
        """
        by_words: dict[frozenset[str], str] = {}
        by_letters: dict[str, str] = {}
        for name in sorted(kinds, key=lambda kind: (kind not in KINDS, kind)):
            kind = kind_of(name)
            called = [name, kind.title, *kind.words, *_MORE.get(name, ()), (labels or {}).get(name, "")]
            for text in filter(None, called):
                words = _words(text)
                by_words.setdefault(frozenset(words), name)
                by_letters.setdefault("".join(words), name)
        return cls(by_words, by_letters)

    def read(self, text: str) -> Phrase:
        """What a phrase says.

        >>> names = KindNames.of({"bedding", "overturned_bedding", "thrust", "fault", "contact"})
        >>> names.read("Bedding, showing strike and dip")
        Phrase(kind='bedding', certainty='', questionable=False)
        >>> names.read("Fault (thrust), approx.?")
        Phrase(kind='thrust', certainty='approximate', questionable=True)
        >>> names.read("Cren. lin.").kind is None
        True
        """
        plain = re.sub(r"\bshowing\b.*", " ", letters(text))
        for written in (plain, re.sub(r"[(\[{].*?[)\]}]", " ", plain)):
            words = [word for word in _words(written) if not word.isdigit()]
            kind, rest = self._named(words)
            if kind is not None:
                certainty = next((c for word in rest if (c := _CERTAINTIES.get(word))), "")
                return Phrase(kind, certainty, "?" in plain or any(word in _QUESTIONABLE for word in rest))
        return Phrase(None)

    def _named(self, words: Sequence[str]) -> tuple[str | None, list[str]]:
        """The kind whose words are all there, and what else is said, if that is of certainty or says nothing.

        A kind may be called by a word that says a certainty elsewhere; the one that takes most of the words is meant.
        """
        said = frozenset(words)
        inside = [called for called in self.by_words if called <= said and said - called <= _BESIDE]
        most = max((len(called) for called in inside), default=0)
        found = {self.by_words[called]: called for called in inside if len(called) == most}
        if len(found) == 1:
            ((kind, called),) = found.items()
            return kind, [word for word in words if word not in called]
        plain = [word for word in words if word not in _BESIDE]
        return self.by_letters.get("".join(plain)), [word for word in words if word in _BESIDE]


def _words(text: str) -> list[str]:
    """The words of a text; a plural is its singular."""
    found = re.findall(r"[^\W_]+", letters(text))
    return [word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word for word in found]


def certainty_by_words(text: str) -> str | None:
    """The certainty of location that a text says; None where it is not understood.

    >>> certainty_by_words("Location approximate"), certainty_by_words("sicher"), certainty_by_words("good")
    ('approximate', 'certain', None)
    """
    said = [word for word in _words(text) if word not in _FILLERS]
    found = {_CERTAINTIES[word] for word in said if word in _CERTAINTIES}
    return found.pop() if len(found) == 1 and all(word in _CERTAINTIES for word in said) else None


def yes_or_no(text: str) -> bool | None:
    """What a text answers, also whether something is questionable; None where it is not understood.

    >>> yes_or_no("Ja"), yes_or_no("0"), yes_or_no("questionable"), yes_or_no("perhaps")
    (True, False, True, None)
    """
    word = letters(text).strip(" .")
    if word in _YES or word in _QUESTIONABLE or word == "?":
        return True
    if word in _NO or word in _SURE:
        return False
    return None
