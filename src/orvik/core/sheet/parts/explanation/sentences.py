"""What an explanation says of a kind in a sentence: how its certainties are drawn, its ornaments, and its figures.

"Solid where certain, long dashed where approximate, dotted where concealed, queried where identity is questionable":
common practice of geologic surveys. The words follow from the dashes that the symbols really have.
"""

from __future__ import annotations

from collections.abc import Sequence

from orvik.core.features.kind import kind_of
from orvik.core.symbols.specimen import Form
from orvik.core.symbols.symbol import Symbol

# A symbol as features show it.
Shown = tuple[Symbol, Form]
# Marks no longer than this, in millimetres, are dots.
DOT = 0.35


def line_sentence(shown: Sequence[Shown]) -> str:
    """Of lines of one kind."""
    symbols = list({symbol.id: symbol for symbol, _ in shown}.values())
    forms = [form for _, form in shown]
    clauses = [_certainties(symbols, any(form.questionable for form in forms)), told(symbols[0])]
    if any(form.band for form in forms):
        both = any(not form.band for form in forms)
        clauses.append("width to scale where broad enough, else a line" if both else "width to scale")
    if any(form.dips for form in forms):
        clauses.append("dip in degrees where measured")
    if any(form.plunges for form in forms):
        clauses.append("arrow at the end in the direction of plunge")
    return _sentence(clauses)


def point_sentence(shown: Sequence[Shown]) -> str:
    """Of points of one kind and one range of inclination."""
    symbols = [symbol for symbol, _ in shown]
    first = symbols[0]
    clauses = [told(first)]
    if any(caption.of == "inclination" for caption in first.captions):
        what = "plunge" if kind_of(first.kind).linear else "dip"
        clauses.append(f"figure gives {what} in degrees")
    if any(symbol.certainty == "approximate" for symbol in symbols):
        estimated = "strike line broken where estimated"
        clauses.append(estimated if first.certainty != "approximate" else "estimated")
    if any(form.questionable for _, form in shown):
        clauses.append("queried where identity is questionable")
    return _sentence(clauses)


def told(symbol: Symbol) -> str:
    """What a symbol means, without an article before it and the period at its end."""
    words = symbol.meaning.rstrip(".").replace(". ", "; ")
    for article in ("The ", "A ", "An "):
        words = words.removeprefix(article)
    return words


def _sentence(clauses: Sequence[str]) -> str:
    said = [clause[:1].lower() + clause[1:] if clause[1:2].islower() else clause for clause in clauses if clause]
    joined = "; ".join(said)
    return joined[:1].upper() + joined[1:]


def _certainties(symbols: Sequence[Symbol], questionable: bool) -> str:
    """How each certainty is drawn; empty where there is nothing to tell apart."""
    named = [symbol.certainty or "certain" for symbol in symbols]
    words = _dash_words(symbols)
    queried = "queried where identity is questionable" if questionable else ""
    if len(symbols) == 1 and (named[0] == "certain" or words[0] == "solid"):
        return queried
    if len(set(words)) < len(words):
        # Their dashes do not tell them apart in words: the specimen does.
        said = [*named, "from left to right"]
    else:
        said = [f"{word} where {name}" for word, name in zip(words, named, strict=True)]
    return ", ".join([*said, queried] if queried else said)


def _dash_words(symbols: Sequence[Symbol]) -> list[str]:
    """How the uppermost strokes of lines are dashed, the ones in relation to the others."""
    rows = [symbol.strokes[-1].dash[::2] if symbol.strokes else () for symbol in symbols]
    lengths = sorted({max(row) for row in rows if row and min(row) > DOT and len(set(row)) == 1}, reverse=True)
    relative = {1: ("dashed",), 2: ("long dashed", "short dashed")}.get(len(lengths), ())
    out = []
    for row in rows:
        if not row:
            out.append("solid")
        elif max(row) <= DOT:
            out.append("dotted")
        elif len(set(row)) == 1 and relative:
            out.append(relative[lengths.index(max(row))])
        elif min(row) <= DOT:
            out.append("dashed and dotted")
        else:
            out.append("long and short dashed" if len(set(row)) > 1 else "dashed")
    return out
