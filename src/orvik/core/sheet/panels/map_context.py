"""What the parts of a sheet speak of: the map, in the project's system or in that of a panel."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from orvik.core.features.feature import Features
from orvik.core.features.map_unit import MapUnit
from orvik.core.features.table import Table
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales
from orvik.core.ink.primitives import Item
from orvik.core.joins.neighbour import Neighbour
from orvik.core.labels.label_move import LabelMove
from orvik.core.labels.label_rule import LabelRule
from orvik.core.pictures.relief import ReliefStyle
from orvik.core.sheet.page.imprint import Imprint
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.sheet_file import Files, no_files
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.panels.reprojection import OFF_MM, Carrier
from orvik.core.structure.section.section import SectionOfMap
from orvik.core.symbols.emphasis import Emphasis
from orvik.core.symbols.symbol import Symbol
from orvik.core.symbols.symbol_book import SymbolBook


@dataclass(frozen=True)
class Underlay:
    """A picture or lines below or over the tints of a panel: an id in the project, an opacity, a blend.

    ``symbol`` is its row in the explanation, if it is to have one. Of heights, ``relief`` says how they are shown,
    ``span`` gives the lowest and the highest in metres, and ``datum`` is what they stand above, if that is stated.
    """

    id: int
    name: str
    opacity: float
    multiply: bool
    symbol: Symbol | None = None
    relief: ReliefStyle | None = None
    span: Callable[[], tuple[float, float]] | None = None
    datum: str = ""


@dataclass(frozen=True)
class Origin:
    """What features were taken from: its name, and how it is credited."""

    name: str
    credit: str = ""


# Gives what an underlay shows in a panel, as ink in coordinates of the panel's system; nothing where it shows nothing.
UnderlayInk = Callable[[Underlay, Panel], Sequence[Item]]


@dataclass(frozen=True)
class MapContext:
    """All that the parts of a sheet speak of; places are in ``crs``.

    A draft is ``unlettered``: placing labels takes most of the time that a large panel does. ``lost`` counts the
    features of which something lies on a panel whose system cannot show it. ``over`` is ink in millimetres on the page
    that parts lay over the panel, such as a graticule, which labels keep clear of where they can.
    """

    project: str
    crs: ProjectCrs
    scales: Scales
    book: SymbolBook
    units: Mapping[str, MapUnit]
    features: Mapping[Table, Features]
    border: shapely.LineString | None
    underlays: Sequence[Underlay] = ()
    underlay_ink: UnderlayInk | None = None
    rules: Mapping[tuple[Table, str], LabelRule] = field(default_factory=dict)
    moves: Sequence[LabelMove] = ()
    emphases: Mapping[str, Emphasis] = field(default_factory=dict)
    files: Files = no_files
    unlettered: bool = False
    lost: int = 0
    imprint: Imprint = field(default_factory=Imprint)
    neighbours: Sequence[Neighbour] = ()
    # What features were taken from, by its number.
    sources: Mapping[int, Origin] = field(default_factory=dict)
    over: Callable[[], Sequence[Item]] = tuple
    # The parts of all sheets of the project, sheet by sheet.
    parts: Sequence[Part] = ()
    # Gives the section whose line has a letter; it raises what is said of one that cannot be.
    section: Callable[[str], SectionOfMap] | None = None

    def for_panel(self, panel: Panel) -> MapContext:
        """The same in a panel's system, at its scale, in its emphasis; an emphasis that is gone leaves it as it is.

        Only the features that the panel shows are among it.
        """
        here = self.carried(panel)
        emphasis = self.emphases.get(panel.emphasis)
        book = self.book.at(round(panel.scale))
        shown = {table: book.without_left_out(panel.shows(found)) for table, found in here.features.items()}
        if emphasis is None:
            return replace(here, book=book, features=shown)
        return replace(here, book=emphasis.book(book), units=emphasis.units(self.units), features=shown)

    def carried(self, panel: Panel) -> MapContext:
        """The same with its places in a panel's system."""
        if panel.crs.text == self.crs.text:
            return self
        carrier = Carrier(self.crs, panel.crs, OFF_MM / panel.mm_per_unit, _place_in(self.crs, panel), panel.ground)
        carried = {table: carrier.features(found) for table, found in self.features.items()}
        return replace(
            self,
            crs=panel.crs,
            features={table: there.features for table, there in carried.items()},
            lost=sum(there.lost for there in carried.values()),
            moves=[move.carried(carrier.way.places) for move in self.moves],
        )


def _place_in(crs: ProjectCrs, panel: Panel) -> tuple[float, float] | None:
    """About where a panel is in another system: near enough to choose a datum shift by."""
    longitude, latitude = panel.crs.to_geographic(*panel.centre)
    x, y = (float(v) for v in crs.from_geographic(longitude, latitude))
    return (x, y) if np.isfinite(x) and np.isfinite(y) else None


def border_in(
    border: shapely.LineString | None, source: ProjectCrs, target: ProjectCrs, scale: float
) -> shapely.Polygon | None:
    """The project border as an area, in a system and as exact as a scale needs; None where it cannot be shown there."""
    if border is None:
        return None
    area = shapely.Polygon(border)
    if source.text == target.text:
        return area
    off = OFF_MM * scale / 1000 / target.metres_per_unit
    middle = area.centroid
    (moved,) = Carrier(source, target, off, (middle.x, middle.y)).geometries(np.array([area]))
    return moved if isinstance(moved, shapely.Polygon) and not moved.is_empty else None
