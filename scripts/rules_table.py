"""Writes docs/rules.md: every rule of the checks with its severity and source; a test holds both together."""

from __future__ import annotations

from pathlib import Path

from orvik.core.findings.rules import GROUPS, RULES, SEVERITIES

TARGET = Path(__file__).parent.parent / "docs" / "rules.md"
HEAD = """# Rules of the checks

What `orvik check` and Proof look for. *To mend* is told in red: a sheet counts as proofed when all of that is mended or
accepted with a reason. *To look at* may be meant. A rule can be set to rest for a project, in Proof; what it would have
told is counted there. This page is written by `scripts/rules_table.py`.
"""


def table() -> str:
    """The page as Markdown."""
    lines = [HEAD]
    for group, title in GROUPS.items():
        lines += [f"\n## {title}\n", "| rule | tells when | | source |", "|---|---|---|---|"]
        lines += [
            f"| `{rule.name}` | {rule.title} | {SEVERITIES[rule.severity]} | {rule.source} |"
            for rule in RULES.values()
            if rule.group == group
        ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    TARGET.write_text(table(), encoding="utf-8")
