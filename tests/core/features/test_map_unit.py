from __future__ import annotations

from orvik.core.features.map_unit import MapUnit, stratigraphic_order


def test_youngest_first() -> None:
    units = [MapUnit(c, c, "", "#FFFFFF", position=p) for c, p in (("pCg", 7), ("Qal", 1), ("Kp", 3))]
    assert [u.code for u in stratigraphic_order(units)] == ["Qal", "Kp", "pCg"]
