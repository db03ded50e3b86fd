"""From a project file to its finished sheet: composed, painted, written."""

from __future__ import annotations

import io
import os
from pathlib import Path

from orvik.core.errors import FileRefused, NotFound
from orvik.core.ground.scale import spaced
from orvik.core.ink import Group, Item, Picture
from orvik.core.labels.labelled import Labelling
from orvik.core.sheet.compose import MapContext, Underlay, compose, panel_labels
from orvik.core.sheet.page import Sheet
from orvik.core.sheet.panel import Panel
from orvik.core.signs.portray import portray
from orvik.exchange import raster
from orvik.press import pdf, png, svg
from orvik.store.labels import label_moves, label_rules
from orvik.store.project import Project, opened_for_reading
from orvik.store.sign_book import sign_book_of
from orvik.store.themes import theme_rows
from orvik.usecases import underlay_views as underlays

PRINT_DPI = 300.0
LARGEST_SIDE = 6000


def context(project: Project, dpi: float = PRINT_DPI, whole: bool = True) -> MapContext:
    """What the parts of a project's sheets speak of; pictures come at a resolution.

    A print must be ``whole``: a picture that is missing is refused. A page on the screen shows the rest.
    """
    sources = {r.id: r for r in project.sources() if underlays.can_be_shown(r)}

    def shown(underlay: Underlay, window: tuple[float, float, float, float], size: tuple[float, float]) -> list[Item]:
        row = sources[underlay.id]
        # More dots than the picture has pixels would add weight and no detail.
        native = dpi / 25.4
        if row.kind == "underlay":
            pixel = raster.pixel_size(row.crs, row.transform, project.crs, window)
            native = (window[2] - window[0]) / pixel / size[0]
        factor = min(dpi / 25.4, native, LARGEST_SIDE / max(size))
        width, height = (max(1, round(side * factor)) for side in size)
        try:
            data = underlays.view(project, row, window, width, height)
            lines = underlays.ink(project, row, window, width, height)
        except FileRefused as refusal:
            if not whole:
                return []
            raise FileRefused(
                f"{underlay.name}: {refusal.sentence} Or set its strength in the panel to 0."
            ) from refusal
        if data is None:
            return lines
        west, south, east, north = window
        return [Picture(data, (east - west, 0.0, west, 0.0, south - north, north), underlay.name), *lines]

    return MapContext(
        project=project.name,
        crs=project.crs,
        scales=project.scales,
        book=sign_book_of(project),
        units=project.units_by_code(),
        features=project.all_features(),
        border=project.border(),
        underlays=[
            Underlay(r.id or 0, r.name, 1.0, bool(r.multiply), underlays.reference_sign(project, r))
            for r in sources.values()
        ],
        underlay_ink=shown,
        rules=label_rules(project),
        moves=[move for _, move in label_moves(project)],
        themes={theme.name: theme for _, theme in theme_rows(project)},
    )


def composed(project: Project, sheet_id: int, dpi: float = PRINT_DPI, whole: bool = True) -> tuple[Sheet, list[Group]]:
    """A sheet and its ink."""
    sheet = project.sheet(sheet_id)
    return sheet, compose(project.parts(sheet_id), context(project, dpi, whole))


def panel_labelling(project: Project, part_id: int) -> tuple[Panel, Labelling]:
    """A panel and its labels, which stand in millimetres on the page.

    Raises
    ------
    NotFound
        There is no such part, or it is no panel.
    """
    part = project.part(part_id)
    if part.kind != "map_panel":
        raise NotFound("This part has no labels; they stand on panels.")
    whole = context(project)
    panel = Panel.of(part, whole.crs, whole.border)
    made = whole.for_panel(panel)
    layers = portray(made.features, made.book, made.units, made.crs, round(panel.scale))
    return panel, panel_labels(panel, layers, made)


def sheet_named(project: Project, name: str) -> Sheet:
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


def sheet_pdf(path: Path, sheet_id: int) -> bytes:
    """The PDF of a sheet of a project file."""
    with opened_for_reading(path) as project:
        return _pdf(project, sheet_id, PRINT_DPI)


def sheet_png(path: Path, sheet_id: int, dpi: float) -> bytes:
    """A PNG of a sheet, made from its PDF."""
    with opened_for_reading(path) as project:
        return png.page_png(_pdf(project, sheet_id, dpi), dpi)


def sheet_fragments(path: Path, sheet_id: int, dpi: float) -> dict[int, str]:
    """SVG of each part of a sheet for the page on the screen, by part id."""
    with opened_for_reading(path) as project:
        groups = composed(project, sheet_id, dpi, whole=False)[1]
        return {int(g.name.removeprefix("part-")): svg.fragment(g.items, g.name) for g in groups}


def export(project: Project, sheet: Sheet, target: Path, dpi: float) -> None:
    """Write a sheet to a file, whose ending says the format; it appears only when it is whole.

    Raises
    ------
    FileRefused
        An ending that is no format of a sheet, or a folder that cannot be written.
    """
    if sheet.id is None:
        raise NotFound(f"The sheet “{sheet.name}” is not kept yet.")
    ending = target.suffix.lower()
    if ending == ".pdf":
        data = _pdf(project, sheet.id, dpi)
    elif ending == ".svg":
        _, groups = composed(project, sheet.id, dpi)
        data = svg.document(groups, sheet.width, sheet.height, sheet.name).encode()
    elif ending == ".png":
        data = png.page_png(_pdf(project, sheet.id, dpi), dpi)
    elif ending in (".tif", ".jpg"):
        out = io.BytesIO()
        image = png.page_image(_pdf(project, sheet.id, dpi), dpi)
        options = {"compression": "tiff_lzw"} if ending == ".tif" else {"quality": 92}
        image.save(out, "TIFF" if ending == ".tif" else "JPEG", dpi=(dpi, dpi), **options)
        data = out.getvalue()
    else:
        raise FileRefused(f"{target.name} has no ending of a sheet; use .pdf, .svg, .png, .tif or .jpg.")
    write_whole(target, data)


def write_whole(target: Path, data: bytes) -> None:
    """Write a file that appears only when it is whole; raises FileRefused where it cannot be written."""
    part = target.with_name(f".{target.name}.part")
    try:
        part.write_bytes(data)
        os.replace(part, target)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise FileRefused(f"{target} cannot be written ({error.strerror}); choose another place.") from error


def _pdf(project: Project, sheet_id: int, dpi: float) -> bytes:
    sheet, groups = composed(project, sheet_id, dpi)
    scale = spaced(project.scales.publication)
    return pdf.page_pdf(groups, sheet.width, sheet.height, f"{sheet.name}, {project.name}, 1:{scale}")
