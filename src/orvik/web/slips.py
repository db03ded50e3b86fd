"""Slips: the attributes of what is in hand, one feature or several at once."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Request
from pydantic import BaseModel
from starlette.responses import Response

from ..core.attitude import LINEAR, Attitude
from ..core.band import Band
from ..core.edit import checked
from ..core.errors import FeatureRefused, NotFound
from ..core.feature import CERTAINTIES, TABLES, Feature, Table
from ..core.reading import parse_reading
from ..core.scale import on_sheet, spaced
from ..core.signs.catalogue import SignBook
from ..store import rows
from .bands import cutters, told
from .pages import chest_of, page
from .swatches import feature_swatch
from .workspace import Workspace

router = APIRouter(prefix="/p/{slug}")


class SlipForm(BaseModel):
    """The attributes that the slip of one feature changes."""

    revision: int
    certainty: str = "certain"
    questionable: bool = False
    map_unit: str = ""
    reading: str = ""
    dip_direction: bool = False
    note: str = ""
    width: str = ""
    width_on: str = "ground"
    left: str = ""
    right: str = ""
    dips: str = ""
    dip: str = ""
    cut_by: list[str] = []


class SlipsForm(BaseModel):
    """The attributes that the slip of several features changes; what is empty stays as it is."""

    revision: int
    keys: list[str]
    certainty: str = ""
    questionable: str = ""
    map_unit: str = ""
    note: str = ""


@router.get("/slip/{table}/{feature_id}")
async def feature_slip(request: Request, slug: str, table: str, feature_id: int) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return _slip(request, workspace, workspace.project.feature(_table(table), feature_id))


@router.post("/slip/{table}/{feature_id}")
async def change_feature(
    request: Request, slug: str, table: str, feature_id: int, form: Annotated[SlipForm, Form()]
) -> Response:
    """Keep what was changed in the slip of one feature."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    old = project.feature(_table(table), feature_id)
    workspace.refuse_locked(old.table)
    new = old.changed(
        certainty=form.certainty,
        questionable=form.questionable,
        map_unit=form.map_unit or None,
        note=form.note.strip(),
    )
    if workspace.book.needs_reading(old.table, old.kind):
        kept = _reading(old)
        shown = (kept.direction_text if form.dip_direction else kept.text) if kept else ""
        if form.reading.strip() != shown or kept is None:
            attitude = parse_reading(form.reading, form.dip_direction, old.kind)
            new = new.changed(azimuth=attitude.azimuth, inclination=attitude.inclination)
    if old.kind in workspace.book.own:
        sent = await request.form()
        new = new.changed(fields={k.removeprefix("own:"): str(v) for k, v in sent.items() if k.startswith("own:")})
    if old.kind == "dyke":
        new = told(workspace, new, _band(form), _number(form.dip, "The dip"))
    new = checked(new, project.crs, workspace.book, set(project.units_by_code()))
    if new != old:
        change = rows.feature_change(new, project.srs_id)
        await workspace.apply(f"change {old.name}", [change], form.revision)
    return _slip(request, workspace, new)


def _band(form: SlipForm) -> Band | None:
    width = _number(form.width, "The width")
    if width is None:
        return None
    return Band(width, form.width_on, form.left, form.right, form.dips, tuple(form.cut_by))


def _number(text: str, what: str) -> float | None:
    try:
        return float(text.replace(",", ".")) if text.strip() else None
    except ValueError as error:
        raise FeatureRefused(f"{what} is a number, not “{text.strip()}”.") from error


@router.get("/empty-slip")
async def empty_slip(request: Request, slug: str) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return page(request, "_slip_empty.html", slug=slug, with_foot=True, **choices(workspace))


def choices(workspace: Workspace) -> dict[str, Any]:
    """What features can be taken in hand by."""
    words = {"lines": "Lines", "points": "Points", "areas": "Areas"}
    kinds: dict[str, list[tuple[str, str]]] = {}
    for table in ("lines", "points", "areas"):
        own = workspace.book.own
        kinds[words[table]] = [
            (f"{table}:{kind}", own[kind].label if kind in own else kind.replace("_", " ").capitalize())
            for kind in sorted(workspace.book.kinds(_table(table)))
        ]
    units = [unit for _, unit in workspace.project.units()]
    return {"choices": kinds, "certainties": CERTAINTIES, "units": units}


@router.get("/slips")
async def slip_of_many(request: Request, slug: str, keys: Annotated[list[str], Query()]) -> Response:
    workspace = await chest_of(request).workspace(slug)
    return _slips(request, workspace, _named(workspace, keys))


@router.post("/slips")
async def change_many(request: Request, slug: str, form: Annotated[SlipsForm, Form()]) -> Response:
    """Keep what was changed for several features, in one entry."""
    workspace = await chest_of(request).workspace(slug)
    project = workspace.project
    values: dict[str, Any] = {}
    if form.certainty:
        values["certainty"] = form.certainty
    if form.map_unit:
        values["map_unit"] = form.map_unit
    if form.questionable:
        values["questionable"] = form.questionable == "true"
    codes = set(project.units_by_code())
    changed = []
    for old in _named(workspace, form.keys):
        workspace.refuse_locked(old.table)
        new = old.changed(**values)
        if form.note.strip():
            new = new.changed(note="\n".join(n for n in (old.note, form.note.strip()) if n))
        new = checked(new, project.crs, workspace.book, codes)
        if new != old:
            changed.append(new)
    if changed:
        what = changed[0].name if len(changed) == 1 else f"{len(changed)} features"
        changes = [rows.feature_change(f, project.srs_id) for f in changed]
        await workspace.apply(f"change {what}", changes, form.revision)
    return _slips(request, workspace, _named(workspace, form.keys))


def _named(workspace: Workspace, keys: list[str]) -> list[Feature]:
    features = []
    for key in keys:
        table, _, number = key.partition("-")
        if not number.isdigit():
            raise NotFound("There is no such feature.")
        features.append(workspace.project.feature(_table(table), int(number)))
    return features


def _slips(request: Request, workspace: Workspace, features: list[Feature]) -> Response:
    tables = {f.table for f in features}
    listed = Counter(_title(workspace.book, f) for f in features)

    def common(name: str) -> Any:
        held = {getattr(f, name) for f in features}
        return held.pop() if len(held) == 1 else None

    return page(
        request,
        "_slip_many.html",
        slug=workspace.slug,
        features=features,
        listed=listed.most_common(),
        revision=workspace.project.revision,
        table=tables.pop() if len(tables) == 1 else "",
        many=len(features),
        certainties=CERTAINTIES,
        units=[unit for _, unit in workspace.project.units()],
        takes_unit=all(f.kind in ("unit_area", "unit_tag") for f in features),
        common={name: common(name) for name in ("certainty", "map_unit", "questionable")},
    )


def _slip(request: Request, workspace: Workspace, feature: Feature) -> Response:
    project, book = workspace.project, workspace.book
    metres = feature.geometry.length * project.crs.metres_per_unit
    reading = _reading(feature)
    vertices = None
    if feature.table == "lines":
        vertices = len(feature.knots) or len(feature.geometry.coords)
    return page(
        request,
        "_slip_feature.html",
        slug=workspace.slug,
        feature=feature,
        table=feature.table,
        many=0,
        band=feature.band,
        bounded=feature.table == "lines"
        and feature.kind not in ("border", "shoreline")
        and feature.kind not in book.own,
        cutters=cutters(workspace, feature) if feature.kind == "dyke" else [],
        own=book.own.get(feature.kind),
        logging=False,
        revision=project.revision,
        title=_title(book, feature),
        swatch=feature_swatch(book, feature, project.units_by_code()),
        needs_reading=book.needs_reading(feature.table, feature.kind),
        reading=reading,
        certainties=CERTAINTIES,
        units=[unit for _, unit in project.units()],
        vertices=vertices,
        length=f"{spaced(metres)} m",
        sheet_mm=on_sheet(metres, project.scales.publication),
        square=f"{spaced(feature.geometry.area * project.crs.metres_per_unit**2 / 10_000, 1)} ha",
    )


def _reading(feature: Feature) -> Attitude | None:
    if feature.table != "points" or feature.azimuth is None or feature.inclination is None:
        return None
    return Attitude(feature.azimuth, feature.inclination, feature.kind in LINEAR)


def _title(book: SignBook, feature: Feature) -> str:
    variant = book.variant(feature.kind, feature.certainty, feature.fields)
    if feature.table == "lines":
        return book.line(feature.kind, variant).label
    if feature.table == "points":
        return book.point(feature.kind, feature.inclination, variant).label
    return book.area(feature.kind, variant).label


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise NotFound("There is no such feature.")
