"""Files that sheets use: pictures, drawings and fonts, known by the checksum of what they hold."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from orvik.core.ink.affine import Affine, chained
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Group, Item, Picture, enlarged, moved

FileKind = Literal["picture", "drawing", "font", "profile"]
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class KeptFile:
    """A file as it is kept with the project: a PNG, a plain SVG, a TrueType font or the profile of a press."""

    name: str
    kind: FileKind
    data: bytes

    @cached_property
    def checksum(self) -> str:
        """SHA-256 of what it holds, by which parts name it."""
        return hashlib.sha256(self.data).hexdigest()


@dataclass(frozen=True)
class Drawn:
    """What a picture or a drawing shows.

    Attributes
    ----------
    width, height
        Of its frame: dots of a picture, units of a drawing.
    items
        Of a drawing: its ink in its units, y downwards from the upper left corner of its frame.
    png
        Of a picture.
    """

    width: float
    height: float
    items: Sequence[Item] = ()
    png: bytes = b""

    def ink(self, box: Box, fill: bool = False, turned: float = 0.0) -> list[Item]:
        """As ink on the page, its sides kept in proportion.

        Parameters
        ----------
        box
            Left, top, width and height in millimetres: it lies whole in the middle of that.
        fill
            Whether it fills the box instead, and is cut to it.
        turned
            Degrees clockwise about the middle of the box.
        """
        left, top, width, height = box
        shares = width / self.width, height / self.height
        k = max(shares) if fill else min(shares)
        x, y = left + (width - self.width * k) / 2, top + (height - self.height * k) / 2
        turn = _turn(turned, (left + width / 2, top + height / 2))
        if self.png:
            place = chained(turn, (self.width * k, 0.0, x, 0.0, self.height * k, y))
            items: list[Item] = [Picture(self.png, place)]
        else:
            items = list(moved(enlarged(self.items, k), chained(turn, (1.0, 0.0, x, 0.0, 1.0, y))))
        # A drawing may reach past its own frame.
        own = (x, y, self.width * k, self.height * k)
        cut = _outline(box if fill else own, turn)
        return [Group("file", tuple(items), clip=cut)] if fill or not self.png else items


# Gives what a file shows by its checksum; None where the project does not have it.
Files = Callable[[str], Drawn | None]


def no_files(checksum: str) -> Drawn | None:
    """Of a map that has no files."""
    return None


def _turn(degrees: float, middle: tuple[float, float]) -> Affine:
    """Clockwise about a place, y downwards."""
    radians = np.radians(degrees)
    cos, sin = float(np.cos(radians)), float(np.sin(radians))
    x, y = middle
    return cos, -sin, x - cos * x + sin * y, sin, cos, y - sin * x - cos * y


def _outline(box: Box, m: Affine) -> Paths:
    left, top, width, height = box
    corners = [(left, top), (left + width, top), (left + width, top + height), (left, top + height)]
    a, b, c, d, e, f = m
    placed = [(a * x + b * y + c, d * x + e * y + f) for x, y in corners]
    return Paths.of([*placed, placed[0]])
