"""The guide in the application: every chapter is there, with its pictures, in the words that the screens have."""

from __future__ import annotations

import re

import pytest
from fastapi.testclient import TestClient

from orvik.web.frame.pages import STAGES
from orvik.web.guide.routes import CHAPTERS, FOLDER, rendered


def test_every_stage_has_its_chapter_and_every_file_is_one() -> None:
    assert set(STAGES) < CHAPTERS.keys()
    assert {file.stem for file in FOLDER.glob("*.md")} == CHAPTERS.keys()


@pytest.mark.parametrize("chapter", CHAPTERS)
def test_a_chapter_is_a_page_with_its_pictures(client: TestClient, chapter: str) -> None:
    found = client.get(f"/guide/{chapter}")
    assert found.status_code == 200
    assert f"<h1>{CHAPTERS[chapter]}</h1>" in found.text
    pictures = re.findall(r'<img src="([^"]+)" alt="([^"]+)"', found.text)
    assert pictures, "a chapter shows what it speaks of"
    for address, _ in pictures:
        assert client.get(address).headers["content-type"] == "image/png"
    for address in re.findall(r"<main.*?</main>", found.text, re.S)[0].split('href="')[1:]:
        assert client.get(address.split('"')[0]).status_code == 200
    nothing_raw = re.sub(
        r"<(/?(h1|h2|p|ul|ol|li|a|img|table|thead|tbody|tr|td|th|strong|em|code))\b[^>]*>", "", rendered(chapter)
    )
    assert "<" not in nothing_raw


def test_the_guide_begins_at_its_first_chapter(client: TestClient) -> None:
    assert client.get("/guide").url.path == "/guide/start"
    assert client.get("/guide/elsewhere").status_code == 404
    assert client.get("/guide/../app").status_code == 404


def test_help_of_every_stage_leads_to_its_chapter_and_says_what_is_next(client: TestClient) -> None:
    for stage in STAGES:
        text = client.get(f"/p/small/{stage}").text
        dialog = text[text.index('id="help-dialog"') : text.index("</dialog>")]
        assert f'href="/guide/{stage}"' in dialog
        assert "Next:" in dialog
        assert dialog.count("<dt>") > 3, "its own keys, beside undo and redo"


def test_it_ships_with_the_application() -> None:
    size = sum(file.stat().st_size for file in (FOLDER.parent / "static").glob("*.png"))
    assert 0 < size < 3_000_000
