"""Which tile services the projects of a folder may ask: those that somebody has added or allowed here.

A project that comes from elsewhere may name any address, and asking it would tell that address who looks at which
ground. So the list lies beside the projects and not in them.
"""

from __future__ import annotations

import contextlib
import json
from pathlib import Path
from urllib.parse import urlsplit

from orvik.whole_file import write_whole

NAME = ".orvik-services.json"


def host_of(address: str) -> str:
    """Host and port of an address, without the name and the password that it may hold."""
    return urlsplit(address).netloc.rpartition("@")[2].lower()


def is_allowed(project: Path, address: str) -> bool:
    """Whether a service may be asked by the projects in a project's folder."""
    return host_of(address) in _listed(project.parent)


def allow(project: Path, address: str) -> None:
    """Let the projects in a project's folder ask a service; where the folder cannot be written it stays as it is."""
    hosts = sorted({*_listed(project.parent), host_of(address)})
    with contextlib.suppress(OSError):
        write_whole(project.parent / NAME, json.dumps(hosts).encode())


def _listed(folder: Path) -> set[str]:
    try:
        held = json.loads((folder / NAME).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return set()
    return {str(host) for host in held} if isinstance(held, list) else set()
