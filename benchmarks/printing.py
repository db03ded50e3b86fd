"""Finished ink of 10 000 lines of 30 vertices to PDF, against matplotlib's LineCollection and savefig."""

from __future__ import annotations

import io
from collections.abc import Iterator

import matplotlib as mpl
import numpy as np
import pyproj
import shapely

from benchmarks import data
from benchmarks.yardstick import Row, ratio_row, seconds
from orvik.core.features.feature import Feature, Features
from orvik.core.ground.crs import project_crs
from orvik.core.ink.paths import Paths
from orvik.core.ink.primitives import Group, LineStyle, Stroke, moved
from orvik.core.symbols.book_file import standard
from orvik.core.symbols.portrayal.portray import portray
from orvik.press.pdf import Page, page_pdf, pages_pdf
from orvik.press.pdf_georeference import Viewport
from orvik.press.pdf_standard import About


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
    plain = [Stroke(LineStyle(0.15, "#22303C"), paths)]
    book = standard()
    lines_of = {
        kind: Features.of("lines", [Feature("lines", g, kind, id=i) for i, g in enumerate(lines[begin::2], 1)])
        for begin, kind in enumerate(("contact", "thrust"))
    }
    wkt = pyproj.CRS("EPSG:32628").to_wkt("WKT1_GDAL")
    view = Viewport(
        "Main map", (20, 20, 380, 250), [(61.3, -14.8), (61.4, -14.8), (61.4, -14.7), (61.3, -14.7)], 32628, wkt
    )

    def bare() -> int:
        return len(page_pdf(plain, 420, 297, "Bench"))

    def ours() -> int:
        """Half of the lines are thrusts with their teeth; each kind is a layer, and the page tells its ground."""
        groups = []
        for kind, features in lines_of.items():
            inked = portray({"lines": features}, book, {}, project_crs("EPSG:32628"), 25_000)
            place = (k, 0.0, 20 - data.WEST * k, 0.0, -k, 280 + data.SOUTH * k)
            groups.append(Group(kind, moved(inked["linework"].items, place), title=kind))
        return len(pages_pdf([Page(groups, 420, 297, views=[view])], About("Bench")))

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

    slow = seconds(theirs)
    yield ratio_row("PDF of 10 000 lines of 30 vertices, against matplotlib", seconds(bare), slow, 0.2)
    yield ratio_row("    half of them with teeth, in layers, georeferenced, portrayed anew", seconds(ours), slow, 0.2)
    sizes = " / ".join(f"{size / 1e6:.1f}" for size in (bare(), ours(), theirs()))
    yield Row("Size of these PDFs, and of matplotlib's", f"{sizes} MB", "", None)
