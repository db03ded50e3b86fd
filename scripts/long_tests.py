"""Write tests/long_tests.txt anew: the tests that take long, out of what a whole run has measured.

.venv/bin/pytest -n 3 --junitxml=/tmp/run.xml
.venv/bin/python scripts/long_tests.py /tmp/run.xml
"""

from __future__ import annotations

import sys
from collections import defaultdict
from pathlib import Path
from xml.etree import ElementTree

LIST = Path(__file__).parent.parent / "tests" / "long_tests.txt"
# Seconds that one of a function's cases takes, with others beside it.
LONG = 1.0


def main() -> None:
    """Read the figures of the run that is named, and write the list."""
    longest: dict[str, float] = defaultdict(float)
    for case in ElementTree.parse(sys.argv[1]).iter("testcase"):
        path = Path(*case.attrib["classname"].split(".")).with_suffix(".py")
        # What was skipped this time keeps its place.
        if (LIST.parent.parent / path).is_file() and path.parts[0] == "tests":
            name = f"{path.as_posix()}::{case.attrib['name'].partition('[')[0]}"
            skipped = case.find("skipped") is not None
            longest[name] = max(longest[name], LONG * skipped * (name in known()), float(case.attrib["time"]))
    LIST.write_text("".join(f"{name}\n" for name in sorted(longest) if longest[name] >= LONG))


def known() -> frozenset[str]:
    """The tests that the list holds."""
    return frozenset(LIST.read_text().split()) if LIST.exists() else frozenset()


if __name__ == "__main__":
    main()
