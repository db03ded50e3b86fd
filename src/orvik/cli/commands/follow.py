"""``orvik follow``: the sheets of a series go along with their template."""

from __future__ import annotations

import argparse
from pathlib import Path


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("projects", type=Path, nargs="+", metavar="PROJECT", help="files of projects")


def run(options: argparse.Namespace) -> None:
    from orvik.store.project import opened_for_writing
    from orvik.usecases.sheet.following import follow, offer_of

    for path in options.projects:
        with opened_for_writing(path) as project:
            for sheet in project.sheets():
                if offer_of(project, sheet) is not None:
                    _, kept = follow(project, sheet.number)
                    print(f"{project.name}, {sheet.name}: goes along.")
                    for sentence in kept:
                        print(f"  {sentence}")
