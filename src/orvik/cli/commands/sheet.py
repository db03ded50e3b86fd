"""``orvik sheet``: a sheet that shows the border."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("--name", required=True)
    parser.add_argument("--paper", default="A3")
    parser.add_argument("--landscape", action="store_true")
    parser.add_argument("--template", default="", metavar="NAME", help="how the page is laid out")


def run(options: argparse.Namespace) -> None:
    from orvik.core.sheet.page.new_sheet import NewSheet
    from orvik.store.project import opened_for_writing
    from orvik.usecases.sheet.sheets import add_sheet
    from orvik.usecases.sheet.templates import template_named

    with opened_for_writing(options.project) as project:
        key = template_named(project, options.template)
        _, said = add_sheet(project, NewSheet(options.name, options.paper, options.landscape, key))
    for sentence in said:
        print(sentence)
