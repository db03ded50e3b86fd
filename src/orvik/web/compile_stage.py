"""Compile: the map, its pens, and the slip of what is in hand."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.attitude import Attitude, parse_reading
from ..core.edit import checked
from ..core.errors import NotFound
from ..core.feature import CERTAINTIES, TABLES, Feature, Table
from ..core.scale import on_sheet, spaced
from ..core.signs.catalogue import Pen, SignBook
from ..store import rows
from .ground import stack_rows
from .pages import chest_of, page, stage_page
from .swatches import dash_picture, feature_swatch, pen_swatch
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


class SlipForm(BaseModel):
    """The attributes that the slip changes."""

    revision: int
    certainty: str = "certain"
    questionable: bool = False
    map_unit: str = ""
    reading: str = ""
    note: str = ""


@router.get("/compile")
async def compile_page(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    workspace.foresee_ink()
    groups: dict[str, list[tuple[Pen, str]]] = {}
    for pen in workspace.book.pens:
        groups.setdefault(pen.group, []).append((pen, pen_swatch(workspace.book, pen)))
    return stage_page(request, workspace, "compile", pen_groups=groups, stack=stack_rows(workspace))


@router.get("/ink")
async def ink(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return Response(await workspace.all_ink(), media_type="application/octet-stream")


@router.get("/slip/pen/{name}")
async def pen_slip(request: Request, slug: str, name: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    pen = workspace.book.pen(name)
    needs_unit = pen.kind in ("unit_area", "unit_tag")
    reading = workspace.book.needs_reading(pen.table, pen.kind)
    return page(
        request, "_slip_pen.html", pen=pen, slug=slug, needs_unit=needs_unit, reading=reading,
        swatch=pen_swatch(workspace.book, pen, "slip"), dash=dash_picture(workspace.book, pen), units=[u for _, u in workspace.project.units()],
    )  # fmt: skip


@router.get("/slip/{table}/{feature_id}")
async def feature_slip(request: Request, slug: str, table: str, feature_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return _slip(request, workspace, workspace.project.feature(_table(table), feature_id))


@router.post("/slip/{table}/{feature_id}")
async def change_feature(
    request: Request, slug: str, table: str, feature_id: int, form: Annotated[SlipForm, Form()]
) -> Response:
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    old = project.feature(_table(table), feature_id)
    workspace.refuse_locked(old.table)
    attitude: Attitude | None = None
    if workspace.book.needs_reading(old.table, old.kind):
        attitude = parse_reading(form.reading)
    new = checked(
        old.changed(
            certainty=form.certainty,
            questionable=form.questionable,
            map_unit=form.map_unit or None,
            azimuth=attitude.azimuth if attitude else old.azimuth,
            inclination=attitude.inclination if attitude else old.inclination,
            note=form.note.strip(),
        ),
        project.crs,
        workspace.book,
        set(project.units_by_code()),
    )
    if new != old:
        change = rows.feature_change(new, project.srs_id)
        await workspace.apply(f"change {old.name}", [change], form.revision)
    return _slip(request, workspace, new)


@router.get("/empty-slip")
async def empty_slip(request: Request, slug: str) -> Response:
    return page(request, "_slip_empty.html", slug=slug, with_foot=True)


def _slip(request: Request, workspace: Workspace, feature: Feature) -> Response:
    project, book = workspace.project, workspace.book
    metres = feature.geometry.length * project.crs.metres_per_unit
    reading = None
    if feature.azimuth is not None and feature.inclination is not None:
        reading = Attitude(feature.azimuth, feature.inclination)
    return page(
        request,
        "_slip_feature.html",
        slug=workspace.slug,
        feature=feature,
        revision=project.revision,
        title=_title(book, feature),
        swatch=feature_swatch(book, feature, project.units_by_code()),
        needs_reading=book.needs_reading(feature.table, feature.kind),
        reading=reading,
        certainties=CERTAINTIES,
        units=[unit for _, unit in project.units()],
        vertices=len(feature.geometry.coords) if feature.table == "lines" else None,
        length=f"{spaced(metres)} m",
        sheet_mm=on_sheet(metres, project.scales.publication),
        square=f"{spaced(feature.geometry.area * project.crs.metres_per_unit**2 / 10_000, 1)} ha",
    )


def _title(book: SignBook, feature: Feature) -> str:
    if feature.table == "lines":
        return book.line(feature.kind, feature.certainty).label
    if feature.table == "points":
        return book.point(feature.kind, feature.inclination).label
    return "Unit area"


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise NotFound("There is no such feature.")
