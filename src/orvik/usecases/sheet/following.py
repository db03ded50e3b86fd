"""Sheets of one series: laid out by one template of one's own, and offered what that changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orvik.core.errors import NotFound, OrvikError, SheetRefused
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.templates.following import Followed, followed
from orvik.core.sheet.templates.kept import FollowedTemplate, KeptTemplate
from orvik.store import rows
from orvik.store.journal import Change, Entry, Made, MadeJson
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.followed import TABLE, followed_change, followed_template
from orvik.usecases.sheet.templates import offered, template_of


@dataclass(frozen=True)
class Follower:
    """A sheet that follows a template; ``behind`` says that the template has changed since it took it up."""

    project: str
    sheet: str
    behind: bool


@dataclass(frozen=True)
class Offer:
    """What a sheet is offered.

    Attributes
    ----------
    held
        The template as the sheet took it up.
    now
        As it is now, with the files that come with it.
    made
        What the sheet would become.
    """

    held: FollowedTemplate
    now: KeptTemplate
    files: Sequence[KeptFile]
    made: Followed


def offer_of(project: ReadProject, sheet: Sheet) -> Offer | None:
    """What the template of a sheet changed since it was taken up; None where that is nothing, or cannot be read."""
    held = followed_template(project, sheet.number)
    before, found = (held.taken_up, _present(project, held)) if held is not None else (None, None)
    if held is None or before is None or found is None or found[0] == before:
        return None
    now, files = found
    made = followed(sheet, project.parts(sheet.number), before, now, project.name)
    return Offer(held, now, files, made)


def follow(project: Project, sheet_id: int) -> tuple[Entry | None, list[str]]:
    """Have a sheet follow what its template changed, and what it keeps as it was set there, a sentence each.

    None where the template is as the sheet took it up.

    Raises
    ------
    SheetRefused
        It follows none, or that is gone or cannot be read.
    """
    sheet = project.sheet(sheet_id)
    held = followed_template(project, sheet_id)
    if held is None:
        raise SheetRefused("This sheet follows no template; lay a new one out by one of your own, or save it as one.")
    if held.taken_up is None or _present(project, held) is None:
        raise SheetRefused("The template of this sheet is no longer there; lay a new sheet out by another one.")
    offer = offer_of(project, sheet)
    if offer is None:
        return None, []
    made = offer.made
    # New parts come first: their rows are counted from the first change, and others may speak of them.
    changes = rows.part_changes(made.added)
    numbers = {part.number: Made(i) for i, part in enumerate(made.added)}
    for part in made.changed:
        changes.append(rows.part_change(part))
        spoken = part.settings.renumbered(numbers)
        if spoken:
            changes.append(Change("parts", part.id, {"settings": MadeJson(part.settings.to_dict() | dict(spoken))}))
    if made.sheet != sheet:
        changes.append(rows.sheet_change(made.sheet))
    changes.append(followed_change(replace(held, text=offer.now.to_text()), sheet_id))
    changes += [Change("parts", number, None) for number in made.removed]
    return project.apply(f"follow template {held.name}", changes, files=list(offer.files)), made.kept


def follow_no_more(project: Project, sheet_id: int) -> Entry | None:
    """Have a sheet follow no template; None where it does not."""
    held = followed_template(project, sheet_id)
    return project.apply("follow no template", [Change(TABLE, held.id, None)]) if held is not None else None


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
    out = []
    for sheet in project.sheets():
        held = followed_template(project, sheet.number)
        if held is not None and (held.name, held.for_all) == (name, for_all):
            out.append(Follower(project.name, sheet.name, offer_of(project, sheet) is not None))
    return out


def _present(project: ReadProject, held: FollowedTemplate) -> tuple[KeptTemplate, Sequence[KeptFile]] | None:
    """The template that a sheet follows, as it is now, with its files; None where it is gone or cannot be read."""
    one = next((o for o in offered(project) if (o.name, o.for_all) == (held.name, held.for_all)), None)
    try:
        return template_of(project, one.key) if one is not None else None
    except (NotFound, SheetRefused):
        return None
