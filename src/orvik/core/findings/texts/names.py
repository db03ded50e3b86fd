"""Names that are nearly those of the project's units, sheets, places and people."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from orvik.core.findings.finding import Finding
from orvik.core.findings.nearness import slips_apart
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, KnownName, ReadText, of_text, quoted

rule(
    "misspelt",
    "warning",
    "texts",
    "A name in a text is nearly one that the project has, and not quite",
    why="readers take it for another name",
    spoils="reading",
)

_WORD = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*")
_INITIALS = re.compile(r"((?:[^\W\d_]\.[ \u00a0]?){1,3})([^\W\d_]+(?:[-'’][^\W\d_]+)*)")
# A word this short has no near miss; from this length on a word alone is known by itself; from this length on a slip
# may be of two letters.
SHORT, ALONE, LONG = 4, 6, 9
# Words of names that many names have: alone they name nothing.
_COMMON = frozenset(Path(__file__).with_name("common_words.txt").read_text(encoding="utf-8").split())


@of_text
def misspelt_names(text: ReadText, known: Known) -> list[Finding]:
    """Names of several words of which one has a slip, names of people, and names of one word that is like no other."""
    taken: list[tuple[int, int]] = []
    out = []
    for begin, end, name in sorted(_found(text, known), key=lambda found: found[0] - found[1]):
        if any(begin < b and a < end for a, b in taken):
            continue
        taken.append((begin, end))
        words = text.text[begin:end]
        message = f"{quoted(words)} in {_within(text.what)} is nearly “{name.name}”, {name.what}; a slip of the hand?"
        out.append(
            (
                begin,
                text.finding("misspelt", message, (begin, end), name.name, f"Write {name.name}", facts=(name.name,)),
            )
        )
    return [finding for _, finding in sorted(out, key=lambda found: found[0])]


def _within(what: str) -> str:
    return what[:1].lower() + what[1:] if what.startswith("The ") else what


def _found(text: ReadText, known: Known) -> Iterator[tuple[int, int, KnownName]]:
    # What stands in braces is no word of the text.
    bare = re.sub(r"\{[^}]*\}", lambda field: " " * len(field.group(0)), text.text)
    tokens = list(_WORD.finditer(bare))
    words = [token.group(0) for token in tokens]
    index = _index(tuple(known.names))
    yield from _people(bare, known.names)
    folded = [word.casefold() for word in words]
    for count in index.counts:
        for i in range(len(words) - count + 1):
            phrase = tuple(folded[i : i + count])
            for n in range(count):
                # All of its words are those of a name but for one, and that is nearly the name's.
                for name, wanted in index.but_one.get((count, n, phrase[:n] + phrase[n + 1 :]), ()):
                    one, right = words[i + n], wanted[n]
                    # What is written with a capital is a name, and so is what is not.
                    capitals = one[:1].isupper() == right[:1].isupper()
                    if phrase not in index.whole and capitals and _near(one, right):
                        yield tokens[i].start(), tokens[i + count - 1].end(), name
    for token in tokens:
        word = token.group(0)
        if word[:1].isupper() and len(word) >= ALONE and word.casefold() not in index.words:
            like = next((found for found in index.alone if _near(word, found[1])), None)
            if like is not None:
                yield token.start(), token.end(), KnownName(f"as in “{like[0].name}”", like[1])


@dataclass(frozen=True)
class _Index:
    """Names by their words.

    Attributes
    ----------
    counts
        How many words names have that have several.
    whole
        All names, as their words in small letters.
    but_one
        Names of several words by their count, the place of one word, and the others in small letters.
    words
        All words of all names in small letters, and their genitives and plurals.
    alone
        Words that name something by themselves, each with the first name that has it.
    """

    counts: tuple[int, ...]
    whole: frozenset[tuple[str, ...]]
    but_one: Mapping[tuple[int, int, tuple[str, ...]], Sequence[tuple[KnownName, list[str]]]]
    words: frozenset[str]
    alone: Sequence[tuple[KnownName, str]]


@lru_cache(maxsize=8)
def _index(names: tuple[KnownName, ...]) -> _Index:
    spelt = [(name, _WORD.findall(name.name)) for name in names]
    but_one: dict[tuple[int, int, tuple[str, ...]], list[tuple[KnownName, list[str]]]] = defaultdict(list)
    alone: dict[str, KnownName] = {}
    for name, wanted in spelt:
        folded = tuple(word.casefold() for word in wanted)
        if len(wanted) > 1:
            for n in range(len(wanted)):
                but_one[(len(wanted), n, folded[:n] + folded[n + 1 :])].append((name, wanted))
        for word in wanted:
            if len(word) >= ALONE and word.casefold() not in _COMMON:
                alone.setdefault(word, name)
    words = {word.casefold() for _, wanted in spelt for word in wanted}
    return _Index(
        tuple(sorted({len(wanted) for _, wanted in spelt if len(wanted) > 1})),
        frozenset(tuple(word.casefold() for word in wanted) for _, wanted in spelt),
        but_one,
        frozenset(f"{word}{ending}" for word in words for ending in ("", "s", "’s", "'s")),
        [(name, word) for word, name in alone.items()],
    )


def _people(text: str, names: Sequence[KnownName]) -> Iterator[tuple[int, int, KnownName]]:
    """Names with initials, of which a known one has the same and nearly the same surname."""
    people = [(name, match) for name in names if (match := _INITIALS.fullmatch(name.name))]
    for found in _INITIALS.finditer(text):
        initials, surname = _letters(found.group(1)), found.group(2)
        held = [(name, match) for name, match in people if _letters(match.group(1)) == initials]
        if any(match.group(2).casefold() == surname.casefold() for _, match in people):
            continue
        for name, match in held:
            if _near(surname, match.group(2), 3):
                yield found.start(), found.end(), name
                break


def _letters(initials: str) -> str:
    return re.sub(r"\W", "", initials).casefold()


def _near(one: str, other: str, short: int = SHORT) -> bool:
    """Whether a word is another with a slip: letters exchanged, left out, doubled or changed."""
    a, b = one.casefold().removesuffix("’s").removesuffix("'s"), other.casefold()
    if a == b or f"{a}s" == b or f"{b}s" == a or min(len(a), len(b)) < short - 1 or max(len(a), len(b)) < short:
        return False
    most = 2 if min(len(a), len(b)) >= LONG else 1
    # The first letter is hardly ever the one that slips, and "Bray" is another than "Wray".
    return (a[0] == b[0] or len(a) >= LONG) and slips_apart(a, b) <= most
