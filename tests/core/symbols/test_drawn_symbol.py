"""Symbols that a project draws: kept as they are, worn without losing what the worn symbol means."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from orvik.core.errors import SymbolRefused
from orvik.core.features.band import Band
from orvik.core.features.feature import Feature, Features
from orvik.core.ground.crs import project_crs
from orvik.core.ink.primitives import Fill, LineStyle, Stroke, walk
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.drawn_symbol import DrawnOrnament, DrawnSymbol, new_symbol, with_drawn
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol import Caption
from orvik.core.symbols.symbol_trial import HEIGHT, WIDTH, trials
from orvik.press.svg import fragment
from tests.examples import examples

BOOK = standard()
lengths = st.floats(-20, 20).map(lambda v: round(v, 3))
colours = st.integers(0, 0xFFFFFF).map(lambda v: f"#{v:06X}")
pieces = st.one_of(
    st.builds(
        Piece,
        shape=st.sampled_from(["polygon", "star", "circle", "arc"]),
        at=st.tuples(lengths, lengths),
        sides=st.integers(3, 12),
        reach=st.floats(0.05, 10).map(lambda v: round(v, 3)),
        inner=st.floats(0.05, 5).map(lambda v: round(v, 3)),
        turned=st.floats(-180, 180),
        sweep=st.floats(5, 360),
        width=st.sampled_from([0.1, 0.2, 1.0]),
        outline=colours,
        fill=st.one_of(st.just(""), colours),
    ),
    st.builds(
        Piece,
        shape=st.just("line"),
        points=st.lists(st.tuples(lengths, lengths), min_size=2, max_size=8).map(tuple),
        closed=st.booleans(),
        width=st.sampled_from([0.15, 0.5]),
        outline=colours,
        dash=st.sampled_from([(), (1.0, 0.5)]),
        cap=st.sampled_from(["butt", "round"]),
    ),
)
many = st.lists(pieces, min_size=1, max_size=5).map(tuple)
styles = st.builds(
    LineStyle,
    width=st.sampled_from([0.1, 0.35, 2.0]),
    colour=colours,
    dash=st.sampled_from([(), (2.4, 1.0), (0.3, 0.6, 2.0, 0.6)]),
    cap=st.sampled_from(["butt", "round", "square"]),
    offset=st.floats(-5, 5),
)
ornaments = st.builds(
    DrawnOrnament,
    pieces=many,
    place=st.sampled_from(["repeat", "once", "ends", "plunge"]),
    spacing=st.floats(1, 90),
    phase=st.floats(0, 1),
    left=st.booleans(),
)
captions = st.none() | st.builds(
    Caption,
    of=st.sampled_from(["note", "inclination"]),
    at=st.tuples(lengths, lengths),
    size=st.floats(1, 6),
    colour=st.just("#22303C"),
    begins=st.booleans(),
    italic=st.booleans(),
)
drawn = st.one_of(
    st.builds(
        DrawnSymbol,
        name=st.just("one"),
        family=st.just("points"),
        title=st.just("One"),
        pieces=many,
        turns=st.booleans(),
        caption=captions,
        worn_by=st.just(("summit",)),
    ),
    st.builds(
        DrawnSymbol,
        name=st.just("two"),
        family=st.just("lines"),
        title=st.just("Two"),
        strokes=st.lists(styles, min_size=1, max_size=3).map(tuple),
        ornaments=st.lists(ornaments, max_size=2).map(tuple),
    ),
    st.builds(
        DrawnSymbol,
        name=st.just("three"),
        family=st.just("patterns"),
        title=st.just("Three"),
        pieces=many,
        tile=st.tuples(st.floats(2, 20), st.floats(2, 20)),
    ),
)


@examples(150)
@given(drawn)
def test_a_symbol_is_read_as_it_was_kept_and_can_be_tried(symbol: DrawnSymbol) -> None:
    assert DrawnSymbol.of(symbol.name, symbol.family, symbol.title, symbol.body) == symbol
    for title, items in trials(symbol, "#885544"):
        assert title
        assert "<" in fragment(items, "trial")


def test_what_wears_a_look_keeps_what_it_means() -> None:
    look = new_symbol("dart", "points", "Dart")
    summit = BOOK.symbol("points", "summit")
    dressed = look.dressed(summit)
    assert (dressed.kind, dressed.title, dressed.meaning) == (summit.kind, summit.title, summit.meaning)
    assert dressed.captions == summit.captions, "names stay unless the look says otherwise"
    assert not dressed.turns
    bedding = look.dressed(BOOK.symbol("points", "bedding", inclination=30.0))
    assert bedding.turns, "a reading is never drawn without its direction"
    assert bedding.captions
    assert bedding.number == ""


def test_a_dyke_with_a_breadth_keeps_its_tint_in_any_look() -> None:
    worn = DrawnSymbol("heavy", "lines", "Heavy", strokes=(LineStyle(0.9, "#AA0000"),), worn_by=("dyke-certain",))
    line = shapely.LineString([(513_000, 6_802_000), (513_900, 6_802_300)])
    band = Features.of("lines", [Feature("lines", line, "dyke", id=1, band=Band(40.0, "ground"))])
    crs = project_crs("EPSG:32628")
    for book in (BOOK, with_drawn(BOOK, [worn])):
        (fill,) = (i for i in portray({"lines": band}, book, {}, crs)["linework"].items if isinstance(i, Fill))
        assert fill.colour == BOOK.symbol("lines", "dyke").tint


def test_a_line_look_reverses_with_its_line_and_left_is_the_mirror_of_right() -> None:
    tooth = Piece("line", ((0.0, -1.0), (1.5, 0.0), (0.0, 1.0)), width=0.2)
    look = DrawnSymbol(
        "teeth", "lines", "Teeth", strokes=(LineStyle(0.3, "#22303C"),), ornaments=(DrawnOrnament((tooth,)),)
    )
    right = look.dressed(BOOK.symbol("lines", "contact")).ornaments[0].stamp.items[0].paths.xy
    (left,) = (
        DrawnSymbol("l", "lines", "L", ornaments=(DrawnOrnament((tooth,), left=True),))
        .dressed(BOOK.symbol("lines", "contact"))
        .ornaments
    )
    np.testing.assert_allclose(left.stamp.items[0].paths.xy, right * (-1, 1))


def test_the_book_shows_the_look_everywhere_at_once() -> None:
    look = new_symbol("dart", "points", "Dart")
    worn = DrawnSymbol.of("dart", "points", "Dart", look.body.replace('"worn_by":[]', '"worn_by":["summit"]'))
    tile = new_symbol("spots", "patterns", "Spots")
    book = with_drawn(BOOK, [worn, tile])
    assert book.symbol("points", "summit").stamp != BOOK.symbol("points", "summit").stamp
    assert book.symbol("points", "spring") is BOOK.symbol("points", "spring")
    assert book.pattern("own_spots") is not None
    assert BOOK.pattern("own_spots") is None
    # A look for lines is not put on points by a file of another program.
    stray = DrawnSymbol.of("dart", "lines", "Dart", '{"strokes":[{"width":0.3}],"worn_by":["summit"]}')
    assert with_drawn(BOOK, [stray]).symbol("points", "summit") == BOOK.symbol("points", "summit")


@pytest.mark.parametrize(
    ("family", "body", "said"),
    [
        ("points", '{"pieces":[]}', "needs a piece"),
        ("lines", '{"strokes":[]}', "needs a stroke"),
        ("points", '{"pieces":[{"shape":"blob"}]}', "not a shape"),
        ("points", '{"pieces":[{"shape":"circle","reach":1e9,"width":0.2}]}', "reaches"),
        ("points", '{"pieces":[{"shape":"circle","reach":"wide","width":0.2}]}', "not a number"),
        ("lines", '{"strokes":[{"width":9}]}', "5 mm wide"),
        ("lines", '{"strokes":[{"width":0.3,"colour":"red"}]}', "not a colour"),
        ("lines", '{"strokes":[{"width":0.3,"dash":[0,0]}]}', "Dashes"),
        ("lines", '{"strokes":[{"width":0.3,"offset":99}]}', "beside its line"),
        ("lines", '{"ornaments":[{"pieces":[]}]}', "needs a piece"),
        ("lines", '{"ornaments":[{"pieces":[{"shape":"circle","width":0.2}],"place":"up"}]}', "not a place"),
        ("patterns", '{"tile":[0,4],"pieces":[{"shape":"circle","width":0.2}]}', "1 to 50 mm"),
        ("areas", '{"pieces":[{"shape":"circle","width":0.2}]}', "for points, for lines"),
        ("points", "not json", "cannot be read"),
        ("points", "[1]", "cannot be read"),
    ],
)
def test_what_is_no_symbol_is_refused(family: str, body: str, said: str) -> None:
    with pytest.raises(SymbolRefused, match=said):
        DrawnSymbol.of("x", family, "X", body)


@given(pieces)
def test_swapping_fill_and_outline_twice_comes_back_to_what_is_seen(piece: Piece) -> None:
    twice = piece.swapped().swapped()
    assert bool(twice.fill) == bool(piece.fill)
    assert (twice.fill or twice.outline) == (piece.fill or piece.outline)
    assert piece.swapped().moved(1.0, -1.0).moved(-1.0, 1.0).fill == piece.swapped().fill


def test_trials_stay_in_their_boxes() -> None:
    for family in ("points", "lines", "patterns"):
        for _, items in trials(new_symbol("a", family, "A"), "#885544"):  # type: ignore[arg-type]
            strokes = [item.paths.xy for item in walk(items) if isinstance(item, Stroke)]
            for xy in strokes:
                assert (xy.min(axis=0) >= -0.01).all()
                assert (xy <= np.array([WIDTH, HEIGHT]) + 0.01).all()
