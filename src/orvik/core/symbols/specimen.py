"""Specimens: a symbol drawn as it will be printed, for the explanation, the plate, trays and slips alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from orvik.core.arrays import Floats
from orvik.core.colour.hex import readable_on
from orvik.core.features.band import Band
from orvik.core.features.feature import CERTAINTIES, Feature, Features
from orvik.core.features.kind import kind_of
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import (
    INK,
    Fill,
    Item,
    LineStyle,
    Marks,
    Ornaments,
    Pattern,
    Stroke,
    Text,
    enlarged,
    moved,
)
from orvik.core.lettering import ROMAN, cap_height, run
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.area_ink import NO_UNIT, pattern_ink
from orvik.core.symbols.portrayal.dashes import Dashes
from orvik.core.symbols.portrayal.line_ink import line_ink
from orvik.core.symbols.portrayal.ornaments import placed
from orvik.core.symbols.portrayal.point_ink import caption_run, turned_place
from orvik.core.symbols.symbol import Caption, PatternSymbol, Symbol, tile_scaled
from orvik.core.symbols.symbol_book import SymbolBook

# How far clockwise from north a specimen of an attitude strikes, in degrees.
TURN = 60.0
EDGE = LineStyle(0.15, INK, join="miter")
# What a specimen writes where a feature writes its own.
_EXAMPLES = {"inclination": "35", "map_unit": "Qt", "note": ""}
# Half the height of a band's specimen.
BAND = 0.8
# By how much a band with its dip is lifted, in millimetres.
DIP_LIFT = 1.8


@dataclass(frozen=True)
class Form:
    """How features of one symbol look beyond what the symbol itself says.

    Attributes
    ----------
    band
        A line with a width: two margins and a fill between them.
    dips
        A band whose dip is marked on it.
    plunges
        A line with a trend, whose plunge is shown where it points to.
    questionable
        With a query in the line, or behind the figure of a point.
    """

    band: bool = False
    dips: bool = False
    plunges: bool = False
    questionable: bool = False

    @staticmethod
    def usual(symbol: Symbol) -> Form:
        """All that a symbol can show, for the plate and the trays."""
        return Form(band=symbol.table == "lines" and bool(symbol.tint), plunges=True)


class _Page:
    """A page as lines are drawn in it: a unit is a millimetre at 1:1 000, and up is north."""

    metres_per_unit = 1.0

    def convergence(self, x: Floats, y: Floats) -> Floats:
        return np.zeros(np.shape(x))


def specimen(
    symbol: Symbol,
    x: float,
    y: float,
    width: float,
    k: float = 1.0,
    form: Form | None = None,
    book: SymbolBook | None = None,
) -> list[Item]:
    """A symbol in a box: from ``x``, centred on ``y``, in millimetres on a page with y downwards.

    Parameters
    ----------
    width
        Of the box.
    k
        How many times larger than printed all its measures are.
    form, book
        How the features look that it stands for, and the book that the margins of bands are of; as all that the symbol
        can show, and of the standard one, without them.
    """
    if symbol.table == "lines":
        # A marked dip hangs below its band: both together stand in the middle of the row.
        lift = DIP_LIFT * k if form is not None and form.dips else 0.0
        return _line_from(symbol, x, y - lift, width, k, form, book)
    sized = symbol if k == 1 else symbol.scaled(k)
    if symbol.table == "points":
        items = point_specimen(sized, x + width / 2, y, TURN, form is not None and form.questionable)
        lift = y - _middle_of(items)
        # With its figure it stands in the middle of its row, away from those of the rows above and below.
        return list(moved(items, (1.0, 0.0, 0.0, 0.0, 1.0, lift))) if symbol.captions else items
    return area_specimen(sized, x, y - 1.6 * k, width, 3.2 * k)


def joined_specimen(
    shown: Sequence[tuple[Symbol, Form]], x: float, y: float, width: float, k: float, book: SymbolBook
) -> list[Item]:
    """Several symbols, or forms of one, side by side in a box from ``x`` and centred on ``y``: as one line that changes
    its style, or as points beside one another. Measures are as in ``specimen``.
    """
    share = width / max(len(shown), 1)
    items: list[Item] = []
    for number, (symbol, form) in enumerate(shown):
        left = x + number * share
        if symbol.table == "lines":
            items += _line_from(symbol, left, y, share, k, form, book)
        else:
            items += specimen(symbol, left, y, share, k, form, book)
    return items


def _line_from(
    symbol: Symbol, x: float, y: float, width: float, k: float, form: Form | None, book: SymbolBook | None
) -> list[Item]:
    natural = line_specimen(symbol, [(0.0, 0.0), (width / k, 0.0)], form, book)
    return list(moved(enlarged(natural, k), (1.0, 0.0, x, 0.0, 1.0, y)))


def reach_of(items: Sequence[Item]) -> tuple[float, float]:
    """The highest and the lowest place that ink of specimens reaches, in millimetres down the page."""
    reached: list[float] = []
    for item in items:
        if isinstance(item, Ornaments):
            far = max((float(np.hypot(*piece.paths.xy.T).max()) for piece in item.stamp.items), default=0.0)
            reached += [float(item.at[:, 1].min()) - far, float(item.at[:, 1].max()) + far]
        elif isinstance(item, Stroke | Fill):
            half = item.style.width / 2 if isinstance(item, Stroke) else 0.0
            reached += [float(item.paths.xy[:, 1].min()) - half, float(item.paths.xy[:, 1].max()) + half]
        elif isinstance(item, Marks | Text):
            reached += _reached([item])
    return (min(reached), max(reached)) if reached else (0.0, 0.0)


def _middle_of(items: Sequence[Item]) -> float:
    """Half way between the highest and the lowest of symbols and figures."""
    reached = _reached(items)
    return (min(reached) + max(reached)) / 2


def _reached(items: Sequence[Item]) -> list[float]:
    """The heights that symbols and figures reach."""
    reached: list[float] = []
    for item in items:
        if isinstance(item, Marks):
            radians = np.radians(item.angles[0])
            for piece in item.stamp.items:
                y = piece.paths.xy @ np.array([np.sin(radians), np.cos(radians)]) + item.at[0, 1]
                reached += [float(y.min()), float(y.max())]
        elif isinstance(item, Text):
            base = item.at[1] + item.offset[1]
            reached += [base - cap_height(item.run.size), base]
    return reached


def line_specimen(
    symbol: Symbol, path: list[tuple[float, float]], form: Form | None = None, book: SymbolBook | None = None
) -> list[Item]:
    """A feature of a line symbol along a path of a page, drawn as the map draws it."""
    form = form or Form.usual(symbol)
    feature = Feature(
        "lines",
        shapely.LineString([(x, -y) for x, y in path]),
        symbol.kind,
        0,
        symbol.certainty if symbol.certainty in CERTAINTIES else "certain",
        form.questionable,
        azimuth=90.0 if form.plunges else None,
        inclination=float(_EXAMPLES["inclination"]) if form.dips else None,
        band=Band(2 * BAND, "sheet", dips="right" if form.dips else "") if form.band else None,
    )
    # A book of this symbol alone, so that the feature takes it, and of the margins that bands have.
    margins = (book or standard()).by_kind.get(("lines", kind_of(symbol.kind).margin), ()) if form.band else ()
    alone = SymbolBook("", (symbol, *(margin for margin in margins if margin.kind != symbol.kind)), {}, ())
    layers: dict[str, list[Item]] = {"linework": [], "tags": [], "border": []}
    line_ink(Features.of("lines", [feature]), alone, _Page(), 1000, layers)
    drawn = moved((item for items in layers.values() for item in items), (1.0, 0.0, 0.0, 0.0, -1.0, 0.0))
    return [_keyless(item) for item in drawn]


def _keyless(item: Item) -> Item:
    """Ink that belongs to no feature, and is shown at all scales."""
    if isinstance(item, Ornaments):
        return replace(item, keys=None, largest=np.full(len(item.at), np.inf))
    if isinstance(item, Text):
        return replace(item, key=None)
    return replace(item, keys=None) if isinstance(item, Stroke | Fill | Marks) else item


def ornaments_along(symbol: Symbol, paths: Paths, trend: float | None = 90.0) -> list[Item]:
    """The ornaments of a symbol on paths of a page, where y grows downwards.

    Parameters
    ----------
    trend
        Where the lines plunge to, clockwise from the top of the page; None for no plunge.
    """
    up = Paths(paths.xy * (1.0, -1.0), paths.starts)
    dashes = Dashes.together([Dashes.of([(up[i], symbol)], 1.0) for i in range(len(up))])
    out: list[Item] = []
    for ornament in symbol.ornaments:
        trends = np.full(len(paths), np.nan if trend is None else trend)
        found = placed(ornament, up, 1.0, trends, dashes)
        if len(found.at):
            at = found.at * (1.0, -1.0)
            out.append(Ornaments(ornament.stamp, at, found.angles, np.full(len(at), np.inf)))
    return out


def point_specimen(symbol: Symbol, x: float, y: float, turn: float, questionable: bool = False) -> list[Item]:
    """A point symbol at a place of a page, with the figure that it writes."""
    assert symbol.stamp is not None
    turned = turn if symbol.turns else 0.0
    items: list[Item] = [Marks(symbol.stamp, np.array([[x, y]]), np.array([turned]))]
    for caption in symbol.captions:
        if _EXAMPLES[caption.of]:
            items.append(_example(caption, x, y, turned, questionable))
    return items


def _example(caption: Caption, x: float, y: float, turned: float, questionable: bool) -> Text:
    dx, dy = turned_place(caption.at, turned)
    text = _EXAMPLES[caption.of]
    made = caption_run(caption, f"{text}?" if questionable and caption.of == "inclination" else text)
    return Text(made.run, (x + dx, y + dy), made.colour, offset=made.offset)


def area_specimen(symbol: Symbol, x: float, y: float, width: float, height: float) -> list[Item]:
    """A box in the tint, the pattern and the outline of an area symbol; a thin edge where it has none."""
    ring, part = _box(x, y, width, height), np.array([0, 1])
    items: list[Item] = [Fill(symbol.tint, ring, part)] if symbol.tint else []
    if symbol.pattern is not None:
        items.append(Pattern(symbol.pattern.tile(symbol.pattern_colour or INK), ring, part, anchor=(x, y)))
    return [*items, *(Stroke(style, ring) for style in symbol.strokes or (EDGE,))]


def pattern_specimen(
    pattern: PatternSymbol, colour: str, ground: str, x: float, y: float, width: float, height: float
) -> list[Item]:
    """A box of a pattern in a colour, on a tint; an empty tint leaves the paper."""
    ring, part = _box(x, y, width, height), np.array([0, 1])
    items: list[Item] = [Fill(ground, ring, part)] if ground else []
    return [*items, Pattern(pattern.tile(colour), ring, part, anchor=(x, y)), Stroke(EDGE, ring)]


def unit_specimen(
    unit: MapUnit | None,
    book: SymbolBook,
    box: tuple[float, float, float, float],
    size: float,
    edge: LineStyle = EDGE,
    k: float = 1.0,
) -> list[Item]:
    """The box of a map unit: tint, pattern, and its label as large as it may be up to a size.

    Parameters
    ----------
    unit
        None for ground whose unit is not known yet.
    box
        Left, top, width and height in millimetres.
    k
        How many times larger than printed its pattern is.
    """
    x, y, width, height = box
    colour, code = (unit.colour, unit.printed_label) if unit else (NO_UNIT, "?")
    ring, part = _box(x, y, width, height), np.array([0, 1])
    pattern = book.pattern(unit.pattern) if unit else None
    items: list[Item] = [Fill(colour, ring, part)]
    if unit is not None and pattern is not None and unit.pattern_opacity:
        items.append(Pattern(tile_scaled(pattern.tile(pattern_ink(unit)), k), ring, part, anchor=(x, y)))
    wide = run(code, ROMAN, size).width
    size = min(size, size * (width - size / 2) / max(wide, 0.1))
    letters = run(code, ROMAN, size, "centre")
    at = (x + width / 2, y + (height + cap_height(size)) / 2)
    halo = colour if pattern is not None else None
    return [*items, Stroke(edge, ring), Text(letters, at, readable_on(colour, dark=INK), halo=halo)]


def _box(x: float, y: float, width: float, height: float) -> Paths:
    return Paths.of([(x, y), (x + width, y), (x + width, y + height), (x, y + height), (x, y)])
