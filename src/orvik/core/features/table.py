"""The three tables that features are kept in."""

from __future__ import annotations

from typing import Literal

Table = Literal["lines", "areas", "points"]
# A feature by its table and its number.
FeatureKey = tuple[Table, int]
TABLES: tuple[Table, ...] = ("lines", "areas", "points")
