"""Symbols drawn in a project: begun, put on, changed, taken off; every one of them can be undone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import pytest
import shapely

from orvik.core.errors import NotFound, SymbolRefused
from orvik.core.features.feature import Feature
from orvik.core.ink.primitives import Fill, Marks, Stroke
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.drawn_symbol import DrawnOrnament, DrawnSymbol, symbol_like
from orvik.core.symbols.piece import Piece
from orvik.core.symbols.portrayal.portray import portray
from orvik.core.symbols.symbol import Symbol, leans
from orvik.press.svg import fragment
from orvik.store import rows
from orvik.store.project import Project
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.symbols.drawn_symbols import (
    begin_symbol,
    change_symbol,
    drawn_symbol,
    features_wearing,
    put_on,
    remove_symbol,
    take_off,
    wearable,
)


@pytest.fixture
def summits(project: Project) -> Project:
    """A project with three summits and a spring."""
    points = [
        Feature("points", shapely.Point(511_000 + 200 * i, 6_801_000), kind, note=f"Hoe {i}")
        for i, kind in enumerate(("summit", "summit", "summit", "spring"))
    ]
    project.apply("draw", [rows.feature_change(point, project.srs_id) for point in points])
    return project


def shown(project: Project) -> Marks:
    """How summits are drawn now."""
    layers = portray(project.all_features(), symbol_book_of(project), {}, project.crs)
    title = symbol_book_of(project).symbol("points", "summit").title
    return next(m for m in layers["attitudes"].items if isinstance(m, Marks) and m.stamp.name == title)


def look(project: Project) -> str:
    return fragment(shown(project).stamp.items, "look")


def test_a_look_is_put_on_and_every_feature_follows(summits: Project) -> None:
    before = look(summits)
    begin_symbol(summits, "points", "Peak")
    put_on(summits, "peak", "summit")
    assert features_wearing(summits) == {"peak": 3}
    triangle = look(summits)
    assert triangle != before
    assert len(shown(summits).at) == 3
    peak = drawn_symbol(summits, "peak")
    small = replace(peak, pieces=(Piece("polygon", sides=3, reach=0.6, fill="#22303C"),))
    change_symbol(summits, small.name, lambda _: small)
    assert change_symbol(summits, small.name, lambda _: small) is None
    assert shown(summits).stamp.items[0].paths.xy[:, 1].min() == pytest.approx(-0.6)
    summits.undo()
    assert look(summits) == triangle
    take_off(summits, "peak", "summit")
    assert look(summits) == before
    assert take_off(summits, "peak", "summit") is None


def test_a_symbol_wears_one_look_at_a_time(summits: Project) -> None:
    for title in ("Peak", "Cairn"):
        begin_symbol(summits, "points", title)
        put_on(summits, title.lower(), "summit")
    assert features_wearing(summits) == {"peak": 0, "cairn": 3}
    assert put_on(summits, "cairn", "summit") is None
    remove_symbol(summits, "cairn")
    assert features_wearing(summits) == {"peak": 0}
    listed = [(symbol.id, count) for symbol, count in wearable(summits, drawn_symbol(summits, "peak"))]
    assert ("summit", 3) in listed
    assert all(symbol.table == "points" for symbol, _ in wearable(summits, drawn_symbol(summits, "peak")))


def test_patterns_are_there_for_units_and_stay_while_one_is_filled(summits: Project) -> None:
    begin_symbol(summits, "patterns", "Spots")
    row_id, unit = summits.units()[0]
    summits.apply("fill", [rows.unit_change(row_id, replace(unit, pattern="own_spots"))])
    assert symbol_book_of(summits).pattern("own_spots") is not None
    with pytest.raises(SymbolRefused, match=f"Unit {unit.code} is filled"):
        remove_symbol(summits, "spots")
    summits.undo()
    remove_symbol(summits, "spots")
    assert symbol_book_of(summits).pattern("own_spots") is None


def test_what_cannot_be_is_refused(summits: Project) -> None:
    begin_symbol(summits, "points", "Peak")
    with pytest.raises(SymbolRefused, match="already"):
        begin_symbol(summits, "lines", "Peak")
    with pytest.raises(SymbolRefused, match="same sort"):
        put_on(summits, "peak", "contact-certain")
    with pytest.raises(SymbolRefused, match="same sort"):
        put_on(summits, "peak", "nothing")
    with pytest.raises(NotFound):
        drawn_symbol(summits, "gone")
    with pytest.raises(SymbolRefused, match="needs a piece"):
        drawn_symbol(summits, "peak").with_drawing(None, ())
    with pytest.raises(SymbolRefused, match="no longer there"):
        drawn_symbol(summits, "peak").with_drawing(3, ())


def test_the_look_of_one_is_carried_to_another(summits: Project) -> None:
    """Begun like the spring and put on summits, a summit is drawn just as a spring is."""
    begin_symbol(summits, "points", "As springs", "spring")
    put_on(summits, "as_springs", "summit")
    spring = symbol_book_of(summits).symbol("points", "spring").stamp
    assert spring is not None
    mine, its = (unioned(stamp.items) for stamp in (shown(summits).stamp, spring))
    assert mine.symmetric_difference(its).area < 1e-3
    with pytest.raises(SymbolRefused, match="no such symbol"):
        begin_symbol(summits, "points", "Nothing", "nothing")


@pytest.mark.parametrize("symbol", [s for s in standard().symbols if s.table != "areas"], ids=lambda symbol: symbol.id)
def test_every_symbol_of_the_book_can_be_begun_with(symbol: Symbol) -> None:
    look = symbol_like("one", "One", symbol)
    assert DrawnSymbol.of(look.name, look.family, look.title, look.body) == look
    dressed = look.dressed(symbol)
    pairs = [(dressed.stamp, symbol.stamp)] if symbol.stamp else []
    pairs += [(a.stamp, b.stamp) for a, b in zip(dressed.ornaments, symbol.ornaments, strict=True)]
    assert dressed.strokes == symbol.strokes
    for mine, its in pairs:
        assert mine is not None
        assert its is not None
        assert unioned(mine.items).symmetric_difference(unioned(its.items)).area < 0.02


def unioned(items: Sequence[Stroke | Fill]) -> shapely.Geometry:
    """The ground that ink covers, dashes taken for lines."""
    parts = []
    for item in items:
        for i in range(len(item.paths)):
            xy = item.paths[i]
            if isinstance(item, Stroke):
                parts.append(shapely.LineString(xy).buffer(item.style.width / 2))
            elif len(xy) > 3:
                parts.append(shapely.Polygon(xy).buffer(0))
    return shapely.union_all(parts)


def sided() -> list[Symbol]:
    return [symbol for symbol in standard().symbols if symbol.side and symbol.table == "lines"]


@pytest.mark.parametrize("left", [False, True])
@pytest.mark.parametrize("symbol", sided(), ids=lambda symbol: symbol.id)
def test_a_look_never_moves_what_stands_on_a_side(project: Project, symbol: Symbol, left: bool) -> None:
    """All sided symbols of the book: refused where put on or turned, and printed as meant whatever a file says."""
    triangle = Piece("polygon", sides=3, reach=0.9, turned=90.0, at=(0.45, 0.0), fill="#22303C")
    look = DrawnSymbol("teeth", "lines", "Teeth", ornaments=(DrawnOrnament((triangle,), left=left),))
    way = next((reach for ornament in symbol.ornaments if (reach := leans(ornament.stamp))), 0.0)
    worn = look.dressed(symbol)
    assert all(leans(ornament.stamp) * way >= 0 for ornament in worn.ornaments)
    begin_symbol(project, "lines", "Teeth")
    change_symbol(project, "teeth", lambda _: look)
    if way * (-1 if left else 1) < 0:
        with pytest.raises(SymbolRefused, match="Set them to the"):
            put_on(project, "teeth", symbol.id)
        return
    put_on(project, "teeth", symbol.id)
    turned = replace(look.ornaments[0], left=not left)
    if way:
        with pytest.raises(SymbolRefused, match="Set them to the"):
            change_symbol(project, "teeth", lambda old: replace(old, ornaments=(turned,)))
        assert drawn_symbol(project, "teeth").ornaments == look.ornaments
