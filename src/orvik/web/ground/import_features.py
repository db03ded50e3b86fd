"""Ground, features imported from files: what a file holds, what its fields and values mean, a preview, and saved
mappings."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Any, cast

import shapely
from fastapi import APIRouter, File, Request, UploadFile
from shapely.geometry.base import BaseGeometry
from starlette.datastructures import FormData
from starlette.responses import Response

from orvik.core.errors import FeatureRefused, NotFound, OrvikError
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.kind import SHEET_BORDER, USUAL, kind_words
from orvik.core.features.table import TABLES, Table
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ground.scale import spaced
from orvik.exchange.mappings import mapping_file
from orvik.exchange.mappings.attributes import ATTRIBUTES, CONSTANTS
from orvik.exchange.mappings.mapping import LEFT_OUT, FieldMapping
from orvik.exchange.mappings.meanings import ValuesOf
from orvik.usecases.compile.linework import OUTER_WORDS, LineworkChoices, Outer
from orvik.usecases.compile.prepared import keep_prepared
from orvik.usecases.ground import sources
from orvik.usecases.intake import import_features
from orvik.usecases.intake.import_mapping import TABLE_NAMES
from orvik.usecases.intake.import_words import ambiguous_words
from orvik.usecases.intake.saved_mappings import save_mapping, saved_mappings
from orvik.web.frame.pages import page, stage_page
from orvik.web.session.dependencies import TheProjectFolder, TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.uploads import aside, laid_aside, thrown_away

router = APIRouter(prefix="/p/{slug}/import")

# Systems that are asked for where a file does not state its own, besides the project's.
ASKED = {"EPSG:4326": "degrees, WGS 84", "EPSG:4230": "degrees, ED50", "EPSG:4267": "degrees, NAD27"}
MOST_FIELDS = 6000
# What the page lets one type for all features; what else a mapping says of all goes along.
TYPED_CONSTANTS = ("capture_scale", "certainty")
# What is typed for values whose rows are left out.
LEAVE_OUT = "leave out"


@router.post("")
async def lay_aside(
    projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, file: Annotated[UploadFile, File()]
) -> Response:
    """Take a file to look at; nothing is kept of it before somebody imports it."""
    token, path = await laid_aside(projects.folder, file)
    try:
        await workers.open_strange(import_features.check_readable, path)
    except OrvikError:
        thrown_away(projects.folder, token)
        raise
    return Response("", headers={"HX-Redirect": f"/p/{workspace.slug}/import/{token}"})


@router.get("/{token}")
async def mapping_page(
    request: Request,
    projects: TheProjectFolder,
    workspace: TheWorkspace,
    workers: TheWorkers,
    token: str,
    then: str = "",
) -> Response:
    """What a file holds, with a guess at what it means, or a saved mapping that fits it.

    Parameters
    ----------
    then
        Tokens of the files that come after it, with points between them.
    """
    path = aside(projects.folder, token)
    held = await _looked(projects.folder, workspace, workers, token, path, None)
    return stage_page(request, workspace, "ground", "ground/import.html", then=then, **held)


@router.post("/{token}/preview")
async def preview(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """What the file would import by another mapping."""
    path = aside(projects.folder, token)
    form = await _form(request)
    chosen = str(form.get("saved") or "")
    mapping: FieldMapping | None = _mapping(form)
    if chosen != str(form.get("saved_before") or ""):
        found = [one for one in saved_mappings(workspace.project, projects.folder) if one.name == chosen]
        mapping = found[0].mapping if found else None
    held = await _looked(
        projects.folder, workspace, workers, token, path, mapping, chosen, _linework(form), propose=False
    )
    return page(request, "ground/_import_anew.html", slug=workspace.slug, **held)


@router.post("/{token}/keep")
async def keep(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """Bring the features in as one entry."""
    path = aside(projects.folder, token)
    form = await _form(request)
    mapping = _mapping(form)
    linework = _linework(form)
    prepared = await workers.run(import_features.prepare, workspace.project.path, path, mapping, linework)
    await workspace.carry_out(keep_prepared, prepared)
    thrown_away(projects.folder, token)
    return _done(request, projects.folder, workspace, form, path.name, prepared.count, prepared.left)


@router.post("/{token}/refer")
async def refer(
    request: Request, projects: TheProjectFolder, workspace: TheWorkspace, workers: TheWorkers, token: str
) -> Response:
    """Show the file as a reference layer; its features are not compiled."""
    path = aside(projects.folder, token)
    form = await _form(request)
    stated = _mapping(form).stated
    await workers.run(sources.check_reference, path, stated, workspace.project.crs)
    reference = await workers.run(sources.new_reference, workspace.project.path, path, stated)
    await workspace.carry_out(sources.add_reference, reference, path.name)
    thrown_away(projects.folder, token)
    return _done(request, projects.folder, workspace, form, path.name, 0, 0)


@router.post("/{token}/mapping")
async def save(
    request: Request,
    projects: TheProjectFolder,
    workspace: TheWorkspace,
    token: str,
) -> Response:
    """Save what the fields of the file mean by a name, in the project or for all projects of the folder."""
    path = aside(projects.folder, token)
    form = await _form(request)
    name, everywhere = str(form.get("mapping_name") or "").strip(), bool(form.get("everywhere"))
    named = mapping_file.NamedMapping(name or path.stem, _columns(form), _mapping(form))
    await workspace.carry_out(save_mapping, named, projects.folder, _listed(form), everywhere=everywhere)
    return page(request, "ground/_mapping_saved.html", title=named.name, everywhere=everywhere)


@router.post("/{token}/mapping.json")
async def mapping_json(request: Request, projects: TheProjectFolder, workspace: TheWorkspace, token: str) -> Response:
    """The mapping as a file for the command line."""
    path = aside(projects.folder, token)
    form = await _form(request)
    text = mapping_file.written(mapping_file.NamedMapping(path.stem, _columns(form), _mapping(form)))
    disposition = {"Content-Disposition": f'attachment; filename="{_plain(path.stem)}.mapping.json"'}
    return Response(text, media_type="application/json", headers=disposition)


@router.delete("/{token}")
async def drop(projects: TheProjectFolder, slug: str, token: str) -> Response:
    """Forget the file."""
    thrown_away(projects.folder, token)
    return Response("", headers={"HX-Redirect": f"/p/{slug}/ground"})


async def _form(request: Request) -> FormData:
    """What the page sends: two fields for every field and every value of a file."""
    return await request.form(max_fields=MOST_FIELDS)


def _plain(name: str) -> str:
    return "".join(c if c.isascii() and (c.isalnum() or c in "-_") else "-" for c in name)[:60] or "file"


def _done(
    request: Request, folder: Path, workspace: Workspace, form: FormData, title: str, count: int, left: int
) -> Response:
    """What was imported, with the way to the file that comes next, where there is one."""
    following = ""
    tokens = [token for token in str(form.get("then") or "").split(".") if token]
    while tokens and not following:
        try:
            following = aside(folder, tokens[0]).name
        except NotFound:
            tokens = tokens[1:]
    return page(
        request,
        "ground/_imported.html",
        slug=workspace.slug,
        title=title,
        count=count,
        left=left,
        following=following,
        token=tokens[0] if tokens else "",
        then=".".join(tokens[1:]),
    )


def _columns(form: FormData) -> tuple[str, ...]:
    return tuple(str(value) for name, value in form.multi_items() if name.startswith("column-"))


def _listed(form: FormData) -> frozenset[tuple[str, str]]:
    """The values that the page lists, by their attributes."""
    return frozenset(
        (name.removeprefix("raw-").partition("-")[0], str(raw).strip())
        for name, raw in form.multi_items()
        if name.startswith("raw-")
    )


def _mapping(form: FormData) -> FieldMapping:
    """The mapping that the page shows; of two fields for what one alone can say, the one changed last is meant."""
    typed = {name: str(value).strip() for name, value in form.multi_items()}
    fields: dict[str, list[str]] = {}
    order = [name for name in typed if name.startswith("means-")]
    for name in sorted(order, key=lambda name: typed[name] == typed.get(f"was-{name.removeprefix('means-')}", "")):
        attribute, column = ATTRIBUTES.get(typed[name]), typed.get(f"column-{name.removeprefix('means-')}", "")
        if attribute is None or not column:
            continue
        if attribute.joiner is not None or attribute.name not in fields:
            fields.setdefault(attribute.name, []).append(column)
    columns = _columns(form)
    values: dict[str, dict[str, str]] = {}
    for name, raw in typed.items():
        attribute_name, _, number = name.removeprefix("raw-").partition("-")
        if not name.startswith("raw-") or attribute_name not in ATTRIBUTES:
            continue
        meant = typed.get(f"value-{attribute_name}-{number}", "")
        if meant:
            values.setdefault(attribute_name, {})[raw] = _meant(meant)
    if typed.get("certain-metres"):
        limit = typed["certain-metres"].removesuffix("m").strip()
        metres = f"{parse_quantity(limit, 'distance', FeatureRefused):g}"
        values["certainty"] = {**values.get("certainty", {}), f"<={metres}": "certain", f">{metres}": "approximate"}
    return FieldMapping(
        {name: tuple(sorted(held, key=columns.index)) for name, held in fields.items()},
        {table: typed.get(f"kind-{table}") or USUAL[table] for table in TABLES},
        typed.get("stated", ""),
        {name: typed[f"constant-{name}"] for name in CONSTANTS if typed.get(f"constant-{name}")},
        values,
        typed.get("source", "")[:200],
    )


def _linework(form: FormData) -> LineworkChoices | None:
    """Whether areas become linework, and what their outer edge is."""
    outer = str(form.get("as_linework") or "")
    return LineworkChoices(cast(Outer, outer)) if outer else None


def _meant(typed: str) -> str:
    """What is typed for a value; kinds are typed as they are called."""
    return LEFT_OUT if typed.lower() == LEAVE_OUT else typed


async def _looked(
    folder: Path,
    workspace: Workspace,
    workers: TheWorkers,
    token: str,
    path: Path,
    mapping: FieldMapping | None,
    chosen: str = "",
    linework: LineworkChoices | None = None,
    *,
    propose: bool = True,
) -> dict[str, Any]:
    project = workspace.project
    asked = {project.crs.text: f"{project.crs.label}, as the project", **ASKED}
    saved = saved_mappings(project, folder)
    # What was meant by a file with these fields is meant again.
    offered = tuple(saved) if propose else ()
    found = await workers.run(import_features.preview, project.path, path, mapping, tuple(asked), linework, offered)
    look = found.look
    chosen = chosen or look.proposed
    names = [column.column.name for column in look.columns]
    count = sum(found.counts.values())
    return {
        "token": token,
        "title": path.name,
        "mapping": look.mapping,
        "look": look,
        "found": found,
        "count": count,
        "counts": {TABLE_NAMES[table]: number for table, number in found.counts.items()},
        "ambiguous": ambiguous_words(look.asks),
        "attributes": ATTRIBUTES,
        "certainties": CERTAINTIES,
        "places": _answers(workspace, asked, look.middle) if look.middle else [],
        "words": TABLE_NAMES,
        "kinds": {t: sorted(workspace.book.kinds(t) - {SHEET_BORDER}) for t in TABLES},
        "choices": _choices(workspace, look.tables),
        "shown": {values.attribute: _as_typed(values, look.mapping) for values in look.values},
        "picture": _picture(workspace, found.shapes) if found.shapes else "",
        "saved": [one.name for one in saved],
        "chosen": chosen,
        "fit": next((len(one.mapping.used & set(names)) for one in saved if one.name == chosen), 0),
        "leave_out": LEAVE_OUT,
        "more_constants": {n: v for n, v in look.mapping.constants.items() if n not in TYPED_CONSTANTS},
        "linework": linework,
        "outers": OUTER_WORDS,
        "metres": next((k[2:] for k in look.mapping.values.get("certainty", {}) if k.startswith("<=")), ""),
    }


def _choices(workspace: Workspace, tables: Sequence[Table]) -> Mapping[str, list[str]]:
    """What values can mean, by what attributes' values are read as."""
    kinds = [kind_words(kind) for table in tables for kind in sorted(workspace.book.kinds(table) - {SHEET_BORDER})]
    return {
        "kinds": list(dict.fromkeys(kinds)),
        "certainties": list(CERTAINTIES),
        "answers": ["yes", "no"],
        "units": [unit.code for _, unit in workspace.project.units()],
    }


def _as_typed(values: ValuesOf, mapping: FieldMapping) -> list[str]:
    """What stands in the field beside each value: what it means, in words."""
    out = []
    for meaning in values.meanings:
        if meaning.state == "left out":
            out.append(LEAVE_OUT)
        elif meaning.state == "asks":
            out.append(mapping.values.get(values.attribute, {}).get(meaning.value, ""))
        elif values.attribute == "kind":
            out.append(kind_words(meaning.ours))
        else:
            out.append(meaning.ours)
    return out


def _answers(workspace: Workspace, asked: dict[str, str], middle: tuple[float, float]) -> list[dict[str, Any]]:
    """Where each answer to "which system?" would put a file that does not say."""
    answers = []
    for text, label in asked.items():
        away = import_features.far_from_sheet(workspace.project, text, middle)
        if away is None:
            where = "cannot be"
        elif math.isnan(away):
            where = ""
        else:
            where = f"{spaced(away / 1000)} km from the sheet" if away else "on the sheet"
        answers.append({"text": text, "label": label, "where": where})
    return answers


def _picture(workspace: Workspace, shapes: Sequence[BaseGeometry]) -> str:
    """A small drawing of what would be imported, with the sheet border."""
    border = workspace.project.border()
    everything = [*shapes] + ([border] if border is not None else [])
    west, south, east, north = shapely.total_bounds(everything)
    k = 230 / max(east - west, (north - south) * 230 / 150, 1e-9)
    tolerance = 0.4 / k

    def d(geometry: shapely.geometry.base.BaseGeometry, close: bool = False) -> str:
        pieces = []
        for part in shapely.get_parts(shapely.boundary(geometry) if geometry.geom_type == "Polygon" else geometry):
            xy = shapely.get_coordinates(shapely.simplify(part, tolerance))
            pieces.append("M" + "L".join(f"{(x - west) * k:.1f} {(north - y) * k:.1f}" for x, y in xy.tolist()))
        return "".join(pieces)

    lines = "".join(d(g) for g in shapes if g.geom_type != "Point")
    points = shapely.get_coordinates([g for g in shapes if g.geom_type == "Point"])
    dots = "".join(
        f'<circle cx="{(x - west) * k:.1f}" cy="{(north - y) * k:.1f}" r="1.6"/>' for x, y in points.tolist()
    )
    frame = f'<path class="import-border" d="{d(border)}"/>' if border is not None else ""
    return (
        f'<svg class="import-picture" viewBox="-4 -4 {(east - west) * k + 8:.0f} {(north - south) * k + 8:.0f}" '
        f'role="img" aria-label="What would be imported">{frame}<path d="{lines}"/>{dots}</svg>'
    )
