"""A text in its frame: plain as it is typed, or with styles where its marks set them."""

from __future__ import annotations

import pytest

from orvik.core.ink.primitives import Text
from orvik.core.lettering import BOLD, CAPITALS, ITALIC, ROMAN
from orvik.core.sheet.page.part import Part
from orvik.core.sheet.page.text_ink import text_ink
from orvik.core.sheet.parts.text import RunningText

TYPED = "*In situ*, **bold** and ++Capitals++ at 10^6^ years.\n- an item of more words than one line holds\nlast"
PART = Part(RunningText(), 10.0, 20.0, 40.0, 60.0)


def inked(marked: bool, align: str = "left") -> list[Text]:
    return [item for item in text_ink(TYPED, PART, size=3.0, align=align, marked=marked) if isinstance(item, Text)]


def test_marks_set_styles_only_where_it_is_asked() -> None:
    plain = inked(False)
    assert {item.run.font for item in plain} == {ROMAN}
    assert "*In situ*," in " ".join(item.run.chars for item in plain)
    marked = inked(True)
    assert {item.run.font for item in marked} == {ROMAN, ITALIC, BOLD, CAPITALS}
    said = "".join(item.run.chars for item in marked)
    assert not set("*+^") & set(said)
    assert "•" in said
    (raised,) = (item for item in marked if item.run.chars == "6")
    line = max(item.at[1] for item in marked if item.at[1] <= raised.at[1] + 2.0 and item.run.size == 3.0)
    assert raised.at[1] < line
    # New texts take marks; those that were kept before stay as they were typed.
    assert RunningText.from_dict({"text": TYPED}).marked is False


@pytest.mark.parametrize("align", ["left", "centre", "right"])
def test_marked_lines_stand_in_their_frame_as_they_are_aligned(align: str) -> None:
    rows: dict[float, list[Text]] = {}
    for item in inked(True, align):
        rows.setdefault(round(item.at[1], 3), []).append(item)
    for items in rows.values():
        left = min(item.at[0] for item in items)
        right = max(item.at[0] + item.run.width for item in items)
        assert left >= PART.x - 1e-6
        assert right <= PART.x + PART.width + 1e-3
        if align == "right" and not any(item.run.size < 3.0 for item in items):
            assert right == pytest.approx(PART.x + PART.width, abs=0.02)
