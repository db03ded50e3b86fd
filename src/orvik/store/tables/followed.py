"""The templates that sheets follow, in the project file: a row each, so that edits of a page do not write them anew."""

from __future__ import annotations

from orvik.core.sheet.templates.kept import FollowedTemplate
from orvik.store.journal import Change, Made
from orvik.store.reader import Reader

TABLE = "followed_templates"


def followed_template(project: Reader, sheet_id: int) -> FollowedTemplate | None:
    """The template that a sheet follows, None where it follows none."""
    row = project.followed_template_row(sheet_id)
    if row is None:
        return None
    return FollowedTemplate(str(row["name"]), bool(row["for_all"]), str(row["template"]), row["id"])


def followed_change(held: FollowedTemplate, sheet: int | Made) -> Change:
    """The change that has a sheet follow a template, in a row of its own or the one that is there."""
    values = {"sheet_id": sheet, "name": held.name, "for_all": int(held.for_all), "template": held.text}
    return Change(TABLE, held.id, values)
