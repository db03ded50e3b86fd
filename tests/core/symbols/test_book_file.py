"""The symbol book as data: complete after the register, sound, and refused in a sentence where it is not."""

from __future__ import annotations

import math

import numpy as np
import pytest

from orvik.core.errors import OrvikError, SymbolMissing, SymbolRefused
from orvik.core.ink.primitives import Stroke
from orvik.core.symbols.book_file import read_book, standard
from orvik.core.symbols.piece import THINNEST, Piece

BOOK = standard()
HEAD = 'version = 1\nname = "Own"\nfamily = "F"\n[look.l]\ncertain = { width = 0.3 }\n'
LINE = '[[line]]\nkind = "k"\ntitle = "K"\nlook = "l"\n'


def test_the_whole_register_is_there() -> None:
    """Some 110 line and point symbols, well over 200 with their certainties, and all patterns."""
    kinds = {symbol.kind for symbol in BOOK.symbols if symbol.table != "areas"}
    assert len(kinds) >= 110
    assert sum(symbol.table != "areas" for symbol in BOOK.symbols) > 200
    rocks = """
        gravel conglomerate breccia sandstone cross_bedded_sandstone siltstone mudstone shale limestone dolomite chalk
        chert coal evaporite tuff lava pillow_lava granite diorite gabbro ultramafic gneiss schist slate marble
        quartzite till sand silt_and_clay peat fill water
        alteration contact_metamorphism shear ice slide not_mapped doubt"""
    assert set(rocks.split()) <= set(BOOK.patterns)
    families = {name: sum(symbol.family == name for symbol in BOOK.symbols) for name in BOOK.families}
    assert min(families[name] for name in families if name != "Patterns") >= 7


def test_nothing_is_thinner_than_can_be_printed() -> None:
    widths = [style.width for symbol in BOOK.symbols for style in symbol.strokes]
    for symbol in BOOK.symbols:
        symbols = [*(o.stamp for o in symbol.ornaments), *([symbol.stamp] if symbol.stamp else [])]
        widths += [item.style.width for stamp in symbols for item in stamp.items if isinstance(item, Stroke)]
    for pattern in BOOK.patterns.values():
        widths += [item.style.width for item in pattern.tile("#000000").items if isinstance(item, Stroke)]
    assert min(widths) >= THINNEST


def test_each_symbol_says_what_it_is_and_where_its_measures_come_from() -> None:
    for symbol in BOOK.symbols:
        assert symbol.title
        assert symbol.words.endswith(".")
        assert symbol.basis in ("standard", "ours")
        # A one-sided ornament says what lies on its side.
        sided = [o for o in symbol.ornaments if o.place in ("repeat", "once") and one_sided(o.stamp)]
        if sided:
            assert symbol.side, symbol.id


def one_sided(stamp: object) -> bool:
    """Whether a drawing is another one when its line is turned round."""
    xy = np.vstack([item.paths.xy for item in stamp.items])  # type: ignore[attr-defined]
    own = {(round(x, 3) + 0.0, round(y, 3) + 0.0) for x, y in xy}
    turned = {(round(-x, 3) + 0.0, round(-y, 3) + 0.0) for x, y in xy}
    # What is the same on both sides and only points along the line has no side.
    mirrored = {(round(-x, 3) + 0.0, round(y, 3) + 0.0) for x, y in xy}
    return own not in (turned, mirrored)


TWICE = LINE + 'numbers = { certain = "9.9" }\n' + LINE.replace('"k"', '"m"') + 'numbers = { certain = "9.9" }\n'
DOT = 'pieces = [{ shape = "circle", fill = true }]'


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "does not say its version"),
        ("version = 7\n", "of version 7"),
        ("version = [", "can be read"),
        (HEAD + LINE + LINE, "have one id, k-certain"),
        (HEAD + TWICE, "have one number, 9.9"),
        (HEAD + '[[point]]\nkind = "p"\ntitle = "P"\n', "has no piece"),
        (HEAD + '[[line]]\nkind = "k"\ntitle = "K"\nlook = "none"\n', "takes the look"),
        (HEAD + LINE + 'ornaments = [{ place = "repeat", stamps = ["gone"] }]\n', "does not hold"),
        (HEAD.replace("0.3", "0.02") + LINE, "0.1 to 5 mm wide"),
        (HEAD.replace("0.3 }", '0.3, colour = "red" }') + LINE, "not a colour"),
        (HEAD + LINE + 'certainties = ["sure"]\n', "has no look for"),
        (HEAD + '[[pattern]]\nid = "x"\ntitle = "X"\ntile = [0.2, 4]\npieces = []\n', "1 to 50 mm"),
        (HEAD + '[[pattern]]\nid = "x"\ntitle = "X"\ntile = [4, 4]\npieces = []\n', "has no piece"),
        (HEAD + '[[area]]\nkind = "a"\ntitle = "A"\npattern = "gone"\n', "takes the pattern"),
        (HEAD + '[[pen]]\nkey = "1"\nkind = "gone"\ncertainty = "certain"\n', "no symbol in the book"),
        (HEAD + '[[line]]\ntitle = "K"\n', "lacks"),
        (HEAD + '[[line]]\nkind = 5\ntitle = "K"\nlook = "l"\n', "is not a text"),
        (HEAD + LINE + f'ornaments = [{{ place = "sometimes", {DOT} }}]\n', "is not a place"),
        (HEAD + LINE + f'ornaments = [{{ place = "repeat", spacing = 0, {DOT} }}]\n',
         "apart"),
    ],
)  # fmt: skip
def test_what_is_no_symbol_book_is_refused_in_words(text: str, why: str) -> None:
    with pytest.raises((SymbolRefused, SymbolMissing), match=why):
        read_book([text])


@pytest.mark.parametrize(
    ("row", "why"),
    [
        ({"shape": "blob", "fill": True}, "not a shape"),
        ({"shape": "line", "points": [[0, 0]], "width": 0.2}, "two points"),
        ({"shape": "circle"}, "outline or a fill"),
        ({"shape": "polygon", "sides": 2, "fill": True}, "3 to 60 sides"),
        ({"shape": "circle", "reach": math.inf, "fill": True}, "not a number"),
        ({"shape": "circle", "reach": 500, "fill": True}, "0.01 to 60"),
        ({"shape": "circle", "at": [100, 0], "fill": True}, "bring it nearer"),
        ({"shape": "circle", "width": 0.01}, "0.1 to 5"),
        ({"shape": "circle", "fill": "blue"}, "not a colour"),
        ({"shape": "circle", "fill": True, "glow": 3}, "not known"),
        ({"shape": "line", "points": [[0, 0]] * 5000, "width": 0.2}, "at most 2000"),
        ({"shape": "line", "points": "abc", "width": 0.2}, "not a number"),
        ({"shape": "circle", "reach": "wide", "fill": True}, "not a number"),
        ({}, "not a shape"),
    ],
)
def test_what_is_no_piece_is_refused_in_words(row: dict[str, object], why: str) -> None:
    with pytest.raises(OrvikError, match=why):
        Piece.of(row)


def test_shapes_are_what_they_say() -> None:
    """A polygon of n sides lies on its round and begins at the top; an arc sweeps as far as it says."""
    for sides in (3, 4, 5, 12):
        path = np.array(Piece("polygon", sides=sides, reach=1.2, fill="#000000").path)
        assert len(path) == sides + 1
        np.testing.assert_allclose(np.hypot(*path.T), 1.2)
        np.testing.assert_allclose(path[0], (0, -1.2), atol=1e-12)
    star = np.array(Piece("star", sides=5, reach=1.0, inner=0.4, fill="#000000").path)
    np.testing.assert_allclose(np.hypot(*star.T)[:4], [1.0, 0.4, 1.0, 0.4])
    arc = np.array(Piece("arc", reach=2.0, turned=90.0, sweep=90.0, width=0.2).path)
    np.testing.assert_allclose((arc[0], arc[-1]), [(2, 0), (0, 2)], atol=1e-12)
    middles = (arc[1:] + arc[:-1]) / 2
    assert (2.0 - np.hypot(*middles.T)).max() < 0.003
