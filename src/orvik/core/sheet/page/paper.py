"""Papers: standard sizes by family, and sizes of one's own as they are typed."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

from orvik.core.errors import SheetRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.wording import not_a

# Millimetres in each unit that a side may be typed in.
UNITS = {"mm": 1.0, "cm": 10.0, "in": 25.4}
OWN_SIZE = "Custom size"
# Widths of rolls as they are commonly sold, in millimetres (common practice): 24, 36, 42 and 44 inches among them.
ROLLS = (297.0, 420.0, 594.0, 609.6, 841.0, 914.4, 1066.8, 1117.6)
_SIDE = re.compile(r"(?P<figure>[^a-z]+?)\s*(?P<unit>mm|cm|in)?")


@dataclass(frozen=True)
class Paper:
    """A paper size, upright: ``width`` is the shorter side in millimetres."""

    name: str
    width: float
    height: float
    family: str

    @property
    def words(self) -> str:
        """Its name and size: ``A3 · 297 × 420 mm``; in inches where it is made in these."""
        if self.family.startswith("ISO"):
            return f"{self.name} · {self.width:g} × {self.height:g} mm"
        return f"{self.name} · {self.width / UNITS['in']:g} × {self.height / UNITS['in']:g} in"


def _inches(family: str, **sizes: tuple[float, float]) -> tuple[Paper, ...]:
    inch = UNITS["in"]
    return tuple(Paper(name.replace("_", " "), w * inch, h * inch, family) for name, (w, h) in sizes.items())


# ISO 216; office sizes; ASME Y14.1 for engineers; architects' sizes as they are commonly sold.
PAPERS = (
    Paper("A5", 148, 210, "ISO A"),
    Paper("A4", 210, 297, "ISO A"),
    Paper("A3", 297, 420, "ISO A"),
    Paper("A2", 420, 594, "ISO A"),
    Paper("A1", 594, 841, "ISO A"),
    Paper("A0", 841, 1189, "ISO A"),
    Paper("B4", 250, 353, "ISO B"),
    Paper("B3", 353, 500, "ISO B"),
    Paper("B2", 500, 707, "ISO B"),
    Paper("B1", 707, 1000, "ISO B"),
    Paper("B0", 1000, 1414, "ISO B"),
    *_inches("Office", Letter=(8.5, 11), Legal=(8.5, 14), Tabloid=(11, 17)),
    *_inches("Engineers’", ANSI_A=(8.5, 11), ANSI_B=(11, 17), ANSI_C=(17, 22), ANSI_D=(22, 34), ANSI_E=(34, 44)),
    *_inches(
        "Architects’",
        Arch_A=(9, 12),
        Arch_B=(12, 18),
        Arch_C=(18, 24),
        Arch_D=(24, 36),
        Arch_E1=(30, 42),
        Arch_E=(36, 48),
    ),
)


def families() -> dict[str, list[Paper]]:
    """The papers of each family, in order."""
    return {family: list(papers) for family, papers in groupby(PAPERS, lambda paper: paper.family)}


def family_of(name: str) -> str:
    """The family that a paper is of; ISO A for a size of one's own."""
    return next((paper.family for paper in PAPERS if paper.name == name), "ISO A")


def smallest_paper(family: str, holds: Callable[[float, float], bool]) -> str | None:
    """The smallest paper of a family (``ISO A``, say) for which something holds, with its orientation.

    Parameters
    ----------
    holds
        Asked with width and height in millimetres.
    """
    for paper in sorted(PAPERS, key=lambda paper: paper.width * paper.height):
        for landscape in (True, False) if paper.family == family else ():
            name, width, height = paper_size(paper.name, landscape)
            if holds(width, height):
                return f"{name} {'landscape' if landscape else 'portrait'}"
    return None


def paper_size(name: str, landscape: bool) -> tuple[str, float, float]:
    """Name, width and height of a paper in an orientation, in millimetres.

    Sizes of one's own are typed as ``300x400``, ``30 x 40 cm`` or ``24 × 36 in``; a unit at the end is that of both
    sides.

    >>> paper_size("A3", landscape=True)
    ('A3', 420, 297)
    >>> paper_size("300x400", landscape=False)
    ('Custom size', 300.0, 400.0)
    >>> paper_size("60 × 40 cm", landscape=True)
    ('Custom size', 600.0, 400.0)

    A length of a roll is typed as ``roll 36 in x 1500 mm``; the roll's width is the page's height in landscape.

    >>> paper_size("roll 36 in x 150 cm", landscape=True)
    ('Roll 914.4 mm', 1500.0, 914.4)

    Raises
    ------
    SheetRefused
        No such paper, or a letter that two families have.
    """
    wanted = " ".join(name.split()).casefold()
    found = [paper for paper in PAPERS if paper.name.casefold() == wanted]
    # Engineers and architects say a letter alone, and mean another paper each.
    found = found or [paper for paper in PAPERS if paper.name.casefold().split(" ")[-1] == wanted]
    if len(found) > 1:
        both = " or ".join(paper.name for paper in found)
        raise SheetRefused(f"“{name.strip()}” can be {both}; say which.")
    if found:
        upright = (found[0].width, found[0].height)
        return found[0].name, *(reversed(upright) if landscape else upright)
    if wanted.startswith("roll "):
        return _of_roll(wanted.removeprefix("roll "), landscape)
    width, height = _own_size(name)
    if landscape and width < height:
        width, height = height, width
    return OWN_SIZE, width, height


def _of_roll(text: str, landscape: bool) -> tuple[str, float, float]:
    """A length of a roll; raises SheetRefused where no roll is so wide."""
    width, length = _own_size(text)
    found = next((roll for roll in ROLLS if abs(roll - width) < 0.5), None)
    if found is None:
        rolls = ", ".join(f"{roll:g}" for roll in ROLLS)
        raise SheetRefused(
            f"No roll is {width:g} mm wide; rolls are {rolls} mm. Type the width first, then the length."
        )
    return f"Roll {found:g} mm", *((length, found) if landscape else (found, length))


def _own_size(text: str) -> tuple[float, float]:
    plain = text.strip().casefold().replace("×", "x").replace("″", "in").replace('"', "in").replace("inches", "in")
    sides = [_SIDE.fullmatch(side.strip()) for side in plain.split("x")]
    if len(sides) != 2 or sides[0] is None or sides[1] is None:
        known = ", ".join(paper.name for paper in PAPERS)
        raise SheetRefused(not_a(text, "paper", f"{known}, or a size as 300x400, 24 x 36 in or roll 914 x 1500"))
    last = sides[1]["unit"] or "mm"
    width, height = (
        parse_quantity(side["figure"], "side of a page", SheetRefused) * UNITS[side["unit"] or last]
        for side in sides
        if side is not None
    )
    return width, height
