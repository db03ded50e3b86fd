"""Finished ink of 10 000 lines of 30 vertices to PDF, against matplotlib's LineCollection and savefig."""

from __future__ import annotations

import io
from collections.abc import Iterator

import matplotlib as mpl
import numpy as np
import shapely

from benchmarks import data
from benchmarks.yardstick import Row, ratio_row, seconds
from orvik.core.ink import LineStyle, Stroke
from orvik.core.paths import Paths
from orvik.press.pdf import page_pdf


def run() -> Iterator[Row]:
    """The ratio for the same lines on the same page."""
    mpl.use("pdf")
    from matplotlib import pyplot
    from matplotlib.collections import LineCollection

    lines = data.walks(np.random.default_rng(3), 10_000, 30, 4000.0, 8.0)
    xy = shapely.get_coordinates(lines)
    k = 1000 / 25_000
    paths = Paths(
        np.column_stack([(xy[:, 0] - data.WEST) * k + 20, 280 - (xy[:, 1] - data.SOUTH) * k]), np.arange(10_001) * 30
    )
    ink = [Stroke(LineStyle(0.15, "#22303C"), paths)]

    def ours() -> int:
        return len(page_pdf(ink, 420, 297, "Bench"))

    def theirs() -> int:
        figure = pyplot.figure(figsize=(420 / 25.4, 297 / 25.4))
        axes = figure.add_axes((0, 0, 1, 1))
        axes.add_collection(LineCollection([paths[i] for i in range(len(paths))], linewidths=0.425, colors="#22303C"))
        axes.set_xlim(0, 420)
        axes.set_ylim(297, 0)
        out = io.BytesIO()
        figure.savefig(out, format="pdf")
        pyplot.close(figure)
        return len(out.getvalue())

    yield ratio_row("PDF of 10 000 lines of 30 vertices, against matplotlib", seconds(ours), seconds(theirs), 0.5)
    yield Row("Size of that PDF, ours and matplotlib's", f"{ours() / 1e6:.1f} / {theirs() / 1e6:.1f} MB", "", None)
