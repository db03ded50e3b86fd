"""``orvik returned``: a returned file, compared with its sheet."""

from __future__ import annotations

import argparse
from pathlib import Path

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("file", type=Path, metavar="FILE.{svg,pdf}")
    parser.add_argument("--sheet", metavar="NAME", required=True)
    parser.add_argument("--apply", action="store_true", help="apply moved labels and rewritten texts to the project")


def run(options: argparse.Namespace) -> None:
    from orvik.store.project import opened_for_writing
    from orvik.store.read_project import opened_for_reading
    from orvik.usecases.proof.returned import apply_returned, compare_file
    from orvik.usecases.sheet.composing import sheet_named

    data, name = options.file.read_bytes(), options.file.name
    with opened_for_reading(options.project) as project:
        number = sheet_named(project, options.sheet).number
        for said in compare_file(project, number, data, name).words:
            print(said)
    if options.apply:
        with opened_for_writing(options.project) as project:
            entry = apply_returned(project, number, data, name)
            print(f"Saved: {entry.label}." if entry is not None else "Nothing in it was moved or rewritten.")
