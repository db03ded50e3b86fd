"""Layers of a PDF: optional content after ISO 32000-2, 8.11, a group for each group of ink that has a title."""

from __future__ import annotations

import pikepdf
from pikepdf import Array, Dictionary, Name, String


class PdfLayers:
    """The layers of a document, in drawing order; readers list them with the uppermost first."""

    def __init__(self, pdf: pikepdf.Pdf) -> None:
        self.pdf = pdf
        self._groups: list[pikepdf.Object] = []
        # Each layer with those within it, and the one that is open now at the end.
        self._open: list[list[tuple[pikepdf.Object, list]]] = [[]]  # type: ignore[type-arg]

    def begin(self, title: str) -> pikepdf.Object:
        """A new layer within the one that is open; what is drawn until ``end`` belongs to it."""
        group = self.pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(title)))
        self._groups.append(group)
        within: list = []  # type: ignore[type-arg]
        self._open[-1].append((group, within))
        self._open.append(within)
        return group

    def end(self) -> None:
        """Close the layer that was begun last."""
        self._open.pop()

    def finish(self) -> None:
        """Tell the document of its layers, all of them seen at first."""
        if not self._groups:
            return
        self.pdf.Root.OCProperties = Dictionary(
            OCGs=Array(self._groups),
            D=Dictionary(Name=String("Layers"), Order=_order(self._open[0]), BaseState=Name.ON),
        )
        self.pdf.Root.PageMode = Name.UseOC


def _order(layers: list) -> Array:  # type: ignore[type-arg]
    out: list[pikepdf.Object] = []
    for group, within in reversed(layers):
        out.append(group)
        if within:
            out.append(_order(within))
    return Array(out)
