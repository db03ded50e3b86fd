"""``orvik linework``: contacts and unit tags from the unit areas of a project."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument(
        "--outer",
        choices=("lines", "border", "shore", "none"),
        default="lines",
        help="what the outer edge of the areas becomes",
    )
    parser.add_argument("--clip", action="store_true", help="end lines at the sheet border")
    parser.add_argument("--tags", action="store_true", help="only give faces without a tag that of the area there")


def run(options: argparse.Namespace) -> None:
    from orvik.store.project import opened_for_writing
    from orvik.usecases.compile.linework import LineworkChoices, make_linework, tag_faces

    with opened_for_writing(options.project) as project:
        if options.tags:
            entry = tag_faces(project)
            print(f"{len(entry.changes) if entry else 0} faces have a tag now")
            return
        _, report = make_linework(project, LineworkChoices(options.outer, clip=options.clip))
    print(f"{report.areas} areas: {report.lines} lines and {report.tags} tags made")
    for sentence in report.words:
        print(sentence)
