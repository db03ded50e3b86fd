"""Sheets of one series: laid out by one template of one's own, and offered what that changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import NotFound, OrvikError, SheetRefused
from orvik.core.sheet.page.page import FollowedTemplate, Sheet
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.templates.following import Followed, followed
from orvik.core.sheet.templates.kept import KeptTemplate
from orvik.store import rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.usecases.sheet.templates import offered, template_of


@dataclass(frozen=True)
class Follower:
    """A sheet that follows a template; ``behind`` says that the template has changed since it took it up."""

    project: str
    sheet: str
    behind: bool


@dataclass(frozen=True)
class _Offer:
    """What a sheet would become, the template that it follows by then, and the files that come with that."""

    made: Followed
    now: KeptTemplate
    files: Sequence[KeptFile]


def has_changed(project: ReadProject, sheet: Sheet) -> bool:
    """Whether the template that a sheet follows is another than it took up; not where that is gone or unreadable."""
    found, before = _present(project, sheet.follows), _taken_up(sheet.follows)
    return found is not None and before is not None and found[0] != before


def what_changes(project: ReadProject, sheet: Sheet) -> Followed | None:
    """What a sheet would be by its template as that is now; None where there is nothing to follow."""
    offer = _offer(project, sheet) if has_changed(project, sheet) else None
    return offer.made if offer is not None else None


def follow(project: Project, sheet_id: int) -> tuple[Entry | None, list[str]]:
    """Have a sheet follow what its template changed, and what it keeps as it was set there, a sentence each.

    Raises
    ------
    SheetRefused
        It follows none, or that is gone.
    """
    sheet = project.sheet(sheet_id)
    offer = _offer(project, sheet)
    if sheet.follows is None or offer is None:
        raise SheetRefused("The template of this sheet is no longer there; lay a new sheet out by another one.")
    if not has_changed(project, sheet):
        return None, []
    made = offer.made
    new = replace(made.sheet, follows=replace(sheet.follows, text=offer.now.to_text()))
    # New parts come first: their rows are counted from the first change.
    changes = rows.part_changes(made.added)
    changes += [rows.sheet_change(new), *(rows.part_change(part) for part in made.changed)]
    changes += [Change("parts", number, None) for number in made.removed]
    return project.apply(f"follow template {sheet.follows.name}", changes, files=list(offer.files)), made.kept


def follow_no_more(project: Project, sheet_id: int) -> Entry | None:
    """Have a sheet follow no template; None where it does not."""
    sheet = project.sheet(sheet_id)
    if sheet.follows is None:
        return None
    return project.apply("follow no template", [rows.sheet_change(replace(sheet, follows=None))])


def followers(project: ReadProject, name: str, for_all: bool) -> list[Follower]:
    """The sheets that follow a template: of a project, or of all projects of its folder but for files that are none."""
    if not for_all:
        return _followers_in(project, name, for_all)
    out = []
    for path in sorted(project.path.parent.glob("*.gpkg")):
        try:
            other = ReadProject.open(path)
        except OrvikError:
            continue
        try:
            out += _followers_in(other, name, for_all)
        except OrvikError:
            continue
        finally:
            other.close()
    return out


def _followers_in(project: ReadProject, name: str, for_all: bool) -> list[Follower]:
    return [
        Follower(project.name, sheet.name, has_changed(project, sheet))
        for sheet in project.sheets()
        if sheet.follows is not None and (sheet.follows.name, sheet.follows.for_all) == (name, for_all)
    ]


def _offer(project: ReadProject, sheet: Sheet) -> _Offer | None:
    found, before = _present(project, sheet.follows), _taken_up(sheet.follows)
    if found is None or before is None:
        return None
    made = followed(sheet, project.parts(sheet.number), before, found[0], project.name)
    return _Offer(made, *found)


def _taken_up(held: FollowedTemplate | None) -> KeptTemplate | None:
    """The template as a sheet took it up; None where that cannot be read, so that nothing can be told of it."""
    try:
        return KeptTemplate.from_text(held.name, held.text) if held is not None else None
    except SheetRefused:
        return None


def _present(project: ReadProject, held: FollowedTemplate | None) -> tuple[KeptTemplate, Sequence[KeptFile]] | None:
    """The template that a sheet follows, as it is now, with its files."""
    if held is None:
        return None
    one = next((o for o in offered(project) if (o.name, o.for_all) == (held.name, held.for_all)), None)
    try:
        return template_of(project, one.key) if one is not None else None
    except (NotFound, SheetRefused):
        return None
