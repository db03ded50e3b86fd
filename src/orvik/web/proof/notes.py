"""Margin notes: the findings of map and sheet as a proof-reader leaves them, fixed, accepted, set to rest."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from starlette.responses import Response

from orvik.core.errors import NotFound, OrvikError
from orvik.core.findings.acceptance import Acceptance
from orvik.core.findings.finding import Finding
from orvik.core.findings.rules import GROUPS, RULES
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.panels.scale_distortion import truth_of
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.store.reader import Reader
from orvik.usecases.proof import accepting
from orvik.usecases.proof.fixing import fix_finding
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.proof_notes import MarginNotes
from orvik.web.session.workspace import Workspace

# So many findings of which the same is said are one note.
GROUPED_FROM = 3

router = APIRouter(prefix="/p/{slug}/proof")


@dataclass(frozen=True)
class Asked:
    """Which notes a page wants: of a sheet, of a group or of all; ``seen`` is the revision of its picture."""

    sheet: int | None = None
    group: str = ""
    seen: int = -1


def asked_by_form(
    sheet: Annotated[int | None, Form()] = None,
    group: Annotated[str, Form()] = "",
    seen: Annotated[int, Form()] = -1,
) -> Asked:
    """What a form of the page says of itself beside what it is for."""
    return Asked(sheet, group, seen)


TheAsked = Annotated[Asked, Depends(asked_by_form)]


@dataclass(frozen=True)
class Note:
    """A finding with its number on the sheet, and others of which the same is said."""

    number: int
    finding: Finding
    key: str
    group: str
    returned: str = ""
    more: tuple[Finding, ...] = ()

    @property
    def all(self) -> tuple[Finding, ...]:
        """Those that it tells."""
        return (self.finding, *self.more)

    @property
    def message(self) -> str:
        """What is said of it, or of all together."""
        return f"{len(self.all)} {self.finding.shared}" if self.more else self.finding.message

    @property
    def asks_unit(self) -> bool:
        """Whether its fix needs a unit that nobody has said."""
        fix = self.finding.fix
        return fix is not None and fix.kind == "tag" and not fix.unit


@router.get("/notes")
async def get_notes(
    request: Request, workspace: TheWorkspace, sheet: int | None = None, group: str = "", seen: int = -1
) -> Response:
    return await _notes(request, workspace, Asked(sheet, group, seen))


@router.post("/fix")
async def post_fix(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    key: Annotated[str, Form()],
    unit: Annotated[str, Form()] = "",
) -> Response:
    notes, finding = await _found(workspace, asked.sheet, key)
    await workspace.carry_out(fix_finding, workspace.index, finding, asked.sheet, notes.revision, unit or None)
    return await _notes(request, workspace, asked)


@router.post("/accept")
async def post_accept(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    key: Annotated[list[str], Form()],
    reason: Annotated[str, Form()] = "",
    signed: Annotated[str, Form()] = "",
) -> Response:
    """Let one finding stand, or several of which the same is said."""
    found = [(await _found(workspace, asked.sheet, one))[1] for one in key]
    await workspace.carry_out(accepting.accept, found, reason, signed)
    return await _notes(request, workspace, asked)


@router.post("/take-back")
async def post_take_back(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    acceptance: Annotated[int, Form()],
) -> Response:
    await workspace.carry_out(accepting.take_back, acceptance)
    return await _notes(request, workspace, asked)


@router.post("/rest")
async def post_rest(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    rule: Annotated[str, Form()],
    rests: Annotated[bool, Form()] = False,
) -> Response:
    await workspace.carry_out(accepting.set_turned_off, rule, rests)
    return await _notes(request, workspace, asked)


async def _found(workspace: Workspace, sheet: int | None, key: str) -> tuple[MarginNotes, Finding]:
    notes = await workspace.proof.notes(sheet)
    finding = notes.finding(key)
    if finding is None:
        raise NotFound("That finding is no longer there; look at the list as it is now.")
    return notes, finding


async def _notes(request: Request, workspace: Workspace, asked: Asked) -> Response:
    notes = await workspace.proof.notes(asked.sheet)
    project = workspace.project
    sheet = project.sheet(asked.sheet) if asked.sheet is not None else None
    judged = notes.judged
    listed = [
        Note(
            i,
            together[0],
            together[0].key,
            RULES[together[0].rule].group,
            _before(judged.returned.get(together[0].key)),
            tuple(together[1:]),
        )
        for i, together in enumerate(_together(judged.open), 1)
    ]
    shown = [note for note in listed if asked.group in ("", note.group)]
    counts = Counter((note.group, found.severity) for note in listed for found in note.all)
    return page(
        request,
        "proof/_notes.html",
        slug=workspace.slug,
        notes=shown,
        total=len(listed),
        unlisted=notes.unlisted,
        errors=judged.errors,
        warnings=len(judged.open) - judged.errors,
        groups=[(name, title, counts[name, "error"], counts[name, "warning"]) for name, title in GROUPS.items()],
        accepted=judged.accepted,
        void=judged.void,
        turned_off=judged.turned_off,
        rests=accepting.turned_off(project),
        rules=RULES.values(),
        units=[unit for _, unit in project.units()],
        sheet=sheet,
        asked=asked,
        printed=workspace.printed_revision,
        signed=judged.accepted[-1][1].signed if judged.accepted else "",
    )


def _together(findings: Sequence[Finding]) -> list[list[Finding]]:
    """Findings one by one, but for those of which the same is said, where there are many of them."""
    said = Counter((f.rule, f.shared) for f in findings if f.shared)
    out: list[list[Finding]] = []
    joined: dict[tuple[str, str], list[Finding]] = {}
    for found in findings:
        what = found.rule, found.shared
        if said[what] < GROUPED_FROM:
            out.append([found])
        elif what in joined:
            joined[what].append(found)
        else:
            joined[what] = [found]
            out.append(joined[what])
    return out


def _before(held: Acceptance | None) -> str:
    """Why a finding had been let stand before what it speaks of changed."""
    return f"“{held.reason}” {held.signed}, {held.dated}" if held is not None else ""


def true_scale_words(project: Reader, sheet: Sheet) -> str:
    """How long a round length of ground is on a sheet's largest panel; empty without one."""
    parts = [part for part in project.parts(sheet.number) if isinstance(part.settings, MapPanel)]
    if not parts:
        return ""
    try:
        panel = panel_of(max(parts, key=lambda p: p.width * p.height), project.crs, project.border())
        middle = truth_of(panel).middle
    except OrvikError:
        return ""
    metres = next(m for m in _round_lengths() if m * 1000 / panel.scale <= 250)
    return f"true scale: {metres * 1000 / panel.scale * middle:.2f} mm for {spaced(metres)} m"


def _round_lengths() -> list[float]:
    """Round lengths in metres, the longest first."""
    return [m * 10.0**power for power in range(8, -1, -1) for m in (5, 2, 1)]
