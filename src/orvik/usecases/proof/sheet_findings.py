"""The findings of a sheet: its page is composed, and looked at as it will be printed."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely
from PIL import Image

from orvik.core.arrays import Floats
from orvik.core.colour.hex import channels
from orvik.core.errors import OrvikError
from orvik.core.findings.finding import Finding
from orvik.core.findings.page.labels import without_room
from orvik.core.findings.page.series import behind
from orvik.core.findings.page.sheet_ground import Beneath, Resolution, SheetGround
from orvik.core.findings.sheet_checks import sheet_findings
from orvik.core.ink.primitives import PAPER, Group, Item, Text
from orvik.core.labels.labelled import Labelling
from orvik.core.sheet.output.compose import composition_of
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.map_context import MapContext
from orvik.core.sheet.panels.page_context import PageContext
from orvik.core.sheet.parts.map_panel import page_of, panel_labels
from orvik.core.sheet.parts.picture import PictureOf
from orvik.exchange.rasters import raster
from orvik.press import pdf
from orvik.press.picture_file import page_dots
from orvik.store.files import kept_file
from orvik.store.read_project import ReadProject
from orvik.usecases.proof.accepting import judged_findings
from orvik.usecases.sheet.composing import context
from orvik.usecases.sheet.following import offer_of

# Pictures are looked at with so many dots per inch, and the page with so many: letters of 5 points are 7 dots high.
PICTURE_DPI, PAGE_DPI = 60.0, 100.0


def ground_of(project: ReadProject, sheet_id: int) -> SheetGround:
    """A sheet as the checks look at it."""
    sheet = project.sheet(sheet_id)
    page = _page_of(project, sheet, context(project, PICTURE_DPI, whole=False))
    made = composition_of(page)
    labels = _labels_of(page)
    numbered = {int(group.name.removeprefix("part-")): group for group in made.groups}
    return SheetGround(page, numbered, labels, _beneath(sheet, made.groups), list(_resolutions(project, page)))


def _page_of(project: ReadProject, sheet: Sheet, whole: MapContext) -> PageContext:
    parts = project.parts(sheet.number)
    return page_of(sheet, parts, replace(whole, unlettered=True))


def _labels_of(page: PageContext) -> dict[int, Labelling]:
    """The labels of each panel that prints any."""
    return {
        number: panel_labels(panel, page.shown(number))
        for number, panel in page.panels.items()
        if panel.layers.get("labels", 1.0) > 0 or panel.layers.get("attitudes", 1.0) > 0
    }


def sheets_without_room(project: ReadProject) -> list[tuple[Sheet, list[Finding]]]:
    """The sheets, each with what is said of its labels without room, as Proof has it."""
    whole = context(project, PICTURE_DPI, whole=False)
    out = []
    for sheet in project.sheets():
        page = _page_of(project, sheet, whole)
        found = without_room(page.panels, _labels_of(page))
        out.append((sheet, list(judged_findings(project, found).open)))
    return out


def findings_of_sheet(project: ReadProject, sheet_id: int, findings: Sequence[Finding]) -> list[Finding]:
    """What there is to say of a sheet and of the map on it.

    Parameters
    ----------
    findings
        Those of the map, which get their place on the page where a panel shows it.
    """
    ground = ground_of(project, sheet_id)
    placed = [replace(f, spot=ground.on_page(f.at)) if f.at is not None else f for f in findings]
    return [*placed, *sheet_findings(ground), *_of_series(project, sheet_id)]


def _of_series(project: ReadProject, sheet_id: int) -> list[Finding]:
    offer = offer_of(project, project.sheet(sheet_id))
    return [behind(offer.held.name, offer.made)] if offer is not None else []


def _beneath(sheet: Sheet, groups: Sequence[Group]) -> Beneath:
    """Reads the colours that lie beneath areas off the page as it is printed without letters."""

    def read(areas: Sequence[shapely.Polygon]) -> list[Floats]:
        # What is printed on coloured paper lets it through.
        paper = np.array(channels(sheet.layout.colour or PAPER)) * 255.0
        bare = [unlettered(group) for group in groups]
        dots = page_dots(pdf.page_pdf(bare, sheet.width, sheet.height, sheet.name), PAGE_DPI)
        k = PAGE_DPI / 25.4
        out = []
        for area in areas:
            left, top, right, bottom = (round(v * k) for v in area.bounds)
            seen = dots[max(top, 0) : max(bottom, top + 1), max(left, 0) : max(right, left + 1)]
            out.append((seen if seen.size else np.full(3, 255.0)).reshape(-1, 3) * paper / 255.0)
        return out

    return read


def unlettered(group: Group) -> Group:
    """Ink without its letters."""
    kept: list[Item] = []
    for item in group.items:
        if isinstance(item, Group):
            kept.append(unlettered(item))
        elif not isinstance(item, Text):
            kept.append(item)
    return replace(group, items=tuple(kept))


def _resolutions(project: ReadProject, page: PageContext) -> Iterator[Resolution]:
    """How finely pictures are printed: parts that show one, and pictures below the tints; heights are smooth."""
    for part in page.parts:
        if isinstance(part.settings, PictureOf):
            found = _of_part(project, part, part.settings)
            if found is not None:
                yield found
    sources = {str(source.id): source for source in project.sources()}
    for number, panel in page.panels.items():
        for name, opacity in panel.underlays.items():
            source = sources.get(name)
            if source is None or source.kind != "underlay" or source.relief or opacity <= 0 or source.aside:
                continue
            try:
                pixel = raster.pixel_size(source.crs, source.transform, panel.crs, panel.window)
            except OrvikError:
                continue
            yield Resolution(number, source.name, 25.4 / (pixel * panel.mm_per_unit))


def _of_part(project: ReadProject, part: Part, settings: PictureOf) -> Resolution | None:
    kept = kept_file(project, settings.file) if settings.file else None
    if kept is None or kept.kind != "picture":
        return None
    with Image.open(io.BytesIO(kept.data)) as picture:
        width, height = picture.size
    room = part.inset(settings.padding)
    shares = room.width / width, room.height / height
    k = max(shares) if settings.fit == "fill" else min(shares)
    return Resolution(part.number, kept.name, 25.4 / k)
