"""Words that were others once in what is written: read as they are now.

Symbols were called signs, opacity strength, and an emphasis a theme. Projects, symbol books, templates, archives and
tables of that time say so.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

# Names of values, as tables, settings and files hold them.
NAMES: Mapping[str, str] = {
    "sign": "symbol",
    "signs": "symbols",
    "sign_scale": "symbol_scale",
    "strength": "opacity",
    "pattern_strength": "pattern_opacity",
    "fill_strength": "fill_opacity",
    "theme": "emphasis",
    "themes": "emphases",
}
# What stands under these has names that somebody has given.
_GIVEN = ("fields",)
# How the key of a row of an explanation began.
_ROW, _ROW_NOW = "sign ", "symbol "


def renamed(value: Any) -> Any:
    """Something as JSON gives it, with all names and keys as they are now.

    >>> renamed({"sign_scale": 1.5, "edits": {"order": ["unit Qal", "sign thrust"]}, "text": "sign here"})
    {'symbol_scale': 1.5, 'edits': {'order': ['unit Qal', 'symbol thrust']}, 'text': 'sign here'}
    >>> renamed({"fields": {"sign": "worn"}})
    {'fields': {'sign': 'worn'}}
    """
    if isinstance(value, Mapping):
        return {NAMES.get(name, _key(name)): held if name in _GIVEN else renamed(held) for name, held in value.items()}
    if isinstance(value, list):
        return [_key(one) if isinstance(one, str) else renamed(one) for one in value]
    return value


def _key(name: str) -> str:
    return _ROW_NOW + name.removeprefix(_ROW) if name.startswith(_ROW) else name
