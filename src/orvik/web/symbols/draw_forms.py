"""What is typed and dragged on the bench of drawing, and the symbols that come of it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from pydantic import BaseModel

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.ground.coordinates import parse_quantity
from orvik.core.ink.primitives import INK, LineStyle
from orvik.core.symbols.drawn_symbol import DrawnOrnament, DrawnSymbol
from orvik.core.symbols.piece import SHAPES, Piece
from orvik.core.symbols.style_row import style_of
from orvik.core.symbols.symbol import Caption, OrnamentPlace

# What a new ornament begins with.
TRIANGLE = Piece("polygon", sides=3, reach=0.9, turned=90.0, at=(0.45, 0.0), fill=INK)


@dataclass(frozen=True)
class Hand:
    """What is selected: an ornament's drawing or the symbol's own, and one of its pieces."""

    ornament: int | None = None
    piece: int | None = None


class HandForm(BaseModel):
    """What was selected when something was asked for; empty for none."""

    ornament: str = ""
    piece: str = ""

    @property
    def hand(self) -> Hand:
        """As numbers."""
        return Hand(number_of(self.ornament), number_of(self.piece))


class PieceForm(HandForm):
    """What is done with the selected piece, and its measures as typed or dragged."""

    do: Literal["set", "swap", "up", "down", "copy", "remove"] = "set"
    points: str | None = None
    closed: str | None = None
    x: str | None = None
    y: str | None = None
    sides: str | None = None
    reach: str | None = None
    inner: str | None = None
    turned: str | None = None
    sweep: str | None = None
    width: str | None = None
    outline: str | None = None
    fill: str | None = None
    filled: str | None = None
    # Which form was sent: a box that is not ticked sends nothing.
    whole: str = ""


class NewPieceForm(HandForm):
    """The shape of a piece that is added."""

    shape: str


class SymbolForm(HandForm):
    """The symbol itself as typed; what is None stays."""

    title: str | None = None
    turns: str | None = None
    of: str | None = None
    caption_x: str | None = None
    caption_y: str | None = None
    caption_size: str | None = None
    caption_italic: str | None = None
    anchor_x: str | None = None
    anchor_y: str | None = None
    tile_width: str | None = None
    tile_height: str | None = None
    whole: str = ""


class StrokeForm(HandForm):
    """A stroke of a line symbol as typed."""

    do: Literal["set", "add", "remove"] = "set"
    number: int = 0
    width: str = "0.3"
    colour: str = INK
    dash: str = ""
    cap: str = "butt"
    offset: str = "0"


class OrnamentForm(HandForm):
    """An ornament of a line symbol as typed."""

    do: Literal["set", "add", "remove"] = "set"
    number: int = 0
    place: OrnamentPlace = "repeat"
    spacing: str = "8"
    phase: str = "50"
    side: Literal["right", "left"] = "right"


def with_new_piece(symbol: DrawnSymbol, form: NewPieceForm) -> tuple[DrawnSymbol, Hand]:
    """A symbol with a piece more above the others, and that selected."""
    ornament = form.hand.ornament
    pieces = symbol.drawing(ornament)
    return symbol.with_drawing(ornament, (*pieces, new_piece(form.shape, symbol))), Hand(ornament, len(pieces))


def with_piece(symbol: DrawnSymbol, form: PieceForm) -> tuple[DrawnSymbol, Hand]:
    """A symbol with the selected piece changed, swapped, ordered, copied or taken away, and what is selected then."""
    ornament, at = form.hand.ornament, form.hand.piece
    pieces = list(symbol.drawing(ornament))
    if at is None or not 0 <= at < len(pieces):
        raise NotFound("That piece is no longer there; select another one.")
    to: int | None = at
    if form.do == "set":
        pieces[at] = with_measures(pieces[at], form)
    elif form.do == "swap":
        pieces[at] = pieces[at].swapped()
    elif form.do == "copy":
        to = at + 1
        pieces.insert(to, pieces[at].moved(0.5, 0.5))
    elif form.do == "remove":
        del pieces[at]
        to = None
    else:
        to = min(max(at + (1 if form.do == "up" else -1), 0), len(pieces) - 1)
        pieces.insert(to, pieces.pop(at))
    return symbol.with_drawing(ornament, pieces), Hand(ornament, to)


def with_stroke(symbol: DrawnSymbol, form: StrokeForm) -> DrawnSymbol:
    """A line symbol with a stroke added, changed or taken away."""
    strokes = list(symbol.strokes)
    if form.do == "add":
        strokes.append(LineStyle(0.2, INK))
    elif not 0 <= form.number < len(strokes):
        raise SymbolRefused("That stroke is no longer there.")
    elif form.do == "remove":
        del strokes[form.number]
    else:
        strokes[form.number] = stroke_of(form)
    return replace(symbol, strokes=tuple(strokes))


def with_ornament(symbol: DrawnSymbol, form: OrnamentForm) -> tuple[DrawnSymbol, Hand]:
    """A line symbol with an ornament added, changed or taken away, and what is selected then."""
    ornaments, hand = list(symbol.ornaments), form.hand
    if form.do == "add":
        ornaments.append(DrawnOrnament((TRIANGLE,)))
        hand = Hand(len(ornaments) - 1, 0)
    elif not 0 <= form.number < len(ornaments):
        raise SymbolRefused("That ornament is no longer there.")
    elif form.do == "remove":
        del ornaments[form.number]
        hand = Hand()
    else:
        old = ornaments[form.number]
        phase = millimetres(form.phase.rstrip("% "), "place along its share") / 100
        spacing = millimetres(form.spacing, "spacing")
        left = form.side == "left"
        ornaments[form.number] = replace(old, place=form.place, spacing=spacing, phase=phase, left=left)
    return replace(symbol, ornaments=tuple(ornaments)), hand


def number_of(text: str) -> int | None:
    return int(text) if text.isdigit() and len(text) < 6 else None


def millimetres(text: str, what: str) -> float:
    return parse_quantity(text.strip().removesuffix("mm").strip(), what, SymbolRefused)


def stroke_of(form: StrokeForm) -> LineStyle:
    lengths = form.dash.replace(";", " ").split()
    row = {
        "width": millimetres(form.width, "width"),
        "colour": form.colour.strip().upper(),
        "dash": [millimetres(length, "length of a dash") for length in lengths],
        "cap": form.cap,
        "offset": millimetres(form.offset or "0", "distance beside the line"),
    }
    return style_of(row)


def new_piece(shape: str, symbol: DrawnSymbol) -> Piece:
    at = (symbol.tile[0] / 2, symbol.tile[1] / 2) if symbol.family == "patterns" else (0.0, 0.0)
    if shape == "line":
        return Piece("line", ((at[0] - 1.0, at[1]), (at[0] + 1.0, at[1])), width=0.2)
    if shape not in SHAPES:
        raise SymbolRefused(f"“{shape[:20]}” is not a shape; a piece is a {', '.join(SHAPES)}.")
    sides = 5 if shape == "star" else 4
    return Piece.of({"shape": shape, "at": at, "sides": sides, "reach": 1.0, "inner": 0.45, "width": 0.2})


def with_measures(piece: Piece, form: PieceForm) -> Piece:
    """A piece with the measures that were typed or dragged."""
    values: dict[str, Any] = {}
    for name in ("reach", "inner", "turned", "sweep", "width"):
        text = getattr(form, name)
        if text is not None and text.strip():
            values[name] = millimetres(text.rstrip("°"), name)
    if form.sides is not None and form.sides.strip():
        values["sides"] = round(millimetres(form.sides, "number of sides"))
    if form.x is not None and form.y is not None and form.x.strip() and form.y.strip():
        values["at"] = (millimetres(form.x, "place"), millimetres(form.y, "place"))
    if form.points is not None:
        values["points"] = _points(form.points)
    if form.outline:
        values["outline"] = form.outline.strip().upper()
    if form.whole:
        values["closed"] = form.closed is not None and piece.shape == "line"
        values["fill"] = (form.fill or piece.outline).strip().upper() if form.filled is not None else ""
    return replace(piece, **values)


def _points(text: str) -> tuple[tuple[float, float], ...]:
    """Points as typed or dragged: ``0 0; 1.2 -0.5``."""
    out = []
    for pair in text.replace("\n", ";").split(";"):
        if not pair.strip():
            continue
        figures = pair.split()
        if len(figures) != 2:
            raise SymbolRefused(
                f"“{pair.strip()[:20]}” is not a point; type right and down in millimetres, as 1.2 -0.5."
            )
        out.append((millimetres(figures[0], "place"), millimetres(figures[1], "place")))
    return tuple(out)


def with_settings(symbol: DrawnSymbol, form: SymbolForm) -> DrawnSymbol:
    values: dict[str, Any] = {}
    if form.title is not None:
        values["title"] = " ".join(form.title.split())
    if form.tile_width and form.tile_height:
        values["tile"] = (millimetres(form.tile_width, "width"), millimetres(form.tile_height, "height"))
    if form.whole and symbol.family == "points":
        values["turns"] = form.turns is not None
    if symbol.family == "points" and form.of is not None:
        values["caption"] = _caption(symbol.caption, form) if form.of in ("note", "inclination") else None
        values["silent"] = form.of == "nothing"
    elif symbol.caption is not None and form.caption_x and form.caption_y:
        values["caption"] = _caption(symbol.caption, form)
    changed = replace(symbol, **values)
    if form.anchor_x and form.anchor_y:
        dx, dy = -millimetres(form.anchor_x, "place"), -millimetres(form.anchor_y, "place")
        ornament = form.hand.ornament
        moved = [piece.moved(dx, dy) for piece in changed.drawing(ornament)]
        changed = changed.with_drawing(ornament, moved)
    return changed


def _caption(old: Caption | None, form: SymbolForm) -> Caption:
    was = old or Caption("note", (2.0, 0.0), colour=INK, begins=True, italic=True)
    of = form.of or was.of
    if old is None and of == "inclination":
        was = Caption("inclination", (2.5, 0.0), colour=INK)
    at = (
        millimetres(form.caption_x, "place") if form.caption_x else was.at[0],
        millimetres(form.caption_y, "place") if form.caption_y else was.at[1],
    )
    size = millimetres(form.caption_size, "height of letters") if form.caption_size else was.size
    if not 1.0 <= size <= 12.0:
        raise SymbolRefused(f"Letters are 1 to 12 mm high, not {size:g}.")
    if max(abs(at[0]), abs(at[1])) > 30:
        raise SymbolRefused("What a symbol writes stands at most 30 mm from its place.")
    italic = form.caption_italic is not None if form.whole else was.italic
    # A name begins beside its symbol; a figure stands about its middle.
    return Caption(of, at, size, was.colour, of == "note" and at[0] > 0, italic)
