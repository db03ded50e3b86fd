"""`make stress`: prints what was tried and what came of it; 1 if anything was lost or failed."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import dataclass

from stress import doors, files, kills, messages, people


@dataclass(frozen=True)
class Part:
    """One thing to try: what it is, and the work that gives its figures."""

    name: str
    work: Callable[[], tuple[bool, list[str]]]


PARTS = (
    Part("kills", kills.run),
    Part("files", files.run),
    Part("doors", doors.run),
    Part("messages", messages.run),
    Part("people", people.run),
)


def main(names: list[str]) -> int:
    """Run all parts, or those named."""
    failed = False
    for part in PARTS:
        if names and part.name not in names:
            continue
        start = time.monotonic()
        good, lines = part.work()
        failed = failed or not good
        print(f"{part.name}: {'ok' if good else 'FAILED'} ({time.monotonic() - start:.0f} s)", flush=True)
        for line in lines:
            print(f"  {line}", flush=True)
    return int(failed)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
