"""`make bench`: prints what is promised against what is measured, ratios within one run."""

from __future__ import annotations

import sys

from benchmarks import (
    canvas,
    colours,
    crowding,
    editing,
    forming,
    ground,
    labelling,
    portraying,
    printing,
    proofing,
    sheets,
    snapping,
    structure,
)

ROOMS = {
    "labelling": labelling,
    "portraying": portraying,
    "printing": printing,
    "proofing": proofing,
    "sheets": sheets,
    "snapping": snapping,
    "canvas": canvas,
    "colours": colours,
    "ground": ground,
    "forming": forming,
    "editing": editing,
    "crowding": crowding,
    "structure": structure,
}


def main(names: list[str]) -> int:
    """Run all benchmarks, or those named; 1 if a promise was missed."""
    missed = False
    for name in names or ROOMS:
        print(f"\n{name}")
        for row in ROOMS[name].run():
            print("  " + row.text, flush=True)
            missed = missed or row.good is False
    return int(missed)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
