"""What features are drawn in: the map of a project, or one of its sections. Pens, ring and hand know only this."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar

from orvik.core.coordinates import GroundXY
from orvik.core.features.feature import Feature
from orvik.core.features.table import Table
from orvik.core.geometry.snapping import SnapIndex, Target
from orvik.core.ink.primitives import Item
from orvik.core.symbols.pen import Pen
from orvik.core.symbols.symbol_book import SymbolBook
from orvik.store.changeable import Changeable
from orvik.usecases.compile.layers import Stack

P = ParamSpec("P")
T = TypeVar("T")


class Beside(Protocol):
    """Lines that the ring holds and a pen follows beside features: a plane's trace, the ground of a section."""

    @property
    def trace(self) -> Sequence[Feature]:
        """The lines."""

    def snap(self, x: float, y: float, radius: float) -> Target | None:
        """What the ring holds of them; it belongs to no feature."""


class Space(Protocol):
    """The map or a section, in use."""

    @property
    def project(self) -> Changeable:
        """Its features, read and changed."""

    @property
    def index(self) -> SnapIndex:
        """What the ring holds of its features."""

    @property
    def book(self) -> SymbolBook:
        """The symbol book."""

    @property
    def stack(self) -> Stack:
        """How its layers stand."""

    @property
    def window_ids(self) -> set[str]:
        """Windows in which it is open, by the name that each keeps for itself."""

    def tables_in_sight(self) -> frozenset[Table]:
        """Tables whose features are seen; what is hidden cannot be touched."""

    def beside(self, window_id: str) -> Beside | None:
        """What a window shows that may be held and followed beside features."""

    def refuse_pen(self, pen: Pen) -> None:
        """Raise FeatureRefused for a pen that cannot draw here now."""

    def place_words(self, x: float, y: float) -> str:
        """Where a place is, in words: ``grid`` and ``geographic``."""

    def stepped(self, place: GroundXY, degrees: float, metres: float) -> GroundXY:
        """The place so far from another: on the map by a bearing from true north, on a section by a dip."""

    def dip_courses(self, place: GroundXY) -> tuple[tuple[float, ...], str]:
        """Directions in which beds dip at a place, in degrees clockwise from up, and how that is known; or refused."""

    def symbol_ink(self, point: Feature) -> list[Item]:
        """The ink of a point by itself, with what is written beside it."""

    async def write(self, work: Callable[[], T]) -> T:
        """Carry out something on the project file in the thread that writes."""

    async def carry_out(self, use_case: Callable[Concatenate[Any, P], T], /, *args: P.args, **options: P.kwargs) -> T:
        """Carry out a use case on ``project``, one at a time, and tell all open pages; returns after commit."""
