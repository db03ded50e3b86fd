"""Sheets: made from the default template, laid out, put on other papers, and removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import TypeVar

import shapely

from orvik.core.errors import SheetRefused
from orvik.core.sheet.layout.change_paper import Moved, on_paper, reduced
from orvik.core.sheet.page.entries import Colour
from orvik.core.sheet.page.form_settings import FormSettings
from orvik.core.sheet.page.new_sheet import NewSheet
from orvik.core.sheet.page.page import AXES, PageLayout, Sheet
from orvik.core.sheet.page.paper import paper_size
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.parts.map_panel import MapPanel
from orvik.core.sheet.templates import TEMPLATES, laid_out, quadrangle
from orvik.core.sheet.templates.brief import Brief, text_lengths
from orvik.core.sheet.templates.kept import FollowedTemplate
from orvik.store import rows
from orvik.store.journal import Change, Entry, Made
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.reader import Reader
from orvik.store.tables.followed import TABLE, followed_change, followed_template
from orvik.usecases.sheet.explanations import with_known_rows
from orvik.usecases.sheet.labels import copied_moves
from orvik.usecases.sheet.templates import FOR_ALL, is_own, template_of
from orvik.usecases.structure.sections import section_heights

Settings = TypeVar("Settings", bound=FormSettings)
# How a copy is called where nothing else is said.
NAMED = "{title} {paper}"
# The frame that all parts are given at once, and the room within it, in millimetres.
FRAME, PADDING = 0.2, 2.0


@dataclass(frozen=True)
class SheetChange:
    """What changes of a page: its name and paper, and its layout as typed; what is None stays."""

    name: str | None = None
    paper: str | None = None
    landscape: bool | None = None
    typed: Mapping[str, str] = field(default_factory=dict)


def add_sheet(project: Project, wanted: NewSheet) -> tuple[Entry, list[str]]:
    """A sheet from a template, and what does not fit on it.

    Raises
    ------
    SheetRefused
        The name is taken or empty, there is no such ground, or the paper is none or too small.
    """
    _free_name(project, wanted.name)
    made = new_sheet(project, wanted)
    parts = with_known_rows(project, made.sheet, made.parts)
    changes = rows.sheet_changes(made.sheet, parts)
    changes += _following(project, made.follows, Made(0))
    return project.apply(f"add sheet {made.sheet.name}", changes, files=made.files), made.said


def _following(project: Reader, template: FollowedTemplate | None, sheet: int | Made) -> list[Change]:
    """Have a sheet follow a template in the place of what it followed, or none."""
    held = followed_template(project, sheet) if isinstance(sheet, int) else None
    if template is not None:
        return [followed_change(replace(template, id=held.id if held is not None else None), sheet)]
    return [Change(TABLE, held.id, None)] if held is not None else []


def lay_out(project: Project, sheet_id: int, template: str, ground: str = "") -> tuple[Entry, list[str]]:
    """Lay an empty page out by a template, and what does not fit on it.

    Raises
    ------
    SheetRefused
        Something is on the page, there is no such template or ground, or the page is too small.
    """
    sheet = project.sheet(sheet_id)
    if project.parts(sheet_id):
        raise SheetRefused("There are parts on this page; lay out an empty one, or make a new sheet.")
    size = f"{sheet.width:.10g} x {sheet.height:.10g}"
    made = new_sheet(project, NewSheet(sheet.name, size, sheet.width >= sheet.height, template, ground), sheet.paper)
    parts = [replace(part, sheet_id=sheet_id) for part in with_known_rows(project, made.sheet, made.parts)]
    changes = rows.part_changes(parts)
    if made.sheet.layout != PageLayout():
        changes.append(rows.sheet_change(replace(sheet, layout=made.sheet.layout)))
    changes += _following(project, made.follows, sheet_id)
    return project.apply(f"lay out {sheet.name}", changes, files=made.files), made.said


@dataclass(frozen=True)
class MadeSheet:
    """A sheet with its parts that is kept nowhere yet, the files that come with it, and what does not fit on it.

    ``follows`` is the template of one's own that it was laid out by.
    """

    sheet: Sheet
    parts: list[Part]
    files: Sequence[KeptFile] = ()
    said: list[str] = field(default_factory=list)
    follows: FollowedTemplate | None = None


def new_sheet(project: ReadProject, wanted: NewSheet, called: str | None = None) -> MadeSheet:
    """A sheet as a template lays it out, on paper that is ``called`` something else; raises SheetRefused."""
    label, width, height = paper_size(wanted.paper, wanted.landscape)
    label = called or label
    ground, neatline = _ground_for(project, wanted.ground, (width, height))
    sheet = Sheet(" ".join(wanted.name.split()), label, width, height)
    brief = Brief(
        sheet.name,
        project.name,
        (width, height),
        ground,
        project.scales.publication,
        project.crs,
        date.today(),
        label,
        neatline,
        section_heights(project) if wanted.template == "survey" else (),
        len(project.readings()) > 0,
        any(source.relief for source in project.sources()),
        text_lengths([unit for _, unit in project.units()]),
    )
    if not is_own(wanted.template):
        parts = laid_out(brief, wanted.template)
        layout = PageLayout(purpose=TEMPLATES[wanted.template].purpose)
        return MadeSheet(replace(sheet, layout=layout), parts)
    template, files = template_of(project, wanted.template)
    layout, parts, said = template.parts_of(brief)
    for_all = wanted.template.startswith(FOR_ALL)
    follows = FollowedTemplate(template.name, for_all, template.to_text())
    return MadeSheet(replace(sheet, layout=layout), parts, files, said, follows)


def _ground_for(project: ReadProject, ground: str, page: tuple[float, float]) -> tuple[shapely.LineString | None, str]:
    """What a new sheet is to show, as a ring in the project's system, and what its panel is cut to."""
    if not ground:
        return project.border(), "border"
    if ground == "all":
        extent = project.extent()
        if extent is None or not (extent[0] < extent[2] and extent[1] < extent[3]):
            raise SheetRefused("Nothing is compiled yet that a sheet could show; choose other ground.")
        return shapely.box(*extent).exterior, "rectangle"
    view = next((v for v in project.views() if f"view-{v.id}" == ground), None)
    place = view.place_in(project.crs, project.crs) if view is not None else None
    if view is None or place is None:
        raise SheetRefused("That saved view is no longer there, or shows no ground of this project; choose another.")
    # As much around it as the page has room for at its scale.
    room = max(quadrangle.room(page), key=lambda sides: min(sides))
    k = view.denominator / 1000 / project.crs.metres_per_unit / 2
    half = [max(20.0, side) * k for side in room]
    return shapely.box(
        place[0] - half[0], place[1] - half[1], place[0] + half[0], place[1] + half[1]
    ).exterior, "rectangle"


def change_sheet(project: Project, sheet_id: int, change: SheetChange) -> Entry | None:
    """Change a page; its parts stay where they are. None where nothing changes.

    Raises
    ------
    OrvikError
        A value cannot be read or cannot be, or the name is taken.
    """
    old = project.sheet(sheet_id)
    new = replace(old, layout=old.layout.changed(old.layout.typed(change.typed)))
    if change.name is not None and change.name.strip() != old.name:
        new = replace(new, name=_free_name(project, change.name))
    if change.paper is not None or change.landscape is not None:
        landscape = old.width > old.height if change.landscape is None else change.landscape
        if change.paper is None:
            # Turned, it keeps its paper and its sides.
            sides = sorted((old.width, old.height), reverse=landscape)
            label, width, height = old.paper, sides[0], sides[1]
        else:
            label, width, height = paper_size(change.paper, landscape)
        new = replace(new, paper=label, width=width, height=height)
    return project.apply(f"change sheet {old.name}", [rows.sheet_change(new)]) if new != old else None


def give_font(project: Project, sheet_id: int, kept: KeptFile) -> Entry | None:
    """Have a sheet use a font file; None where it does so already."""
    old = project.sheet(sheet_id)
    new = replace(old, layout=old.layout.changed({"font": kept.checksum}))
    return project.apply(f"change sheet {old.name}", [rows.sheet_change(new)], files=[kept]) if new != old else None


def set_palette_colour(project: Project, sheet_id: int, before: str | None, colour: str | None) -> Entry | None:
    """Add a colour to the palette of a sheet, take one away, or change one; None where nothing changes.

    Everything on the sheet that had a colour which is changed has the new one.

    Raises
    ------
    SheetRefused
        It is not a colour, there are too many, or the palette has no such one.
    """
    sheet = project.sheet(sheet_id)
    palette = list(sheet.layout.palette)
    if before is not None and before not in palette:
        raise SheetRefused("That colour is not in the palette any more; choose another one.")
    if colour is None:
        palette = [c for c in palette if c != before]
    elif before is None:
        palette.append(colour)
    else:
        palette = [colour if c == before else c for c in palette]
    layout = sheet.layout.changed({"palette": palette})
    changes = []
    if before is not None and colour is not None:
        layout = _recoloured(layout, before, colour)
        for part in project.parts(sheet_id):
            settings = _recoloured(part.settings, before, colour)
            if settings != part.settings:
                changes.append(rows.part_change(part.changed(settings=settings)))
    new = replace(sheet, layout=layout)
    return project.apply("change the palette", [rows.sheet_change(new), *changes]) if new != sheet else None


def _recoloured(settings: Settings, before: str, colour: str) -> Settings:
    """Settings whose colours of one kind are of another."""
    entries = settings.entries().items()
    same = {n: colour for n, declared in entries if isinstance(declared, Colour) and getattr(settings, n) == before}
    return settings.changed(same) if same else settings


def frame_all(project: Project, sheet_id: int, on: bool) -> Entry | None:
    """Give all parts of a sheet a frame, or take them away; panels and locked parts stay as they are.

    None where all are so.
    """
    changes = []
    for part in project.parts(sheet_id):
        settings = part.settings
        if isinstance(settings, MapPanel) or settings.lies_on_panel or part.locked or bool(settings.frame) == on:
            continue
        padding = max(settings.padding, PADDING) if on else 0.0
        framed = settings.changed({"frame": FRAME if on else 0.0, "padding": padding})
        changes.append(rows.part_change(part.changed(settings=framed)))
    return project.apply("frame all parts" if on else "remove all frames", changes) if changes else None


def set_guide(
    project: Project, sheet_id: int, axis: str, at: float | None, before: float | None = None
) -> Entry | None:
    """Lay a guide, move the one that is ``before`` somewhere, or take it away where ``at`` is None.

    Raises
    ------
    SheetRefused
        It cannot lie there, or there are too many.
    """
    sheet = project.sheet(sheet_id)
    if axis not in AXES:
        raise SheetRefused("A guide is vertical (x) or horizontal (y).")
    kept = [g for g in sheet.layout.guides if before is None or g[0] != axis or abs(g[1] - before) > 0.005]
    guides = kept if at is None else [*kept, (axis, round(at, 2))]
    new = replace(sheet, layout=sheet.layout.changed({"guides": guides}))
    what = "remove a guide" if at is None else "move a guide" if before is not None else "lay a guide"
    return project.apply(what, [rows.sheet_change(new)]) if new != sheet else None


def duplicate_sheet(
    project: Project, sheet_id: int, name: str, paper: str, landscape: bool, refit: bool = False
) -> tuple[Entry, list[str]]:
    """The same sheet on another paper, and what no longer fits there.

    Parameters
    ----------
    name
        May hold ``{title}`` for the name of this one and ``{paper}``; empty for ``NAMED``.

    Raises
    ------
    SheetRefused
        The name is taken, or the paper is none.
    """
    sheet = project.sheet(sheet_id)
    label, width, height = paper_size(paper, landscape)
    moved = on_paper(sheet, project.parts(sheet_id), label, (width, height), refit)
    words = label if label != "Custom size" else f"{width:g} × {height:g} mm"
    return _copied(project, moved, name, sheet, words, followed_template(project, sheet_id))


def reduce_sheet(project: Project, sheet_id: int, name: str, per_cent: float) -> tuple[Entry, list[str]]:
    """The same sheet smaller or larger as a whole, and what no longer fits; raises SheetRefused."""
    sheet = project.sheet(sheet_id)
    moved = reduced(sheet, project.parts(sheet_id), per_cent)
    return _copied(project, moved, name, sheet, f"at {per_cent:g} %")


def remove_sheet(project: Project, sheet_id: int) -> Entry:
    """Remove a sheet with its parts."""
    return project.apply(f"remove sheet {project.sheet(sheet_id).name}", [Change("sheets", sheet_id, None)])


def _copied(
    project: Project, moved: Moved, name: str, old: Sheet, paper: str, follows: FollowedTemplate | None = None
) -> tuple[Entry, list[str]]:
    wanted = (name.strip() or NAMED).replace("{title}", old.name).replace("{paper}", paper)
    page = replace(moved.sheet, name=_free_name(project, wanted))
    changes = rows.sheet_changes(page, moved.parts)
    # The sheet is the first change, its parts follow it in order.
    changes += copied_moves(project, {part.number: i for i, part in enumerate(moved.parts, 1)})
    changes += _following(project, follows, Made(0))
    return project.apply(f"add sheet {page.name}", changes), moved.said


def _free_name(project: Reader, name: str) -> str:
    wanted = " ".join(name.split())
    if any(other.name == wanted for other in project.sheets()):
        raise SheetRefused(f"There is a sheet {wanted} already; choose another name.")
    return wanted
