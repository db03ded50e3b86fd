"""Reads the lines of a message of ink, as a page does."""

from __future__ import annotations

import json
from itertools import pairwise

import numpy as np


def ink_of(message: bytes) -> list[np.ndarray]:
    """The coordinates (n, 2) of all lines of a message, in project coordinates."""
    length = int.from_bytes(message[:4], "little")
    head, body = json.loads(message[4 : 4 + length]), message[4 + length :]

    def array(where: list, kind: str) -> np.ndarray:
        return np.frombuffer(body, kind, count=where[2], offset=where[1])

    out = []
    for layer in head["layers"]:
        for item in layer["items"]:
            if item["t"] == "stroke":
                xy = array(item["xy"], "<f4").reshape(-1, 2).astype(float) + head["origin"]
                starts = array(item["starts"], "<u4")
                out += [xy[a:b] for a, b in pairwise(starts)]
    return out
