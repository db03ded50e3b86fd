"""The bench where symbols are drawn: pieces on a millimetre grid, line symbols, patterns, and who wears them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from orvik.core.colour.hex import lab_of
from orvik.core.errors import NotFound
from orvik.core.ink.primitives import INK
from orvik.core.symbols.drawn_symbol import DrawnFamily, DrawnSymbol
from orvik.core.symbols.piece import SHAPES
from orvik.core.symbols.specimen import pattern_specimen
from orvik.core.symbols.symbol import OrnamentPlace
from orvik.core.symbols.symbol_trial import HEIGHT, WIDTH, trials
from orvik.exchange.sheets.svg_symbol import LARGEST_FILE, pieces_of_svg
from orvik.press.svg import swatch
from orvik.store.tables.symbol_book import drawn_symbols
from orvik.usecases.symbols import drawn_symbols as use
from orvik.web.frame.pages import page, stage_page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.benches import bench_values
from orvik.web.symbols.draw_forms import (
    Hand,
    HandForm,
    NewPieceForm,
    OrnamentForm,
    PieceForm,
    StrokeForm,
    SymbolForm,
    number_of,
    with_new_piece,
    with_ornament,
    with_piece,
    with_settings,
    with_stroke,
)
from orvik.web.symbols.draw_grid import grid_of
from orvik.web.symbols.swatches import symbol_swatch

router = APIRouter(prefix="/p/{slug}/symbols/draw")
# Of the picture of each own symbol, in millimetres.
PICTURE = 8.0
# A tint where a project has none yet.
DARK = "#C98F86"
FAMILY_WORDS: Mapping[str, str] = {"points": "Point symbol", "lines": "Line symbol", "patterns": "Pattern"}
PLACE_WORDS: Mapping[OrnamentPlace, str] = {
    "repeat": "again and again",
    "once": "once in a while",
    "ends": "at both ends",
    "plunge": "where it plunges to",
}


@router.get("")
async def get_draw(request: Request, workspace: TheWorkspace, symbol: str = "") -> Response:
    values = {**bench_values(workspace, "draw"), **_values(workspace, symbol, Hand())}
    return stage_page(request, workspace, "symbols", template="symbols/draw.html", **values)


@router.post("")
async def post_symbol(
    slug: str,
    workspace: TheWorkspace,
    family: Annotated[DrawnFamily, Form()],
    title: Annotated[str, Form()] = "",
    like: Annotated[str, Form()] = "",
) -> Response:
    """Begin a new symbol, from nothing or from the look of one of the book."""
    entry = await workspace.carry_out(use.begin_symbol, family, title, like)
    name = (entry.changes[0].after or {})["name"]
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/symbols/draw?symbol={name}"})


@router.get("/{name}")
async def get_bench(
    request: Request, slug: str, workspace: TheWorkspace, name: str, ornament: str = "", piece: str = ""
) -> Response:
    """The bench with a symbol on it."""
    return _bench(request, slug, workspace, name, HandForm(ornament=ornament, piece=piece).hand)


@router.delete("/{name}")
async def delete_symbol(slug: str, workspace: TheWorkspace, name: str) -> Response:
    await workspace.carry_out(use.remove_symbol, name)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/symbols/draw"})


@router.post("/{name}")
async def post_changed(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[SymbolForm, Form()]
) -> Response:
    """Change the symbol itself: its name, whether it turns, what it writes, its anchor, its tile."""
    return await _keep(request, slug, workspace, name, lambda symbol: (with_settings(symbol, form), form.hand))


@router.post("/{name}/pieces")
async def post_piece(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[NewPieceForm, Form()]
) -> Response:
    """Add a piece above the others."""
    return await _keep(request, slug, workspace, name, lambda symbol: with_new_piece(symbol, form))


@router.post("/{name}/piece")
async def post_changed_piece(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[PieceForm, Form()]
) -> Response:
    """Change, swap, order, copy or take away the selected piece."""
    return await _keep(request, slug, workspace, name, lambda symbol: with_piece(symbol, form))


@router.post("/{name}/stroke")
async def post_stroke(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[StrokeForm, Form()]
) -> Response:
    """Add, change or take away a stroke of a line symbol."""
    return await _keep(request, slug, workspace, name, lambda symbol: (with_stroke(symbol, form), form.hand))


@router.post("/{name}/ornament")
async def post_ornament(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[OrnamentForm, Form()]
) -> Response:
    """Add, change or take away an ornament of a line symbol."""
    return await _keep(request, slug, workspace, name, lambda symbol: with_ornament(symbol, form))


@router.post("/{name}/wear")
async def post_wear(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    name: str,
    symbol: Annotated[str, Form()],
    on: Annotated[bool, Form()] = True,
) -> Response:
    """Put the look on a symbol of the book, or take it off."""
    await workspace.carry_out(use.put_on if on else use.take_off, name, symbol)
    return _bench(request, slug, workspace, name, Hand())


@router.post("/{name}/svg")
async def post_svg(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    name: str,
    file: Annotated[UploadFile, File()],
    ornament: Annotated[str, Form()] = "",
) -> Response:
    """Bring a drawing in, in the place of the pieces there are."""
    pieces = await workers.open_strange(pieces_of_svg, await file.read(LARGEST_FILE + 1))
    hand = Hand(number_of(ornament))

    def brought_in(symbol: DrawnSymbol) -> tuple[DrawnSymbol, Hand]:
        # A tile begins at its corner, where a symbol has its middle.
        x, y = (symbol.tile[0] / 2, symbol.tile[1] / 2) if symbol.family == "patterns" else (0.0, 0.0)
        return symbol.with_drawing(hand.ornament, [piece.moved(x, y) for piece in pieces]), hand

    return await _keep(request, slug, workspace, name, brought_in)


async def _keep(
    request: Request,
    slug: str,
    workspace: Workspace,
    name: str,
    change: Callable[[DrawnSymbol], tuple[DrawnSymbol, Hand]],
) -> Response:
    """Carry a change out on the symbol as it is kept, and show the bench with what is selected then."""
    hand = Hand()

    def changed(symbol: DrawnSymbol) -> DrawnSymbol:
        nonlocal hand
        new, hand = change(symbol)
        return new

    await workspace.carry_out(use.change_symbol, name, changed)
    return _bench(request, slug, workspace, name, hand)


def _bench(request: Request, slug: str, workspace: Workspace, name: str, hand: Hand) -> Response:
    values = _values(workspace, name, hand)
    if values["symbol"] is None:
        raise NotFound("That symbol is no longer there; choose another one.")
    return page(request, "symbols/_draw.html", slug=slug, **values)


def _values(workspace: Workspace, name: str, hand: Hand) -> dict[str, Any]:
    project = workspace.project
    symbols = [symbol for _, symbol in drawn_symbols(project)]
    symbol = next((one for one in symbols if one.name == name), symbols[0] if symbols and not name else None)
    counts = use.features_wearing(project)
    own = [(one, counts[one.name], _picture(one)) for one in symbols]
    values: dict[str, Any] = {"custom_symbols": own, "symbol": symbol, "families": FAMILY_WORDS, "shapes": SHAPES}
    book = workspace.book
    values["likes"] = {
        "Points": [(one.id, one.title) for one in book.symbols if one.table == "points"],
        "Lines": [(one.id, one.title) for one in book.symbols if one.table == "lines"],
        "Patterns": [(one.id, one.title) for one in book.patterns.values()],
    }
    if symbol is None:
        return values
    ornament = hand.ornament
    if symbol.family == "lines" and ornament is not None and not 0 <= ornament < len(symbol.ornaments):
        ornament = None
    pieces = symbol.drawing(ornament)
    chosen = hand.piece if hand.piece is not None and 0 <= hand.piece < len(pieces) else None
    # What can be drawn on is drawn on: a symbol of one piece has it selected.
    chosen = 0 if chosen is None and len(pieces) == 1 else chosen
    tints = [unit.colour for _, unit in project.units()]
    dark = min(tints, key=lambda tint: lab_of(tint)[0], default=DARK)
    worn = {one.id: one for one in workspace.book.symbols if one.id in symbol.worn_by}
    return {
        **values,
        "revision": project.revision,
        "ornament": ornament,
        "chosen": chosen,
        "pieces": pieces,
        "piece": pieces[chosen] if chosen is not None else None,
        "grid": grid_of(symbol, ornament, chosen),
        "trials": [
            (title, swatch(items, WIDTH, HEIGHT, title, f"trial-{i}"))
            for i, (title, items) in enumerate(trials(symbol, dark))
        ],
        "worn": worn,
        "wearable": use.wearable(project, symbol),
        "wearers": counts[symbol.name],
        "sheets": len(project.sheets()),
        "place_words": PLACE_WORDS,
        "units_with": [unit.code for _, unit in project.units() if unit.pattern == symbol.pattern_id],
    }


def _picture(symbol: DrawnSymbol) -> str:
    if symbol.family == "patterns":
        items = pattern_specimen(symbol.as_pattern(), INK, "", 0.2, 0.2, PICTURE - 0.4, 4.6)
        return swatch(items, PICTURE, 5.0, symbol.title, f"own-{symbol.name}")
    return symbol_swatch(replace(symbol.as_symbol(), captions=()), f"own-{symbol.name}", PICTURE)
