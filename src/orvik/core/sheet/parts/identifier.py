"""A bar code of the map's identifier, with its characters below."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, Fill, Item, Text
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.sheet.page.entries import Choice, Figure, Words, entry
from orvik.core.sheet.page.part import NewPartContext, Part, PartSettings
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.fields import filled

# Both are symbologies of the standards ISO/IEC 15417 and 15420, drawn by the library python-barcode.
CODES = {"code128": "any characters (Code 128)", "ean13": "an ISBN or EAN of 13 digits"}
# Modules left free at both sides, as these standards ask for.
QUIET = {"code128": (10, 10), "ean13": (11, 7)}
BLACK = "#000000"
# A narrower module is not read for certain, in millimetres (common practice for print).
NARROWEST = 0.19


@dataclass(frozen=True, kw_only=True)
class Identifier(PartSettings):
    """``text`` may hold fields, as ``{identifier}``."""

    kind: ClassVar[str] = "identifier"
    label: ClassVar[str] = "Bar code"
    icon: ClassVar[str] = "M3 2v12M5.5 2v12M7 2v12M10.5 2v12M13 2v12M14.5 2v12M18 2v12M21 2v12"

    text: str = entry(Words("Says", longest=80), "{identifier}")
    code: str = entry(Choice("Kind", CODES), "code128")
    size: float = entry(Figure("Letter size", 1, 10, "mm"), 2.4)

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        return cls(), 40.0, 16.0

    @property
    def summary(self) -> str:
        return self.text

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        said = filled(self.text, page).strip()
        if not said:
            return words_instead("There is no identifier yet; type it in the imprint of the page.", part)
        modules = modules_of(said, self.code)
        if modules is None:
            return words_instead(f"“{said[:30]}” cannot be said by this kind of bar code; choose another kind.", part)
        before, after = QUIET[self.code]
        module = part.width / (len(modules) + before + after)
        if module < NARROWEST:
            least = NARROWEST * (len(modules) + before + after)
            return words_instead(f"A bar code of this needs {least:.0f} mm; make the part wider.", part)
        low = part.y + part.height - 1.5 * self.size
        boxes, x = [], part.x + before * module
        for is_bar, group in itertools.groupby(modules):
            wide = len(list(group)) * module
            if is_bar == "1":
                boxes.append([(x, part.y), (x + wide, part.y), (x + wide, low), (x, low), (x, part.y)])
            x += wide
        words = run(said, ROMAN, self.size, "centre")
        baseline = low + 0.4 * self.size + cap_height(self.size)
        bars = Fill(BLACK, Paths.of(*boxes), np.arange(len(boxes) + 1))
        return [bars, Text(words, (part.middle[0], baseline), INK)]


def modules_of(text: str, code: str) -> str | None:
    """The modules of a bar code, ``1`` for a dark one; None where it cannot say the text."""
    # Read only where one is drawn.
    from barcode import get_barcode_class
    from barcode.errors import BarcodeError

    digits = text.replace("-", "").replace(" ", "")
    if code == "ean13" and not (digits.isascii() and digits.isdigit() and len(digits) == 13):
        return None
    try:
        if code == "ean13":
            made = get_barcode_class("ean13")(digits)
            if made.get_fullcode() != digits:
                # Its last digit is none that the others ask for.
                return None
        else:
            made = get_barcode_class("code128")(text)
        return "".join("1" if sign not in "0 " else "0" for sign in made.build()[0])
    except (BarcodeError, ValueError, KeyError):
        return None
