"""``orvik serve``: the application, with the projects of a folder."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_place


def arguments(parser: argparse.ArgumentParser) -> None:
    add_place(parser)


def run(options: argparse.Namespace) -> None:
    from orvik.web.app import create_app
    from orvik.web.guard import LOCAL_NAMES
    from orvik.web.server import answer

    app = create_app(options.data, LOCAL_NAMES | {options.host}, warm=True)
    answer(app, options.host, options.port, "Orvik is at http://{address}/ (Ctrl+C stops it)")
