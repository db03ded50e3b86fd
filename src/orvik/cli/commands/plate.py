"""``orvik plate``: the symbol book as a PDF."""

from __future__ import annotations

import argparse
from pathlib import Path


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path, nargs="?", help="with the custom kinds of a project")
    parser.add_argument("--to", type=Path, required=True, metavar="FILE.pdf")


def run(options: argparse.Namespace) -> None:
    from orvik.usecases.symbols.plate import write_plate

    pages = write_plate(options.project, options.to)
    print(f"{options.to.name}: {pages} pages")
