"""Mappings that are kept by name, in a project or for all projects of a folder, and proposed for files alike."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import replace
from pathlib import Path

from orvik.core.errors import FileRefused, OrvikError
from orvik.exchange.mappings.mapping import FieldMapping, is_limit
from orvik.exchange.mappings.mapping_file import NamedMapping, read, written
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.reader import Reader
from orvik.usecases.intake.import_mapping import known_in
from orvik.whole_file import whole_file

FOLDER = "mappings"
ENDING = ".mapping.json"
MOST = 200
LONGEST = 120


def saved_mappings(project: Reader, folder: Path) -> list[NamedMapping]:
    """The mappings of a project, and those for all projects of its folder; of one name the project's own counts.

    One that cannot be read is passed over: it is a file that anybody may have changed.
    """
    own = [_read(row["body"], row["name"]) for row in project.mappings()]
    shared = [_read(path.read_bytes(), path.name.removesuffix(ENDING)) for path in _files(folder)]
    out: dict[str, NamedMapping] = {}
    for named in (*own, *shared):
        if named is not None:
            out.setdefault(named.name, named)
    return list(out.values())


def proposed(saved: Sequence[NamedMapping], columns: Collection[str]) -> list[NamedMapping]:
    """The mappings that fit a file with these fields, the one that knows most of them first."""
    fitting = [named for named in saved if named.fits(columns)]
    same = frozenset(columns)
    return sorted(fitting, key=lambda named: (frozenset(named.columns) != same, -named.fits(columns), named.name))


def save_mapping(
    project: Project,
    named: NamedMapping,
    folder: Path,
    listed: Collection[tuple[str, str]] = (),
    *,
    everywhere: bool = False,
) -> Entry | None:
    """Keep a mapping, in the place of one of its name.

    Parameters
    ----------
    folder
        That of the projects.
    listed
        The values of the file, by their attributes: what the one of its name says of others goes along.
    everywhere
        Whether it is kept as a file for all projects; else in the project, as an entry of the journal.

    Raises
    ------
    FileRefused
        It has no name, or there are too many.
    """
    name = " ".join(named.name.split())
    if not name or len(name) > LONGEST:
        raise FileRefused(f"Give the mapping a name of 1 to {LONGEST} letters.")
    mapping = known_in(project).settled(named.mapping)
    for old in saved_mappings(project, folder):
        if old.name == name:
            mapping = _with_values_of(old.mapping, mapping, listed)
    text = written(replace(named, name=name, mapping=mapping))
    if everywhere:
        _write(folder / FOLDER / f"{_file_name(name)}{ENDING}", name, text)
        return None
    there = {row["name"]: row["id"] for row in project.mappings()}
    if name not in there and len(there) >= MOST:
        raise FileRefused(f"A project has {MOST} mappings at the most; save this one under the name of another.")
    return project.apply(f"save mapping {name}", [Change("mappings", there.get(name), {"name": name, "body": text})])


def _with_values_of(old: FieldMapping, new: FieldMapping, listed: Collection[tuple[str, str]]) -> FieldMapping:
    """A mapping with what another says of values that were not in sight."""
    values = {
        name: {raw: meant for raw, meant in said.items() if (name, raw) not in listed and not is_limit(raw)}
        for name, said in old.values.items()
        if old.fields.get(name) == new.fields.get(name)
    }
    for name, said in new.values.items():
        values[name] = {**values.get(name, {}), **said}
    return replace(new, values={name: said for name, said in values.items() if said})


def _write(target: Path, name: str, text: str) -> None:
    """Write a mapping for all projects; raises FileRefused where another one has its place, or there are too many."""
    target.parent.mkdir(exist_ok=True)
    if target.exists():
        there = _read(target.read_bytes(), name)
        if there is not None and there.name != name:
            raise FileRefused(f"“{there.name}” has a file of this name already; choose a name that differs in letters.")
    elif len(_files(target.parent.parent)) >= MOST:
        raise FileRefused(f"There are {MOST} mappings already; remove one from the folder {FOLDER} first.")
    with whole_file(target) as part:
        part.write_text(text, encoding="utf-8")


def _files(folder: Path) -> list[Path]:
    return sorted((folder / FOLDER).glob(f"*{ENDING}"))[:MOST] if (folder / FOLDER).is_dir() else []


def _file_name(name: str) -> str:
    return re.sub(r"[^\w -]", "_", name).strip() or "mapping"


def _read(text: str | bytes, name: str) -> NamedMapping | None:
    try:
        named = read(text)
    except OrvikError:
        return None
    return named if named.name else replace(named, name=name)
