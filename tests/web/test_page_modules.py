"""Page modules that need no page: their arithmetic and what they keep, by Node's own test runner."""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent.parent
WEB = ROOT / "src" / "orvik" / "web"
SCRIPTS = ROOT / "tests" / "scripts"
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


def test_every_room_of_scripts_is_checked() -> None:
    linked = {path.name for path in (ROOT / "lint" / "scripts").iterdir()}
    assert linked == {path.parent.name for path in WEB.glob("*/static") if list(path.glob("*.js"))}


def test_what_scripts_look_for_is_on_a_page() -> None:
    """Types take an id for granted: each must be written in a template, or be given by a script itself."""
    pages = "\n".join(path.read_text() for path in WEB.glob("*/templates/**/*.html"))
    # Macros make ids of a name that they are told, such as unit-{{ name }}.
    stems = set(re.findall(r'id="([\w-]+-)\{\{ name \}\}"', pages))
    missing = []
    for path in WEB.glob("*/static/*.js"):
        text = path.read_text()
        for name in sorted(set(re.findall(r'getElementById\("([^"]+)"\)', text))):
            told = [name, *(name.removeprefix(stem) for stem in stems if name.startswith(stem))]
            on_page = any(re.search(rf"""["']{word}["']""", pages) for word in told)
            if not on_page and f'.id = "{name}"' not in text:
                missing.append(f"{path.name}: {name}")
    assert missing == []
