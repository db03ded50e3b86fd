"""A project's own symbol book: given out as a file, imported from one with a picture of what differs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from slugify import slugify
from starlette.responses import Response

from orvik.core.errors import SymbolRefused
from orvik.core.features.custom_kind import CustomKind
from orvik.core.features.kind import kind_words
from orvik.core.symbols.custom_symbols import custom_symbols
from orvik.core.symbols.drawn_symbol import DrawnSymbol
from orvik.core.symbols.shared_book import LARGEST_FILE, BookEntry, SharedBook, differences, read_shared_book
from orvik.core.symbols.symbol_rule import SymbolRule
from orvik.core.symbols.symbol_trial import HEIGHT, WIDTH, trials
from orvik.press.svg import swatch
from orvik.usecases.symbols.shared_books import book_of, import_book
from orvik.web.frame.pages import page
from orvik.web.session.dependencies import TheWorkspace
from orvik.web.session.workspace import Workspace
from orvik.web.symbols.swatches import symbol_swatch

router = APIRouter(prefix="/p/{slug}/symbols/book")
SORTS = {
    "symbols": "Drawn symbols",
    "kinds": "Custom kinds",
    "emphases": "Emphasis",
    "conditions": "Conditional symbols",
}


@router.get("")
async def get_book(workspace: TheWorkspace) -> Response:
    """The project's own symbol book as a file."""
    book = book_of(workspace.project)
    name = f"{slugify(book.name) or 'symbols'}.orvik-symbols.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(book.text, media_type="application/json", headers=headers)


@router.post("/preview")
async def post_preview(
    request: Request, slug: str, workspace: TheWorkspace, file: Annotated[UploadFile | None, File()] = None
) -> Response:
    """What taking a book in would change, before it is taken."""
    if file is None:
        raise SymbolRefused("Choose a symbol book first.")
    data = await file.read(LARGEST_FILE * 4 + 1)
    text = data.decode("utf-8", errors="replace")
    return _preview(request, slug, workspace, read_shared_book(text), text)


@router.post("/take")
async def post_take(
    request: Request,
    slug: str,
    workspace: TheWorkspace,
    text: Annotated[str, Form()],
    take: Annotated[list[str] | None, Form()] = None,
) -> Response:
    """Take the entries in that are ticked."""
    given = read_shared_book(text)
    taken = await workspace.carry_out(import_book, given, take or [])
    count = len(taken.entry.changes) if taken.entry else 0
    return _preview(request, slug, workspace, given, text, count, taken.left)


def _preview(
    request: Request,
    slug: str,
    workspace: Workspace,
    given: SharedBook,
    text: str,
    taken: int | None = None,
    left: Sequence[str] = (),
) -> Response:
    found, same = differences(given, book_of(workspace.project))
    rows: dict[str, list[dict[str, Any]]] = {words: [] for words in SORTS.values()}
    for number, one in enumerate(found):
        sort = SORTS[one.key.partition(" ")[0]]
        rows[sort].append(
            {
                "key": one.key,
                "title": one.title,
                "there": _picture(one.there, f"there-{number}"),
                "given": _picture(one.given, f"given-{number}"),
                "words": _words(one.given),
                "words_there": _words(one.there) if one.there is not None else "",
                "new": one.there is None,
            }
        )
    values = {"book": given, "rows": rows, "same": same, "found": len(found), "text": text, "taken": taken}
    values["left"] = [*given.left, *left]
    return page(request, "symbols/_book_preview.html", slug=slug, **values)


def _picture(entry: BookEntry | None, prefix: str) -> str:
    """How an entry looks; empty for what has no look of its own."""
    if isinstance(entry, DrawnSymbol):
        _, items = trials(entry, "#C98F86")[0]
        return swatch(items, WIDTH, HEIGHT, entry.title, prefix)
    if isinstance(entry, CustomKind):
        return "".join(symbol_swatch(symbol, f"{prefix}-{i}") for i, symbol in enumerate(custom_symbols(entry)[:6]))
    return ""


def _words(entry: BookEntry) -> str:
    """What an entry is that has no look of its own."""
    if isinstance(entry, SymbolRule):
        return "left out in print" if entry.look == "none" else f"looks like {kind_words(entry.worn)}"
    return "an emphasis"
