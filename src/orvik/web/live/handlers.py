"""The one table of all messages and what answers them."""

from __future__ import annotations

from orvik.web.live import areas, attitudes, changing, drawing, findings, hand, ring
from orvik.web.live.connection import Handlers

HANDLERS: Handlers = {
    name: handler
    for room in (ring, drawing, attitudes, hand, changing, areas, findings)
    for name, handler in room.HANDLERS.items()
}
