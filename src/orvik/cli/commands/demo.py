"""``orvik demo``: the demo project, made if it is not there, and the application; or the files of a delivery."""

from __future__ import annotations

import argparse
from pathlib import Path

from orvik.cli.arguments import add_place
from orvik.cli.commands import serve


def arguments(parser: argparse.ArgumentParser) -> None:
    add_place(parser, host=False)
    parser.set_defaults(host="127.0.0.1")
    parser.add_argument(
        "--delivery", type=Path, metavar="FOLDER", help="write the files of a made-up survey's delivery, and no more"
    )


def run(options: argparse.Namespace) -> None:
    if options.delivery is not None:
        from orvik.demo import sund

        for path in sund.write(options.delivery):
            print(path)
        return
    from orvik.demo.build import build

    build(options.data)
    serve.run(options)
