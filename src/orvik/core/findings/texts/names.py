"""Names that are nearly those of the project's units, sheets, places and people."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import lru_cache
from pathlib import Path

from orvik.core.findings.finding import Finding
from orvik.core.findings.nearness import slips_apart
from orvik.core.findings.rule import rule
from orvik.core.findings.texts.reading import Known, KnownName, ReadText, of_text, quoted

rule("misspelt", "warning", "texts", "A name in a text is nearly one that the project has, and not quite")

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
    names = [(name, _WORD.findall(name.name)) for name in known.names]
    right = _all_words(tuple(name.name for name in known.names))
    yield from _people(bare, known.names)
    for name, wanted in names:
        count = len(wanted)
        if count >= 2:
            for i in range(len(words) - count + 1):
                if _near_phrase(words[i : i + count], wanted) and not _is_name(words[i : i + count], names):
                    yield tokens[i].start(), tokens[i + count - 1].end(), name
    for token in tokens:
        word = token.group(0)
        if not word[:1].isupper() or len(word) < ALONE or word.casefold() in right:
            continue
        for name, wanted in names:
            like = [w for w in wanted if len(w) >= ALONE and w.casefold() not in _COMMON and _near(word, w)]
            if like:
                yield token.start(), token.end(), KnownName(f"as in “{name.name}”", like[0])
                break


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


@lru_cache(maxsize=8)
def _all_words(names: tuple[str, ...]) -> frozenset[str]:
    words = {word.casefold() for name in names for word in _WORD.findall(name)}
    return frozenset(
        words | {f"{word}s" for word in words} | {f"{word}’s" for word in words} | {f"{word}'s" for word in words}
    )


def _is_name(words: Sequence[str], names: Sequence[tuple[KnownName, list[str]]]) -> bool:
    folded = [word.casefold() for word in words]
    return any(folded == [word.casefold() for word in wanted] for _, wanted in names)


def _near_phrase(words: Sequence[str], wanted: Sequence[str]) -> bool:
    """Whether some words are a name but for a slip in one of them."""
    apart = [(a, b) for a, b in zip(words, wanted, strict=True) if a.casefold() != b.casefold()]
    if len(apart) != 1:
        return False
    ((one, other),) = apart
    # What is written with a capital is a name, and so is what is not.
    return one[:1].isupper() == other[:1].isupper() and _near(one, other)


def _near(one: str, other: str, short: int = SHORT) -> bool:
    """Whether a word is another with a slip: letters exchanged, left out, doubled or changed."""
    a, b = one.casefold().removesuffix("’s").removesuffix("'s"), other.casefold()
    if a == b or f"{a}s" == b or f"{b}s" == a or min(len(a), len(b)) < short - 1 or max(len(a), len(b)) < short:
        return False
    most = 2 if min(len(a), len(b)) >= LONG else 1
    # The first letter is hardly ever the one that slips, and "Bray" is another than "Wray".
    return (a[0] == b[0] or len(a) >= LONG) and slips_apart(a, b) <= most
