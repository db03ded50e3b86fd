"""``orvik demo``: the demo project, made if it is not there, and the application."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import add_place
from orvik.cli.commands import serve


def arguments(parser: argparse.ArgumentParser) -> None:
    add_place(parser, host=False)
    parser.set_defaults(host="127.0.0.1")


def run(options: argparse.Namespace) -> None:
    from orvik.demo.build import build

    build(options.data)
    serve.run(options)
