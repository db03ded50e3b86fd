"""Files returned from a drawing program: compared, and what was moved or rewritten in them applied as edits."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast

import numpy as np
from PIL import Image
from scipy.ndimage import label, maximum_filter, minimum_filter

from orvik.core.errors import FileRefused
from orvik.core.features.table import Table
from orvik.core.ground.scale import figures
from orvik.core.ink.affine import apply
from orvik.core.labels.label_move import LabelMove
from orvik.core.sheet.output.annotation import ReturnedAnnotation
from orvik.core.sheet.output.export_settings import ExportSettings
from orvik.core.sheet.output.returned import LEAST, Comparison, Whole, compared, whole_of
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.panels.reprojection import carried_place
from orvik.exchange.sheets.returned_annotations import read_annotations
from orvik.exchange.sheets.returned_file import ReturnedPage, ReturnedSheet, page_dots, read_pdf, read_svg
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject, opened_for_reading
from orvik.store.tables.labels import label_moves, move_change
from orvik.usecases.export.export_sheets import svg_of
from orvik.usecases.proof.returned_notes import FoundNote, is_proof, notes_in
from orvik.usecases.sheet.composing import composed, panel_labelling
from orvik.usecases.sheet.printing import sheet_pdf

# Texts are compared, not pictures: these need not be fine.
COARSE = ExportSettings(dpi=20.0)
# Pages of a PDF are drawn with so many dots per millimetre, and compared in squares of so many by as many.
FINE, FINER = 6.0, 3
# Colours differ by more than this, 0 to 255.
UNLIKE = 48
# Fewer dots beside one another are the rounding of letters.
LEAST_DOTS = 8
# A page is of another size where it differs by more than this.
PAGE_MM = 0.5
UNSEEN_IN_SVG = "Not looked at: widths and dashes of lines, what pictures show, blending."
PROOF_READ = "A proof with marks: its notes were read, and what it shows was not compared."
UNSEEN_IN_PDF = (
    "Looked at as it is shown, with two dots to a millimetre; not looked at: layers, georeference, finer lines."
)
# The texts of a part that have gone the same way within this have gone together, in millimetres.
TOGETHER_MM = 0.2
# How an SVG names the labels of a panel and the texts of a part (``press.svg_file``).
_LABEL = re.compile(r"part-(\d+)-label-(lines|areas|points)-(\d+)(?:-(\d+))?")
_TEXT = re.compile(r"part-(\d+)-text(?:-(\d+))?")


@dataclass(frozen=True)
class Returned:
    """What is to be said of a returned file, how many of its edits can be applied, and the notes left in it."""

    words: list[str]
    edits: int = 0
    notes: tuple[FoundNote, ...] = ()

    @property
    def read_notes(self) -> bool:
        """Whether it is a proof, whose notes were looked for."""
        return PROOF_READ in self.words


def compare_file(project: ReadProject, sheet_id: int, data: bytes, shown: str) -> Returned:
    """Compare a file with the sheet as it would go out now.

    Raises
    ------
    FileRefused
        It is neither an SVG nor a PDF, or has none of our names.
    """
    if data[:5] == b"%PDF-":
        return _compared_pdf(project, sheet_id, data, shown)
    found = _comparison(project, sheet_id, data, shown)
    edits = _edits(project, sheet_id, *found)
    return Returned([*found[0].words, UNSEEN_IN_SVG], len(edits))


def compare_path(project_file: Path, sheet_id: int, path: Path) -> Returned:
    """Compare a file on disk with a sheet of a project file; as ``compare_file``."""
    with opened_for_reading(project_file) as project, project.snapshot():
        return compare_file(project, sheet_id, path.read_bytes(), path.name)


def apply_returned(project: Project, sheet_id: int, data: bytes, shown: str) -> Entry | None:
    """Take what was moved and rewritten in an SVG back into the sheet, as one entry; None where nothing was.

    Raises
    ------
    FileRefused
        It is not an SVG, or has none of our names.
    """
    found = _comparison(project, sheet_id, data, shown)
    edits = _edits(project, sheet_id, *found)
    if not edits:
        return None
    return project.apply(f"apply {len(edits)} edits of {shown[:60]}", edits)


@dataclass(frozen=True)
class _OpenedPdf:
    """A returned PDF beside the sheet as it would go out now; ``whole`` is None where too few texts say how it lies."""

    made: bytes
    back: ReturnedPage
    out: ReturnedPage
    annotations: list[ReturnedAnnotation]
    whole: Whole | None


def _opened_pdf(project: ReadProject, sheet_id: int, data: bytes, shown: str) -> _OpenedPdf:
    annotations = read_annotations(data, shown)
    made = sheet_pdf(project.path, sheet_id, COARSE.dpi)
    back, out = read_pdf(data, shown), read_pdf(made, "the sheet")
    both = sorted(out.texts.keys() & back.texts.keys())
    before, after = (np.array([(page.texts[n].x, page.texts[n].y) for n in both]) for page in (out, back))
    if len(both) >= LEAST:
        return _OpenedPdf(made, back, out, annotations, whole_of(before, after))
    if not is_proof(annotations):
        raise FileRefused(f"{shown} has too few of the texts of this sheet to be compared with it.")
    return _OpenedPdf(made, back, out, annotations, None)


def _notes_of(project: ReadProject, sheet_id: int, opened: _OpenedPdf, shown: str) -> tuple[FoundNote, ...]:
    way = opened.whole.way if opened.whole is not None else None
    return tuple(notes_in(project, sheet_id, opened.annotations, shown, way))


def notes_of_path(project_file: Path, sheet_id: int, path: Path) -> tuple[FoundNote, ...]:
    """The notes of a returned PDF that the project has not; raises FileRefused as ``compare_file``."""
    with opened_for_reading(project_file) as project, project.snapshot():
        return _notes_of(project, sheet_id, _opened_pdf(project, sheet_id, path.read_bytes(), path.name), path.name)


def _compared_pdf(project: ReadProject, sheet_id: int, data: bytes, shown: str) -> Returned:
    opened = _opened_pdf(project, sheet_id, data, shown)
    whole, notes = opened.whole, _notes_of(project, sheet_id, opened, shown)
    if whole is None or is_proof(opened.annotations):
        return Returned([PROOF_READ, *(whole.words if whole is not None else [])], notes=notes)
    page_words = _of_page(project.sheet(sheet_id), opened.back, opened.out, whole)
    dots = page_dots(opened.made, FINE, opened.out.unit), page_dots(data, FINE, opened.back.unit)
    return Returned([*page_words, *_otherwise(*dots, whole), UNSEEN_IN_PDF], notes=notes)


def _of_page(sheet: Sheet, back: ReturnedPage, out: ReturnedPage, whole: Whole) -> list[str]:
    """What is to be said of a page as a whole, and of the texts that it has lost."""
    said = whole.words or ["True to scale, and where it was."]
    if abs(back.width - sheet.width) > PAGE_MM or abs(back.height - sheet.height) > PAGE_MM:
        said.append(
            f"What is shown of its page is {back.width:.1f} × {back.height:.1f} mm"
            f"{', cut by a box' if back.cropped else ''}; the sheet is {sheet.width:g} × {sheet.height:g} mm."
        )
    if back.turned:
        said.append(f"Its page is shown turned by {back.turned}°.")
    lost = len(out.texts.keys() - back.texts.keys())
    if lost:
        said.append(f"{lost} text{'s' if lost > 1 else ''} lost or changed.")
    return said


def _otherwise(out: Image.Image, back: Image.Image, whole: Whole) -> list[str]:
    """How much of the page is drawn otherwise, dot by dot, once what was moved as a whole is moved back."""
    a, b, c, d, e, f = whole.way
    # Of a dot of the sheet as it was, the dot of the returned page.
    way = (a, b, c * FINE, d, e, f * FINE)
    there = back.transform(out.size, Image.Transform.AFFINE, way, Image.Resampling.BILINEAR, fillcolor="white")
    size = out.size[0] // FINER, out.size[1] // FINER
    one, other = (np.asarray(p.resize(size, Image.Resampling.BOX), dtype=np.int16) for p in (out, there))
    # A line may stand a dot aside: a dot is another one if none of its neighbours is like it.
    high, high_there = (maximum_filter(p, (3, 3, 1)) + UNLIKE for p in (one, other))
    low, low_there = (minimum_filter(p, (3, 3, 1)) - UNLIKE for p in (one, other))
    off = (other > high) | (other < low) | (one > high_there) | (one < low_there)
    k = FINE / FINER
    least = LEAST_DOTS * (1 if not whole.words else 4)
    # Letters that were turned fall on dots otherwise here and there; what was drawn or is gone holds together.
    spots, count = label(off.any(axis=2), np.ones((3, 3)))
    large = np.flatnonzero(np.bincount(spots.ravel(), minlength=count + 1)[1:] >= least) + 1
    rows, columns = np.nonzero(np.isin(spots, large))
    if not len(rows):
        return []
    share = len(rows) / (size[0] * size[1])
    left, top, right, bottom = (v / k for v in (columns.min(), rows.min(), columns.max() + 1, rows.max() + 1))
    return [
        f"{figures(100 * share, 2)} % of the page is drawn otherwise, between {left:.0f} and {right:.0f} mm from the "
        f"left and {top:.0f} and {bottom:.0f} mm from the top."
    ]


def _comparison(project: ReadProject, sheet_id: int, data: bytes, shown: str) -> tuple[Comparison, ReturnedSheet]:
    made = composed(project, sheet_id, COARSE.dpi)
    out = read_svg(svg_of(project, made, COARSE).encode(), "the sheet")
    back = read_svg(data, shown, out.groups)
    if not out.texts.keys() & back.texts.keys():
        raise FileRefused(f"{shown} has none of the names that this sheet was exported with; is it another one?")
    return compared(out.texts, back.texts, out.groups, back.groups, out.ink, back.ink), out


def _edits(project: ReadProject, sheet_id: int, found: Comparison, out: ReturnedSheet) -> list[Change]:
    """The changes of labels and parts that a comparison tells of."""
    changes: list[Change] = []
    of_parts: dict[int, dict[str, tuple[float, float]]] = {}
    for name, shift in found.moved.items():
        label, text = _LABEL.fullmatch(name), _TEXT.fullmatch(name)
        if label is not None:
            change = _moved_label(project, label, shift)
            changes += [change] if change is not None else []
        elif text is not None:
            of_parts.setdefault(int(text[1]), {})[name] = shift
    texts: dict[int, list[str]] = {}
    for name in out.texts:
        text = _TEXT.fullmatch(name)
        if text is not None:
            texts.setdefault(int(text[1]), []).append(name)
    there = {part.id: part for part in project.parts(sheet_id) if not part.locked}
    touched: dict[int, Part] = {}
    for number, shifts in of_parts.items():
        # A part goes along where all of its texts have gone the same way.
        ways = np.array(list(shifts.values()))
        if number in there and len(shifts) == len(texts[number]) and np.ptp(ways, axis=0).max() < TOGETHER_MM:
            part = there[number]
            dx, dy = (float(v) for v in ways.mean(axis=0))
            touched[number] = part.changed(x=round(part.x + dx, 3), y=round(part.y + dy, 3))
    for name, (_, said) in found.changed.items():
        text = _TEXT.fullmatch(name)
        number = int(text[1]) if text is not None else 0
        held = touched.get(number) or there.get(number)
        # Of several lines nobody knows where one of them ends.
        if held is not None and len(texts[number]) == 1 and held.settings.has_own_text and said:
            touched[number] = held.changed(settings=held.settings.changed({"text": said}))
    return [*changes, *(rows.part_change(part) for part in touched.values())]


def _moved_label(project: ReadProject, name: re.Match[str], shift: tuple[float, float]) -> Change | None:
    """The change that keeps where a hand has put a label of a panel; None where the label is no longer there."""
    number, table, feature = int(name[1]), cast(Table, name[2]), int(name[3])
    panel, found = panel_labelling(project, number)
    labels = [label for label in found.labels if (label.request.key.table, label.request.key.id) == (table, feature)]
    which = int(name[4] or 1) - 1
    if which >= len(labels):
        return None
    label, k = labels[which], panel.symbol_scale
    if table == "points":
        at = (label.offset[0] + shift[0] / k, label.offset[1] + shift[1] / k)
    else:
        middle = (np.array(label.hangs) + np.array(label.offset)) * k + np.array(shift)
        x, y = apply(panel.to_ground, middle[None, :])[0]
        at = carried_place(panel.crs, project.crs, (float(x), float(y)))
    held = {move.key: (row, move) for row, move in label_moves(project) if move.scope == number}
    row, old = held.get(label.request.key, (None, LabelMove(label.request.key, number)))
    return move_change(row, replace(old, at=at))
