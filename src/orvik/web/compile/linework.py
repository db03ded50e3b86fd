"""Compile, linework out of the unit areas that are there: a count first, then one entry."""

from __future__ import annotations

from typing import Annotated, cast

from fastapi import APIRouter, Form, Request
from starlette.responses import Response

from orvik.core.errors import FeatureRefused
from orvik.usecases.compile.linework import (
    OUTER_WORDS,
    LineworkChoices,
    Outer,
    count_linework,
    prepare_linework,
    refuse_where_locked,
    tag_faces,
)
from orvik.usecases.compile.prepared import keep_prepared
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkers, TheWorkspace

router = APIRouter(prefix="/p/{slug}/linework")


@router.get("")
async def count(
    request: Request, slug: str, workspace: TheWorkspace, workers: TheWorkers, outer: str = "lines"
) -> Response:
    """How many lines and tags the areas would become."""
    choices = LineworkChoices(cast(Outer, outer))
    made = await workers.run(count_linework, workspace.project.path, choices)
    return page(request, "compile/_linework.html", slug=slug, made=made, outer=outer, outers=OUTER_WORDS)


@router.post("")
async def make(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    workers: TheWorkers,
    outer: Annotated[str, Form()] = "lines",
) -> Response:
    """Make them, in one entry."""
    await workspace.carry_out(refuse_where_locked)
    prepared = await workers.run(prepare_linework, workspace.project.path, LineworkChoices(cast(Outer, outer)))
    await workspace.carry_out(keep_prepared, prepared)
    return page(request, "compile/_linework.html", slug=slug, done=f"{prepared.count} lines and tags are saved.")


@router.post("/tags")
async def tags(request: Request, slug: str, workspace: TheWorkspace) -> Response:
    """Give each face without a tag that of the area that lies there."""
    entry = await workspace.carry_out(tag_faces)
    if entry is None:
        raise FeatureRefused("Every face has a tag, or no area lies in it.")
    have = "1 face has" if len(entry.changes) == 1 else f"{len(entry.changes)} faces have"
    return page(request, "compile/_linework.html", slug=slug, done=f"{have} a tag now.")
