"""What sentences are made of that many say."""

from __future__ import annotations

import re

# Begins with a vowel as it is written, and not as it is said: a unit, a uranium prospect, a European datum.
_SAID_WITH_Y = re.compile(r"uni(?![mn])|ura|use|eu", re.IGNORECASE)


def with_article(words: str) -> str:
    """Words after "a" or "an".

    >>> with_article("contact"), with_article("anticline"), with_article("unit area"), with_article("unnamed bed")
    ('a contact', 'an anticline', 'a unit area', 'an unnamed bed')
    """
    vowel = words[:1].casefold() in tuple("aeiou") and not _SAID_WITH_Y.match(words)
    return f"{'an' if vowel else 'a'} {words}"


_IN_FIGURES = re.compile(r"(?<=\d)\u2009(?=\d)")
_BEFORE_UNIT = re.compile(r"(?<=\d) (?=(?:km²|ha|km|mm|m|dpi)\b|%|°)")


def unbroken(words: str) -> str:
    """A sentence for a page, where no line breaks within a figure or between it and its unit.

    >>> unbroken("It covers 1\u2009204 km² of land.")
    'It covers 1\u2060\u2009\u2060204\xa0km² of land.'
    """
    # Between word joiners, the space stays as wide as everywhere else; fonts of pages have no such one of its own.
    return _BEFORE_UNIT.sub("\u00a0", _IN_FIGURES.sub("\u2060\u2009\u2060", words))


def not_a(text: str, what: str, words: str = "", *, such_as: str = "") -> str:
    """The sentence that refuses what was typed, or that nothing was.

    Parameters
    ----------
    what
        What it should have been, without its article.
    words, such_as
        What to type, in words, or examples of it.

    >>> not_a("abc", "scale", such_as="1:25 000")
    '“abc” is not a scale; type it as 1:25 000.'
    >>> not_a(" ", "scale", such_as="1:25 000")
    'Type a scale, such as 1:25 000.'
    >>> not_a("", "easting", "plain digits such as 513 482.6")
    'Type an easting: plain digits such as 513 482.6.'
    """
    one = with_article(what)
    typed = text.strip()[:40]
    if not typed:
        return f"Type {one}, such as {such_as}." if such_as else f"Type {one}: {words}."
    return f"“{typed}” is not {one}; type {f'it as {such_as}' if such_as else words}."


def either_case(text: str) -> list[str]:
    """A text as it may be written with small letters and capitals, for what knows capitals of plain letters only.

    >>> either_case("störung")
    ['störung', 'STÖRUNG', 'Störung']
    """
    return list(dict.fromkeys((text, text.lower(), text.upper(), text.capitalize())))
