"""Marks of a proof: none hides another, and what the sheet does not show is told by its coordinates."""

from __future__ import annotations

import numpy as np
import pytest

from orvik.core.findings.acceptance import Judged
from orvik.core.findings.checklist import PAGE, Checklist, checklist
from orvik.core.findings.finding import Finding
from orvik.core.findings.listing import listed
from orvik.core.findings.margin_note import Answer, MarginNote
from orvik.core.findings.marks import BOX, RING, boxes
from orvik.core.ink.primitives import Text, walk
from orvik.core.sheet.page.page import Sheet

SHEET = Sheet("Test", "", 420.0, 297.0)


@pytest.mark.parametrize("seed", range(12))
def test_boxes_of_marks_do_not_hide_one_another(seed: int) -> None:
    rng = np.random.default_rng(seed)
    # Half of them crowded about one place, some at the very edge.
    spots = [(float(x), float(y)) for x, y in rng.uniform((0, 0), (420, 297), (20, 2))]
    spots += [(float(x), float(y)) for x, y in rng.normal((210, 150), 3.0, (20, 2))]
    widths = [BOX if i < 9 else BOX + 2.0 for i in range(len(spots))]
    placed = boxes(spots, widths, SHEET)
    for i, (x, y) in enumerate(placed):
        assert widths[i] / 2 - 1e-6 <= x <= 420 - widths[i] / 2 + 1e-6
        assert BOX / 2 - 1e-6 <= y <= 297 - BOX / 2 + 1e-6
        for j in range(i):
            apart_x, apart_y = abs(x - placed[j][0]), abs(y - placed[j][1])
            assert apart_x >= (widths[i] + widths[j]) / 2 or apart_y >= BOX
    # One alone stands at the upper right of its ring.
    ((x, y),) = boxes([(100.0, 100.0)], [BOX], SHEET)
    assert x > 100 > y
    assert np.hypot(x - 100, y - 100) < 3 * RING


def _words(pages: list) -> list[str]:  # type: ignore[type-arg]
    return [" ".join(item.run.chars for item in walk(page) if isinstance(item, Text)) for page in pages]


def _checked(found: tuple[Finding, ...], notes: tuple[MarginNote, ...] = ()) -> Checklist:
    judged = Judged(found)
    return checklist("Proof", "revision 3", judged, listed(judged, notes, 1))


def _finding(number: int, at: tuple[float, float] | None, spot: tuple[float, float] | None) -> Finding:
    severity = "error" if number % 3 == 0 else "warning"
    message = f"Contact {number} ends in the open, 0.4 mm on the sheet from the next line; lead it on, or trim it."
    return Finding("dangle", severity, message, at, (("lines", number),), spot=spot)


def test_what_lies_off_the_sheet_is_listed_with_its_coordinates() -> None:
    found = (_finding(1, (512_345.0, 6_801_234.0), None), _finding(2, (1.0, 2.0), (10.0, 10.0)))
    (words,) = _words(_checked(found).pages)
    assert "512\u2009345 E, 6\u2009801\u2009234 N" in words
    assert words.count("Off the sheet") == 1


def test_the_page_to_sign_is_one_however_much_was_found() -> None:
    found = tuple(_finding(i, None, (10.0, 10.0)) for i in range(1, 200))
    pages = _checked(found).pages
    words = _words(pages)
    assert len(pages) > 3
    assert "Proofed by" in words[0]
    assert not any("Proofed by" in page for page in words[1:])
    assert "66 errors, 133 warnings" in words[0]
    assert "Contact 199" in "".join(words[1:])
    for page in pages:
        for item in walk(page):
            if isinstance(item, Text):
                assert 0 < item.at[1] < PAGE[1]


def test_what_was_said_of_a_note_is_printed_with_it_however_long() -> None:
    at = "2026-07-02T10:00:00+00:00"
    long = "Is this the scarp of the old survey, or the road below it? " * 30
    answers = tuple(Answer(long, f"Surveyor {i}", at) for i in range(40))
    notes = (MarginNote(long, "A. Moss", at, sheet=1, given_to="B. Reed", answers=answers, id=4),)
    found = (_finding(1, None, (10.0, 10.0)),)
    made = _checked(found, notes)
    words = _words(made.pages)
    assert "1 note pinned by hand" in words[0]
    assert "1 to B. Reed" in words[0]
    said = "".join(words[1:])
    assert said.count("2 July 2026") == 41
    assert "Surveyor 39" in said
    assert "Given to B. Reed" in said
    # A hand's note comes before warnings, and each row says where it stands.
    assert [made.rows[n][0] for n in (1, 2)] == sorted(made.rows[n][0] for n in (1, 2))
    for page in made.pages:
        for item in walk(page):
            if isinstance(item, Text):
                assert 0 < item.at[1] < PAGE[1]
