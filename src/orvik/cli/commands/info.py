"""``orvik info``: what is in a project."""

from __future__ import annotations

import argparse
import json

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("--json", action="store_true", help="as JSON, for programs")


def run(options: argparse.Namespace) -> None:
    from orvik.store.read_project import opened_for_reading
    from orvik.usecases.project.contents import contents, contents_words

    with opened_for_reading(options.project) as project:
        held = contents(project)
    print(json.dumps(held, ensure_ascii=False, indent=1) if options.json else "\n".join(contents_words(held)))
