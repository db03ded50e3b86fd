"""Arguments that several commands take, and what they refuse."""

from __future__ import annotations

import argparse
from ipaddress import ip_address
from pathlib import Path

PORT = 8460


def add_project(parser: argparse.ArgumentParser) -> None:
    """The project file that a command works on."""
    parser.add_argument("project", type=Path, metavar="PROJECT.gpkg")


def add_place(parser: argparse.ArgumentParser, *, port: int = PORT, host: bool = True) -> None:
    """Where a command answers, and the folder of its projects."""
    if host:
        parser.add_argument("--host", type=local_host, default="127.0.0.1")
    parser.add_argument("--port", type=port_number, default=port)
    parser.add_argument("--data", type=Path, default=Path("data"))


def port_number(text: str) -> int:
    """A port; raises ArgumentTypeError for what is none."""
    if not text.isascii() or not text.isdigit() or not 1 <= int(text[:9]) <= 65_535:
        raise argparse.ArgumentTypeError(f"“{text[:20]}” is not a port; type a number from 1 to 65535")
    return int(text)


def local_host(text: str) -> str:
    """An address of this machine alone: whoever reaches Orvik can change everything in it."""
    if text == "localhost":
        return text
    try:
        near = ip_address(text).is_loopback
    except ValueError:
        near = False
    if not near:
        raise argparse.ArgumentTypeError(
            f"{text[:60]} can be reached from other machines, and Orvik knows no accounts yet; use 127.0.0.1"
        )
    return text


def resolution(text: str) -> float:
    """Dots per inch; raises ArgumentTypeError for what makes no useful picture."""
    from orvik.core.errors import OrvikError
    from orvik.core.ground.coordinates import parse_quantity

    try:
        dots = parse_quantity(text, "number of dots")
    except OrvikError:
        dots = 0.0
    if not 10 <= dots <= 1200:
        raise argparse.ArgumentTypeError(f"“{text[:20]}” dots per inch make no useful picture; type 10 to 1200")
    return dots
