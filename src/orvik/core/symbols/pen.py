"""Pens: kinds of feature, ready to draw."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.features.table import Table


@dataclass(frozen=True)
class Pen:
    """A kind of feature, ready to draw; ``key`` takes it, empty for none."""

    key: str
    group: str
    table: Table
    kind: str
    certainty: str
    label: str
    meaning: str

    @property
    def name(self) -> str:
        """A name for addresses and messages: ``contact-approximate``."""
        return f"{self.kind}-{self.certainty}"
