"""The symbol book as a plate of specimens by family, each with its way into the pen tray."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from orvik.core.errors import NotFound
from orvik.core.features.feature import CERTAINTIES
from orvik.core.symbols.custom_symbols import FAMILY as OWN
from orvik.core.symbols.symbol import PatternSymbol, Symbol, shared_title
from orvik.store.rows import LayerState
from orvik.usecases.compile.pens import put_in_tray, take_from_tray
from orvik.web.frame.pages import page
from orvik.web.session import jobs
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workers import Workers
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.plate_pictures import PlatePictures, plate_pictures, shelf

router = APIRouter(prefix="/p/{slug}")


@dataclass(frozen=True)
class Specimen:
    """A symbol on the plate, its picture, and the key of the pen that draws it: None where it is not in the tray."""

    symbol: Symbol
    picture: str
    key: str | None
    may: bool


@dataclass(frozen=True)
class KindRow:
    """A kind on the plate, with its specimens by certainty or by dip."""

    title: str
    meaning: str
    number: str
    table: str
    specimens: tuple[Specimen, ...]


@dataclass(frozen=True)
class FamilyOfPlate:
    """A family: folded ones show no more than their name."""

    name: str
    count: int
    folded: bool
    rows: tuple[KindRow, ...]


@router.post("/symbols/family/{number}/fold")
async def post_fold(request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, number: int) -> Response:
    """Fold a family away, or open it."""
    name = _name(workspace, number)
    await workspace.set_layer(_layer(name), LayerState(shown=name not in _open(workspace, [name])))
    return await _family(request, slug, workspace, workers, number)


@router.post("/tray/{kind}/{certainty}")
async def post_pen(request: Request, slug: str, workspace: TheWorkspace, kind: str, certainty: str) -> Response:
    """Put a pen into the tray."""
    await workspace.carry_out(put_in_tray, kind, certainty)
    return _button(request, slug, workspace, kind, certainty)


@router.delete("/tray/{kind}/{certainty}")
async def delete_pen(request: Request, slug: str, workspace: TheWorkspace, kind: str, certainty: str) -> Response:
    """Choose a pen out of the tray."""
    await workspace.carry_out(take_from_tray, f"{kind}-{certainty}")
    return _button(request, slug, workspace, kind, certainty)


@router.get("/plate.pdf")
async def get_plate_pdf(workspace: TheWorkspace, workers: TheWorkers) -> Response:
    """The plate as it is printed."""
    data = await workers.run(jobs.plate_pdf, workspace.project.path)
    headers = {"content-disposition": 'attachment; filename="plate.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


async def plate_values(workspace: Workspace, workers: Workers) -> dict[str, Any]:
    """All families of the plate in their order, and the patterns."""
    names = _names(workspace)
    patterns = list(workspace.book.patterns.values())
    pictures = await _pictures(workspace, workers, _open(workspace, names), patterns)
    return {
        "families": [_of_plate(workspace, name, pictures) for name in names],
        "plate_patterns": [(pattern.title, pictures.patterns.get(pattern.id, "")) for pattern in patterns],
    }


async def _pictures(
    workspace: Workspace, workers: Workers, families: frozenset[str], patterns: Sequence[PatternSymbol] = ()
) -> PlatePictures:
    symbols = [symbol for symbol in workspace.book.symbols if symbol.family in families]
    path = workspace.project.path
    return await shelf().pictures(symbols, patterns, lambda *wanted: workers.run(plate_pictures, path, *wanted))


def _names(workspace: Workspace) -> list[str]:
    """The families that have symbols."""
    held = {symbol.family for symbol in workspace.book.symbols}
    return [name for name in workspace.book.families if name in held]


def _open(workspace: Workspace, names: list[str]) -> frozenset[str]:
    """Those that are not folded away."""
    return frozenset(name for name in names if workspace.stack.get(_layer(name), LayerState()).shown)


def _layer(family: str) -> str:
    """How the stack calls a family: that it is folded is a way of looking, as a hidden layer is."""
    return f"family-{family}"


def _name(workspace: Workspace, number: int) -> str:
    names = _names(workspace)
    if not 0 <= number < len(names):
        raise NotFound("That family is not in the symbol book.")
    return names[number]


def _of_plate(workspace: Workspace, name: str, pictures: PlatePictures) -> FamilyOfPlate:
    symbols = [symbol for symbol in workspace.book.symbols if symbol.family == name]
    folded = name not in _open(workspace, [name])
    groups = [list(group) for _, group in groupby(symbols, key=lambda symbol: symbol.kind)]
    rows = () if folded else tuple(_row(workspace, group, pictures) for group in groups)
    return FamilyOfPlate(name, len(groups), folded, rows)


def _row(workspace: Workspace, symbols: list[Symbol], pictures: PlatePictures) -> KindRow:
    first = symbols[0]
    keys = {pen.name: pen.key for pen in workspace.book.pens}
    specimens = []
    for symbol in symbols:
        certainty = symbol.certainty if symbol.certainty in CERTAINTIES else "certain"
        name = f"{symbol.kind}-{certainty}"
        specimens.append(Specimen(symbol, pictures.symbols.get(symbol.id, ""), keys.get(name), symbol.family != OWN))
    return KindRow(shared_title(symbols), first.words, first.number, first.table, tuple(specimens))


async def _family(request: Request, slug: str, workspace: Workspace, workers: Workers, number: int) -> Response:
    name = _name(workspace, number)
    pictures = await _pictures(workspace, workers, _open(workspace, [name]))
    family = _of_plate(workspace, name, pictures)
    return page(request, "symbols/_family.html", slug=slug, family=family, number=number)


def _button(request: Request, slug: str, workspace: Workspace, kind: str, certainty: str) -> Response:
    key = {pen.name: pen.key for pen in workspace.book.pens}.get(f"{kind}-{certainty}")
    title = workspace.book.symbol(workspace.book.table_of(kind) or "lines", kind, certainty, 45.0).title
    values = {"kind": kind, "certainty": certainty, "key": key, "title": title}
    return page(request, "symbols/_tray_button.html", slug=slug, **values)
