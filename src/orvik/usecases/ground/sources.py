"""Underlays and reference layers: added, changed, ordered, set aside, placed by control points, removed."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from orvik.core.errors import FitRefused, NotFound
from orvik.core.ground.border import check_reach
from orvik.core.ground.crs import ProjectCrs
from orvik.core.pictures.georeferencing import FIT_KINDS, ControlPoint, ControlSet, Fit, fit, switched
from orvik.core.pictures.height_facts import HeightFacts
from orvik.core.pictures.reference_look import REFERENCE_COLOUR, ReferenceLook
from orvik.core.pictures.relief import ReliefStyle
from orvik.core.pictures.source import Source
from orvik.exchange.features import vector
from orvik.exchange.rasters import elevation, raster, service
from orvik.exchange.untrusted.parent import opened
from orvik.store import allowed_services, rows
from orvik.store.journal import Change, Entry
from orvik.store.project import Project
from orvik.store.read_project import opened_for_reading
from orvik.store.reader import Reader
from orvik.usecases.compile.layers import refuse_locked_underlay
from orvik.usecases.ground.underlay_views import VIEW_KINDS

LONGEST_NAME = 80


def new_underlay(project: Reader, picture: Path, facts: raster.RasterFacts, name: str, beside: Path) -> Source:
    """Copy an examined picture beside the project; gives the underlay that it is to be, not kept yet.

    Parameters
    ----------
    beside
        The project file.

    Raises
    ------
    CoordinateRefused
        It lies far from the sheet.
    """
    if facts.bounds is not None:
        check_reach(picture.name, facts.bounds, project.border())
    file, checksum = raster.taken_in(picture, beside)
    is_grid = bool(facts.transform) and elevation.is_grid(picture)
    return Source(
        "underlay",
        name,
        file,
        checksum,
        facts.crs,
        json.dumps(facts.transform) if facts.transform else "",
        relief=ReliefStyle().json if is_grid else "",
        heights=elevation.stated(picture).json if is_grid else "",
        position=_above_all(project),
    )


def add_underlay(project: Project, picture: Path, world: Path | None, name: str) -> Entry:
    """Take a picture in as an underlay; raises FileRefused where it cannot serve."""
    facts = raster.examined(picture, world, project.crs)
    return add_source(project, new_underlay(project, picture, facts, name, project.path))


def add_scan(project: Project, picture: Path, control: ControlSet, name: str) -> Entry:
    """Take in a scan that does not say where it lies, placed by control points; raises FitRefused."""
    facts = raster.examined(picture, None, project.crs)
    scan = new_underlay(project, picture, facts, name, project.path)
    transform = fit(control.points, control.kind).mapping.json
    return add_source(project, replace(scan, fit=control.json, transform=transform))


def add_source(project: Project, source: Source) -> Entry:
    """Keep a new underlay."""
    return project.apply(f"add underlay {source.name}", [rows.source_change(source)])


def new_service(project: Project, address: str, name: str) -> Source:
    """An underlay from a tile service, which must answer now; not kept yet.

    Raises
    ------
    FileRefused
        The address is none, or nothing answers there.
    """
    checked = service.checked_address(address)
    home = project.home()
    if home is not None:
        service.probe(checked, project.crs, (home[0] + home[2]) / 2, (home[1] + home[3]) / 2)
    title = name.strip()[:LONGEST_NAME] or allowed_services.host_of(checked)
    # Who adds it here has said so.
    allowed_services.allow(project.path, checked)
    return Source("service", title, checked, crs=service.SYSTEM, position=_above_all(project))


def check_reference(file: Path, stated: str, crs: ProjectCrs) -> None:
    """Whether a file of features can be shown as a reference layer; raises FileRefused."""
    for layer in opened(file):
        vector.to_project(file.name, layer.geometries, layer.crs or stated, crs, None)


def new_reference(project_path: Path, file: Path, stated: str) -> Source:
    """Copy a file of features beside the project; gives the reference layer that it is to be, not kept yet.

    Parameters
    ----------
    stated
        The system of a file that does not state one.
    """
    with opened_for_reading(project_path) as project:
        position = _above_all(project)
    name, checksum = raster.taken_in(file, project_path)
    title = file.stem[:LONGEST_NAME]
    return Source(
        "reference", title, name, checksum, stated, multiply=False, position=position, colour=REFERENCE_COLOUR
    )


def add_reference(project: Project, source: Source, file: str) -> Entry:
    """Keep a new reference layer."""
    return project.apply(f"refer to {file[:LONGEST_NAME]}", [rows.source_change(source)])


def remove_underlay(project: Project, source_id: int) -> Entry:
    """Remove an underlay; its copy stays beside the project, so that this can be undone."""
    source = _unlocked(project, source_id)
    return project.apply(f"remove underlay {source.name}", [Change("sources", source_id, None)])


def change_underlay(
    project: Project, source_id: int, name: str, multiply: bool, group: str, look: ReferenceLook | None = None
) -> Entry | None:
    """Change how an underlay is called and lies in the stack, and how a reference layer is drawn.

    None where nothing changes.
    """
    old = _unlocked(project, source_id)
    new = replace(
        old,
        name=name.strip()[:LONGEST_NAME] or old.name,
        multiply=multiply,
        grouping=group.strip()[:40],
        colour=look.colour if look is not None else old.colour,
        look=look.text if look is not None else old.look,
    )
    return project.apply(f"change underlay {old.name}", [rows.source_change(new)]) if new != old else None


def set_aside(project: Project, source_id: int, aside: bool) -> Entry:
    """Take an underlay out of the stack without deleting it, or back."""
    source = _unlocked(project, source_id)
    label = f"set {source.name} aside" if aside else f"restore {source.name}"
    return project.apply(label, [Change("sources", source_id, {"aside": int(aside)})])


def move_underlay(project: Project, source_id: int, up: bool) -> Entry | None:
    """Move an underlay one place in the stack; None at its end."""
    _unlocked(project, source_id)
    order = [source.id for source in project.sources() if source.kind in VIEW_KINDS]
    if source_id not in order:
        raise NotFound("That underlay is no longer in the project.")
    at = order.index(source_id)
    to = at + (1 if up else -1)
    if not 0 <= to < len(order):
        return None
    order.insert(to, order.pop(at))
    changes = [Change("sources", row_id, {"position": i}) for i, row_id in enumerate(order, 1)]
    return project.apply("reorder the underlays", changes)


def set_relief(project: Project, source_id: int, style: ReliefStyle) -> Entry | None:
    """Change how a grid of heights is shown; None where nothing changes."""
    source = _unlocked(project, source_id)
    if not source.relief:
        raise NotFound(f"{source.name} holds no heights.")
    if style.json == source.relief:
        return None
    return project.apply(f"show {source.name} another way", [Change("sources", source_id, {"relief": style.json})])


def state_heights(project: Project, source_id: int, facts: HeightFacts) -> Entry | None:
    """State what a grid's heights are; None where nothing changes."""
    source = _unlocked(project, source_id)
    if not source.relief:
        raise NotFound(f"{source.name} holds no heights.")
    if facts == HeightFacts.of_json(source.heights):
        return None
    return project.apply(f"state the heights of {source.name}", [Change("sources", source_id, {"heights": facts.json})])


def add_control_point(project: Project, source_id: int, point: ControlPoint) -> Entry:
    """Add a control point to a scan; raises FitRefused where its pixel has one."""

    def add(held: ControlSet) -> ControlSet:
        if any((p.column, p.row) == (point.column, point.row) for p in held.points):
            raise FitRefused("There is a control point on that pixel already; remove it first, or click elsewhere.")
        return ControlSet(held.kind, (*held.points, point))

    return _change_fit(project, source_id, "add control point", add)


def switch_control_point(project: Project, source_id: int, number: int) -> Entry:
    """Leave a control point out of the fit, or take it in again."""

    def switch(held: ControlSet) -> ControlSet:
        _check_number(held, number)
        return ControlSet(held.kind, tuple(switched(held.points, number)))

    return _change_fit(project, source_id, f"switch control point {number + 1}", switch)


def remove_control_point(project: Project, source_id: int, number: int) -> Entry:
    """Remove a control point."""

    def remove(held: ControlSet) -> ControlSet:
        _check_number(held, number)
        return ControlSet(held.kind, held.points[:number] + held.points[number + 1 :])

    return _change_fit(project, source_id, f"remove control point {number + 1}", remove)


def set_fit(project: Project, source_id: int, kind: str) -> Entry:
    """Fit a scan by another kind of mapping."""
    if kind not in FIT_KINDS:
        raise FitRefused("There is no such fit; choose one from the list.")
    return _change_fit(project, source_id, f"fit by {kind}", lambda held: ControlSet(kind, held.points))


def fitted(held: ControlSet) -> Fit | str:
    """The fit of control points, or the sentence that says why there is none yet."""
    try:
        return fit(held.points, held.kind)
    except FitRefused as refusal:
        return refusal.sentence


def _change_fit(project: Project, source_id: int, label: str, change: Callable[[ControlSet], ControlSet]) -> Entry:
    """Keep other control points; the picture moves with them as soon as they hold a fit."""
    source = project.source(source_id)
    held = change(ControlSet.of_json(source.fit))
    refuse_locked_underlay(project.stack(), source_id)
    values = {"fit": held.json}
    found = fitted(held)
    if isinstance(found, Fit):
        values["transform"] = found.mapping.json
    return project.apply(label, [Change("sources", source_id, values)])


def _check_number(held: ControlSet, number: int) -> None:
    if not 0 <= number < len(held.points):
        raise NotFound("That control point is no longer there.")


def _unlocked(project: Project, source_id: int) -> Source:
    refuse_locked_underlay(project.stack(), source_id)
    return project.source(source_id)


def _above_all(project: Reader) -> int:
    return max((source.position for source in project.sources()), default=0) + 1
