"""``orvik tiles``: the stand-in for a map-tile service, from the demo."""

from __future__ import annotations

import argparse

from orvik.cli.arguments import PORT, add_place


def arguments(parser: argparse.ArgumentParser) -> None:
    add_place(parser, port=PORT + 1)


def run(options: argparse.Namespace) -> None:
    from orvik.web.server import answer
    from orvik.web.stand_in import create_service

    answer(
        create_service(options.data),
        options.host,
        options.port,
        "Tiles are at http://{address}/{{z}}/{{x}}/{{y}}.png (Ctrl+C stops it)",
    )
