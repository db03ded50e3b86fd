"""Findings on the page: told as they change, mended by one click; and units formed."""

from __future__ import annotations

from ..core.errors import NotFound
from ..core.findings.finding import Finding
from ..core.mending import mended
from ..store.surveying import plan_changes
from .live import Answer, Handler, Live, text_of
from .surveyor import Told


def words_of(survey: Told) -> Answer:
    """Findings as the page lists them."""
    return {
        "do": "findings",
        "revision": survey.revision,
        "errors": survey.errors,
        "warnings": survey.warnings,
        "open": survey.to_form,
        "findings": [{**f.json, "key": f.key, "mend": f.mend.label if f.mend else None} for f in survey.findings],
    }


async def findings(live: Live, message: Answer) -> Answer:
    """All findings at the present revision."""
    return words_of(await live.workspace.survey())


def _named(survey: Told, key: str) -> Finding:
    for finding in survey.findings:
        if finding.key == key:
            return finding
    raise NotFound("That finding is no longer there; look at the list as it is now.")


async def mend(live: Live, message: Answer) -> Answer:
    """Do what a finding proposes."""
    survey = await live.workspace.survey()
    finding = _named(survey, str(message["key"]))
    project = live.workspace.project
    done = mended(finding, project.feature, text_of(message.get("unit")), project.scales.digitizing)
    entry = await live.keep(done.label, done.put, done.gone)
    return {"kept": entry.id}


async def form_units(live: Live, message: Answer) -> Answer:
    """Build unit areas from linework and tags, where they are not so yet."""
    live.workspace.refuse_locked("areas")
    plan, revision = await live.workspace.plan()
    project = live.workspace.project
    changes = plan_changes(project, plan)
    if not changes:
        return {"kept": project.revision, "words": f"Nothing to form: all {plan.formed or ''} units are as the lines say."}
    entry = await live.workspace.apply("form units", changes, revision)
    new = sum(1 for f in plan.put if f.id is None)
    words = f"{new} units formed, {len(plan.put) - new} changed, {len(plan.gone)} gave way."
    return {"kept": entry.id, "words": words}


HANDLERS: dict[str, Handler] = {"findings": findings, "mend": mend, "form_units": form_units}
