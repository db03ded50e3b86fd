"""The three tables that features are kept in, and those of what is drawn on sections."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

Table = Literal["lines", "areas", "points"]
# A feature by its table and its number.
FeatureKey = tuple[Table, int]
TABLES: tuple[Table, ...] = ("lines", "areas", "points")
# What is drawn on sections has the same tables under other names.
SECTION_TABLES: Mapping[Table, str] = {"lines": "section_lines", "areas": "section_areas", "points": "section_points"}
