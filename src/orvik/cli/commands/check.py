"""``orvik check``: the findings of a map, and of a sheet."""

from __future__ import annotations

import argparse
import json
from typing import TYPE_CHECKING

from orvik.cli.arguments import add_project

if TYPE_CHECKING:
    from orvik.core.findings.finding import Finding


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("--sheet", metavar="NAME", help="with the findings of a sheet")
    parser.add_argument("--json", action="store_true", help="as JSON, for programs")


def run(options: argparse.Namespace) -> int:
    from orvik.core.findings.rules import RULES
    from orvik.usecases.proof.checking import check

    found = check(options.project, options.sheet)
    if options.json:
        accepted = [{**f.json, "reason": a.reason, "signed": a.signed, "dated": a.dated} for f, a in found.accepted]
        said = {"findings": [f.json for f in found.open], "accepted": accepted, "turned_off": dict(found.turned_off)}
        print(json.dumps(said, ensure_ascii=False, indent=1))
        return int(found.errors > 0)
    for finding in found.open:
        print(f"{finding.severity}: {finding.message}{_where(finding)}")
    for finding, acceptance in found.accepted:
        print(f"accepted: {finding.message} “{acceptance.reason}” {acceptance.signed}, {acceptance.dated}")
    for rule, count in found.turned_off.items():
        print(f"turned off: {RULES[rule].title} ({count})")
    print(f"{len(found.open)} findings" if found.open else "Nothing was found.")
    return int(found.errors > 0)


def _where(finding: Finding) -> str:
    """Where a finding is, on the ground and on the page."""
    ground = f" ({finding.at[0]:.2f}, {finding.at[1]:.2f})" if finding.at is not None else ""
    page = f" [{finding.spot[0]:.1f}, {finding.spot[1]:.1f} mm]" if finding.spot is not None else ""
    return ground + page
