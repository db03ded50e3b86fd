"""``orvik archive``: a whole project as one file."""

from __future__ import annotations

import argparse
from datetime import date
from pathlib import Path

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("--to", type=Path, required=True, metavar="ARCHIVE.zip")


def run(options: argparse.Namespace) -> None:
    from orvik.usecases.export.archive import write_archive

    count = write_archive(options.project, options.to, date.today().isoformat())
    print(f"{options.to.name}: {count} files")
