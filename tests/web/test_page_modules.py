"""Page modules that need no page: their arithmetic and what they keep, by Node's own test runner."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

import pytest

SCRIPTS = Path(__file__).parent.parent / "scripts"
TESTS = sorted(SCRIPTS.glob("*.test.mjs"))


def test_there_are_some() -> None:
    assert len(TESTS) >= 2


@pytest.mark.skipif(shutil.which("node") is None, reason="Node is missing here, as it may be for `make lint`")
@pytest.mark.parametrize("path", TESTS, ids=lambda path: path.stem)
def test_page_module(path: Path) -> None:
    # Scripts of pages are modules, though no package says so.
    done = subprocess.run(
        ["node", "--experimental-default-type=module", "--test", str(path)],
        capture_output=True,
        text=True,
        timeout=180,
    )
    assert done.returncode == 0, done.stdout[-4000:] + done.stderr[-2000:]
