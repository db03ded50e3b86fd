"""``orvik notebook``: the stand-in for a field notebook that sends stations."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import PORT


def arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--to", default=f"http://127.0.0.1:{PORT}/p/isle-of-quennet", metavar="ADDRESS")
    parser.add_argument("--count", type=int, default=5)
    parser.add_argument("--every", type=float, default=2.0, metavar="SECONDS")


def run(options: argparse.Namespace) -> None:
    from orvik.demo.field_notebook import send

    for line in send(options.to, options.count, options.every):
        print(line, flush=True)
