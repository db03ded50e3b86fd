"""The kinds of parts: one file each; this is the one list of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from orvik.core.errors import SheetRefused
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part, PartSettings
from orvik.core.sheet.parts.box import Box
from orvik.core.sheet.parts.check_square import CheckSquare
from orvik.core.sheet.parts.conversion_bar import ConversionBar
from orvik.core.sheet.parts.correlation.correlation import Correlation
from orvik.core.sheet.parts.credits import CreditNote
from orvik.core.sheet.parts.description.description import Description
from orvik.core.sheet.parts.explanation.explanation import Explanation
from orvik.core.sheet.parts.fields import supplied_by_fields
from orvik.core.sheet.parts.fraction import Fraction
from orvik.core.sheet.parts.graticule.graticule import Graticule
from orvik.core.sheet.parts.identifier import Identifier
from orvik.core.sheet.parts.leader_line import PointerLine
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.parts.neighbouring_sheets import NeighbouringSheets
from orvik.core.sheet.parts.net import Net
from orvik.core.sheet.parts.north_arrow.north_arrow import NorthArrow
from orvik.core.sheet.parts.picture import PictureOf
from orvik.core.sheet.parts.scale_bar.scale_bar import ScaleBar
from orvik.core.sheet.parts.section import CrossSection
from orvik.core.sheet.parts.source_diagram import SourceDiagram
from orvik.core.sheet.parts.text import RunningText
from orvik.core.sheet.parts.tint_bar import TintBar
from orvik.core.sheet.parts.title import Title

PART_KINDS: Mapping[str, type[PartSettings]] = {
    made.kind: made
    for made in (
        MapPanel,
        Graticule,
        Title,
        Explanation,
        Description,
        Correlation,
        ScaleBar,
        NorthArrow,
        TintBar,
        Net,
        CrossSection,
        Fraction,
        ConversionBar,
        NeighbouringSheets,
        SourceDiagram,
        CreditNote,
        RunningText,
        PictureOf,
        Box,
        CheckSquare,
        Identifier,
        PointerLine,
    )
}


def kind_of_part(kind: str) -> type[PartSettings]:
    """The settings of a kind of part by its name; raises SheetRefused where there is none."""
    if kind not in PART_KINDS:
        raise SheetRefused(f"“{kind[:40]}” is not a part of a sheet; choose {', '.join(PART_KINDS)}.")
    return PART_KINDS[kind]


def settings_of(kind: str, values: Mapping[str, Any]) -> PartSettings:
    """Settings of a part as they were kept.

    Raises
    ------
    SheetRefused
        There is no such kind, or a setting cannot be drawn.
    """
    return kind_of_part(kind).from_dict(values)


def needed(sheet: Sheet, parts: Sequence[Part], imprint: Imprint) -> list[tuple[str, bool]]:
    """What a sheet of its purpose must carry, and whether it does; texts may say it by their fields."""
    have = {what for part in parts for what in part.settings.supplied}
    have |= {what for part in parts for what in supplied_by_fields(getattr(part.settings, "text", ""), imprint)}
    figure = sheet.layout.purpose == "figure"
    wanted = [
        what for made in PART_KINDS.values() for what in (made.essential_in_figures if figure else made.essential)
    ]
    return [(what, what in have) for what in wanted]
