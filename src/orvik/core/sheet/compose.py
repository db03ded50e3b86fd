"""Composition: a sheet and its parts become ink in millimetres on the page, a group for each part."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from orvik.core.features.feature import Features, Table
from orvik.core.features.map_unit import MapUnit
from orvik.core.ground.crs import ProjectCrs
from orvik.core.ground.scale import Scales, spaced
from orvik.core.ink import INK, Fill, Group, Item, LineStyle, Ornaments, Stroke, Text, moved
from orvik.core.labels.label_ink import LABEL_LAYERS
from orvik.core.labels.label_move import LabelMove, in_force
from orvik.core.labels.label_rule import LabelRule
from orvik.core.labels.labelled import Labelling, labelled
from orvik.core.labels.wishes import Written
from orvik.core.lettering import ITALIC, ROMAN, cap_height, run, wrapped
from orvik.core.sheet import explanation, grid, north_arrow, scale_bar
from orvik.core.sheet.page import PART_KINDS, Part
from orvik.core.sheet.panel import NEATLINE, Panel
from orvik.core.sheet.settings import TextSettings
from orvik.core.signs.ornaments import whole_within
from orvik.core.signs.portray import portray
from orvik.core.signs.sign import Sign
from orvik.core.signs.sign_book import SignBook
from orvik.core.signs.theme import Theme

# From the lowest to the highest; tags and the border are aids for compiling and are not printed.
PANEL_LAYERS = ("units", "linework", "attitudes", "labels")
# Heights in millimetres of letters where none is set.
LETTER_SIZES = {"title": 6.4, "text": 3.0, "credit_note": 2.4}
# The layers of ink in printing order, and the layer of the panel that each belongs to.
PRINTED = {
    "units": "units",
    "linework": "linework",
    "names": "linework",
    "attitudes": "attitudes",
    "figures": "attitudes",
    "labels": "labels",
}
LAYER_WORDS = {"units": "Units", "linework": "Linework", "attitudes": "Attitudes", "labels": "Unit codes"}


@dataclass(frozen=True)
class Underlay:
    """A picture or lines below or over the tints of a panel: an id in the project, a strength, a blend.

    ``sign`` is its row in the explanation, if it is to have one.
    """

    id: int
    name: str
    strength: float
    multiply: bool
    sign: Sign | None = None


# Gives what an underlay shows, as ground ink, for a window of ground (west, south, east, north) and a width and
# height in millimetres on the page; nothing where it shows nothing there.
UnderlayInk = Callable[[Underlay, tuple[float, float, float, float], tuple[float, float]], Sequence[Item]]


@dataclass(frozen=True)
class MapContext:
    """All that the parts of a sheet speak of."""

    project: str
    crs: ProjectCrs
    scales: Scales
    book: SignBook
    units: Mapping[str, MapUnit]
    features: Mapping[Table, Features]
    border: shapely.LineString | None
    underlays: Sequence[Underlay] = ()
    underlay_ink: UnderlayInk | None = None
    rules: Mapping[tuple[Table, str], LabelRule] = field(default_factory=dict)
    moves: Sequence[LabelMove] = ()
    themes: Mapping[str, Theme] = field(default_factory=dict)

    def for_panel(self, panel: Panel) -> MapContext:
        """The same at a panel's scale, in the theme that it is printed in; one that is gone leaves it as it is.

        Only the features that the panel shows are among it.
        """
        theme = self.themes.get(panel.part.panel.theme)
        book = self.book.at(panel.scale)
        shown = {table: book.without_left_out(panel.shows(found)) for table, found in self.features.items()}
        if theme is None:
            return replace(self, book=book, features=shown)
        return replace(self, book=theme.book(book), units=theme.units(self.units), features=shown)


def compose(parts: Sequence[Part], context: MapContext) -> list[Group]:
    """The ink of a sheet's parts in drawing order; each group is named ``part-ID``.

    The scale bar, explanation, fraction, north arrow and credit note speak of the largest panel.
    """
    main = main_panel(parts, context)
    on_main = context.for_panel(main) if main else context
    groups = []
    for part in sorted(parts, key=lambda p: (p.position, p.id or 0)):
        if part.kind == "map_panel":
            panel = Panel.of(part, context.crs, context.border)
            items = _panel(panel, on_main if main and part is main.part else context.for_panel(panel))
        else:
            items = _part(part, main, on_main)
        groups.append(Group(f"part-{part.id}", tuple(items)))
    return groups


def main_panel(parts: Sequence[Part], context: MapContext) -> Panel | None:
    """The largest panel of a sheet."""
    panels = [p for p in parts if p.kind == "map_panel"]
    if not panels:
        return None
    return Panel.of(max(panels, key=lambda p: p.width * p.height), context.crs, context.border)


def _panel(panel: Panel, context: MapContext) -> list[Item]:
    settings = panel.part.panel
    strengths = {name: settings.layers.get(name, 1.0) for name in PANEL_LAYERS}
    layers = portray(context.features, context.book, context.units, context.crs, round(panel.scale))
    layers |= panel_labels(panel, layers, context).layers
    inside: list[Item] = []
    ground = shapely.Polygon(panel.neatline.xy)
    if settings.ground_colour:
        inside.append(_ground(panel, settings.ground_colour))
    underlays = settings.underlays
    wanted = [u for u in context.underlays if underlays.get(str(u.id), 0.0) > 0]
    for underlay in (u for u in wanted if not u.multiply):
        inside += _underlay(panel, underlay, underlays[str(underlay.id)], context)
    for name in PRINTED:
        strength = strengths[PRINTED[name]]
        if strength > 0:
            fitting = tuple(i for i in moved(layers[name].items, panel.to_page) if _fits(i, panel.scale))
            fitting = tuple(whole_within(i, ground) if isinstance(i, Ornaments) else i for i in fitting)
            inside.append(Group(name, fitting, strength=strength))
        if name == "units":
            for underlay in (u for u in wanted if u.multiply):
                inside += _underlay(panel, underlay, underlays[str(underlay.id)], context)
    if settings.grid:
        inside.append(Group("grid", tuple(grid.crosses(panel))))
    items: list[Item] = [Group("map", tuple(inside), clip=panel.neatline)]
    items.append(Stroke(LineStyle(NEATLINE, INK, join="miter"), panel.neatline))
    if settings.grid:
        items += grid.margin(panel)
    return items


def panel_labels(panel: Panel, layers: Mapping[str, Group], context: MapContext) -> Labelling:
    """The labels of a panel: placed at its scale, within its neatline, by its own moves and those of its scale.

    What is not printed is not written on either, and takes no room from what is.
    """
    settings = panel.part.panel
    printed = {name for name, layer in PRINTED.items() if settings.layers.get(layer, 1.0) > 0}
    return labelled(
        context.features,
        {name: group for name, group in layers.items() if name in printed},
        Written(context.book, context.units, context.crs, context.rules),
        panel.scale,
        panel.to_page,
        in_force(list(context.moves), panel.part.id or -1, panel.scale == context.scales.publication),
        shapely.Polygon(panel.neatline.xy),
        settings.layers.get("units", 1.0),
        frozenset(table for name, table in LABEL_LAYERS.items() if name in printed),
    )


def _ground(panel: Panel, colour: str) -> Item:
    return Fill(colour, panel.neatline, np.array([0, 1]))


def _underlay(panel: Panel, underlay: Underlay, strength: float, context: MapContext) -> list[Item]:
    if context.underlay_ink is None:
        return []
    shown = context.underlay_ink(underlay, panel.window, (panel.part.width, panel.part.height))
    if not shown:
        return []
    placed = moved(shown, panel.to_page)
    return [Group(f"underlay-{underlay.id}", placed, strength=strength, multiply=underlay.multiply)]


def _fits(item: Item, scale: int) -> bool:
    return not (isinstance(item, Text) and item.largest is not None and scale > item.largest)


def _part(part: Part, main: Panel | None, context: MapContext) -> list[Item]:
    if part.kind in ("title", "text"):
        return _lines(part.text, part, ROMAN, letter_size(part))
    if main is None:
        return _lines("Place a map panel first.", part, ITALIC, 2.6)
    if part.kind == "explanation":
        listed = explanation.entries(context.features, context.book, context.units)
        return explanation.ink(part, replace(listed, signs=(*listed.signs, *_reference_signs(main, context))))
    if part.kind == "scale_bar":
        return scale_bar.ink(part, main.scale)
    if part.kind == "fraction":
        letters = run(f"1:{spaced(main.scale)}", ROMAN, 4.0, "centre")
        return [Text(letters, (part.x + part.width / 2, part.y + (part.height + cap_height(4.0)) / 2), INK)]
    if part.kind == "north_arrow":
        x, y = main.centre
        return north_arrow.ink(part, float(context.crs.convergence(x, y)))
    return _lines(
        "\n".join([*credit_lines(context), *([part.text] if part.text else [])]), part, ROMAN, letter_size(part)
    )


def _reference_signs(panel: Panel, context: MapContext) -> list[Sign]:
    """The rows of reference layers that a panel prints."""
    printed = panel.part.panel.underlays
    return [u.sign for u in context.underlays if u.sign is not None and printed.get(str(u.id), 0.0) > 0]


def letter_size(part: Part) -> float:
    """Height of a part's letters in millimetres: as set, else as suits its kind."""
    size = part.settings.size if isinstance(part.settings, TextSettings) else None
    return size or LETTER_SIZES[part.kind]


def credit_lines(context: MapContext) -> list[str]:
    """What a credit note says by itself: the coordinate system and how the map was drawn."""
    crs = context.crs
    known = crs.text.startswith("EPSG:")
    return [
        f"{crs.name}, {crs.text}" if known else crs.name,
        f"{crs.method}, {crs.datum}",
        *([] if known else [crs.parameters]),
        f"Digitized at 1:{spaced(context.scales.digitizing)} or larger",
    ]


def _lines(text: str, part: Part, font: str, size: float) -> list[Item]:
    leading = size * 1.32
    return [
        Text(run(line, font, size), (part.x, part.y + cap_height(size) + 0.2 * size + i * leading), INK)
        for i, line in enumerate(wrapped(text, font, size, part.width))
        if line
    ]


def essentials(parts: Sequence[Part]) -> list[tuple[str, bool]]:
    """The parts a published sheet must carry, and whether it has them."""
    have = {p.kind for p in parts}
    texts = any(p.kind == "title" and p.text.strip() for p in parts)
    wanted = ("map_panel", "explanation", "scale_bar", "fraction", "north_arrow", "credit_note")
    return [("Title", texts), *((PART_KINDS[kind], kind in have) for kind in wanted)]
