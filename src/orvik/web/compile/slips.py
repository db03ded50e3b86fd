"""Slips: the attributes of what is selected, one feature or several at once."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any

import shapely
from fastapi import APIRouter, Form, Query, Request
from pydantic import BaseModel
from starlette.responses import Response

from orvik.core.errors import FeatureRefused, NotFound
from orvik.core.features.attitude import Attitude
from orvik.core.features.band import Band
from orvik.core.features.feature import CERTAINTIES, Feature
from orvik.core.features.kind import kind_of, kind_words
from orvik.core.features.map_unit import new_colour
from orvik.core.features.reading import parse_reading
from orvik.core.features.table import TABLES, FeatureKey, Table
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.scale import on_sheet, spaced
from orvik.core.symbols.sides import side_in_words
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.usecases.compile.bands import units_across, with_band
from orvik.usecases.compile.feature_table.cells import CellWords
from orvik.usecases.compile.feature_table.changes import change_many
from orvik.usecases.compile.features import change_feature
from orvik.usecases.compile.pens import keys_of
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheSpace
from orvik.web.session.section_space import SectionSpace
from orvik.web.session.space import Space
from orvik.web.symbols.swatches import dash_picture, feature_swatch, pen_swatch

on_map = APIRouter(prefix="/p/{slug}")
# What is drawn on a section has the same slips.
on_section = APIRouter(prefix="/p/{slug}/section/{section}")
# What many features may have in common.
COMMON = ("kind", "certainty", "map_unit", "questionable", "capture_scale", "source_id")


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
    kind: str = ""
    certainty: str = ""
    questionable: str = ""
    map_unit: str = ""
    capture_scale: str = ""
    source: str = ""
    note: str = ""


@on_map.get("/slip/pen/{name}")
@on_section.get("/slip/pen/{name}")
async def pen_slip(request: Request, slug: str, space: TheSpace, name: str) -> Response:
    pen = space.book.pen(name)
    units = [unit for _, unit in space.project.units()]
    return page(
        request,
        "compile/_slip_pen.html",
        pen=pen,
        slug=slug,
        below="section" in request.path_params,
        meaning=kind_of(pen.kind),
        keys=keys_of(pen.table),
        symbol=space.book.symbol(pen.table, pen.kind, pen.certainty, 45.0),
        custom_kind=space.book.custom_kinds.get(pen.kind),
        values={},
        prefix="",
        logging=True,
        swatch=pen_swatch(space.book, pen, "slip"),
        dash=dash_picture(space.book, pen),
        units=units,
        new_colour=new_colour(units),
    )


@on_map.get("/slip/{table}/{feature_id}")
@on_section.get("/slip/{table}/{feature_id}")
async def get_slip(request: Request, space: TheSpace, table: str, feature_id: int) -> Response:
    return _slip(request, space, space.project.feature(_table(table), feature_id))


@on_map.post("/slip/{table}/{feature_id}")
@on_section.post("/slip/{table}/{feature_id}")
async def post_slip(
    request: Request, space: TheSpace, table: str, feature_id: int, form: Annotated[SlipForm, Form()]
) -> Response:
    """Keep what was changed in the slip of one feature."""
    project = space.project
    old = project.feature(_table(table), feature_id)
    meaning = kind_of(old.kind)
    new = _with_reading(old, form) if meaning.reading or meaning.plunges else old
    new = new.changed(
        certainty=form.certainty,
        questionable=form.questionable,
        map_unit=form.map_unit or None,
        note=form.note.strip(),
    )
    if old.kind in space.book.custom_kinds:
        sent = await request.form()
        new = new.changed(fields={k.removeprefix("own:"): str(v) for k, v in sent.items() if k.startswith("own:")})
    if meaning.margin:
        new = with_band(project, space.index, new, _band(form), _number(form.dip, "dip"))
    await space.carry_out(change_feature, new, form.revision)
    return _slip(request, space, project.feature(old.table, feature_id))


def _with_reading(old: Feature, form: SlipForm) -> Feature:
    """A feature with the reading that was typed; one that stands as it was shown is not read again."""
    kept = _reading(old)
    shown = (kept.direction_text if form.dip_direction else kept.text) if kept else ""
    if kept is not None and form.reading.strip() == shown:
        return old
    if kind_of(old.kind).plunges and not form.reading.strip():
        return old.changed(azimuth=None, inclination=None)
    attitude = parse_reading(form.reading, form.dip_direction, old.kind)
    return old.changed(azimuth=attitude.azimuth, inclination=attitude.inclination)


def _band(form: SlipForm) -> Band | None:
    width = _number(form.width, "width")
    if width is None:
        return None
    return Band(width, form.width_on, form.left, form.right, form.dips, tuple(form.cut_by))


def _number(text: str, what: str) -> float | None:
    return parse_quantity(text, what, FeatureRefused) if text.strip() else None


@on_map.get("/empty-slip")
@on_section.get("/empty-slip")
async def get_empty_slip(request: Request, slug: str, space: TheSpace) -> Response:
    return page(request, "compile/_slip_empty.html", slug=slug, with_foot=True, **choices(space))


def choices(space: Space) -> dict[str, Any]:
    """What features can be selected by."""
    words = {"lines": "Lines", "points": "Points", "areas": "Areas"}
    kinds: dict[str, list[tuple[str, str]]] = {}
    for table in ("lines", "points", "areas"):
        custom_kinds = space.book.custom_kinds
        kinds[words[table]] = [
            (
                f"{table}:{kind}",
                custom_kinds[kind].label if kind in custom_kinds else kind_words(kind).capitalize(),
            )
            for kind in sorted(space.book.kinds(_table(table)))
        ]
    units = [unit for _, unit in space.project.units()]
    return {"choices": kinds, "certainties": CERTAINTIES, "units": units}


@on_map.get("/slips")
@on_section.get("/slips")
async def get_slip_of_many(request: Request, space: TheSpace, keys: Annotated[list[str], Query()]) -> Response:
    return _slips(request, space, [space.project.feature(*_key(key)) for key in keys])


@on_map.post("/slips")
@on_section.post("/slips")
async def post_slip_of_many(request: Request, space: TheSpace, form: Annotated[SlipsForm, Form()]) -> Response:
    """Keep what was changed for several features, in one entry."""
    names = ("kind", "certainty", "questionable", "map_unit", "capture_scale", "source")
    texts = {name: text for name in names if (text := getattr(form, name).strip())}
    keys = [_key(key) for key in form.keys]
    await space.carry_out(change_many, keys, texts, form.note.strip(), form.revision)
    return _slips(request, space, [space.project.feature(*key) for key in keys])


def _key(text: str) -> FeatureKey:
    """A feature as the page names it: ``lines-12``."""
    table, _, number = text.partition("-")
    if not number.isdigit():
        raise NotFound("There is no such feature.")
    return _table(table), int(number)


def _slips(request: Request, space: Space, features: list[Feature]) -> Response:
    tables = {f.table for f in features}
    listed = Counter(_title(space.book, f) for f in features)

    def common(name: str) -> Any:
        held = {getattr(f, name) for f in features}
        return held.pop() if len(held) == 1 else None

    # One table has kinds in common.
    words = CellWords(space.project, features[0].table) if len(tables) == 1 else None
    return page(
        request,
        "compile/_slip_many.html",
        at=_at(request),
        features=features,
        listed=listed.most_common(),
        revision=space.project.revision,
        table=tables.pop() if len(tables) == 1 else "",
        many=len(features),
        below=isinstance(space, SectionSpace),
        certainties=CERTAINTIES,
        units=[unit for _, unit in space.project.units()],
        takes_unit=all(kind_of(f.kind).takes_unit for f in features),
        common={
            name: common(name)
            for name in ("kind", "certainty", "map_unit", "questionable", "capture_scale", "source_id")
        },
        kinds=words.kinds if words else [],
        common_kind=words.kind_label(features[0].kind) if words and common("kind") else "",
        sources={source.id: source.name for source in space.project.sources()},
    )


def _slip(request: Request, space: Space, feature: Feature) -> Response:
    project, book = space.project, space.book
    metres = feature.geometry.length * project.crs.metres_per_unit
    reading = _reading(feature)
    certainties = book.certainties(feature)
    vertices, side = None, ""
    if feature.table == "lines":
        side = side_in_words(shapely.get_coordinates(feature.geometry), book.symbol_of(feature), project.crs)
        vertices = len(feature.knots) or len(feature.geometry.coords)
    measures, dips_to, towards = None, "", ""
    if isinstance(space, SectionSpace) and feature.table == "lines":
        measures = space.measures(feature)
        towards = space.found.ends[1 if measures.apparent_dip > 0 else 0]
        dips_to = space.dips_to(measures.reading.point) if measures.reading else ""
    return page(
        request,
        "compile/_slip_feature.html",
        at=_at(request),
        feature=feature,
        table=feature.table,
        many=0,
        band=feature.band,
        bounded=len(certainties) > 1,
        cutters=units_across(space.project, space.index, feature) if kind_of(feature.kind).margin else [],
        meaning=kind_of(feature.kind),
        custom_kind=book.custom_kinds.get(feature.kind),
        logging=False,
        revision=project.revision,
        title=_title(book, feature),
        swatch=feature_swatch(book, feature, project.units_by_code()),
        reading=reading,
        certainties=certainties,
        below=isinstance(space, SectionSpace),
        measures=measures,
        dips_to=dips_to,
        towards=towards,
        side=side,
        units=[unit for _, unit in project.units()],
        vertices=vertices,
        length=f"{spaced(metres)} m",
        sheet_mm=on_sheet(metres, project.scales.publication),
        square=f"{spaced(feature.geometry.area * project.crs.metres_per_unit**2 / 10_000, 1)} ha",
    )


def _at(request: Request) -> str:
    """The address that the forms of a slip are sent to: that of the map, or of a section."""
    named = request.path_params
    return f"/p/{named['slug']}" + (f"/section/{named['section']}" if "section" in named else "")


def _reading(feature: Feature) -> Attitude | None:
    meaning = kind_of(feature.kind)
    if feature.azimuth is None or not (meaning.reading or meaning.plunges):
        return None
    return Attitude(feature.azimuth, feature.inclination, kind_of(feature.kind).linear)


def _title(book: SymbolBook, feature: Feature) -> str:
    return book.symbol_of(feature).title


def _table(name: str) -> Table:
    for table in TABLES:
        if table == name:
            return table
    raise NotFound("There is no such feature.")
