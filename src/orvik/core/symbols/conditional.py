"""The symbols that rules give: looks of other kinds, of drawn symbols, or none."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from orvik.core.errors import SymbolRefused
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import ConditionalSymbol, SymbolBook
from orvik.core.symbols.symbol_rule import ATTRIBUTES, SymbolRule


def with_rules(
    book: SymbolBook, rules: Sequence[tuple[int, SymbolRule]], drawn: Mapping[str, DrawnSymbol], publication: int
) -> SymbolBook:
    """A symbol book with the conditional symbols of a project, in force where a map of a scale is compiled.

    Rules come with their numbers, in their order; one whose look is gone gives nothing.
    """
    conditional = []
    for number, rule in rules:
        by_usual = conditional_symbols(book, rule, drawn, number)
        if by_usual:
            conditional.append(ConditionalSymbol(rule, by_usual))
    return replace(book, conditional=tuple(conditional)).at(publication, printed=False)


def conditional_symbols(
    book: SymbolBook, rule: SymbolRule, drawn: Mapping[str, DrawnSymbol], number: int = 0
) -> Mapping[str, tuple[Symbol, ...]]:
    """The symbols that a rule gives: by the id of each symbol of its kind the look at its certainty and inclination.

    What the look has nothing for is not among it, and stays as it is: what is less certain is never drawn as certain.
    Empty where the book has no such kind, or no such look for it.
    """
    out: dict[str, tuple[Symbol, ...]] = {}
    for base, look in _pairs(book, rule, drawn):
        asked = rule.words or rule.scale_words
        title = rule.title or (f"{base.title} ({asked})" if asked else base.title)
        if rule.title and base.certainty not in ("", "certain", rule.certainty):
            title = f"{rule.title}, {base.certainty}"
        dressed = replace(
            look,
            id=f"rule-{number}-{base.id}-{look.id}",
            kind=base.kind,
            title=title,
            meaning=base.meaning,
            advice=base.advice,
            certainty=base.certainty,
            family=base.family,
            inclination=_shared(base.inclination, look.inclination),
        )
        out[base.id] = (*out.get(base.id, ()), dressed)
    return out


def _pairs(book: SymbolBook, rule: SymbolRule, drawn: Mapping[str, DrawnSymbol]) -> Iterator[tuple[Symbol, Symbol]]:
    bases = book.by_kind.get((rule.table, rule.kind), ())
    for base in bases:
        if rule.certainty and base.certainty not in ("", rule.certainty):
            continue
        if rule.look == "none":
            yield base, Symbol(base.id, base.table, base.kind, base.title, explained=False, left_out=True)
        elif rule.look == "drawn":
            symbol = drawn.get(rule.worn)
            if symbol is not None and symbol.family == rule.table:
                yield base, symbol.dressed(base)
        else:
            # What is not graded itself looks as the certain ones do.
            ungraded = base.certainty in ("", "certain") or rule.kind in book.custom_kinds
            wanted = ("", "certain") if ungraded else (base.certainty,)
            for look in book.by_kind.get((rule.table, rule.worn), ()):
                fits = look.certainty in wanted and not look.aid
                if fits and _meet(base.inclination, look.inclination):
                    # A band keeps a colour whatever its symbol is.
                    tint = look.tint or (base.tint if rule.table == "lines" else "")
                    yield base, replace(look, captions=look.captions or base.captions, tint=tint)


def _meet(one: tuple[float, float] | None, two: tuple[float, float] | None) -> bool:
    if one is None or two is None:
        return True
    return max(one[0], two[0]) < min(one[1], two[1])


def _shared(one: tuple[float, float] | None, two: tuple[float, float] | None) -> tuple[float, float] | None:
    if one is None or two is None:
        return one or two
    return max(one[0], two[0]), min(one[1], two[1])


def checked_look(book: SymbolBook, rule: SymbolRule, drawn: Mapping[str, DrawnSymbol]) -> SymbolRule:
    """The same rule, if its look can be given to its kind without losing what the map says.

    Raises
    ------
    SymbolRefused
        The book has no such kind or look, a reading would lose its direction, or parts that are less certain would
        look as the certain ones do.
    """
    bases = book.by_kind.get((rule.table, rule.kind), ())
    if not bases:
        raise SymbolRefused("The symbol book has no such kind of feature; choose another one.")
    if all(base.aid for base in bases):
        raise SymbolRefused(f"“{bases[0].title}” helps while compiling and is not printed; it takes no other symbol.")
    graded = {base.certainty or "certain" for base in bases}
    if rule.certainty and rule.certainty not in graded and rule.kind not in book.custom_kinds:
        raise SymbolRefused(f"“{bases[0].title}” is never {rule.certainty}; choose {', '.join(sorted(graded))}.")
    own = book.custom_kinds.get(rule.kind)
    known = {field.name for field in own.fields} if own is not None else set()
    _checked_attributes(rule, known)
    if rule.look == "none":
        return rule
    pairs = list(_pairs(book, rule, drawn))
    if not pairs:
        raise SymbolRefused("There is no such look for features of this kind; choose another one.")
    if any(base.turns and not look.turns for base, look in pairs):
        raise SymbolRefused("With this look readings would lose their direction; choose a symbol that turns.")
    if rule.look == "drawn" and len(graded) > 1 and not rule.certainty and own is None:
        raise SymbolRefused(
            "A drawn symbol has one look: what is less certain would be drawn as certain. Say for which certainty."
        )
    return rule


def _checked_attributes(rule: SymbolRule, own: set[str]) -> None:
    for test in rule.tests:
        if test.attribute not in ATTRIBUTES and test.attribute not in own:
            known = ", ".join([*ATTRIBUTES, *sorted(own)])
            raise SymbolRefused(f"There is no attribute “{test.attribute[:30]}”; there are {known}.")
