"""What a map says of itself in words: its coordinate system, and at what scales it was digitized."""

from __future__ import annotations

from orvik.core.features.kind import SHEET_BORDER
from orvik.core.ground.scale import spaced
from orvik.core.sheet.panels.map_context import MapContext


def credit_lines(context: MapContext) -> list[str]:
    """What a credits says by itself: the coordinate system and how the map was drawn."""
    crs = context.crs
    known = crs.text.startswith("EPSG:")
    return [
        f"{crs.name}, {crs.text}" if known else crs.name,
        f"{crs.method}, {crs.datum}",
        *([] if known else [crs.parameters]),
        *(line for line in [captured_words(context)] if line),
    ]


def captured_words(context: MapContext) -> str:
    """At what scales the linework and the areas of a panel were captured, as they say themselves; empty where there is
    nothing."""
    scales: list[int | None] = []
    for table in ("lines", "areas"):
        features = context.features.get(table)
        if features is not None:
            pairs = zip(features.columns["kind"], features.columns["capture_scale"], strict=True)
            scales += [scale for kind, scale in pairs if kind != SHEET_BORDER]
    known = [scale for scale in scales if scale]
    if not scales:
        return ""
    if not known:
        return "At what scale it was digitized is not known"
    usual = max([scale for scale in known if scale <= context.scales.digitizing] or known)
    said = f"Digitized at 1:{spaced(usual)} or larger"
    coarser = [scale for scale in known if scale > usual]
    if coarser:
        said += f", {spaced(len(coarser))} of {spaced(len(scales))} features at 1:{spaced(max(coarser))} or larger"
    missing = len(scales) - len(known)
    if missing:
        said += f"; of {spaced(missing)} feature{'s' if missing > 1 else ''} the scale is not known"
    return said
