"""Writes the tables of docs that are built from declarations: rules and formats of data; tests hold both together."""

from __future__ import annotations

from pathlib import Path

from orvik.core.findings.rules import GROUPS, RULES
from orvik.exchange.features.data_file import FORMATS

DOCS = Path(__file__).parent.parent / "docs"
TARGET, FORMATS_PAGE = DOCS / "rules.md", DOCS / "formats.md"
HEAD = """# Rules of the checks

What `orvik check` and Proof look for. An *error* is told in red: a sheet counts as proofed when all of them are fixed
or accepted with a reason. A *warning* may be meant. A rule can be turned off for a project, in Proof; what it would
have told is counted there. This page is written by `scripts/tables.py`.
"""


def table() -> str:
    """The page as Markdown."""
    lines = [HEAD]
    for group, title in GROUPS.items():
        lines += [f"\n## {title}\n", "| rule | tells when | | source |", "|---|---|---|---|"]
        lines += [
            f"| `{rule.name}` | {rule.title} | {rule.severity} | {rule.source} |"
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
