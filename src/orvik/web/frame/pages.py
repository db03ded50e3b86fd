"""What all pages share: templates, and the strip with the five stages."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from fastapi import Request
from fastapi.templating import Jinja2Templates
from jinja2 import Environment, FileSystemLoader, PrefixLoader
from starlette.responses import Response

from orvik.core.colour.text import cmyk_text, lab_text, typed_numbers
from orvik.core.features.kind import kind_words
from orvik.core.features.label_text import typed_label
from orvik.core.ground.coordinates import format_angle
from orvik.core.ground.scale import spaced
from orvik.core.wording import unbroken
from orvik.web.session.workspace import Workspace

WEB = Path(__file__).parent.parent
# The folders that hold templates, scripts and styles.
ROOMS = ("frame", "home", "guide", "ground", "compile", "symbols", "sheet", "proof")
# What comes after each stage, in words.
NEXT_STEPS = {
    "ground": "When border and underlays stand, go to Compile and trace.",
    "compile": "When the units are formed and no errors are left, go to Symbols.",
    "symbols": "When units and symbols are as they are to be printed, lay out a page in Sheet.",
    "sheet": "When the page carries its essentials, go to Proof.",
    "proof": "When no errors stand open, export the sheet.",
}
STAGES = ("ground", "compile", "symbols", "sheet", "proof")
# Height of each station of the traverse in the strip, in pixels from its top; the stylesheet has them too.
RISES = (19, 10, 18, 11, 17)


@dataclass(frozen=True)
class StageLink:
    """One stage on the traverse of the strip."""

    name: str
    label: str
    how: str


def _templates() -> Jinja2Templates:
    loader = PrefixLoader({room: FileSystemLoader(WEB / room / "templates") for room in ROOMS})
    templates = Jinja2Templates(env=Environment(loader=loader, autoescape=True))
    templates.env.filters.update(spaced=spaced, angle=format_angle, ago=ago, lab_text=lab_text, cmyk_text=cmyk_text)
    templates.env.filters.update(kind_words=kind_words, unbroken=unbroken)
    templates.env.filters.update(typed_numbers=typed_numbers, typed_label=typed_label)
    templates.env.filters["combined"] = lambda one, other: {**one, **other}
    templates.env.globals["rises"] = RISES
    templates.env.trim_blocks = True
    templates.env.lstrip_blocks = True
    return templates


def ago(at: str | None) -> str:
    """How long ago a moment was (ISO 8601), in words."""
    if not at:
        return "nothing saved yet"
    seconds = (datetime.now(UTC) - datetime.fromisoformat(at)).total_seconds()
    for size, word in ((86400, "day"), (3600, "hour"), (60, "minute")):
        if seconds >= size:
            number = int(seconds // size)
            return f"saved {number} {word}{'s' if number > 1 else ''} ago"
    return "saved just now"


templates = _templates()


def stage_links(current: str) -> list[StageLink]:
    """The traverse: stages before the current one are done, later ones open."""
    at = STAGES.index(current)
    how = ["done" if i < at else "current" if i == at else "open" for i in range(len(STAGES))]
    return [StageLink(s, s.capitalize(), h) for s, h in zip(STAGES, how, strict=True)]


def page(request: Request, name: str, **values: Any) -> Response:
    """A page or a piece of one."""
    return templates.TemplateResponse(request, name, values)


def stage_page(request: Request, workspace: Workspace, stage: str, template: str = "", **values: Any) -> Response:
    """A page of one stage of a project; a stage may have more than the one named after it."""
    return page(
        request,
        template or f"{stage}/{stage}.html",
        stage=stage,
        next_step=NEXT_STEPS[stage],
        stage_links=stage_links(stage),
        slug=workspace.slug,
        project=workspace.project,
        workspace=workspace,
        **values,
    )
