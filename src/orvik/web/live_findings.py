"""Findings on the page: told as they change, and mended by one click."""

from __future__ import annotations

from ..core.errors import NotFound, Stale
from ..core.mending import mended
from .live import Answer, Handler, Live, text_of


async def findings(live: Live, message: Answer) -> Answer:
    """All findings, if the surveyor has told them at the present revision; else they follow as a notice."""
    told = live.workspace.told
    if told is not None and told.revision == live.workspace.project.revision:
        return told.words
    live.workspace.survey_soon()
    return {"under_way": True}


async def mend(live: Live, message: Answer) -> Answer:
    """Do what a finding proposes, if what it speaks of is as it was."""
    told = live.workspace.told
    finding = next((f for f in told.findings if f.key == message["key"]), None) if told else None
    if told is None or finding is None:
        raise NotFound("That finding is no longer there; look at the list as it is now.")
    if any(live.workspace.changed_since(table, number, told.revision) for table, number in finding.features):
        raise Stale("What this finding speaks of has changed meanwhile; look at the list as it is now.")
    project = live.workspace.project
    done = mended(finding, project.feature, text_of(message.get("unit")), project.scales.digitizing)
    entry = await live.keep(done.label, done.put, done.gone)
    return {"kept": entry.id}


HANDLERS: dict[str, Handler] = {"findings": findings, "mend": mend}
