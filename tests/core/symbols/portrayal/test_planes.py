"""Symbols of planes: every kind has an approximate form, told from the certain one wherever it has a strike."""

from __future__ import annotations

import pytest
import shapely

from orvik.core.features.kind import KINDS
from orvik.core.ink.primitives import Fill, Stamp, Stroke
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.symbol import Symbol

BOOK = standard()
PLANES = sorted(name for name, kind in KINDS.items() if kind.reading == "plane")


def inked(stamp: Stamp) -> shapely.Geometry:
    """What of the page a stamp blackens, by its strokes and fills."""
    parts: list[shapely.Geometry] = []
    for item in stamp.items:
        for i in range(len(item.paths)):
            if isinstance(item, Fill):
                parts.append(shapely.make_valid(shapely.Polygon(item.paths[i])))
            elif isinstance(item, Stroke):
                parts.append(shapely.LineString(item.paths[i]).buffer(item.style.width / 2, cap_style="flat"))
    return shapely.union_all(parts)


@pytest.mark.parametrize("dip", [40.0, 90.0])
@pytest.mark.parametrize("kind", PLANES)
def test_every_plane_has_an_approximate_form(kind: str, dip: float) -> None:
    measured: Symbol = BOOK.symbol("points", kind, "certain", dip)
    estimated: Symbol = BOOK.symbol("points", kind, "approximate", dip)
    assert estimated.certainty == "approximate"
    assert "broken" in estimated.words
    assert "approximate" in estimated.title
    assert measured.stamp is not None
    assert estimated.stamp is not None
    one, two = inked(measured.stamp), inked(estimated.stamp)
    # Gaps of 0.4 mm and more, seen beside every ornament, and nothing that the certain symbol has not.
    gone = [part for part in shapely.get_parts(shapely.difference(one, shapely.buffer(two, 0.01))) if part.area > 0.02]
    assert len(gone) >= (1 if kind == "fault_dip" else 2)
    for part in gone:
        west, south, east, north = part.bounds
        assert max(east - west, north - south) >= 0.35
    assert (estimated.turns, estimated.captions) == (measured.turns, measured.captions)


def test_boxes_of_joints_are_filled_and_those_of_veins_open() -> None:
    """The standard, from memory; the two are told apart at every dip."""
    for dip in (0.0, 40.0, 90.0):
        joint, vein = (BOOK.symbol("points", kind, "certain", dip).stamp for kind in ("joint", "vein_plane"))
        assert joint is not None
        assert vein is not None
        assert any(isinstance(item, Fill) for item in joint.items)
        assert not any(isinstance(item, Fill) for item in vein.items)
