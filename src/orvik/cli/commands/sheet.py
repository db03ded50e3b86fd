"""``orvik sheet``: a sheet that shows the border."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("--name", required=True)
    parser.add_argument("--paper", default="A3")
    parser.add_argument("--landscape", action="store_true")


def run(options: argparse.Namespace) -> None:
    from orvik.core.sheet.page.new_sheet import NewSheet
    from orvik.store.project import opened_for_writing
    from orvik.usecases.sheet.sheets import add_sheet

    with opened_for_writing(options.project) as project:
        add_sheet(project, NewSheet(options.name, options.paper, options.landscape))
