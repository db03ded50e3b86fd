"""A map panel: the part that shows the map."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from string import ascii_uppercase
from typing import Any, ClassVar, Self

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.errors import OrvikError, SheetRefused
from orvik.core.ground.crs import ProjectCrs, project_crs
from orvik.core.ground.land import LARGEST_SCALE, land_in
from orvik.core.ink.affine import apply
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import INK, PAPER, Fill, Group, Item, LineStyle, Ornaments, Stroke, Text, enlarged, moved
from orvik.core.labels.label_ink import LABEL_LAYERS
from orvik.core.labels.label_move import in_force
from orvik.core.labels.label_requests import Written
from orvik.core.labels.labelled import Labelling, labelled
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.pictures.reference_look import ReferenceLook
from orvik.core.pictures.underlay_ink import reference_ink
from orvik.core.sheet.page.entries import (
    Choice,
    Figure,
    GroundPlace,
    NameOf,
    Opacities,
    PanelNumbers,
    Scale,
    Switch,
    Words,
    entry,
)
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import NewPartContext, PanelPartSettings, Part, PartSettings
from orvik.core.sheet.page.text_ink import words_instead
from orvik.core.sheet.panels.map_context import MapContext, Underlay, border_in
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.panels.panel import NEATLINES, Panel, aimed
from orvik.core.sheet.panels.reprojection import OFF_MM, Carrier
from orvik.core.symbols.portrayal.ornaments import whole_within
from orvik.core.symbols.portrayal.portray import portray

# What panels are called one after the other.
LETTERS = [*ascii_uppercase, *(f"{one}{two}" for one in ascii_uppercase for two in ascii_uppercase)]
# The layers of ink in printing order, and the layer of the panel that each belongs to.
PRINTED = {
    "units": "units",
    "linework": "linework",
    "names": "linework",
    "attitudes": "attitudes",
    "figures": "attitudes",
    "labels": "labels",
}
# What they are called as layers of a file.
PRINTED_WORDS = {
    "units": "Units",
    "linework": "Linework",
    "names": "Names of lines",
    "attitudes": "Attitudes",
    "figures": "Dips and plunges",
    "labels": "Unit codes",
}
# The line around a footprint, and its letter, in millimetres.
FOOTPRINT, FOOTPRINT_LETTER = 0.2, 3.6
# How the land around is drawn.
LAND = ReferenceLook("#7F7A6C", width=0.1, fill="#E9E4D6", fill_opacity=1.0)
LAYER_WORDS = {"units": "Units", "linework": "Linework", "attitudes": "Attitudes", "labels": "Unit codes"}


@dataclass(frozen=True, kw_only=True)
class MapPanel(PartSettings):
    """What a map panel shows.

    Attributes
    ----------
    scale
        Denominator of its scale.
    centre
        The middle of its frame, in its own system.
    scale_locked
        Whether a change of its size shows more or less ground; else the same ground at another scale.
    rotation
        By how much the ground is turned, in degrees clockwise.
    system
        The coordinate system that it is drawn in; empty for the project's.
    neatline
        What the shown ground is cut to: a name of ``NEATLINES``.
    symbol_scale
        How much larger its symbols and labels are than in the symbol book.
    letter
        What it is called on its footprints; empty for nothing.
    footprints
        The numbers of the panels that show what ground this one has.
    layers
        How strong each layer is printed, 0 to 1; those that are not named are printed in full.
    underlays
        The same of pictures below, by the number of their source; those that are not named are left out.
    emphasis
        The name of the emphasis that it is printed in; empty for as it is.
    land
        Whether the land of the earth is drawn below the map; only at scales that its outline is fit for.
    """

    kind: ClassVar[str] = "map_panel"
    label: ClassVar[str] = "Map panel"
    icon: ClassVar[str] = "M2 1h20v14H2zM2 10q5-6 9-3t11-3"
    essential_in_figures: ClassVar[tuple[str, ...]] = ("Map panel",)
    can_be_hidden: ClassVar[bool] = False
    essential: ClassVar[tuple[str, ...]] = ("Map panel",)

    frame: float = entry(Figure("Frame", 0, 5, "mm"), 0.35)
    scale: int = entry(Scale("Scale"))
    centre: tuple[float, float] = entry(GroundPlace("Centre"))
    scale_locked: bool = entry(Switch("Scale locked"), True)
    rotation: float = entry(Figure("Rotation", -360, 360, "°"), 0.0)
    system: str = entry(Words("Coordinate system", longest=20_000), "")
    neatline: str = entry(Choice("Clip to", NEATLINES), "border")
    symbol_scale: float = entry(Figure("Symbol size ×", 0.2, 5), 1.0)
    letter: str = entry(Words("Letter", longest=4), "")
    footprints: tuple[int, ...] = entry(PanelNumbers("Show footprint in"), ())
    layers: Mapping[str, float] = entry(Opacities("Layers"), {})
    underlays: Mapping[str, float] = entry(Opacities("Underlays"), {})
    emphasis: str = entry(NameOf("Emphasis"), "")
    land: bool = entry(Switch("Land around"), False)

    @classmethod
    def from_dict(cls, values: Mapping[str, Any]) -> Self:
        if not {"scale", "centre"} <= set(values):
            raise SheetRefused("This panel does not say what ground it shows; aim it at the border.")
        # As it was kept before form 8, which undoing an older entry brings back.
        shape = {"neatline": "rectangle"} if values.get("cut") is False else {}
        return super().from_dict(shape | dict(values))

    @classmethod
    def new(cls, context: NewPartContext) -> tuple[Self, float, float]:
        if context.border is None:
            raise SheetRefused(NO_BORDER)
        scale = context.scales.publication
        centre, width, height = aimed(context.border, scale, context.crs)
        room = context.sheet.width - 20, context.sheet.height - 20
        if not context.taken_names:
            return cls(name="Main map", scale=scale, centre=centre), min(width, room[0]), min(height, room[1])
        letter = next(letter for letter in LETTERS if f"Panel {letter}" not in context.taken_names)
        # What it may come to lie over is not seen through it.
        small = cls(name=f"Panel {letter}", letter=letter, scale=scale, centre=centre, ground_colour=PAPER)
        return small, min(width, room[0] / 3), min(height, room[1] / 3)

    def crs_in(self, project: ProjectCrs) -> ProjectCrs:
        """The system that it is drawn in; raises CrsRefused where that cannot serve."""
        return project_crs(self.system) if self.system else project

    def with_opacity(self, layer: str, opacity: float) -> Self:
        """With another opacity of a layer, or of an underlay that is named ``underlay-ID``."""
        group, _, number = layer.partition("-")
        if group == "underlay":
            return replace(self, underlays={**self.underlays, number: opacity})
        return replace(self, layers={**self.layers, layer: opacity})

    def renumbered(self, numbers: Mapping[int, Any]) -> Mapping[str, Any]:
        if not set(self.footprints) & set(numbers):
            return {}
        return {"footprints": [numbers.get(number, number) for number in self.footprints]}

    def ink(self, part: Part, page: PageContext) -> list[Item]:
        panel = page.panels.get(part.number)
        if panel is None:
            return words_instead(_trouble(part, page), part)
        context = page.shown(part.number)
        inside: list[Item] = []
        if self.ground_colour:
            inside.append(Fill(self.ground_colour, panel.neatline, np.array([0, 1])))
        if self.land:
            inside += _land(panel)
        below, above = _underlays(panel, page.map)
        layers = _layers(panel, context)
        inside += [*below, *layers[:1], *above, *layers[1:], *_footprints(part.number, panel, page)]
        items: list[Item] = [Group("map", tuple(inside), clip=panel.neatline)]
        if self.frame:
            items.append(Stroke(LineStyle(self.frame, INK, join="miter"), panel.neatline))
        return items


NO_BORDER = "The project has no sheet border yet; set it in Ground, so that the panel can show it."


def panel_of(part: Part, project: ProjectCrs, border: shapely.LineString | None) -> Panel:
    """The panel that a part shows.

    Parameters
    ----------
    project
        The project's system, which the border is in.

    Raises
    ------
    SheetRefused
        It is not a map panel.
    CrsRefused
        It has a system of its own that is not known here.
    """
    settings = part.settings
    if not isinstance(settings, MapPanel):
        raise SheetRefused(f"A {part.settings.label.lower()} shows no ground; choose a map panel.")
    crs = settings.crs_in(project)
    return Panel(
        part,
        settings.scale,
        settings.centre,
        crs,
        settings.rotation,
        settings.symbol_scale,
        settings.neatline,
        border_in(border, project, crs, settings.scale),
        settings.layers,
        settings.underlays,
        settings.emphasis,
    )


def _land(panel: Panel) -> list[Item]:
    """The land of the earth below a map; nothing at scales that its outline is not fit for."""
    if panel.scale < LARGEST_SCALE:
        return []
    found = reference_ink(land_in(panel.crs, panel.ground, panel.scale), LAND, panel.ground, OFF_MM / panel.mm_per_unit)
    return [Group("land", moved(found, panel.to_page), title="Land")]


def _footprints(number: int, panel: Panel, page: PageContext) -> list[Item]:
    """The ground of other panels that are to be shown on this one, as lettered hairlines."""
    items: list[Item] = []
    for part in page.parts:
        made, other = part.settings, page.panels.get(part.number)
        if other is None or not isinstance(made, MapPanel) or number not in made.footprints or part.id == number:
            continue
        carrier = Carrier(other.crs, panel.crs, OFF_MM / panel.mm_per_unit, other.centre)
        (ground,) = carrier.geometries(np.array([other.ground]))
        if not isinstance(ground, shapely.Polygon):
            continue
        ring = apply(panel.to_page, shapely.get_coordinates(ground.exterior))
        items.append(Stroke(LineStyle(FOOTPRINT, INK, join="miter"), Paths.of(ring)))
        if made.letter:
            items.append(_footprint_letter(made.letter, ring))
    return items


def _footprint_letter(letter: str, ring: Floats) -> Text:
    """Within the upper left of a footprint, or to the right of one that is too small for it."""
    letters = run(letter, ROMAN, FOOTPRINT_LETTER, "centre")
    reach = float(np.hypot(letters.width, cap_height(FOOTPRINT_LETTER))) / 2 + 0.6
    room = shapely.get_coordinates(shapely.Polygon(ring).buffer(-reach))
    if len(room):
        at = room[int(np.argmin(room.sum(axis=1)))]
    else:
        at = np.array([ring[:, 0].max() + letters.width / 2 + 0.8, ring[:, 1].mean()])
    drop = (0.0, cap_height(FOOTPRINT_LETTER) / 2)
    return Text(letters, (float(at[0]), float(at[1])), INK, offset=drop, halo=PAPER)


def _trouble(part: Part, page: PageContext) -> str:
    """Why a panel cannot be drawn."""
    try:
        panel_of(part, page.map.crs, page.map.border)
    except OrvikError as refusal:
        return refusal.sentence
    return ""


def panels_of(parts: Sequence[Part], context: MapContext) -> dict[int, Panel]:
    """The panels of a sheet that can be drawn, by number."""
    found: dict[int, Panel] = {}
    for part in parts:
        if isinstance(part.settings, MapPanel):
            try:
                found[part.number] = panel_of(part, context.crs, context.border)
            except OrvikError:
                continue
    return found


def page_of(sheet: Sheet, parts: Sequence[Part], context: MapContext) -> PageContext:
    """A page as its parts see it, with the panels of other sheets that they speak of."""
    own = {part.number for part in parts}
    spoken = {
        part.settings.panel
        for part in parts
        if isinstance(part.settings, PanelPartSettings) and part.settings.reads_far and part.settings.panel not in own
    }
    far = [part for part in context.parts if part.id in spoken and part.sheet_id != sheet.id]
    return PageContext(sheet, parts, context, panels_of(parts, context), panels_of(far, context))


def panel_labels(panel: Panel, context: MapContext) -> Labelling:
    """The labels of a panel: placed at its scale, within its neatline, by its own moves and those of its scale.

    What is not printed is not written on either, and takes no room from what is.

    Parameters
    ----------
    context
        The map as the panel shows it.
    """
    return _labels(panel, _portrayed(panel.natural, context), context)


def _portrayed(panel: Panel, context: MapContext) -> dict[str, Group]:
    return portray(context.features, context.book, context.units, context.crs, round(panel.scale))


def _labels(shown: Panel, layers: Mapping[str, Group], context: MapContext) -> Labelling:
    panel = shown.natural
    # Labels were moved on the ground of the publication scale, however large symbols are drawn on it.
    at_publication = shown.scale == context.scales.publication
    printed = {name for name, layer in PRINTED.items() if panel.layers.get(layer, 1.0) > 0}
    return labelled(
        context.features,
        {name: group for name, group in layers.items() if name in printed},
        Written(context.book, context.units, context.crs, context.rules, panel.rotation),
        panel.scale,
        panel.to_page,
        in_force(list(context.moves), panel.part.number, at_publication),
        panel.page_area,
        panel.layers.get("units", 1.0),
        frozenset(table for name, table in LABEL_LAYERS.items() if name in printed),
        context.over(),
    )


def _layers(panel: Panel, context: MapContext) -> list[Group]:
    """The map's own layers on the page, the units first; what is not printed is empty."""
    natural = panel.natural
    layers = _portrayed(natural, context)
    if not context.unlettered:
        layers |= _labels(panel, layers, context).layers
    out = []
    for name, layer in PRINTED.items():
        opacity = panel.layers.get(layer, 1.0)
        items: tuple[Item, ...] = ()
        if opacity > 0 and name in layers:
            fitting = (i for i in moved(layers[name].items, natural.to_page) if _fits(i, natural.scale))
            items = tuple(whole_within(i, natural.page_area) if isinstance(i, Ornaments) else i for i in fitting)
        out.append(Group(name, enlarged(items, panel.symbol_scale), opacity=opacity, title=PRINTED_WORDS[name]))
    return out


def _underlays(panel: Panel, context: MapContext) -> tuple[list[Item], list[Item]]:
    """What underlays show below and above the tints of the units."""
    below: list[Item] = []
    above: list[Item] = []
    for underlay in context.underlays:
        opacity = panel.underlays.get(str(underlay.id), 0.0)
        if opacity > 0:
            (above if underlay.multiply else below).extend(_underlay(panel, underlay, opacity, context))
    return below, above


def _underlay(panel: Panel, underlay: Underlay, opacity: float, context: MapContext) -> list[Item]:
    shown = context.underlay_ink(underlay, panel) if context.underlay_ink is not None else ()
    if not shown:
        return []
    placed = moved(shown, panel.to_page)
    name = f"underlay-{underlay.id}"
    return [Group(name, placed, opacity=opacity, multiply=underlay.multiply, title=underlay.name)]


def _fits(item: Item, scale: float) -> bool:
    return not (isinstance(item, Text) and item.largest is not None and scale > item.largest)
