"""Colours as the project holds them: six figures after a number sign."""

from __future__ import annotations

import re


def is_colour(text: object) -> bool:
    """Whether a text is a colour such as ``#F4E6A8``."""
    return isinstance(text, str) and re.fullmatch(r"#[0-9A-Fa-f]{6}", text) is not None
