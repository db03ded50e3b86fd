"""The settings of parts: what each may be."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from orvik.core.colour import is_colour
from orvik.core.errors import SheetRefused
from orvik.core.ground.scale import LARGEST_DENOMINATOR, SMALLEST_DENOMINATOR


def check_settings(kind: str, settings: Mapping[str, Any]) -> None:
    """Refuse settings that cannot be drawn, whether they were typed or stand in a file from elsewhere.

    Raises
    ------
    SheetRefused
        A setting is none, or a panel does not say what it shows.
    """

    def number(value: Any, low: float, high: float) -> bool:
        return isinstance(value, float | int) and not isinstance(value, bool) and low <= value <= high

    def strengths(value: Any) -> bool:
        return isinstance(value, dict) and all(number(v, 0, 1) for v in value.values())

    def place(value: Any) -> bool:
        return isinstance(value, list | tuple) and len(value) == 2 and all(number(v, -1e9, 1e9) for v in value)

    rules: dict[str, tuple[str, Callable[[Any], bool]]] = {
        "text": ("text", lambda v: isinstance(v, str) and len(v) <= 4000),
        "size": ("size of letters", lambda v: number(v, 1, 40)),
        "scale": ("scale", lambda v: number(v, SMALLEST_DENOMINATOR, LARGEST_DENOMINATOR)),
        "centre": ("centre", place),
        "ground_colour": ("ground colour", is_colour),
        "grid": ("grid", lambda v: isinstance(v, bool)),
        "cut": ("cut", lambda v: isinstance(v, bool)),
        "layers": ("layers", strengths),
        "underlays": ("underlays", strengths),
    }
    for name, value in settings.items():
        if name in rules and not rules[name][1](value):
            raise SheetRefused(f"The {rules[name][0]} of this part cannot be {str(value)[:40]}; set another one.")
    if kind == "map_panel" and not {"scale", "centre"} <= set(settings):
        raise SheetRefused("This panel does not say what ground it shows; aim it at the border.")
