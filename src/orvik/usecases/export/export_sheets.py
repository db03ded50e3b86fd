"""Putting sheets out: composed, painted and written, one or several at a time, telling how far it is."""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np

from orvik.core.errors import FileRefused, NotFound
from orvik.core.features.kind import UNIT_AREA
from orvik.core.ink.cut import cut
from orvik.core.ink.named import grouped_by
from orvik.core.ink.thin import thinned
from orvik.core.progress import Tell, part_of, tell_nobody
from orvik.core.sheet.output.compose import Composition
from orvik.core.sheet.output.export_settings import ENDINGS, ExportResult, ExportRun, ExportSettings, file_names
from orvik.core.sheet.output.plotter import Plotter, cut_by_margins, printed
from orvik.core.sheet.output.trimming import trimmed
from orvik.core.sheet.page.ink_bounds import bounds_of
from orvik.core.sheet.page.page import Sheet
from orvik.core.symbols.portrayal.ink_keys import keys_of
from orvik.press import pdf
from orvik.press.inks import Profile
from orvik.press.picture_file import write_picture
from orvik.press.svg_file import Manner, document
from orvik.store.read_project import LONG_SNAPSHOT_SECONDS, ReadProject, opened_for_reading
from orvik.store.tables.symbol_book import symbol_book_of
from orvik.usecases.export.press_run import ink_words, standard_of
from orvik.usecases.sheet.composing import composed
from orvik.usecases.sheet.printing import about
from orvik.usecases.sheet.viewports import georeference_of, viewports_of
from orvik.whole_file import write_asked_for

# How much of the work is composing, and how much of what is left is writing the page that dots are made from.
COMPOSING, PAGE = 0.5, 0.2


def export(
    project: ReadProject,
    sheet: Sheet,
    target: Path,
    way: ExportSettings,
    tell: Tell = tell_nobody,
    profile: Profile | None = None,
) -> list[str]:
    """Write a sheet to a file, whose ending says the format; it appears only when it is whole.

    Parameters
    ----------
    profile
        Of the press that a PDF is for; that of the project where none is given.

    Returns
    -------
    list of str
        What is to be said of it.

    Raises
    ------
    FileRefused
        An ending that is not a format of a sheet, or a folder that cannot be written.
    """
    if sheet.id is None:
        raise NotFound(f"The sheet “{sheet.name}” is not saved yet.")
    ending = target.suffix.lower().removeprefix(".")
    if ending not in ENDINGS:
        endings = ", ".join(f".{name}" for name in ENDINGS)
        raise FileRefused(f"{target.name} has no file extension of a sheet; use {endings}.")
    made = composed(project, sheet.id, way.dpi, part_of(tell, 0.0, COMPOSING))
    if ending == "svg":
        write_asked_for(target, svg_of(project, made, way, part_of(tell, COMPOSING, 1.0)).encode())
        return []
    if ending == "pdf":
        standard, inks = standard_of(project, way, profile)
        page = pdf_page(made, way)
        painting = part_of(tell, COMPOSING, 1.0)
        write_asked_for(target, pdf.pages_pdf([page], about(project, sheet), painting, inks, standard))
        return ink_words(page, inks, way) if inks is not None else []
    ground = georeference_of(made, way.dpi)
    page = pdf_page(made, replace(way, bleed=0.0, trim_marks=False))
    data = pdf.pages_pdf([page], about(project, sheet), part_of(tell, COMPOSING, COMPOSING + PAGE))
    # The ink of a large sheet takes more memory than its dots do, strip by strip.
    del made, page
    _give_memory_back()
    write_picture(data, target, way.dpi, ground, part_of(tell, COMPOSING + PAGE, 1.0))
    return []


def _give_memory_back() -> None:
    """What has been let go goes back to the system; the C library of Linux keeps it else for a later need."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)


def svg_of(project: ReadProject, made: Composition, way: ExportSettings, tell: Tell = tell_nobody) -> str:
    """A composed sheet as an SVG file, cut, grouped and thinned as is asked."""
    sheet = made.sheet
    items = cut(made.groups)
    if way.groups != "layer":
        items = grouped_by(items, names_of_features(project, way.groups))
    if way.lines == "thinned":
        items = thinned(items, way.tolerance)
    manner = Manner(way.outlines, not way.drawn_out, way.tolerance if way.lines == "smoothed" else 0.0)
    of = about(project, sheet)
    return document(items, sheet.width, sheet.height, of.title, of.subject, manner, tell)


def names_of_features(project: ReadProject, by: str) -> dict[int, str]:
    """What features are called by the keys of their ink: by their map ``unit``, or else by their ``symbol``."""
    book, names = symbol_book_of(project), {}
    for features in project.all_features().values():
        symbols = book.symbols_of(features)
        for key, symbol, unit in zip(
            keys_of(features, np.arange(len(features))).tolist(), symbols, features.columns["map_unit"], strict=True
        ):
            own = unit if by == "unit" or symbol.kind == UNIT_AREA else ""
            names[key] = str(own or symbol.title)
    return names


def pdf_page(made: Composition, way: ExportSettings) -> pdf.Page:
    """A composed sheet as a page of a PDF, with its bleed, its trim marks and its ground."""
    sheet = made.sheet
    cut = trimmed(made.groups, sheet.width, sheet.height, way.bleed, way.trim_marks)
    edge = cut.edge
    views = [
        replace(view, box=(view.box[0] + edge, view.box[1] + edge, view.box[2], view.box[3]))
        for view in viewports_of(made)
    ]
    return pdf.Page(cut.items, cut.width, cut.height, views, cut.edge, cut.bleed)


def sheets_out(path: Path, run: ExportRun, folder: Path, tell: Tell = tell_nobody) -> ExportResult:
    """Put sheets of a project file out into a folder.

    Raises
    ------
    OrvikError
        A sheet is gone or cannot be composed, or a file cannot be written.
    """
    with opened_for_reading(path) as project, project.snapshot(LONG_SNAPSHOT_SECONDS):
        sheets = [project.sheet(number) for number in run.sheets]
        names = [f"{stem}.{run.way.ending}" for stem in file_names(run.way.pattern, project.name, sheets, date.today())]
        if run.together:
            data, words = _one_file(project, sheets, run.way, tell)
            write_asked_for(folder / names[0], data)
            return ExportResult(names[:1], words)
        said: list[str] = []
        for i, (sheet, name) in enumerate(zip(sheets, names, strict=True)):
            mine = _named(part_of(tell, i / len(sheets), (i + 1) / len(sheets)), sheet.name if len(sheets) > 1 else "")
            if run.plotter is not None:
                said += plot(project, sheet, folder / name, run.plotter, run.way.dpi, mine)
            else:
                said += export(project, sheet, folder / name, run.way, mine)
        return ExportResult(names, said)


def plot(project: ReadProject, sheet: Sheet, target: Path, plotter: Plotter, dpi: float, tell: Tell) -> list[str]:
    """Write what a plotter would have drawn as a PDF; says what its margins cut off.

    Raises
    ------
    SheetRefused
        The sheet does not fit.
    """
    made = composed(project, sheet.number, dpi, part_of(tell, 0.0, COMPOSING))
    pages = printed(made.groups, sheet, plotter)
    drawn = [pdf.Page(page.items, page.width, page.height) for page in pages]
    write_asked_for(target, pdf.pages_pdf(drawn, about(project, sheet), part_of(tell, COMPOSING, 1.0)))
    bounds = {group.title: box for group in made.groups if (box := bounds_of(group.items)) is not None}
    return cut_by_margins(bounds, pages)


def _named(tell: Tell, name: str) -> Tell:
    """Tells of what is done to something by its name."""
    return (lambda share, words: tell(share, f"{name}: {words}")) if name else tell


def _one_file(
    project: ReadProject, sheets: Sequence[Sheet], way: ExportSettings, tell: Tell
) -> tuple[bytes, list[str]]:
    """Several sheets as the pages of one PDF, and what is to be said of them."""
    standard, inks = standard_of(project, way)
    pages, words = [], []
    for i, sheet in enumerate(sheets):
        mine = part_of(tell, 0.7 * i / len(sheets), 0.7 * (i + 1) / len(sheets))
        pages.append(pdf_page(composed(project, sheet.number, way.dpi, mine), way))
        words += [f"{sheet.name}: {said}" for said in (ink_words(pages[-1], inks, way) if inks is not None else [])]
    of_all = about(project, sheets[0])
    title = f"{', '.join(sheet.name for sheet in sheets)}, {project.name}"

    def written(share: float, said: str) -> None:
        tell(0.7 + 0.3 * share, said)

    return pdf.pages_pdf(pages, replace(of_all, title=title), written, inks, standard), words
