"""Emphases: the ground held back and the subject brought out, checked against another library's colours."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import lab2lch, rgb2lab

from orvik.core.colour.hex import channels, is_colour
from orvik.core.errors import SymbolRefused
from orvik.core.features.map_unit import MapUnit
from orvik.core.ink.primitives import Fill, Stroke
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.emphasis import Emphasis, RankLook
from orvik.core.symbols.symbol import WHITE
from tests.examples import examples

BOOK = standard()
colours = st.integers(0, 0xFFFFFF).map(lambda v: f"#{v:06X}")
looks = st.builds(RankLook, st.floats(-50, 50), st.floats(0, 200), st.floats(0, 100))


def lch(colour: str) -> np.ndarray:
    """Lightness, chroma and hue by scikit-image, under D65."""
    return lab2lch(rgb2lab(np.array([[channels(colour)]])))[0, 0]


@examples(150)
@given(colours, looks)
def test_every_colour_stays_one(colour: str, look: RankLook) -> None:
    assert is_colour(look.colour(colour))


@examples(100)
@given(colours, st.floats(5, 30), st.floats(0, 80))
def test_ground_is_lighter_and_duller_and_keeps_its_hue(colour: str, lighter: float, saturation: float) -> None:
    """Against scikit-image: lightness grows, chroma falls, and the hue of what has one stays within some degrees."""
    light, chroma, hue = lch(colour)
    light_then, chroma_then, hue_then = lch(RankLook(lighter, saturation, 100).colour(colour))
    assert light_then >= light - 1.0
    assert chroma_then <= chroma * max(saturation / 100, 0.01) * 1.25 + 3
    if chroma_then > 12 and 20 < light_then < 90:
        assert abs((np.degrees(hue_then - hue) + 180) % 360 - 180) < 16


def test_units_and_symbols_follow_their_rank() -> None:
    emphasis = Emphasis("Faults", ranks={"kind thrust": "subject", "unit Kp": "companion"})
    units = {code: MapUnit(code, code, "", "#BBD5A6") for code in ("Kp", "Jh")}
    shown = emphasis.units(units)
    assert lch("#BBD5A6")[1] > lch(shown["Kp"].colour)[1] > lch(shown["Jh"].colour)[1]
    assert units["Kp"].colour == "#BBD5A6"
    book = emphasis.book(BOOK)
    assert book.symbol("lines", "thrust") == BOOK.symbol("lines", "thrust")
    contact = book.symbol("lines", "contact")
    assert contact.strokes[0].width == BOOK.symbol("lines", "contact").strokes[0].width
    assert lch(contact.strokes[0].colour)[0] > lch(BOOK.symbol("lines", "contact").strokes[0].colour)[0]


def test_what_is_left_white_stays_white_and_nothing_stays_dark() -> None:
    emphasis = Emphasis("Pale", looks=(RankLook(),) * 2 + (RankLook(0, 0, 20),))
    for symbol in emphasis.book(BOOK).symbols:
        symbols = [one.stamp for one in symbol.ornaments] + ([symbol.stamp] if symbol.stamp else [])
        inks = [style.colour for style in symbol.strokes]
        for stamp in symbols:
            inks += [i.style.colour for i in stamp.items if isinstance(i, Stroke)]
            inks += [i.colour for i in stamp.items if isinstance(i, Fill) and i.colour != WHITE]
        assert all(lch(colour)[0] > 78 for colour in inks), symbol.id


@given(
    st.dictionaries(st.sampled_from(["unit Kp", "kind fault", "kind spring"]), st.sampled_from(["subject", "ground"]))
)
def test_a_emphasis_is_read_as_it_was_kept(ranks: dict[str, str]) -> None:
    emphasis = Emphasis("One", ranks=ranks)
    assert Emphasis.of(emphasis.name, emphasis.body) == emphasis


@pytest.mark.parametrize(
    "body", ["", "[]", '{"looks":[]}', '{"looks":[[0,0,0],[0,0,0],[0,0,999]]}', '{"looks":[[0,0,0],[0,0,0],[0,0]]}']
)
def test_what_is_no_emphasis_is_refused(body: str) -> None:
    with pytest.raises(SymbolRefused):
        Emphasis.of("X", body)
