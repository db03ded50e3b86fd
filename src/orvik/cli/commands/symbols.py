"""``orvik symbols``: symbols from a symbol book."""

from __future__ import annotations

import argparse
from pathlib import Path

from orvik.cli.arguments import add_project


def arguments(parser: argparse.ArgumentParser) -> None:
    add_project(parser)
    parser.add_argument("book", type=Path, metavar="BOOK.json")


def run(options: argparse.Namespace) -> None:
    from orvik.core.errors import FileRefused
    from orvik.core.symbols.shared_book import LARGEST_FILE, differences, read_shared_book
    from orvik.store.project import opened_for_writing
    from orvik.usecases.symbols.shared_books import book_of, import_book

    data = options.book.read_bytes()
    if len(data) > LARGEST_FILE:
        raise FileRefused(f"{options.book.name} is larger than a symbol book is.")
    given = read_shared_book(data.decode("utf-8", errors="replace"))
    with opened_for_writing(options.project) as project:
        found, same = differences(given, book_of(project))
        taken = import_book(project, given, [one.key for one in found])
    count = len(taken.entry.changes) if taken.entry is not None else 0
    print(f"{options.book.name}: {count} entries imported, {same} were here already")
    for sentence in (*given.left, *taken.left):
        print(f"{options.book.name}: {sentence}")
