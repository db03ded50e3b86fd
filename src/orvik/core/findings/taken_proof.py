"""A proof that was taken of a sheet, and what it told: what has come since is new."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime


def told_as(key: str) -> str:
    """How the key of a finding, or ``note`` with the number of a note, is kept: a checksum, which is short."""
    return hashlib.blake2b(key.encode(), digest_size=6).hexdigest()


@dataclass(frozen=True)
class TakenProof:
    """Who took a proof and when (ISO 8601), and the checksums of all that it told."""

    author: str
    made_at: str
    told: frozenset[str]

    def __post_init__(self) -> None:
        datetime.fromisoformat(self.made_at)

    @property
    def day(self) -> str:
        """When it was taken, ISO 8601."""
        return self.made_at[:10]

    def knows(self, keys: Iterable[str]) -> bool:
        """Whether it told all of these."""
        return all(told_as(key) in self.told for key in keys)
