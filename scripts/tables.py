"""Writes the tables of docs that are built from declarations: rules and formats of data; tests hold both together."""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from tests.proof.editor.table import COUNTERS, FOUND_BY_HELD_OUT, OPEN  # noqa: E402
from tests.proof.seeds import MAP, SHEET  # noqa: E402

from orvik.core.findings.rules import GROUPS, RULES  # noqa: E402
from orvik.exchange.features.data_file import FORMATS  # noqa: E402

DOCS = ROOT / "docs"
TARGET, FORMATS_PAGE = DOCS / "rules.md", DOCS / "formats.md"
HEAD = """# Rules of the checks

What `orvik check` and Proof look for. An *error* is told in red: a sheet counts as proofed when all of them are fixed
or accepted with a reason. A *warning* may be meant. A rule can be turned off for a project, in Proof; what it would
have told is counted there. Notes are listed by what is spoilt: first what the map says of the ground, then what a
reader finds and can read, then how it looks.

Each rule has a *seed*, an error that is made in the demo and must be told, and a case that looks so and is *right*.
They stand in `tests/proof/seeds.py` and `tests/proof/editor/`. This page is written by `scripts/tables.py`.
"""


def seeds_of() -> dict[str, str]:
    """What each rule finds that a test makes, in words."""
    made = {seed.rule: seed.name for seed in reversed((*MAP, *SHEET))}
    made |= {kind.rule: kind.name for kind in reversed(OPEN) if kind.rule} | FOUND_BY_HELD_OUT
    return {rule: name.replace("_", " ") for rule, name in made.items()}


def right_of() -> dict[str, str]:
    """What looks as if a rule should speak of it and is right, in words."""
    return {rule: counter.name.replace("_", " ") for counter in reversed(COUNTERS) for rule in counter.rules}


def table() -> str:
    """The page as Markdown."""
    lines, seeds, right = [HEAD], seeds_of(), right_of()
    for group, title in GROUPS.items():
        lines += [f"\n## {title}\n", "| rule | tells when | | because | spoils | source | seed | right |"]
        lines += ["|---|---|---|---|---|---|---|---|"]
        lines += [
            f"| `{rule.name}` | {rule.title} | {rule.severity} | {rule.why} | {rule.spoils} | {rule.source} | "
            f"{seeds[rule.name]} | {right[rule.name]} |"
            for rule in RULES.values()
            if rule.group == group
        ]
    return "\n".join(lines) + "\n"


def formats_table() -> list[str]:
    """The lines of the table of formats."""
    head = ["| file extension | format | places within, m | attributes | system of the file |", "|---|---|---|---|---|"]
    return head + [
        f"| `{found.extension}` | {found.words} | {found.within:g} | {found.attributes} | {found.system} |"
        for found in FORMATS.values()
    ]


def formats_page() -> str:
    """The page of formats with that table in the place of the first that it has."""
    lines = FORMATS_PAGE.read_text(encoding="utf-8").split("\n")
    begin = next(i for i, line in enumerate(lines) if line.startswith("| "))
    end = next(i for i in range(begin, len(lines)) if not lines[i].startswith("|"))
    return "\n".join([*lines[:begin], *formats_table(), *lines[end:]])


if __name__ == "__main__":
    TARGET.write_text(table(), encoding="utf-8")
    FORMATS_PAGE.write_text(formats_page(), encoding="utf-8")
