"""Findings on the page: report as they change, and fixed by one click."""

from __future__ import annotations

from typing import Any

from orvik.core.errors import NotFound
from orvik.usecases.compile.fixing import fix_map
from orvik.web.live.connection import Handler
from orvik.web.live.messages import Fix, Message, text_or_none
from orvik.web.live.page_state import Answer, PageState


async def findings(page: PageState, message: Message) -> Answer:
    """All findings, if the survey has reported them at the present revision; else they follow as a notice."""
    survey = page.workspace.survey
    if survey.value is not None and survey.is_current:
        return page.workspace.findings_message(survey.value)
    page.workspace.survey_soon()
    return {"under_way": True}


async def fix(page: PageState, message: Fix) -> Answer:
    """Do what a finding proposes, if what it speaks of is as it was."""
    report = page.workspace.survey.value
    finding = next((f for f in report.findings if f.key == message.key), None) if report else None
    if report is None or finding is None:
        raise NotFound("That finding is no longer there; look at the list as it is now.")
    workspace = page.workspace
    entry = await workspace.carry_out(fix_map, workspace.index, finding, report.revision, text_or_none(message.unit))
    return {"kept": entry.id}


HANDLERS: dict[str, Handler[Any]] = {
    "findings": Handler(Message, findings),
    "fix": Handler(Fix, fix),
}
