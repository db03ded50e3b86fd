"""The bench where signs are drawn: pieces on a millimetre grid, line signs, patterns, and who wears them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from orvik.core.colour.hex import lab_of
from orvik.core.errors import NotFound
from orvik.core.ink.primitives import INK
from orvik.core.symbols.drawn_symbol import DrawnFamily, DrawnSign
from orvik.core.symbols.piece import SHAPES
from orvik.core.symbols.specimen import pattern_specimen
from orvik.core.symbols.symbol import Place
from orvik.core.symbols.symbol_trial import HEIGHT, WIDTH, trials
from orvik.exchange.sheets.svg_symbol import LARGEST_FILE, pieces_of_svg
from orvik.press.svg import swatch
from orvik.store.symbol_book import drawn_signs
from orvik.usecases.symbols import drawn_symbols as use
from orvik.web.frame.pages import page, stage_page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.signs.benches import bench_values
from orvik.web.signs.draw_forms import (
    Hand,
    HandForm,
    NewPieceForm,
    OrnamentForm,
    PieceForm,
    SignForm,
    StrokeForm,
    number_of,
    with_new_piece,
    with_ornament,
    with_piece,
    with_settings,
    with_stroke,
)
from orvik.web.signs.draw_grid import grid_of
from orvik.web.signs.swatches import sign_swatch

router = APIRouter(prefix="/p/{slug}/signs/draw")
# Of the picture of each own sign, in millimetres.
PICTURE = 8.0
# A tint where a project has none yet.
DARK = "#C98F86"
FAMILY_WORDS: Mapping[str, str] = {"points": "Point sign", "lines": "Line sign", "patterns": "Pattern"}
PLACE_WORDS: Mapping[Place, str] = {
    "repeat": "again and again",
    "once": "once in a while",
    "ends": "at both ends",
    "plunge": "where it plunges to",
}


@router.get("")
async def get_draw(request: Request, workspace: TheWorkspace, sign: str = "") -> Response:
    values = {**bench_values(workspace, "draw"), **_values(workspace, sign, Hand())}
    return stage_page(request, workspace, "signs", template="signs/draw.html", **values)


@router.post("")
async def post_sign(
    slug: str,
    workspace: TheWorkspace,
    family: Annotated[DrawnFamily, Form()],
    title: Annotated[str, Form()] = "",
    like: Annotated[str, Form()] = "",
) -> Response:
    """Begin a new sign, from nothing or from the look of one of the book."""
    entry = await workspace.carry_out(use.begin_sign, family, title, like)
    name = (entry.changes[0].after or {})["name"]
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/signs/draw?sign={name}"})


@router.get("/{name}")
async def get_bench(
    request: Request, slug: str, workspace: TheWorkspace, name: str, ornament: str = "", piece: str = ""
) -> Response:
    """The bench with a sign on it."""
    return _bench(request, slug, workspace, name, HandForm(ornament=ornament, piece=piece).hand)


@router.delete("/{name}")
async def delete_sign(slug: str, workspace: TheWorkspace, name: str) -> Response:
    await workspace.carry_out(use.remove_sign, name)
    return Response(status_code=204, headers={"HX-Redirect": f"/p/{slug}/signs/draw"})


@router.post("/{name}")
async def post_changed(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[SignForm, Form()]
) -> Response:
    """Change the sign itself: its name, whether it turns, what it writes, its anchor, its tile."""
    return await _keep(request, slug, workspace, name, lambda sign: (with_settings(sign, form), form.hand))


@router.post("/{name}/pieces")
async def post_piece(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[NewPieceForm, Form()]
) -> Response:
    """Add a piece above the others."""
    return await _keep(request, slug, workspace, name, lambda sign: with_new_piece(sign, form))


@router.post("/{name}/piece")
async def post_changed_piece(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[PieceForm, Form()]
) -> Response:
    """Change, swap, order, copy or take away the piece in hand."""
    return await _keep(request, slug, workspace, name, lambda sign: with_piece(sign, form))


@router.post("/{name}/stroke")
async def post_stroke(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[StrokeForm, Form()]
) -> Response:
    """Add, change or take away a stroke of a line sign."""
    return await _keep(request, slug, workspace, name, lambda sign: (with_stroke(sign, form), form.hand))


@router.post("/{name}/ornament")
async def post_ornament(
    request: Request, slug: str, workspace: TheWorkspace, name: str, form: Annotated[OrnamentForm, Form()]
) -> Response:
    """Add, change or take away an ornament of a line sign."""
    return await _keep(request, slug, workspace, name, lambda sign: with_ornament(sign, form))


@router.post("/{name}/wear")
async def post_wear(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    name: str,
    sign: Annotated[str, Form()],
    on: Annotated[bool, Form()] = True,
) -> Response:
    """Put the look on a sign of the book, or take it off."""
    await workspace.carry_out(use.put_on if on else use.take_off, name, sign)
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

    def brought_in(sign: DrawnSign) -> tuple[DrawnSign, Hand]:
        # A tile begins at its corner, where a sign has its middle.
        x, y = (sign.tile[0] / 2, sign.tile[1] / 2) if sign.family == "patterns" else (0.0, 0.0)
        return sign.with_drawing(hand.ornament, [piece.moved(x, y) for piece in pieces]), hand

    return await _keep(request, slug, workspace, name, brought_in)


async def _keep(
    request: Request,
    slug: str,
    workspace: Workspace,
    name: str,
    change: Callable[[DrawnSign], tuple[DrawnSign, Hand]],
) -> Response:
    """Carry a change out on the sign as it is kept, and show the bench with what is in hand then."""
    hand = Hand()

    def changed(sign: DrawnSign) -> DrawnSign:
        nonlocal hand
        new, hand = change(sign)
        return new

    await workspace.carry_out(use.change_sign, name, changed)
    return _bench(request, slug, workspace, name, hand)


def _bench(request: Request, slug: str, workspace: Workspace, name: str, hand: Hand) -> Response:
    values = _values(workspace, name, hand)
    if values["sign"] is None:
        raise NotFound("That sign is no longer there; choose another one.")
    return page(request, "signs/_draw.html", slug=slug, **values)


def _values(workspace: Workspace, name: str, hand: Hand) -> dict[str, Any]:
    project = workspace.project
    signs = [sign for _, sign in drawn_signs(project)]
    sign = next((one for one in signs if one.name == name), signs[0] if signs and not name else None)
    counts = use.features_wearing(project)
    own = [(one, counts[one.name], _picture(one)) for one in signs]
    values: dict[str, Any] = {"own_signs": own, "sign": sign, "families": FAMILY_WORDS, "shapes": SHAPES}
    book = workspace.book
    values["likes"] = {
        "Points": [(one.id, one.title) for one in book.signs if one.table == "points"],
        "Lines": [(one.id, one.title) for one in book.signs if one.table == "lines"],
        "Patterns": [(one.id, one.title) for one in book.patterns.values()],
    }
    if sign is None:
        return values
    ornament = hand.ornament
    if sign.family == "lines" and ornament is not None and not 0 <= ornament < len(sign.ornaments):
        ornament = None
    pieces = sign.drawing(ornament)
    chosen = hand.piece if hand.piece is not None and 0 <= hand.piece < len(pieces) else None
    # What can be drawn on is drawn on: a sign of one piece has it in hand.
    chosen = 0 if chosen is None and len(pieces) == 1 else chosen
    tints = [unit.colour for _, unit in project.units()]
    dark = min(tints, key=lambda tint: lab_of(tint)[0], default=DARK)
    worn = {one.id: one for one in workspace.book.signs if one.id in sign.worn_by}
    return {
        **values,
        "revision": project.revision,
        "ornament": ornament,
        "chosen": chosen,
        "pieces": pieces,
        "piece": pieces[chosen] if chosen is not None else None,
        "grid": grid_of(sign, ornament, chosen),
        "trials": [
            (title, swatch(items, WIDTH, HEIGHT, title, f"trial-{i}"))
            for i, (title, items) in enumerate(trials(sign, dark))
        ],
        "worn": worn,
        "wearable": use.wearable(project, sign),
        "wearers": counts[sign.name],
        "sheets": len(project.sheets()),
        "place_words": PLACE_WORDS,
        "units_with": [unit.code for _, unit in project.units() if unit.pattern == sign.pattern_id],
    }


def _picture(sign: DrawnSign) -> str:
    if sign.family == "patterns":
        items = pattern_specimen(sign.as_pattern(), INK, "", 0.2, 0.2, PICTURE - 0.4, 4.6)
        return swatch(items, PICTURE, 5.0, sign.title, f"own-{sign.name}")
    return sign_swatch(replace(sign.as_sign(), captions=()), f"own-{sign.name}", PICTURE)
