"""Sources: underlays, reference layers, and the files that features came from."""

from __future__ import annotations

from dataclasses import dataclass

from orvik.core.stored import Stored

# The kind of a source that features were imported from.
IMPORTED = "file"


@dataclass(frozen=True)
class Source(Stored):
    """A source of a project; ``id`` is None until it is kept.

    Attributes
    ----------
    kind
        ``underlay``, ``service``, ``reference``, or ``file`` for one that features were imported from.
    file
        The name of the copy beside the project, or the address of a service.
    crs
        The coordinate system of the copy, as text.
    transform, fit, relief
        Where a picture lies, its control points, and how heights are shown, each as JSON; empty for none.
    heights
        What is stated of a grid's heights, as JSON; empty for metres above nothing that is stated.
    multiply
        Whether it darkens what lies below instead of covering it.
    position
        In drawing order, the lowest first.
    grouping
        The group of the stack that it belongs to; empty for none.
    aside
        Whether it is neither shown nor deleted.
    colour
        Of the lines of a reference layer, as ``#RRGGBB``.
    look
        How a reference layer is drawn otherwise, as JSON; empty for as usual.
    credit
        How a diagram of sources names it, such as "H. Quill, field sheets 1 to 3, 2024"; empty for by its name.
    """

    kind: str
    name: str
    file: str = ""
    checksum: str = ""
    crs: str = ""
    transform: str = ""
    fit: str = ""
    relief: str = ""
    multiply: bool = True
    position: int = 0
    grouping: str = ""
    aside: bool = False
    colour: str = ""
    look: str = ""
    note: str = ""
    heights: str = ""
    credit: str = ""
    id: int | None = None
