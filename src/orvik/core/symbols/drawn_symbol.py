"""Symbols that a project has drawn for itself: a look for points, for lines or for areas, and who wears it."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import MISSING, dataclass, fields, replace
from typing import Any, Literal, get_args

from orvik.core.errors import SymbolRefused
from orvik.core.ink.primitives import INK, LineStyle, Stamp, Stroke
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.style_row import caption_of, caption_row, style_of, style_row
from orvik.core.symbols.symbol import Caption, Ornament, OrnamentPlace, PatternSymbol, Symbol, leans, mirrored, stamp_of
from orvik.core.symbols.symbol_book import SymbolBook

DrawnFamily = Literal["points", "lines", "patterns"]
MOST_PIECES, MOST_STROKES, MOST_ORNAMENTS = 200, 6, 6
LONGEST_TITLE = 60
# The pattern ids of a project's own begin so, and none of the book's does.
OWN = "own_"


@dataclass(frozen=True)
class DrawnOrnament:
    """A drawing along a line that runs upwards; ``left`` mirrors it to the other side."""

    pieces: tuple[Piece, ...]
    place: OrnamentPlace = "repeat"
    spacing: float = 8.0
    phase: float = 0.5
    left: bool = False

    def ornament(self, name: str) -> Ornament:
        """As the line symbol has it; raises SymbolRefused where it cannot stand so."""
        stamp = stamp_of(name, self.pieces)
        return Ornament(mirrored(stamp) if self.left else stamp, self.place, self.spacing, self.phase)


@dataclass(frozen=True)
class DrawnSymbol:
    """A look that somebody has drawn.

    Attributes
    ----------
    name
        As patterns and the project file call it: small letters and underscores.
    pieces
        Of a point symbol or a pattern, the first one lowest. The anchor on the ground is their origin.
    turns
        Whether a point symbol turns with its azimuth, though the symbol that wears it does not.
    caption, silent
        What a point symbol writes, and where; None for what the symbol that wears it writes, unless it is ``silent``.
    strokes, ornaments
        Of a line symbol.
    tile
        Width and height in millimetres of what a pattern repeats.
    worn_by
        The ids of the symbols of the book that look like this.
    """

    name: str
    family: DrawnFamily
    title: str
    pieces: tuple[Piece, ...] = ()
    turns: bool = False
    caption: Caption | None = None
    silent: bool = False
    strokes: tuple[LineStyle, ...] = ()
    ornaments: tuple[DrawnOrnament, ...] = ()
    tile: tuple[float, float] = (6.0, 6.0)
    worn_by: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.family not in get_args(DrawnFamily):
            raise SymbolRefused("A symbol is drawn for points, for lines or as a pattern.")
        if not re.fullmatch(r"[a-z0-9_]{1,60}", self.name):
            raise SymbolRefused(
                f"“{self.name[:20]}” is not a name of a symbol in a file: small letters, digits and _ are."
            )
        if not self.title.strip() or len(self.title) > LONGEST_TITLE:
            raise SymbolRefused(f"A symbol needs a name of 1 to {LONGEST_TITLE} letters.")
        if self.family == "lines":
            if not any(stroke.width > 0 for stroke in self.strokes) and not self.ornaments:
                raise SymbolRefused("A line symbol needs a stroke or an ornament; else it is not seen.")
        elif not self.pieces:
            raise SymbolRefused("A symbol needs a piece; add another one before you remove this.")
        drawings = (self.pieces, *(ornament.pieces for ornament in self.ornaments))
        if any(len(pieces) > MOST_PIECES for pieces in drawings):
            raise SymbolRefused(f"A symbol has at most {MOST_PIECES} pieces.")
        if len(self.strokes) > MOST_STROKES or len(self.ornaments) > MOST_ORNAMENTS:
            raise SymbolRefused(f"A line symbol has at most {MOST_STROKES} strokes and {MOST_ORNAMENTS} ornaments.")
        if not all(1 <= side <= 50 for side in self.tile):
            raise SymbolRefused(f"The tile of a pattern is 1 to 50 mm wide, not {self.tile[0]:g} by {self.tile[1]:g}.")
        for ornament in self.ornaments:
            if not ornament.pieces:
                raise SymbolRefused("An ornament needs a piece; remove the ornament instead.")
            ornament.ornament(self.title)

    @property
    def pattern_id(self) -> str:
        """What units call it by, as a pattern."""
        return OWN + self.name

    def dressed(self, symbol: Symbol) -> Symbol:
        """A symbol of the book in this look; what it means stays, and the standard's number is no longer its own."""
        worn = replace(symbol, number="", basis="ours")
        if self.family == "lines":
            ornaments = tuple(ornament.ornament(symbol.title) for ornament in self.ornaments)
            if stands_against(ornaments, symbol):
                # On which side of a line they stand has a meaning: no look may move them to the other one.
                ornaments = tuple(replace(one, stamp=mirrored(one.stamp)) for one in ornaments)
            return replace(worn, strokes=self.strokes, ornaments=ornaments)
        captions = (self.caption,) if self.caption is not None else () if self.silent else symbol.captions
        stamp = stamp_of(symbol.title, self.pieces)
        # A reading is never drawn without its direction, whatever it looks like.
        return replace(worn, stamp=stamp, captions=captions, turns=self.turns or symbol.turns)

    def check_side(self, symbol: Symbol) -> None:
        """Refuse to be worn by a symbol whose ornaments say what lies on a side of the line, and stand on the other."""
        if stands_against([ornament.ornament(self.name) for ornament in self.ornaments], symbol):
            mine, other = ("right", "left") if _lead(symbol.ornaments) > 0 else ("left", "right")
            raise SymbolRefused(
                f"The ornaments of {symbol.title} stand to the {mine} of a line drawn away from you, and say where "
                f"{symbol.side} is; those of {self.title} stand to the {other}. Set them to the {mine} first."
            )

    def drawing(self, ornament: int | None) -> tuple[Piece, ...]:
        """Its pieces, or those of one of its ornaments; none where there is no such one."""
        if ornament is None:
            return self.pieces
        return self.ornaments[ornament].pieces if 0 <= ornament < len(self.ornaments) else ()

    def with_drawing(self, ornament: int | None, pieces: Sequence[Piece]) -> DrawnSymbol:
        """The same with other pieces, or other ones of an ornament; raises SymbolRefused where it cannot be so."""
        if ornament is None:
            return replace(self, pieces=tuple(pieces))
        if not 0 <= ornament < len(self.ornaments):
            raise SymbolRefused("That ornament is no longer there.")
        changed = list(self.ornaments)
        changed[ornament] = replace(changed[ornament], pieces=tuple(pieces))
        return replace(self, ornaments=tuple(changed))

    def as_symbol(self) -> Symbol:
        """The look by itself, for specimens."""
        table: Literal["points", "lines"] = "lines" if self.family == "lines" else "points"
        return self.dressed(Symbol(f"drawn-{self.name}", table, self.name, self.title))

    def as_pattern(self) -> PatternSymbol:
        """The look as a pattern."""
        return PatternSymbol(self.pattern_id, self.title, *self.tile, self.pieces)

    @property
    def body(self) -> str:
        """All but name, family and title as JSON, as ``of`` reads it."""
        row: dict[str, Any] = {"worn_by": list(self.worn_by)}
        if self.family == "lines":
            row["strokes"] = [style_row(style) for style in self.strokes]
            row["ornaments"] = [_ornament_row(ornament) for ornament in self.ornaments]
        else:
            row["pieces"] = [piece_row(piece) for piece in self.pieces]
        if self.family == "points":
            row["turns"] = self.turns
            row["caption"] = caption_row(self.caption) if self.caption is not None else None
            row["silent"] = self.silent
        if self.family == "patterns":
            row["tile"] = list(self.tile)
        return json.dumps(row, ensure_ascii=False, separators=(",", ":"))

    @staticmethod
    def of(name: str, family: str, title: str, body: str) -> DrawnSymbol:
        """A symbol as it was kept; raises SymbolRefused for what is none."""
        try:
            row = json.loads(body)
            caption = row.get("caption")
            return DrawnSymbol(
                name,
                family,  # type: ignore[arg-type]
                title,
                tuple(Piece.of(one) for one in row.get("pieces", ())),
                bool(row.get("turns", False)),
                caption_of(caption) if caption else None,
                bool(row.get("silent", False)),
                tuple(style_of(one) for one in row.get("strokes", ())),
                tuple(_ornament(one) for one in row.get("ornaments", ())),
                (float(row["tile"][0]), float(row["tile"][1])) if "tile" in row else (6.0, 6.0),
                tuple(str(one) for one in row.get("worn_by", ())),
            )
        except (KeyError, TypeError, ValueError, IndexError, AttributeError) as error:
            raise SymbolRefused(f"The symbol “{title[:30]}” cannot be read: {error}.") from error


def stands_against(ornaments: Sequence[Ornament], symbol: Symbol) -> bool:
    """Whether ornaments stand on the other side of a line than those of a symbol whose side has a meaning."""
    return bool(symbol.side) and _lead(ornaments) * _lead(symbol.ornaments) < 0


def _lead(ornaments: Sequence[Ornament]) -> float:
    """To which side the first ornament stands that stands to one: above 0 to the right; 0 where none does."""
    return next((reach for one in ornaments if (reach := leans(one.stamp))), 0.0)


def piece_row(piece: Piece) -> dict[str, Any]:
    """A piece as ``Piece.of`` reads it: what is not as usual."""
    out: dict[str, Any] = {}
    for one in fields(piece):
        value = getattr(piece, one.name)
        usual = one.default if one.default is not MISSING else None
        if value != usual:
            out[one.name] = [list(point) for point in value] if one.name == "points" else value
    return out


def new_symbol(name: str, family: DrawnFamily, title: str) -> DrawnSymbol:
    """A symbol to begin with: a triangle, a line with a dash, or a tile with a dot."""
    if family == "lines":
        return DrawnSymbol(name, family, title, strokes=(LineStyle(0.3, INK, (2.4, 1.0)),))
    if family == "patterns":
        return DrawnSymbol(name, family, title, (Piece("circle", at=(3.0, 3.0), reach=0.5, fill=INK),))
    return DrawnSymbol(name, family, title, (Piece("polygon", sides=3, reach=1.4, width=0.2),))


def symbol_like(name: str, title: str, symbol: Symbol) -> DrawnSymbol:
    """A symbol to begin with that looks as one of the book does; raises SymbolRefused for an area's, which has none."""
    if symbol.table == "lines":
        ornaments = tuple(
            DrawnOrnament(_as_pieces(one.stamp), one.place, one.spacing, one.phase) for one in symbol.ornaments
        )
        return DrawnSymbol(name, "lines", title, strokes=symbol.strokes, ornaments=ornaments)
    if symbol.stamp is None:
        raise SymbolRefused(f"“{symbol.title}” is the look of an area; draw a pattern for it instead.")
    return DrawnSymbol(name, "points", title, _as_pieces(symbol.stamp), symbol.turns)


def pattern_like(name: str, title: str, pattern: PatternSymbol) -> DrawnSymbol:
    """A pattern to begin with that looks as one of the book does."""
    return DrawnSymbol(name, "patterns", title, pattern.pieces, tile=(pattern.width, pattern.height))


def _as_pieces(stamp: Stamp) -> tuple[Piece, ...]:
    """The ink of a stamp as lines, one piece for each path."""
    out = []
    for item in stamp.items:
        for i in range(len(item.paths)):
            points = tuple((round(float(x), 4), round(float(y), 4)) for x, y in item.paths[i])
            closed = len(points) > 3 and points[0] == points[-1]
            points = points[:-1] if closed else points
            if isinstance(item, Stroke):
                style = item.style
                look = {"width": style.width, "outline": style.colour, "dash": style.dash, "cap": style.cap}
                out.append(Piece("line", points, closed, **look))  # type: ignore[arg-type]
            else:
                out.append(Piece("line", points, True, fill=item.colour))
    return tuple(out)


def with_drawn(book: SymbolBook, drawn: Sequence[DrawnSymbol]) -> SymbolBook:
    """A symbol book in which symbols look as a project has drawn them, with its patterns among the others."""
    look = {worn: symbol for symbol in drawn if symbol.family != "patterns" for worn in symbol.worn_by}
    patterns = {symbol.pattern_id: symbol.as_pattern() for symbol in drawn if symbol.family == "patterns"}
    if not look and not patterns:
        return book
    symbols = tuple(
        look[symbol.id].dressed(symbol) if symbol.id in look and look[symbol.id].family == symbol.table else symbol
        for symbol in book.symbols
    )
    return replace(book, symbols=symbols, patterns={**book.patterns, **patterns})


def _ornament(row: Mapping[str, Any]) -> DrawnOrnament:
    pieces = tuple(Piece.of(one) for one in row["pieces"])
    spacing, phase = float(row.get("spacing", 8.0)), float(row.get("phase", 0.5))
    return DrawnOrnament(pieces, row.get("place", "repeat"), spacing, phase, bool(row.get("left", False)))


def _ornament_row(ornament: DrawnOrnament) -> dict[str, Any]:
    return {
        "pieces": [piece_row(piece) for piece in ornament.pieces],
        "place": ornament.place,
        "spacing": ornament.spacing,
        "phase": ornament.phase,
        "left": ornament.left,
    }
