"""What the parts of a project's sheets speak of, and sheets as ink: composed, but painted by nobody yet."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from orvik.core.errors import FileRefused, NotFound, ReliefRefused
from orvik.core.ink.affine import chained
from orvik.core.ink.primitives import Group, Item, Picture, moved
from orvik.core.labels.labelled import Labelling
from orvik.core.pictures.ground_view import GroundView
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.pictures.relief import ReliefStyle
from orvik.core.pictures.source import Source
from orvik.core.progress import Tell, tell_nobody
from orvik.core.sheet.output.compose import Composition, compose
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext, Origin, Underlay
from orvik.core.sheet.panels.panel import Panel
from orvik.core.sheet.parts.map_panel import MapPanel, page_of, panel_labels, panel_of
from orvik.exchange.rasters import raster
from orvik.store.read_project import ReadProject
from orvik.store.tables.emphasis import emphasis_rows
from orvik.store.tables.imprint import imprint_of
from orvik.store.tables.labels import label_moves, label_rules
from orvik.store.tables.neighbours import neighbours
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.ground import underlay_views as underlays
from orvik.usecases.sheet.sheet_files import files_of, lend_fonts
from orvik.usecases.structure.sections import section_of_letter

PRINT_DPI = 300.0
# Dots a side of one picture; larger panels have several.
LARGEST_TILE = 4096
# Dots a side of a picture of a part on the screen.
SCREEN_DOTS = 1600


def context(project: ReadProject, dpi: float = PRINT_DPI, whole: bool = True) -> MapContext:
    """What the parts of a project's sheets speak of; pictures come at a resolution.

    A print must be ``whole``: a picture that is missing is refused. A page on the screen shows the rest.
    """
    lend_fonts(project)
    sources = {r.id: r for r in project.sources() if underlays.can_be_shown(r)}

    def shown(underlay: Underlay, panel: Panel) -> list[Item]:
        row = sources[underlay.id]
        # More dots than the picture has pixels would add weight and no detail.
        native = dpi / 25.4
        if row.kind == "underlay":
            native = 1 / (raster.pixel_size(row.crs, row.transform, panel.crs, panel.window) * panel.mm_per_unit)
        asked = panel_view(panel, min(dpi / 25.4, native))
        try:
            pictures = [(tile, underlays.view(project, row, tile)) for tile in asked.tiles(LARGEST_TILE)]
            lines = underlays.ink(project, row, asked)
        except FileRefused as refusal:
            if not whole:
                return []
            raise FileRefused(f"{underlay.name}: {refusal.sentence} Or set its opacity in the panel to 0.") from refusal
        placed = [Picture(data, tile.unit_place, underlay.name) for tile, data in pictures if data is not None]
        return [*placed, *lines]

    return MapContext(
        project=project.name,
        crs=project.crs,
        scales=project.scales,
        book=symbol_book_of(project),
        units=project.units_by_code(),
        features=project.all_features(),
        border=project.border(),
        underlays=[
            Underlay(
                r.number,
                r.name,
                1.0,
                bool(r.multiply),
                underlays.reference_symbol(project, r),
                _relief_of(r),
                partial(underlays.height_span, project, r) if r.relief else None,
                _datum_of(r),
            )
            for r in sources.values()
        ],
        underlay_ink=shown,
        rules=label_rules(project),
        moves=[move for _, move in label_moves(project)],
        emphases={emphasis.name: emphasis for _, emphasis in emphasis_rows(project)},
        files=files_of(project, None if whole else SCREEN_DOTS),
        section=partial(section_of_letter, project),
        imprint=imprint_of(project),
        neighbours=neighbours(project),
        parts=project.all_parts(),
        sources={source.number: Origin(source.name, source.credit) for source in project.sources()},
    )


def _relief_of(source: Source) -> ReliefStyle | None:
    """How heights are shown; None of what is none, or cannot be read, which showing it says."""
    try:
        return ReliefStyle.of_json(source.relief) if source.relief else None
    except ReliefRefused:
        return None


def _datum_of(source: Source) -> str:
    """The vertical datum that is stated of heights; empty where none is, or it cannot be read."""
    try:
        return HeightFacts.of_json(source.heights).datum if source.relief else ""
    except ReliefRefused:
        return ""


def panel_view(panel: Panel, dots: float) -> GroundView:
    """The ground in a panel's frame as a picture of so many dots a millimetre, turned as the panel is."""
    part = panel.part
    width, height = max(1, round(part.width * dots)), max(1, round(part.height * dots))
    on_page = (part.width / width, 0.0, part.x, 0.0, part.height / height, part.y)
    return GroundView(panel.crs, chained(panel.to_ground, on_page), width, height)


def composed(project: ReadProject, sheet_id: int, dpi: float = PRINT_DPI, tell: Tell = tell_nobody) -> Composition:
    """A sheet as ink, as it is printed."""
    return compose(project.sheet(sheet_id), project.parts(sheet_id), context(project, dpi), tell=tell).printed


def panel_ink(project: ReadProject, part_id: int, dpi: float, lettered: bool) -> Group:
    """A map panel as the page on the screen shows it: in millimetres from its own corner, lettered or not.

    Raises
    ------
    NotFound
        There is no such part, or it is not a panel.
    """
    part = project.part(part_id)
    if not isinstance(part.settings, MapPanel):
        raise NotFound("This part shows no map; choose a map panel.")
    sheet_id = part.sheet_id or 0
    shown = replace(context(project, dpi, whole=False), unlettered=not lettered)
    group = compose(project.sheet(sheet_id), project.parts(sheet_id), shown, {part_id}).groups[0]
    return from_corner(group, part)


def panel_labelling(project: ReadProject, part_id: int) -> tuple[Panel, Labelling]:
    """A panel and its labels, which stand in millimetres on the page.

    Raises
    ------
    NotFound
        There is no such part, or it is not a panel.
    """
    part = project.part(part_id)
    if not isinstance(part.settings, MapPanel):
        raise NotFound("This part has no labels; they stand on panels.")
    whole = context(project)
    panel = panel_of(part, whole.crs, whole.border)
    sheet, parts = project.sheet(part.sheet_id or 0), project.parts(part.sheet_id or 0)
    page = page_of(sheet, parts, whole)
    return panel, panel_labels(panel, page.shown(part_id))


def from_corner(group: Group, part: Part) -> Group:
    """Ink on the page as it lies from a part's corner, so that it stays true when the part is moved."""
    return Group(group.name, moved(group.items, (1.0, 0.0, -part.x, 0.0, 1.0, -part.y)))


def sheet_named(project: ReadProject, name: str) -> Sheet:
    """A sheet by its name.

    Raises
    ------
    NotFound
        No such sheet; says which there are.
    """
    sheets = project.sheets()
    for sheet in sheets:
        if sheet.name == name:
            return sheet
    known = ", ".join(s.name for s in sheets) or "none yet"
    raise NotFound(f"There is no sheet “{name}”; this project has: {known}.")
