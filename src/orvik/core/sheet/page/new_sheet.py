"""What a new sheet is asked to be."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class NewSheet:
    """A sheet that is to be made.

    Attributes
    ----------
    paper
        A name such as ``A3``, or millimetres as ``300x400``.
    template
        A name of ``TEMPLATES``, or the key of one of one's own.
    ground
        What its main panel is to show: empty for the project border, ``all`` for all that is compiled, or ``view-ID``
        for the ground around a saved view.
    """

    name: str
    paper: str
    landscape: bool = True
    template: str = "quadrangle"
    ground: str = ""
