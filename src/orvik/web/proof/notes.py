"""Margin notes: the findings of map and sheet as a proof-reader leaves them, fixed, accepted, set to rest."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Request
from starlette.responses import Response

from orvik.core.coordinates import PageXY
from orvik.core.errors import FindingRefused, NotFound, OrvikError
from orvik.core.findings.acceptance import Acceptance
from orvik.core.findings.finding import Finding
from orvik.core.findings.listing import PINNED, ListedNote, left_over, listed
from orvik.core.findings.rules import GROUPS, RULES
from orvik.core.ground.scale import spaced
from orvik.core.sheet.page.day import day_words
from orvik.core.sheet.page.page import Sheet
from orvik.core.sheet.panels.scale_distortion import truth_of
from orvik.core.sheet.parts.map_panel import MapPanel, panel_of
from orvik.store.reader import Reader
from orvik.store.tables.margin_notes import latest_proof
from orvik.store.tables.margin_notes import margin_notes as stored_notes
from orvik.usecases.proof import accepting, margin_notes
from orvik.usecases.proof.fixing import fix_finding
from orvik.usecases.proof.pins import spots_of
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.proof_notes import MarginNotes
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/proof")


@dataclass(frozen=True)
class Asked:
    """Which notes a page wants.

    Attributes
    ----------
    sheet
        None for the map alone.
    group, person
        Of a group, of somebody; empty for all.
    new
        Only those that have come since the last proof.
    seen
        The revision of the picture that the page has.
    """

    sheet: int | None = None
    group: str = ""
    seen: int = -1
    person: str = ""
    new: bool = False

    def wants(self, note: ListedNote) -> bool:
        """Whether a note is one of these."""
        return self.group in ("", note.group) and self.person in ("", note.given_to) and (note.is_new or not self.new)


def asked_by_form(
    sheet: Annotated[int | None, Form()] = None,
    group: Annotated[str, Form()] = "",
    seen: Annotated[int, Form()] = -1,
    person: Annotated[str, Form()] = "",
    new: Annotated[bool, Form()] = False,
) -> Asked:
    """What a form of the page says of itself beside what it is for."""
    return Asked(sheet, group, seen, person, new)


TheAsked = Annotated[Asked, Depends(asked_by_form)]


@router.get("/notes")
async def get_notes(
    request: Request,
    workspace: TheWorkspace,
    sheet: int | None = None,
    group: str = "",
    seen: int = -1,
    person: str = "",
    new: bool = False,
) -> Response:
    return await _notes(request, workspace, Asked(sheet, group, seen, person, new))


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


@router.post("/pin")
async def post_pin(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    at: Annotated[str, Form()],
    text: Annotated[str, Form()] = "",
    signed: Annotated[str, Form()] = "",
    given_to: Annotated[str, Form()] = "",
) -> Response:
    """Pin a note to a place of the sheet, in millimetres: ``120.5 48``."""
    if asked.sheet is None:
        raise NotFound("Lay out a sheet first; notes are pinned to its page.")
    await workspace.carry_out(margin_notes.pin_note, asked.sheet, _place(at), text, signed, given_to)
    return await _notes(request, workspace, asked)


@router.post("/answer")
async def post_answer(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    thread: Annotated[str, Form()],
    text: Annotated[str, Form()] = "",
    signed: Annotated[str, Form()] = "",
    given_to: Annotated[str, Form()] = "",
) -> Response:
    """Answer a note, give it to somebody, or both."""
    listed_now = _Listing(workspace, await workspace.proof.notes(asked.sheet), asked.sheet)
    found = next((note for note in listed_now.notes if note.thread_key == thread), None)
    if found is None:
        raise NotFound("That note is no longer there; look at the list as it is now.")
    await workspace.carry_out(margin_notes.answer_listed, found, text, signed, given_to)
    return await _notes(request, workspace, asked)


@router.post("/settle")
async def post_settle(
    request: Request,
    workspace: TheWorkspace,
    asked: TheAsked,
    note: Annotated[int, Form()],
    settled: Annotated[bool, Form()] = False,
) -> Response:
    """Say that nothing is left to be done about a pinned note, or that something is."""
    await workspace.carry_out(margin_notes.settle, note, settled)
    return await _notes(request, workspace, asked)


@router.post("/remove")
async def post_remove(
    request: Request, workspace: TheWorkspace, asked: TheAsked, note: Annotated[int, Form()]
) -> Response:
    """Take a note away with what was answered to it."""
    await workspace.carry_out(margin_notes.remove, note)
    return await _notes(request, workspace, asked)


def _place(text: str) -> PageXY:
    try:
        x, y = (float(part) for part in text.split())
    except ValueError:
        raise FindingRefused("That is not a place on the sheet; click on the page.") from None
    return x, y


class _Listing:
    """What is listed of a sheet at present, and what that was made of."""

    def __init__(self, workspace: Workspace, notes: MarginNotes, sheet: int | None) -> None:
        project = workspace.project
        self.stored = stored_notes(project)
        self.last = latest_proof(project, sheet) if sheet is not None else None
        spots = spots_of(project, sheet, self.stored) if sheet is not None else {}
        self.notes = listed(notes.judged, self.stored, sheet, spots, self.last)


async def _notes(request: Request, workspace: Workspace, asked: Asked) -> Response:
    notes = await workspace.proof.notes(asked.sheet)
    project = workspace.project
    sheet = project.sheet(asked.sheet) if asked.sheet is not None else None
    judged = notes.judged
    listing = _Listing(workspace, notes, asked.sheet)
    all_notes, held, last = listing.notes, listing.stored, listing.last
    shown = [note for note in all_notes if asked.wants(note)]
    counts = Counter((note.group, found.severity) for note in all_notes for found in note.findings)
    given = Counter(note.given_to for note in all_notes if note.given_to)
    return page(
        request,
        "proof/_notes.html",
        slug=workspace.slug,
        notes=shown,
        total=len(all_notes),
        unlisted=notes.unlisted,
        errors=judged.errors,
        warnings=len(judged.open) - judged.errors,
        pinned=sum(note.group == PINNED for note in all_notes),
        groups=[(name, title, counts[name, "error"], counts[name, "warning"]) for name, title in GROUPS.items()],
        given=sorted({*given, *([asked.person] if asked.person else [])}),
        given_counts=given,
        new=sum(note.is_new for note in all_notes),
        last=last,
        last_day=day_words(date.fromisoformat(last.day)) if last is not None else "",
        people=sorted(
            {name for note in held for name in (note.author, note.given_to) if name}
            | {answer.author for note in held for answer in note.answers}
            | {acceptance.signed for _, acceptance in judged.accepted}
        ),
        over=left_over(judged, held, asked.sheet),
        before=_before,
        accepted=judged.accepted,
        void=judged.void,
        turned_off=judged.turned_off,
        rests=accepting.turned_off(project),
        rules=RULES.values(),
        why={rule.name: rule.why for rule in RULES.values()},
        units=[unit for _, unit in project.units()],
        sheet=sheet,
        asked=asked,
        printed=workspace.printed_revision,
    )


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
