"""How sheets are exported: the format, its choices, and the names of the files."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, ClassVar

from slugify import slugify

from orvik.core.errors import SheetRefused
from orvik.core.sheet.output.plotter import Plotter
from orvik.core.sheet.page.entries import Choice, Figure, Switch, Words, entry
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.page import Sheet

ENDINGS = {"pdf": "PDF", "svg": "SVG", "png": "PNG", "tif": "TIFF, with its ground", "jpg": "JPEG"}
MADE_FOR = {"screen": "for the screen", "press": "for the press, PDF/X-4", "archive": "for the archive, PDF/A-2b"}
# The plates of a press with four inks, in their order.
PLATES = ("cyan", "magenta", "yellow", "black")
GROUPS = {"layer": "layers", "unit": "layers, then units", "symbol": "layers, then symbols"}
LINES = {"kept": "as they are", "thinned": "thinned", "smoothed": "as smooth curves"}
PATTERN = "{sheet}-{date}"
# What a pattern of file names may speak of.
FIELDS = ("project", "sheet", "date", "number")
LONGEST_NAME = 120


@dataclass(frozen=True, kw_only=True)
class ExportSettings(FormSettings):
    """A format and its choices.

    Attributes
    ----------
    ending
        A name of ``ENDINGS``.
    dpi
        Dots per inch of pictures, and of those within a PDF or an SVG.
    bleed
        How far a PDF shows what lies beyond the edge of the trimmed page, in millimetres.
    made_for
        What a PDF is for: a name of ``MADE_FOR``.
    most_ink
        How much ink a press takes, all four together, in per cent.
    trim_marks
        Whether a PDF has marks where it is to be cut.
    groups
        What an SVG is grouped by within the layers of a panel: a name of ``GROUPS``.
    outlines, drawn_out
        Whether an SVG has its letters as areas, and every symbol as lines of its own instead of once as a stamp.
    lines, tolerance
        A name of ``LINES``: what becomes of the lines of an SVG, and within how many millimetres.
    pattern
        How files are called; in braces one of ``FIELDS``.
    """

    thing: ClassVar[str] = "export"

    ending: str = entry(Choice("Format", ENDINGS), "pdf")
    dpi: float = entry(Figure("Dots per inch", 10, 1200), 300.0)
    bleed: float = entry(Figure("Bleed", 0, 20, "mm"), 0.0)
    trim_marks: bool = entry(Switch("Trim marks"), False)
    made_for: str = entry(Choice("A PDF", MADE_FOR), "screen")
    most_ink: float = entry(Figure("Most ink", 100, 400, "%"), 300.0)
    groups: str = entry(Choice("Groups of an SVG", GROUPS), "layer")
    outlines: bool = entry(Switch("Letters as outlines"), False)
    drawn_out: bool = entry(Switch("Symbols drawn out"), False)
    lines: str = entry(Choice("Lines", LINES), "kept")
    tolerance: float = entry(Figure("Within", 0.005, 1, "mm"), 0.05)
    pattern: str = entry(Words("File names", longest=LONGEST_NAME), PATTERN)

    def __post_init__(self) -> None:
        super().__post_init__()
        file_stem(self.pattern, dict.fromkeys(FIELDS, "x"))


def file_stem(pattern: str, values: Mapping[str, str]) -> str:
    """The name of a file without its ending, in letters that every file system and every mail takes.

    >>> file_stem("{project} {sheet}", {"project": "Isle of Quennet", "sheet": "Harrack Head"})
    'Isle-of-Quennet-Harrack-Head'

    Raises
    ------
    SheetRefused
        The pattern speaks of what there is not, or says nothing.
    """

    def filled(found: re.Match[str]) -> str:
        if found[1] not in values:
            known = ", ".join(f"{{{name}}}" for name in values)
            raise SheetRefused(f"File names know no {{{found[1][:20]}}}; use {known}.")
        return values[found[1]]

    name = slugify(re.sub(r"\{(\w*)\}", filled, pattern), lowercase=False, max_length=LONGEST_NAME)
    if not name:
        raise SheetRefused(f"“{pattern[:40]}” makes no file name; use words or {{sheet}}.")
    return name


def file_names(pattern: str, project: str, sheets: Sequence[Sheet], today: date) -> list[str]:
    """Names for the files of some sheets, without endings; those that would be alike are numbered."""
    names: list[str] = []
    for number, sheet in enumerate(sheets, 1):
        values = {"project": project, "sheet": sheet.name, "date": today.isoformat(), "number": str(number)}
        stem = name = file_stem(pattern, values)
        more = 2
        while name in names:
            name, more = f"{stem}-{more}", more + 1
        names.append(name)
    return names


@dataclass(frozen=True)
class ExportRun:
    """What is to be exported.

    Attributes
    ----------
    sheets
        The numbers of the sheets, in the order of the pages.
    together
        Whether they come as the pages of one PDF.
    plotter
        What they are printed with; None for files.
    data
        Instead of sheets the features, as a file of this extension, or ``archive`` for all in one; empty for sheets.
    """

    sheets: tuple[int, ...]
    way: ExportSettings
    together: bool = False
    plotter: Plotter | None = None
    data: str = ""

    def __post_init__(self) -> None:
        if not self.sheets and not self.data:
            raise SheetRefused("Choose a sheet to export.")
        if self.together and self.way.ending != "pdf":
            raise SheetRefused(f"{ENDINGS[self.way.ending].split(',')[0]} holds one sheet a file; choose PDF.")

    def to_dict(self) -> dict[str, Any]:
        """Ready for JSON."""
        device = self.plotter.to_dict() if self.plotter is not None else None
        held = {"sheets": list(self.sheets), "way": self.way.to_dict(), "together": self.together}
        return held | {"plotter": device, "data": self.data}

    @staticmethod
    def from_dict(values: Mapping[str, Any]) -> ExportRun:
        """From what is kept; raises SheetRefused where it cannot be."""
        device = Plotter.from_dict(values["plotter"]) if values.get("plotter") else None
        return ExportRun(
            tuple(values["sheets"]),
            ExportSettings.from_dict(values["way"]),
            bool(values["together"]),
            device,
            str(values["data"]),
        )


@dataclass(frozen=True)
class ExportResult:
    """What came of an export: the names of the files, and what is to be said of them."""

    files: list[str]
    said: list[str] = field(default_factory=list)
