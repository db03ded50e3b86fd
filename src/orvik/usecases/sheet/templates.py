"""Templates of one's own: kept in the project, or beside the projects of a folder for all of them."""

from __future__ import annotations

import base64
import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from slugify import slugify

from orvik.core.errors import NotFound, SheetRefused
from orvik.core.sheet.page.sheet_file import KeptFile
from orvik.core.sheet.templates import TEMPLATES
from orvik.core.sheet.templates.kept import FollowedTemplate, KeptTemplate
from orvik.store import rows
from orvik.store.files import kept_file
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
from orvik.store.tables.followed import followed_change, followed_template
from orvik.whole_file import write_asked_for

FOLDER = "sheet-templates"
# Of a file for all projects; more than its pictures would ever take.
LARGEST_FILE = 200_000_000
IN_PROJECT, FOR_ALL = "project-", "all-"


@dataclass(frozen=True)
class Offered:
    """A template of one's own: the key that it is asked for by, what it is called, and whether all projects have it."""

    key: str
    name: str
    for_all: bool


def offered(project: ReadProject) -> list[Offered]:
    """The templates of a project, then those for all."""
    own = [Offered(f"{IN_PROJECT}{row['id']}", str(row["name"]), False) for row in project.templates()]
    files = sorted(_folder(project).glob("*.json")) if _folder(project).is_dir() else []
    return own + [Offered(f"{FOR_ALL}{file.stem}", _name_in(file), True) for file in files]


def template_named(project: ReadProject, name: str) -> str:
    """What a template is asked for by, from what it is called or asked for by; that of a quadrangle without a name.

    Raises
    ------
    SheetRefused
        There is none of that name.
    """
    known = {key: key for key in TEMPLATES} | {one.title.lower(): key for key, one in TEMPLATES.items()}
    own = {one.name.lower(): one.key for one in offered(project)}
    found = {**known, **own}.get(name.strip().lower() or next(iter(TEMPLATES)))
    if found is None:
        names = [*TEMPLATES, *(one.name for one in offered(project))]
        raise SheetRefused(f"There is no template “{name[:40]}”; choose {', '.join(names)}.")
    return found


def keep_template(project: Project, sheet_id: int, name: str, for_all: bool, instead: bool = False) -> Entry:
    """Keep a sheet as a template, which it follows from then on.

    Parameters
    ----------
    for_all
        Whether all projects of the folder have it.
    instead
        Whether it takes the place of the template of that name, which sheets follow.

    Raises
    ------
    SheetRefused
        The name is none, is taken, or is that of none that it could take the place of.
    FileRefused
        The folder cannot be written.
    """
    sheet, parts = project.sheet(sheet_id), project.parts(sheet_id)
    wanted = " ".join(name.split())
    there = next((one for one in offered(project) if one.name == wanted and one.for_all == for_all), None)
    if there is not None and not instead:
        raise SheetRefused(
            f"There is a template {wanted} already; put this sheet in its place, or choose another name."
        )
    if there is None and instead:
        raise SheetRefused(f"There is no template {wanted or 'without a name'} whose place this sheet could take.")
    before = template_of(project, there.key)[0] if there is not None else None
    held = followed_template(project, sheet_id)
    if before is not None:
        if held is None or (held.name, held.for_all) != (wanted, for_all):
            raise SheetRefused(
                f"This sheet does not follow {wanted}, so that no other could go along; lay one out by it."
            )
        if before != held.taken_up:
            raise SheetRefused(
                f"{wanted} has changed since this sheet took it up; follow that first, so that it is not lost."
            )
    made = KeptTemplate.of(name, sheet, parts, project.name, project.crs.text, before)
    text = made.to_text()
    numbers = {part.number: kept.number for part, kept in zip(parts, made.parts, strict=True)}
    follows = FollowedTemplate(wanted, for_all, text, held.id if held is not None else None)
    changes = [followed_change(follows, sheet_id)]
    changes += [
        rows.part_change(part.changed(made_as=numbers[part.number]))
        for part in parts
        if part.made_as != numbers[part.number]
    ]
    if for_all:
        _write(project, made, _file_of(project, there.key) if there is not None else None)
    else:
        number = int(there.key.removeprefix(IN_PROJECT)) if there is not None else None
        changes.append(Change("templates", number, {"name": wanted, "sheet": text}))
    return project.apply(f"{'change' if there is not None else 'save'} template {wanted}", changes)


def _write(project: Project, made: KeptTemplate, target: Path | None) -> None:
    """Put a template for all projects into the folder, with the files that it shows; in the place of ``target``."""
    files = [kept for kept in (kept_file(project, checksum) for checksum in sorted(made.files)) if kept is not None]
    held = {
        "name": made.name,
        "template": json.loads(made.to_text()),
        "files": [
            {"name": kept.name, "kind": kept.kind, "data": base64.b64encode(kept.data).decode()} for kept in files
        ],
    }
    folder = _folder(project)
    if target is None:
        target = folder / f"{slugify(made.name) or 'template'}.json"
        if target.exists():
            raise SheetRefused(f"There is a template called much like {made.name}; choose another name.")
    folder.mkdir(exist_ok=True)
    write_asked_for(target, json.dumps(held, ensure_ascii=False).encode())


def template_of(project: ReadProject, key: str) -> tuple[KeptTemplate, Sequence[KeptFile]]:
    """A template by its key, with the files that come with it.

    Raises
    ------
    NotFound
        It is no longer there.
    SheetRefused
        It cannot be read.
    """
    if key.startswith(IN_PROJECT):
        for row in project.templates():
            if f"{IN_PROJECT}{row['id']}" == key:
                return KeptTemplate.from_text(str(row["name"]), str(row["sheet"])), ()
        raise NotFound("That template is no longer there; choose another one.")
    held = _read(_file_of(project, key))
    try:
        files = [KeptFile(f["name"], f["kind"], base64.b64decode(f["data"])) for f in held["files"]]
        return KeptTemplate.from_text(str(held["name"]), json.dumps(held["template"])), files
    except (TypeError, KeyError, ValueError) as error:
        raise SheetRefused("That template cannot be read; remove it, and save it anew.") from error


def remove_template(project: Project, key: str) -> Entry | None:
    """Remove a template; sheets that were made by it stay. The entry of the project, None where all had it."""
    if key.startswith(IN_PROJECT):
        number = key.removeprefix(IN_PROJECT)
        if not number.isdecimal():
            raise NotFound("That template is no longer there.")
        return project.apply("remove template", [Change("templates", int(number), None)])
    _file_of(project, key).unlink(missing_ok=True)
    return None


def is_own(key: str) -> bool:
    """Whether a key is one of a template of one's own."""
    return key.startswith((IN_PROJECT, FOR_ALL))


def _folder(project: ReadProject) -> Path:
    return project.path.parent / FOLDER


def _file_of(project: ReadProject, key: str) -> Path:
    """The file of a template for all; its key is no way out of the folder."""
    for file in _folder(project).glob("*.json"):
        if f"{FOR_ALL}{file.stem}" == key:
            return file
    raise NotFound("That template is no longer there; choose another one.")


def _name_in(file: Path) -> str:
    try:
        return str(_read(file)["name"])
    except (SheetRefused, KeyError):
        return file.stem


def _read(file: Path) -> dict[str, Any]:
    try:
        if file.stat().st_size > LARGEST_FILE:
            raise SheetRefused(f"The template {file.name} is too large to be one.")
        made = json.loads(file.read_bytes())
    except (OSError, ValueError, RecursionError) as error:
        raise SheetRefused(f"The template {file.name} cannot be read; remove it, and save it anew.") from error
    if not isinstance(made, dict):
        raise SheetRefused(f"The template {file.name} cannot be read; remove it, and save it anew.")
    return made
