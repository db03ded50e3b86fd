"""Odd values in every live message and every route, at length, by the tests that do so shortly."""

from __future__ import annotations

import os
import re
import subprocess
import sys

MESSAGES, REQUESTS = 20_000, 25


def run() -> tuple[bool, list[str]]:
    """Run both with other figures."""
    lines, good = [], True
    for what, test, figure in (
        ("messages", "tests/web/test_any_message.py", MESSAGES),
        ("examples for each route", "tests/web/test_any_request.py", REQUESTS),
    ):
        environment = os.environ | {"FUZZ": str(figure), "SEED": "11"}
        done = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", test],
            env=environment,
            capture_output=True,
            text=True,
        )
        good = good and done.returncode == 0
        failed = re.findall(r"^FAILED (.*)", done.stdout, re.MULTILINE)
        lines.append(
            f"{figure} {what}: {'no fault' if done.returncode == 0 else f'{len(failed)} failed: {failed[:3]}'}"
        )
    return good, lines
