"""SVG imported as a symbol: true to its shapes, and nothing that could be more than a drawing."""

from __future__ import annotations

import io
from contextlib import suppress

import numpy as np
import pytest
import resvg_py
import shapely
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from orvik.core.errors import SymbolRefused
from orvik.core.ink.primitives import INK
from orvik.exchange.sheets.svg_symbol import LARGEST_FILE, pieces_of_svg
from orvik.press.svg import fragment
from tests.examples import examples

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'


def svg(body: str, head: str = "") -> bytes:
    return f"{HEAD} {head}>{body}</svg>".encode()


def test_shapes_transforms_and_sizes() -> None:
    drawing = svg(
        '<g transform="translate(10 0)"><rect x="0" y="0" width="40" height="20" fill="#cc0000"/></g>'
        '<path d="M10 0h40v20h-40z" fill="none" stroke="black" stroke-width="2"/>',
        'width="10mm" height="10mm" viewBox="0 0 100 100"',
    )
    filled, outlined = pieces_of_svg(drawing)
    assert (filled.fill, filled.width, filled.closed) == ("#CC0000", 0.0, True)
    assert shapely.Polygon(filled.points).bounds == pytest.approx((-2, -1, 2, 1))
    assert (outlined.fill, outlined.outline, outlined.width) == ("", INK, 0.2)
    # Without a size of its own it becomes four millimetres large.
    (square,) = pieces_of_svg(svg('<rect width="500" height="500"/>'))
    assert shapely.Polygon(square.points).bounds == pytest.approx((-2, -2, 2, 2))


def test_curves_against_shapely() -> None:
    circle, ring = pieces_of_svg(
        svg(
            '<circle cx="5" cy="5" r="5"/><path fill="#112233" fill-rule="evenodd" d="M0 0H10V10H0Z M3 3H7V7H3Z"/>',
            'width="10mm" height="10mm" viewBox="0 0 10 10"',
        )
    )
    assert shapely.Polygon(circle.points).area == pytest.approx(np.pi * 25, rel=0.01)
    # The hole stays one: the cut to it has no width.
    assert shapely.Polygon(ring.points).buffer(0).area == pytest.approx(100 - 16, rel=1e-3)


@examples(60)
@given(
    st.lists(st.tuples(st.integers(-90, 90), st.integers(-90, 90)), min_size=3, max_size=9, unique=True),
    st.integers(-180, 180),
)
def test_polygons_turned_anyhow_keep_their_shape(corners: list[tuple[int, int]], turn: int) -> None:
    polygon = shapely.Polygon(corners)
    # Of a sliver the thousandths of a millimetre that places are kept to make another shape.
    if not polygon.is_valid or polygon.area < 0.004 * polygon.length**2:
        return
    points = " ".join(f"{x},{y}" for x, y in corners)
    (piece,) = pieces_of_svg(svg(f'<polygon transform="rotate({turn} 7 3)" points="{points}"/>'))
    found = shapely.Polygon(piece.points)
    size = max(found.bounds[2] - found.bounds[0], found.bounds[3] - found.bounds[1])
    assert size == pytest.approx(4.0, abs=0.01)
    assert found.area / found.length**2 == pytest.approx(polygon.area / polygon.length**2, rel=0.02)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (svg("<script>alert(1)</script>"), "<script>"),
        (svg('<rect onload="x()" width="3" height="3"/>'), "has a script"),
        (b'<!DOCTYPE svg [<!ENTITY a "b">]>' + svg('<rect width="3" height="3"/>'), "entities"),
        (b'<!DOCTYPE svg SYSTEM "http://127.0.0.1/x.dtd">' + svg('<rect width="3" height="3"/>'), "entities"),
        (svg('<rect xlink:href="http://127.0.0.1/" width="3" height="3"/>'), "refers to something else"),
        (svg('<rect style="fill:url(#a)" width="3" height="3"/>'), "refers to something else"),
        (svg('<use xlink:href="#a"/>'), "<use>"),
        (svg('<image width="3" height="3"/>'), "<image>"),
        (svg("<style>rect{fill:red}</style>"), "<style>"),
        (svg("<text>A</text>"), "<text>"),
        (svg("<foreignObject><p/></foreignObject>"), "<foreignObject>"),
        (svg('<rect width="3" height="3"/>' * 1_000_000), "kB at the most"),
        (svg("<g/>" * 2_000), "parts"),
        (svg(f'<polyline points="{"1,2 3,4 " * 9000}"/>'), "points"),
        (svg("<g>" * 60 + "</g>" * 60), "nested too deeply"),
        (svg(""), "nothing in this SVG"),
        (svg('<path d="M 0 0 L nan inf Q"/>'), "SVG"),
        (svg('<g transform="scale(1e300)"><rect width="1e10" height="3"/></g>'), "SVG"),
        (b"hello", "not an SVG that can be read"),
        (b"<html/>", "not an SVG"),
        (b"\x00\xff" * 40, "not an SVG that can be read"),
        (b"<svg>" + b" " * LARGEST_FILE + b"</svg>", "kB at the most"),
    ],
)
def test_what_is_more_than_a_drawing_is_refused(data: bytes, said: str) -> None:
    with pytest.raises(SymbolRefused, match=said):
        pieces_of_svg(data)


@examples(150)
@given(st.binary(max_size=200) | st.text(alphabet='<>/"=svgpathdrectMLCZ 0123456789.,-', max_size=200).map(str.encode))
def test_anything_is_taken_or_refused_in_words(data: bytes) -> None:
    with suppress(SymbolRefused):
        assert pieces_of_svg(svg(f'<path d="{data.decode("latin-1")}"/>') if len(data) % 2 else data)


def dots(document: str, side: int = 240) -> np.ndarray:
    """How resvg draws a document, as shares of ink 0 to 1."""
    drawn = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=document, dpi=96, width=side, height=side))))
    alpha = np.asarray(drawn.convert("RGBA"), dtype=float)
    return (255 - alpha[..., :3].mean(axis=2)) / 255 * alpha[..., 3] / 255


def shapes_of(rng: np.random.Generator) -> str:
    """Shapes at random: crossing rings of both rules, dashes, caps, groups that are turned, and what is hidden."""
    out = []
    for _ in range(int(rng.integers(1, 4))):
        points = rng.uniform(15, 85, (int(rng.integers(4, 8)), 2))
        look = [f'fill-rule="{rng.choice(["nonzero", "evenodd"])}"'] if rng.random() < 0.8 else []
        if rng.random() < 0.5:
            look += ['fill="none"', 'stroke="#112233"', f'stroke-width="{rng.uniform(3, 6):.2f}"']
            look += [f'stroke-linecap="{rng.choice(["butt", "round", "square"])}"', 'stroke-linejoin="round"']
            if rng.random() < 0.6:
                look.append(
                    f'stroke-dasharray="{" ".join(f"{v:.1f}" for v in rng.uniform(6, 16, rng.integers(1, 4)))}"'
                )
        else:
            look.append('fill="#112233"')
        hidden = ['display="none"', 'visibility="hidden"', 'opacity="0"', 'style="display:none"', 'fill-opacity="0"']
        if rng.random() < 0.3:
            look.append(str(rng.choice(hidden)))
        d = "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points)
        if rng.random() < 0.5:
            d += "Z M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in rng.uniform(15, 85, (4, 2))) + "Z"
        path = f'<path d="{d}" {" ".join(look)}/>'
        if rng.random() < 0.4:
            path = f'<g transform="rotate({rng.uniform(0, 360):.0f} 50 50) scale(0.9)">{path}</g>'
        if rng.random() < 0.15:
            path = f'<g style="display:none">{path}</g>'
        out.append(path)
    return "".join(out)


@pytest.mark.parametrize("seed", range(60))
def test_random_drawings_against_resvg_dot_by_dot(seed: int) -> None:
    rng = np.random.default_rng(seed)
    body = shapes_of(rng)
    # The frame says where the middle is: a symbol is imported with the middle of its ink on the anchor.
    whole = f'<rect x="1" y="1" width="98" height="98" fill="none" stroke="#112233" stroke-width="1"/>{body}'
    document = svg(whole, 'width="20mm" height="20mm" viewBox="0 0 100 100"')
    ink = [item for piece in pieces_of_svg(document) for item in piece.ink()]
    mine = fragment(ink, "symbol")
    ours = f'{HEAD} width="20mm" height="20mm" viewBox="-10 -10 20 20">{mine}</svg>'
    theirs = document.decode()
    one, other = dots(theirs), dots(ours)
    assert np.abs(one - other).mean() < 0.004, body
    # The corner at which an outline closes has no joint.
    assert (np.abs(one - other) > 0.5).mean() < 0.006, body


def test_a_size_without_a_view_box_counts_pixels() -> None:
    """SVG 1.1, 7.10: 96 to an inch."""
    (square,) = pieces_of_svg(svg('<rect width="37.795" height="37.795"/>', 'width="20mm" height="20mm"'))
    assert shapely.Polygon(square.points).bounds == pytest.approx((-5, -5, 5, 5), abs=0.01)
