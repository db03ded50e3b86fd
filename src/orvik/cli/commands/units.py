"""``orvik units``: the column of map units from a table, or from what the features of a file say of theirs."""

from __future__ import annotations

import argparse
from pathlib import Path

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("table", type=Path, metavar="FILE", help="a table, or a file of features")
    parser.add_argument("--mapping", type=Path, metavar="FILE", help="which of its columns is what, as JSON")


def run(options: argparse.Namespace) -> None:
    from orvik.exchange.features.unit_headers import read_headers
    from orvik.exchange.features.unit_rows import unit_rows
    from orvik.store.project import opened_for_writing
    from orvik.usecases.symbols.unit_table import take_table

    headers = read_headers(options.mapping.read_bytes(), options.mapping.name) if options.mapping else {}
    with opened_for_writing(options.project) as project:
        before = len(project.units())
        entry = take_table(project, unit_rows(options.table, headers), headers)
        made = len(project.units()) - before
    if entry is None:
        print(f"{options.table.name}: nothing to change")
    else:
        print(f"{options.table.name}: {made} new map units, {len(entry.changes) - made} changed")
