"""The letters of the ages as geologic maps print them, and the label of a map unit."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.features.age import Age

# Letters that fonts lack are drawn into the faces of the sheet (scripts/age_letters.py). The Cambrian C has a place in
# Unicode; the others stand in its private area, and are copied out of a PDF as the two letters that they join.
CAMBRIAN = "\ua792"
TRIASSIC = "\ue0a1"
PENNSYLVANIAN = "\ue0a2"
PALEOGENE = "\ue0a3"
SPOKEN = {TRIASSIC: "TR", PENNSYLVANIAN: "IP", PALEOGENE: "PE"}


@dataclass(frozen=True)
class AgeLetter:
    """What is printed for an age, and what people type for it, the longest first."""

    printed: str
    typed: tuple[str, ...]


# Common practice on American maps; a bare C is Carboniferous, and Cambrian has the bar.
LETTERS = {
    "Quaternary": AgeLetter("Q", ("Q",)),
    "Neogene": AgeLetter("N", ("N",)),
    "Paleogene": AgeLetter(PALEOGENE, ("PE", "Pe", "Pg", "P")),
    "Cenozoic": AgeLetter("Cz", ("Cz", "CZ")),
    "Cretaceous": AgeLetter("K", ("K",)),
    "Jurassic": AgeLetter("J", ("J",)),
    "Triassic": AgeLetter(TRIASSIC, ("TR", "Tr", "T")),
    "Mesozoic": AgeLetter("Mz", ("Mz", "MZ")),
    "Permian": AgeLetter("P", ("P",)),
    "Pennsylvanian": AgeLetter(PENNSYLVANIAN, ("IP", "PN", "Pn", "P")),
    "Mississippian": AgeLetter("M", ("M",)),
    "Carboniferous": AgeLetter("C", ("C",)),
    "Devonian": AgeLetter("D", ("D",)),
    "Silurian": AgeLetter("S", ("S",)),
    "Ordovician": AgeLetter("O", ("O",)),
    "Cambrian": AgeLetter(CAMBRIAN, ("C",)),
    "Paleozoic": AgeLetter("Pz", ("Pz", "PZ")),
    "Archean": AgeLetter("A", ("A",)),
    "Precambrian": AgeLetter(f"p{CAMBRIAN}", ("pC", "PC")),
}


def letter_of(age: str) -> AgeLetter | None:
    """The letter of an age: its own, or that of the period or era it lies in; None for one that has none."""
    while age:
        if age in LETTERS:
            return LETTERS[age]
        age = Age.of(age).parent
    return None


def printed_label(code: str, age_from: str, age_to: str = "") -> str:
    """What is printed for a code: its age letters as maps have them, the rest as it was typed.

    The letter comes from the age and never from the code alone. A range over two periods has both letters, the
    younger one first; a code that does not begin with the letters of its age is printed as it is.

    >>> printed_label("Cm", "Cambrian") == CAMBRIAN + "m"
    True
    >>> printed_label("Cm", "Carboniferous"), printed_label("Cm", "")
    ('Cm', 'Cm')

    Parameters
    ----------
    age_from, age_to
        The older and the younger end of its age, names of the chart; the younger may be empty.
    """
    ends = [letter_of(age_to or age_from), letter_of(age_from)] if age_from else []
    letters = [letter for letter in dict.fromkeys(ends) if letter is not None]
    for wanted in (letters, letters[:1]):
        rest, out = code, ""
        for letter in wanted:
            typed = next((t for t in letter.typed if rest.startswith(t)), None)
            if typed is None:
                break
            rest, out = rest[len(typed) :], out + letter.printed
        else:
            if wanted:
                return out + rest
    return code
