"""The guide, chapter by chapter: Markdown that ships with the application."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from fastapi import APIRouter, Request
from starlette.responses import RedirectResponse, Response

from orvik.core.errors import NotFound
from orvik.web.frame.pages import page

router = APIRouter(prefix="/guide")
FOLDER = Path(__file__).parent / "chapters"
# The chapters by the names of their files, in order.
CHAPTERS = {
    "start": "Begin",
    "delivery": "A survey's files",
    "ground": "Ground",
    "compile": "Compile",
    "symbols": "Symbols",
    "sheet": "Sheet",
    "proof": "Proof",
}


@router.get("")
async def get_guide() -> Response:
    return RedirectResponse("/guide/start")


@router.get("/{chapter}")
async def get_chapter(request: Request, chapter: str) -> Response:
    if chapter not in CHAPTERS:
        raise NotFound("The guide has no such chapter; choose one from its list.")
    return page(request, "guide/chapter.html", chapters=CHAPTERS, chapter=chapter, text=rendered(chapter))


@lru_cache(maxsize=len(CHAPTERS))
def rendered(chapter: str) -> str:
    """A chapter as HTML; its pictures lie beside the styles of the guide, and its links lead to chapters."""
    from markdown_it import MarkdownIt

    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse((FOLDER / f"{chapter}.md").read_text(encoding="utf-8"))
    for token in (child for block in tokens for child in block.children or ()):
        if token.type == "image":
            token.attrs["src"] = f"/static/guide/{token.attrs['src']}"
            token.attrs["loading"] = "lazy"
        elif token.type == "link_open":
            token.attrs["href"] = f"/guide/{token.attrs['href']}"
    return str(reader.renderer.render(tokens, reader.options, {}))
