"""``orvik open-archive``: the project of an archive, unpacked."""

from __future__ import annotations

import argparse
from pathlib import Path


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("archive", type=Path, metavar="ARCHIVE.zip")
    parser.add_argument("--to", type=Path, default=Path("data"), metavar="DIR", help="the folder of projects")
    # Its name before; works for one version more.
    parser.add_argument("--data", dest="to", type=Path, help=argparse.SUPPRESS)


def run(options: argparse.Namespace) -> None:
    from orvik.usecases.export.archive import open_archive

    print(open_archive(options.archive, options.to))
