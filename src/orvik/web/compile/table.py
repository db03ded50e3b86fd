"""Features as a table under their map: listed, some rows of it, and what is typed, filled, replaced and pasted."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from starlette.responses import JSONResponse, PlainTextResponse, Response

from orvik.core.errors import NotFound
from orvik.core.features.feature import CERTAINTIES
from orvik.core.features.table import Table
from orvik.store.read_project import opened_for_reading
from orvik.usecases.compile.feature_table.cells import CellWords, Column
from orvik.usecases.compile.feature_table.changes import CellsAsked, TableOutcome, as_block, change_table
from orvik.usecases.compile.feature_table.listing import TableQuery, ids_of, rows_of
from orvik.web.frame.pages import page
from orvik.web.live.hand import refuse_many
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace

router = APIRouter(prefix="/p/{slug}/table")

# So many rows are asked for at once, and so many cells are copied.
MOST_ROWS = 400
MOST_COPIED = 200_000
# So many refused cells are listed.
MOST_REFUSED = 8
NAMES: dict[Table, str] = {"points": "Points", "lines": "Lines", "areas": "Areas"}


class Asked(BaseModel):
    """What the table shows; see ``TableQuery``."""

    kind: str = ""
    unit: str = ""
    certainty: str = ""
    find: Annotated[str, Field(max_length=400)] = ""
    among: Annotated[str, Field(max_length=20_000)] = ""
    sort: str = "number"
    descending: bool = False
    dip_direction: bool = False

    def query(self, table: Table) -> TableQuery:
        """As the use case takes it; what is selected comes as numbers with commas between them."""
        among = tuple(int(text) for text in self.among.split(",") if text.isdecimal() and len(text) < 16)
        return TableQuery(table, self.kind, self.unit, self.certainty, self.find, among, self.sort, self.descending)


class Change(BaseModel):
    """A change of cells; see ``CellsAsked``."""

    listing: int
    revision: int
    what: Literal["type", "fill", "paste", "replace"]
    rows: tuple[int, int] = (0, 0)
    columns: list[str]
    text: Annotated[str, Field(max_length=50_000_000)] = ""
    by: Annotated[str, Field(max_length=4000)] = ""
    whole: bool = False
    dip_direction: bool = False
    preview: bool = False
    leave_out: bool = False


@router.get("/{table}")
async def get_table(
    request: Request, workspace: TheWorkspace, table: Table, asked: Annotated[Asked, Query()]
) -> Response:
    """The table as it is asked for: its tools, the heads of its columns, and a listing of its rows."""
    query = asked.query(table)
    path, revision = workspace.project.path, workspace.project.revision

    def listed() -> tuple[CellWords, tuple[Column, ...], list[int], int]:
        with opened_for_reading(path) as project:
            words = CellWords(project, table, asked.dip_direction)
            columns = words.columns(query.kind)
            return words, columns, ids_of(project, words, query), project.count(table)

    words, columns, ids, count = await asyncio.to_thread(listed)
    return page(
        request,
        "compile/_table.html",
        slug=workspace.slug,
        table=table,
        names=NAMES,
        asked=asked,
        columns=columns,
        column=next((column for column in columns if column.name == query.sort), columns[0]),
        listing=workspace.listings.add(query, ids),
        revision=revision,
        listed=len(ids),
        count=count,
        kinds=words.kinds,
        units=[unit for _, unit in workspace.project.units()],
        sources=list(words.sources.values()),
        certainties=CERTAINTIES,
    )


@router.get("/{table}/rows")
async def get_rows(
    request: Request,
    workspace: TheWorkspace,
    table: Table,
    listing: int,
    first: Annotated[int, Query(ge=0)] = 0,
    count: Annotated[int, Query(ge=1, le=MOST_ROWS)] = 60,
    dip_direction: bool = False,
) -> Response:
    """Some rows of a listing."""
    query, ids = _listing(workspace, table, listing)
    some = ids[first : first + count]
    revision = workspace.project.revision

    def made() -> tuple[tuple[Column, ...], list[Any]]:
        words = CellWords(workspace.project, table, dip_direction)
        columns = words.columns(query.kind)
        return columns, list(rows_of(workspace.project, words, columns, some))

    columns, rows = await asyncio.to_thread(made)
    answer = page(request, "compile/_table_rows.html", rows=rows, columns=columns, first=first, table=table)
    answer.headers["Orvik-Revision"] = str(revision)
    return answer


@router.get("/{table}/ids")
async def get_ids(workspace: TheWorkspace, table: Table, listing: int, first: int = 0, last: int = 0) -> JSONResponse:
    """The features of some rows, no more than can be selected; raises FeatureRefused."""
    _, ids = _listing(workspace, table, listing)
    some = ids[max(0, first) : last + 1]
    refuse_many(len(some))
    return JSONResponse(some)


@router.get("/{table}/places")
async def get_places(
    workspace: TheWorkspace, table: Table, listing: int, ids: Annotated[list[int], Query(max_length=1000)]
) -> JSONResponse:
    """In which rows features stand, the first one first."""
    _, listed = _listing(workspace, table, listing)
    wanted = frozenset(ids)
    return JSONResponse([i for i, number in enumerate(listed) if number in wanted])


@router.get("/{table}/block")
async def get_block(
    workspace: TheWorkspace,
    table: Table,
    listing: int,
    columns: Annotated[list[str], Query()],
    first: Annotated[int, Query(ge=0)] = 0,
    last: int = 0,
    heads: bool = False,
    dip_direction: bool = False,
) -> Response:
    """Cells as spreadsheets take them, with the names of their columns where they are wanted."""
    query, ids = _listing(workspace, table, listing)
    some = ids[first : last + 1]
    if len(some) * len(columns) > MOST_COPIED:
        raise NotFound(f"That is more than {MOST_COPIED} cells; copy them in parts, or export the features.")

    def made() -> str:
        words = CellWords(workspace.project, table, dip_direction)
        chosen = [column for column in words.columns(query.kind) if column.name in columns]
        rows = [row.texts for row in rows_of(workspace.project, words, chosen, some)]
        return as_block([tuple(column.label for column in chosen), *rows] if heads else rows)

    return PlainTextResponse(await asyncio.to_thread(made))


@router.post("/{table}/change")
async def post_change(request: Request, workspace: TheWorkspace, table: Table, change: Change) -> Response:
    """Change cells, or show what that would do.

    What would refuse a cell is shown and not saved, unless it is to be left out; the header ``Orvik-Waiting`` is 1.
    """
    query, ids = _listing(workspace, table, change.listing)
    first, last = change.rows
    asked = CellsAsked(change.what, (first, last), tuple(change.columns), change.text, change.by, change.whole)
    outcome = await workspace.carry_out(
        change_table,
        query,
        ids,
        asked,
        change.revision,
        dip_direction=change.dip_direction,
        preview=change.preview,
        leave_out=change.leave_out,
    )
    plan = outcome.plan
    if outcome.entry is not None or not (plan.kept or plan.refused):
        return PlainTextResponse(_words(outcome), headers={"Orvik-Revision": str(workspace.project.revision)})
    labels = {column.name: column.label for column in CellWords(workspace.project, table).columns(query.kind)}
    answer = page(
        request,
        "compile/_table_preview.html",
        plan=plan,
        what=change.what,
        labels=labels,
        refused=plan.refused[:MOST_REFUSED],
        more=max(0, len(plan.refused) - MOST_REFUSED),
        single=change.what == "type" and first == last and len(change.columns) == 1,
    )
    answer.headers["Orvik-Waiting"] = "1"
    return answer


def _words(outcome: TableOutcome) -> str:
    plan = outcome.plan
    if outcome.entry is None:
        return "Nothing changes: the cells say so already."
    cells = "1 cell" if plan.cells == 1 else f"{plan.cells} cells"
    return f"{cells} changed in {_features(len(plan.kept))}."


def _features(count: int) -> str:
    return "1 feature" if count == 1 else f"{count} features"


def _listing(workspace: Workspace, table: Table, number: int) -> tuple[TableQuery, Sequence[int]]:
    query, ids = workspace.listings.get(number)
    if query.table != table:
        raise NotFound("This listing is of another table.")
    return query, ids
