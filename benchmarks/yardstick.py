"""How benchmarks measure: medians and percentiles of repeated calls, and memory of a process."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np


@dataclass(frozen=True)
class Row:
    """One line of the printed table."""

    what: str
    figure: str
    limit: str
    good: bool | None

    @property
    def text(self) -> str:
        mark = {True: "ok", False: "MISSED", None: ""}[self.good]
        return f"{self.what:<66} {self.figure:>22}   {self.limit:<18} {mark}"


def seconds(work: Callable[[], object], repeats: int = 5) -> float:
    """The median duration of a call in seconds."""
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken))


def resident_mb(pid: int) -> float:
    """Resident memory of a process in megabytes."""
    for line in Path(f"/proc/{pid}/status").read_text().splitlines():
        if line.startswith("VmRSS:"):
            return int(line.split()[1]) / 1024
    return 0.0


def ratio_row(what: str, ours: float, theirs: float, most: float) -> Row:
    """Our time against a reference library's in the same run."""
    ratio = ours / theirs
    figure = f"{ratio:.2f} ({ours * 1000:.2f} / {theirs * 1000:.2f} ms)"
    return Row(what, figure, f"at most {most:g}", ratio <= most)


def limit_row(what: str, milliseconds: float, most: float) -> Row:
    """A time that an issue promises in milliseconds."""
    return Row(what, f"{milliseconds:.1f} ms", f"at most {most:g} ms", milliseconds <= most)
