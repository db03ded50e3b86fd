"""The profile of an invented press with four inks, so that no test needs somebody else's.

Its tables (ICC.1:2010, 10.10, lut16Type) say what Neugebauer's equations say of inks whose colours on white paper are
near those that presses have: which is not a real press, and is a valid profile.
"""

from __future__ import annotations

import itertools
import struct
from functools import lru_cache

import numpy as np

GRID = 9
# Lab of the four inks at full tone on the paper, and of the paper (common practice, rounded).
PAPER, CYAN, MAGENTA, YELLOW, BLACK = (95, 0, -2), (55, -37, -50), (48, 74, -3), (89, -5, 93), (16, 0, 0)
WHITE = np.array([0.9642, 1.0, 0.8249])


def _xyz(lab: np.ndarray) -> np.ndarray:
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], axis=-1)
    return np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * WHITE


def _lab(xyz: np.ndarray) -> np.ndarray:
    t = np.maximum(xyz / WHITE, 0)
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def printed(cmyk: np.ndarray) -> np.ndarray:
    """Lab of shares of the four inks, (n, 4): every overprint lets through what each of its inks does."""
    paper = _xyz(np.array(PAPER, dtype=float))
    through = np.array([_xyz(np.array(ink, dtype=float)) for ink in (CYAN, MAGENTA, YELLOW, BLACK)]) / paper
    out = np.zeros((len(cmyk), 3))
    for solid in itertools.product((0, 1), repeat=4):
        share = np.prod(np.where(np.array(solid) == 1, cmyk, 1 - cmyk), axis=1)
        out += share[:, None] * paper * np.prod(np.where(np.array(solid)[:, None] == 1, through, 1.0), axis=0)
    return _lab(out)


def _lut16(inputs: int, outputs: int, table: np.ndarray) -> bytes:
    identity = struct.pack(">9i", *(65536 if i % 4 == 0 else 0 for i in range(9)))
    ramp = struct.pack(">2H", 0, 65535)
    head = b"mft2" + bytes(4) + struct.pack(">4B", inputs, outputs, GRID, 0) + identity + struct.pack(">2H", 2, 2)
    body = np.clip(np.rint(table), 0, 65535).astype(">u2").tobytes()
    return head + ramp * inputs + body + ramp * outputs


def _to_lab() -> bytes:
    axis = np.linspace(0, 1, GRID)
    cmyk = np.array(list(itertools.product(axis, repeat=4)))
    lab = printed(cmyk)
    # Lab of 16 bits in a version 2 profile: 100 is FF00, and a and b are shifted by 128.
    held = np.stack([lab[:, 0] / 100 * 65280, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], axis=1)
    return _lut16(4, 3, held)


def _from_lab() -> bytes:
    axis = np.linspace(0, 1, GRID)
    grid = np.array(list(itertools.product(axis, repeat=3)))
    lab = np.stack([grid[:, 0] * 100 * 65535 / 65280, grid[:, 1] * 255.996 - 128, grid[:, 2] * 255.996 - 128], axis=1)
    steps = np.linspace(0, 1, 17)
    cmy = np.array([(*c, 0.0) for c in itertools.product(steps, repeat=3)])
    blacks = (np.column_stack([cmy[:, :3], np.full(len(cmy), k)]) for k in (0.3, 0.6, 0.9, 1.0))
    with_black = np.concatenate([cmy, *blacks])
    made = printed(with_black)
    out = []
    for wanted in lab:
        off = ((made - wanted) ** 2).sum(axis=1) + 2.0 * with_black[:, :3].sum(axis=1)
        out.append(with_black[int(off.argmin())])
    return _lut16(3, 4, np.array(out) * 65535)


def _text(kind: bytes, words: str) -> bytes:
    if kind == b"text":
        return b"text" + bytes(4) + words.encode() + b"\0"
    held = words.encode() + b"\0"
    return b"desc" + bytes(4) + struct.pack(">I", len(held)) + held + bytes(8) + bytes(3 + 67)


@lru_cache(maxsize=2)
def made_profile(name: str = "Press of Quennet, invented") -> bytes:
    """The file of the profile."""
    white = b"XYZ " + bytes(4) + struct.pack(">3i", *(round(v * 65536) for v in WHITE))
    to_lab, from_lab = _to_lab(), _from_lab()
    tags = {
        b"desc": _text(b"desc", name),
        b"cprt": _text(b"text", "Invented; free for all uses"),
        b"wtpt": white,
        b"A2B0": to_lab,
        b"A2B1": to_lab,
        b"B2A0": from_lab,
        b"B2A1": from_lab,
    }
    at = 128 + 4 + 12 * len(tags)
    table, body = struct.pack(">I", len(tags)), b""
    for tag, data in tags.items():
        data += bytes(-len(data) % 4)
        table += tag + struct.pack(">2I", at + len(body), len(data))
        body += data
    header = struct.pack(">I", at + len(body)) + b"lcms" + struct.pack(">I", 0x02400000) + b"prtrCMYKLab "
    header += struct.pack(">6H", 2026, 7, 2, 0, 0, 0) + b"acsp" + bytes(4) + bytes(24)
    header += struct.pack(">I", 1) + struct.pack(">3i", *(round(v * 65536) for v in WHITE)) + bytes(48)
    return header[:128] + table + body
