"""Symbol books as files: symbols, patterns and pens in our own form, in TOML."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

from orvik.core.errors import SymbolMissing, SymbolRefused
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.table import Table
from orvik.core.ink.primitives import INK, LineStyle
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.style_row import caption_of, style_of
from orvik.core.symbols.symbol import Ornament, PatternSymbol, Symbol, in_colour, mirrored, stamp_of
from orvik.core.symbols.symbol_book import SymbolBook

VERSION = 1
STANDARD = Path(__file__).with_name("book")
# What a certainty says of any line, where its own file says no more.
CERTAINTY_WORDS = {
    "certain": "Seen: placed within 0.5 mm on the sheet.",
    "approximate": "Placed within 1 mm on the sheet.",
    "inferred": "Not seen: drawn from what lies on both sides.",
    "concealed": "Below a younger cover.",
}
# What the symbol of a reading that was estimated says besides.
ESTIMATED = "Estimated: the line of the strike is broken."


@lru_cache(maxsize=1)
def standard() -> SymbolBook:
    """The symbol book that ships with Orvik."""
    return read_book([path.read_text(encoding="utf-8") for path in sorted(STANDARD.glob("*.toml"))])


def read_book(texts: Iterable[str]) -> SymbolBook:
    """A symbol book from the texts of its files.

    Raises
    ------
    SymbolRefused
        A text is not a symbol book of this version, or a symbol cannot be as it is given, or two have one id or number.
    SymbolMissing
        A pen names a symbol that the files do not hold.
    """
    made = _Maker()
    for text in texts:
        data = _parsed(text)
        try:
            made.add(data)
        except KeyError as error:
            raise SymbolRefused(f"A row of this symbol book lacks {error}.") from error
        except (TypeError, ValueError, IndexError, AttributeError) as error:
            raise SymbolRefused(f"This symbol book is not of our form: {error}.") from error
    return made.book()


def _parsed(text: str) -> dict[str, Any]:
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise SymbolRefused(f"This is not a symbol book that can be read: {error}.") from error
    version = data.get("version")
    if version != VERSION:
        raise SymbolRefused(
            f"This symbol book is of version {version}, and only version {VERSION} can be read; choose one exported by "
            "this Orvik."
            if version is not None
            else "This is not a symbol book: it does not say its version."
        )
    return data


class _Maker:
    """Reads file after file into the parts of one book."""

    def __init__(self) -> None:
        self.name = ""
        self.looks: dict[str, Mapping[str, Sequence[LineStyle]]] = {}
        self.stamps: dict[str, tuple[Piece, ...]] = {}
        self.families: list[str] = []
        self.symbols: list[Symbol] = []
        self.patterns: dict[str, PatternSymbol] = {}
        self.pen_rows: list[Mapping[str, Any]] = []

    def add(self, data: Mapping[str, Any]) -> None:
        self.name = data.get("name", self.name)
        family = data.get("family", "")
        if family and family not in self.families:
            self.families.append(family)
        for name, look in data.get("look", {}).items():
            self.looks[name] = {certainty: _styles(rows) for certainty, rows in look.items()}
        for name, rows in data.get("stamp", {}).items():
            self.stamps[name] = tuple(Piece.of(row) for row in rows)
        for row in data.get("pattern", ()):
            pattern = _pattern(row)
            if pattern.id in self.patterns:
                raise SymbolRefused(f"Two patterns are called {pattern.id}; give each its own name.")
            self.patterns[pattern.id] = pattern
        for row in data.get("line", ()):
            self.symbols += self._lines(row, family)
        for row in data.get("point", ()):
            self.symbols += self._points(row, family)
        for row in data.get("area", ()):
            self.symbols.append(self._area(row, family))
        self.pen_rows += data.get("pen", ())

    def book(self) -> SymbolBook:
        for what in ("id", "number"):
            seen: dict[str, Symbol] = {}
            for symbol in self.symbols:
                value = getattr(symbol, what)
                if value and value in seen:
                    raise SymbolRefused(
                        f"“{seen[value].title}” and “{symbol.title}” have one {what}, {value}; change one."
                    )
                seen[value] = symbol
        book = SymbolBook(self.name, tuple(self.symbols), self.patterns, (), tuple(self.families))
        pens = tuple(_pen(row, book) for row in self.pen_rows)
        return SymbolBook(self.name, book.symbols, book.patterns, pens, book.families)

    def _lines(self, row: Mapping[str, Any], family: str) -> list[Symbol]:
        kind, title = _text(row, "kind"), _text(row, "title")
        look = self.looks.get(row["look"])
        if look is None:
            raise SymbolRefused(f"“{title}” takes the look “{row['look']}”, which the symbol book does not hold.")
        certainties = row.get("certainties", ["certain"])
        out = []
        # One for all certainties, so that a row of ornaments goes on where only the certainty changes.
        colour = row.get("colour")
        ornaments = self._ornaments(row, colour or look["certain"][-1].colour)
        for certainty in certainties:
            if certainty not in CERTAINTIES or certainty not in look:
                raise SymbolRefused(f"“{title}” has no look for “{certainty}”.")
            styles = tuple(_coloured(style, colour) for style in look[certainty])
            named = row.get("titles", {}).get(certainty)
            meaning = row.get("meaning", "")
            # Of a kind that tells nothing else, also that it was seen.
            told = "advice" in row or bool(meaning)
            placed = row.get("advices", {}).get(certainty, CERTAINTY_WORDS[certainty])
            out.append(
                Symbol(
                    f"{kind}-{certainty}",
                    "lines",
                    kind,
                    named or (f"{title}, {certainty}" if len(certainties) > 1 else title),
                    meaning,
                    family,
                    certainty,
                    number=row.get("numbers", {}).get(certainty, ""),
                    basis=row.get("basis", "ours"),
                    explained=row.get("explained", True),
                    side=row.get("side", ""),
                    strokes=styles,
                    ornaments=ornaments,
                    tint=row.get("tint", ""),
                    captions=tuple(caption_of(one) for one in row.get("captions", ())),
                    aid=row.get("aid", False),
                    advice=row.get("advice", "") if certainty == "certain" and told else placed,
                )
            )
        return out

    def _ornaments(self, row: Mapping[str, Any], colour: str) -> tuple[Ornament, ...]:
        out = []
        for one in row.get("ornaments", ()):
            stamp = stamp_of(row["title"], tuple(in_colour(piece, colour) for piece in self._pieces(one)))
            if one.get("left", False):
                stamp = mirrored(stamp)
            out.append(Ornament(stamp, one["place"], float(one.get("spacing", 90.0)), float(one.get("phase", 0.5))))
        return tuple(out)

    def _pieces(self, row: Mapping[str, Any]) -> tuple[Piece, ...]:
        pieces: tuple[Piece, ...] = ()
        for name in row.get("stamps", ()):
            if name not in self.stamps:
                raise SymbolRefused(f"“{name}” is a figure that the symbol book does not hold.")
            pieces += self.stamps[name]
        pieces += tuple(Piece.of(piece) for piece in row.get("pieces", ()))
        if not pieces:
            raise SymbolRefused(f"“{row.get('title', row.get('place', ''))}” has no piece; draw one.")
        return pieces

    def _points(self, row: Mapping[str, Any], family: str) -> list[Symbol]:
        """The symbol of a row, and that of an approximate reading where it has one."""
        symbol = self._point(row, family)
        if "approximate" not in row:
            return [symbol]
        broken = {**row, "stamps": row["approximate"], "pieces": ()}
        estimated = replace(
            symbol,
            id=f"{symbol.id}-approximate",
            title=f"{symbol.title}, approximate",
            advice=f"{symbol.advice} {ESTIMATED}".strip(),
            certainty="approximate",
            number="",
            basis="ours",
            stamp=stamp_of(row["title"], self._pieces(broken)),
        )
        return [symbol, estimated]

    def _point(self, row: Mapping[str, Any], family: str) -> Symbol:
        dips = row.get("inclination")
        name = row.get("variant", "")
        kind, title = _text(row, "kind"), _text(row, "title")
        return Symbol(
            f"{kind}-{name}" if name else kind,
            "points",
            kind,
            title,
            row.get("meaning", ""),
            family,
            row.get("certainty", ""),
            (dips[0], dips[1]) if dips else None,
            row.get("number", ""),
            row.get("basis", "ours"),
            row.get("explained", True),
            stamp=stamp_of(row["title"], self._pieces(row)),
            captions=tuple(caption_of(one) for one in row.get("captions", ())),
            turns=row.get("turns", False),
            strike=row.get("strike", 0.0),
            aid=row.get("aid", False),
            advice=row.get("advice", ""),
        )

    def _area(self, row: Mapping[str, Any], family: str) -> Symbol:
        pattern = row.get("pattern", "")
        if pattern and pattern not in self.patterns:
            raise SymbolRefused(f"“{row['title']}” takes the pattern “{pattern}”, which the symbol book does not hold.")
        look = self.looks[row["look"]]["certain"] if "look" in row else ()
        return Symbol(
            _text(row, "kind"),
            "areas",
            row["kind"],
            _text(row, "title"),
            row.get("meaning", ""),
            family,
            basis=row.get("basis", "ours"),
            explained=row.get("explained", True),
            strokes=tuple(_coloured(style, row.get("colour")) for style in look),
            tint=row.get("tint", ""),
            pattern=self.patterns[pattern] if pattern else None,
            pattern_colour=row.get("pattern_colour", row.get("colour", INK)),
            advice=row.get("advice", ""),
        )


def _text(row: Mapping[str, Any], name: str) -> str:
    value = row[name]
    if not isinstance(value, str) or not value.strip():
        raise SymbolRefused(f"The {name} of a symbol is not a text: {str(value)[:20]}.")
    return value


def _styles(rows: Any) -> tuple[LineStyle, ...]:
    return tuple(style_of(row) for row in (rows if isinstance(rows, list) else [rows]))


def _coloured(style: LineStyle, colour: str | None) -> LineStyle:
    return style if colour is None else LineStyle(style.width, colour, style.dash, style.cap, style.join, style.offset)


def _pattern(row: Mapping[str, Any]) -> PatternSymbol:
    width, height = (float(value) for value in row["tile"])
    if not (1.0 <= width <= 50.0 and 1.0 <= height <= 50.0):
        raise SymbolRefused(f"The tile of “{row['title']}” is {width:g} by {height:g} mm; it may be 1 to 50 mm wide.")
    pieces = tuple(Piece.of(piece) for piece in row.get("pieces", ()))
    if not pieces:
        raise SymbolRefused(f"The pattern “{row['title']}” has no piece; draw one.")
    return PatternSymbol(
        row["id"],
        row["title"],
        width,
        height,
        pieces,
        row.get("number", ""),
        row.get("basis", "ours"),
    )


def _pen(row: Mapping[str, Any], book: SymbolBook) -> Pen:
    kind, certainty = row["kind"], row["certainty"]
    table = book.table_of(kind)
    if table is None:
        raise SymbolMissing(f"The pen {row['key']} draws {kind}-{certainty}, which has no symbol in the book.")
    return pen_of(book, table, kind, certainty, row["key"])


def pen_of(book: SymbolBook, table: Table, kind: str, certainty: str, key: str) -> Pen:
    """A pen that draws a kind, called as its symbol is."""
    # A pen for attitudes is called as what it mostly logs.
    symbol = book.symbol(table, kind, certainty, 45.0)
    group = {"lines": "Lines", "points": "Points", "areas": "Areas"}[table]
    return Pen(key, group, table, kind, certainty, symbol.title, symbol.words)
