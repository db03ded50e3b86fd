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
from orvik.core.sheet.templates.kept import KeptTemplate
from orvik.store.files import kept_file
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import ReadProject
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


def offered(project: Project) -> list[Offered]:
    """The templates of a project, then those for all."""
    own = [Offered(f"{IN_PROJECT}{row['id']}", str(row["name"]), False) for row in project.templates()]
    files = sorted(_folder(project).glob("*.json")) if _folder(project).is_dir() else []
    return own + [Offered(f"{FOR_ALL}{file.stem}", _name_in(file), True) for file in files]


def template_named(project: Project, name: str) -> str:
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


def keep_template(project: Project, sheet_id: int, name: str, for_all: bool) -> Entry | None:
    """Keep a sheet as a template; the entry of the project, None where all have it.

    Raises
    ------
    SheetRefused
        The name is none, or is taken.
    FileRefused
        The folder cannot be written.
    """
    sheet, parts = project.sheet(sheet_id), project.parts(sheet_id)
    made = KeptTemplate.of(name, sheet, parts, project.name, project.crs.text)
    if any(other.name == made.name and other.for_all == for_all for other in offered(project)):
        raise SheetRefused(f"There is a template {made.name} already; choose another name, or remove that first.")
    if not for_all:
        values = {"name": made.name, "sheet": made.to_text()}
        return project.apply(f"save template {made.name}", [Change("templates", None, values)])
    files = [kept for kept in (kept_file(project, checksum) for checksum in sorted(made.files)) if kept is not None]
    held = {
        "name": made.name,
        "template": json.loads(made.to_text()),
        "files": [
            {"name": kept.name, "kind": kept.kind, "data": base64.b64encode(kept.data).decode()} for kept in files
        ],
    }
    folder = _folder(project)
    target = folder / f"{slugify(made.name) or 'template'}.json"
    if target.exists():
        raise SheetRefused(f"There is a template called much like {made.name}; choose another name.")
    folder.mkdir(exist_ok=True)
    write_asked_for(target, json.dumps(held, ensure_ascii=False).encode())
    return None


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
